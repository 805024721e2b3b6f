import { computed, type WritableComputedRef } from 'vue'
import { useRoute, useRouter, type LocationQueryValue } from 'vue-router'

/**
 * Parts of a view's state that live in the address. Changes made while the router is still on its way are put
 * together, so that the second does not undo the first.
 */
export function useAddress() {
  const route = useRoute()
  const router = useRouter()
  let pending: Record<string, string | undefined> = {}
  let isQueued = false

  function set(name: string, value: string | null | undefined): void {
    pending[name] = value ?? undefined
    if (isQueued) return
    isQueued = true
    queueMicrotask(() => void flush())
  }

  async function flush(): Promise<void> {
    while (Object.keys(pending).length > 0) {
      const changes = pending
      pending = {}
      await router.replace({ query: { ...route.query, ...changes } })
    }
    isQueued = false
  }

  const read = (value: LocationQueryValue | LocationQueryValue[] | undefined) => (typeof value === 'string' ? value : '')

  /** One named part; empty when the address does not have it. */
  const part = (name: string): WritableComputedRef<string> =>
    computed({ get: () => read(route.query[name]), set: (value) => set(name, value || undefined) })

  return { part, set }
}
