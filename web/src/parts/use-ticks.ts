import { ref } from 'vue'
import { useRowRange } from './use-row-range'

/** Rows that are ticked by their numbers, singly or in ranges. */
export function useTicks() {
  const chosen = ref<ReadonlySet<number>>(new Set())
  const rangeTo = useRowRange()
  /** @param ordered all rows as they stand */
  function onTick(id: number, ordered: readonly number[], event: MouseEvent): void {
    const isIn = !chosen.value.has(id)
    const next = new Set(chosen.value)
    for (const key of rangeTo(String(id), ordered.map(String), event))
      if (isIn) next.add(Number(key))
      else next.delete(Number(key))
    chosen.value = next
  }
  return { chosen, onTick }
}
