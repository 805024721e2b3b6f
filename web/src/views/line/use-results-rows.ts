import { computed, type Ref } from 'vue'
import type { PlacementResult, Results } from '@tin-harbor/core/contract'
import { useAddress } from '@/composables/use-address'

/** How a placement's cost stands to the line's: told where its 90 % range leaves the line's own cost out. */
export const STANDS = ['dearer', 'cheaper', 'not told'] as const
export type Stand = (typeof STANDS)[number]

function standOf({ brought: [main] }: PlacementResult, total: Results['total']): Stand {
  const line = total.brought[0].costMicros
  if (line === null || main.costRange === null) return 'not told'
  if (main.costRange.low > line) return 'dearer'
  return main.costRange.high !== null && main.costRange.high < line ? 'cheaper' : 'not told'
}

/** Placements of a line's results that are looked at, and those of them that are pointed at: both kept in the address. */
export function useResultsRows(results: Ref<Results | null>) {
  const address = useAddress()
  const named = address.part('named')
  const stand = address.part('stand')
  const overPart = address.part('over')
  const chosenPart = address.part('chosen')
  const over = computed({
    get: () => (/^\d{1,12}$/.test(overPart.value) ? Number(overPart.value) : null),
    set: (micros: number | null) => (overPart.value = micros === null ? '' : String(micros))
  })

  const isShown = (row: PlacementResult, { total }: Results) => {
    const [main] = row.brought
    // What brought nothing yet cost what was spent on it so far, at least.
    const cost = main.costMicros ?? row.spendMicros
    return (
      `${row.property} ${row.position} ${row.size}`.toLowerCase().includes(named.value.trim().toLowerCase()) &&
      (stand.value === '' || standOf(row, total) === stand.value) &&
      (over.value === null || cost > over.value)
    )
  }
  const rows = computed(() => results.value?.rows.filter((row) => isShown(row, results.value as Results)) ?? [])
  const chosen = computed(() => new Set(chosenPart.value.split('~').filter((text) => text !== '')))
  /** In the order of the answer; what it does not have is not kept. */
  const keep = (next: ReadonlySet<string>) =>
    (chosenPart.value = (results.value?.rows ?? []).flatMap(({ placement }) => (next.has(placement) ? [placement] : [])).join('~'))

  return {
    named,
    stand,
    over,
    rows,
    isNarrowed: computed(() => rows.value.length < (results.value?.rows.length ?? 0)),
    chosen,
    chosenRows: computed(() => results.value?.rows.filter((row) => chosen.value.has(row.placement)) ?? []),
    choose(placements: readonly string[], isIn: boolean): void {
      const next = new Set(chosen.value)
      for (const placement of placements) {
        if (isIn) next.add(placement)
        else next.delete(placement)
      }
      keep(next)
    },
    chooseAll: () => keep(new Set(rows.value.map(({ placement }) => placement))),
    chooseNone: () => keep(new Set())
  }
}
