/** A deal that a publisher granted. */
export interface Deal {
  deal: number
  kind: 'fixed' | 'floor'
  /** Micros an impression. */
  price: number
  placements: readonly number[]
  /** Market hour at which it ends; none when left out. */
  untilHour?: number | null
}

/** What a line may buy by: the open market, deals, or both. */
export interface DealChoice {
  open: boolean
  deals: readonly Deal[]
}

export const OPEN_MARKET: DealChoice = { open: true, deals: [] }

/** Deal of each placement that a line can use, as position in its deals; -1 for none. The first deal that names a placement counts. */
export function dealsByPlacement(choice: DealChoice, placements: number): Int16Array {
  const table = new Int16Array(placements).fill(-1)
  choice.deals.forEach(({ placements: own }, n) => {
    for (const placement of own) if (table[placement] < 0) table[placement] = n
  })
  return table
}

/** Least bid that wins by a deal: a fixed price asks no rivals, a floor replaces the open one. */
export function dealNeed(deal: Pick<Deal, 'kind' | 'price'>, rival: number): number {
  return deal.kind === 'fixed' ? deal.price : Math.max(deal.price, rival + 1)
}

/** Least effective bid that wins an opportunity: over the best rival and at or over the floor, or what the line's deal asks. */
export function rowNeed(floor: number, rival: number, open: boolean, deal: Pick<Deal, 'kind' | 'price'> | null): number {
  const market = Math.max(floor, rival + 1)
  if (!deal) return market
  const own = dealNeed(deal, rival)
  return open ? Math.min(market, own) : own
}
