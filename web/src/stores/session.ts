import { computed, ref } from 'vue'
import { defineStore } from 'pinia'
import { hasRight, type Right } from '@tin-harbor/core/buying'
import type { UserView } from '@tin-harbor/core/contract'
import { api } from '@/api'

/** Who is signed in; null when nobody is, undefined before the server was asked. */
export const useSession = defineStore('session', () => {
  const user = ref<UserView | null | undefined>(undefined)
  const isSignedIn = computed(() => user.value != null)
  const may = (right: Right) => user.value != null && hasRight(user.value.role, right)

  async function load(): Promise<void> {
    user.value = await api.me().catch(() => null)
  }

  async function signIn(email: string, password: string): Promise<void> {
    await api.signIn(email, password)
    await load()
  }

  async function signOut(): Promise<void> {
    await api.signOut()
    user.value = null
  }

  return { user, isSignedIn, may, load, signIn, signOut }
})
