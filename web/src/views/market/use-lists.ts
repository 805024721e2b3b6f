import { computed, onMounted, shallowRef } from 'vue'
import type { ListView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { useAttempt } from '@/composables/use-attempt'
import { useAddress } from '@/composables/use-address'

/** The organisation's lists, which of them is shown, and what went wrong last. */
export function useLists() {
  const lists = shallowRef<ListView[]>([])
  const { error, attempt } = useAttempt()
  const chosen = useAddress().part('list')
  const list = computed(() => lists.value.find((one) => one.id === Number(chosen.value)) ?? null)

  const load = async () => {
    lists.value = (await api.lists()).lists
  }
  onMounted(() => attempt(load))

  return {
    lists,
    list,
    error,
    load,
    attempt,
    /** Another list, by its number; none for null. */
    async show(id: number | null): Promise<void> {
      chosen.value = id === null ? '' : String(id)
      await load()
    }
  }
}
export type Lists = ReturnType<typeof useLists>
