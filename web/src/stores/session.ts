import { computed, ref } from 'vue'
import { defineStore } from 'pinia'
import { useMediaQuery } from '@vueuse/core'
import { hasRight, type Right } from '@tin-harbor/core/buying'
import type { UserView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { useFormats } from '@/composables/formats'

/** As in `theme/narrow.css`. */
const NARROW = '(max-width: 760px)'

/** Who is signed in; null when nobody is, undefined before the server was asked. */
export const useSession = defineStore('session', () => {
  const user = ref<UserView | null | undefined>(undefined)
  const isSignedIn = computed(() => user.value != null)
  /** A screen in the hand is for reading, and for stopping what must be stopped. */
  const isNarrow = useMediaQuery(NARROW)
  const hasRightTo = (right: Right) => user.value != null && hasRight(user.value.role, right)
  const may = (right: Right) => hasRightTo(right) && (right === 'read' || !isNarrow.value)
  /** Pausing and releasing are done from any screen. */
  const maySteer = computed(() => hasRightTo('live'))

  async function load(): Promise<void> {
    user.value = await api.me().catch(() => null)
    useFormats(user.value?.formats ?? null)
  }

  async function signIn(email: string, password: string): Promise<void> {
    await api.signIn(email, password)
    await load()
  }

  async function signOut(): Promise<void> {
    await api.signOut()
    user.value = null
  }

  return { user, isSignedIn, isNarrow, may, maySteer, load, signIn, signOut }
})
