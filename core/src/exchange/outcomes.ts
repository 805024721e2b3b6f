/** What became of a matched opportunity for a line: the first that applies, in this order. */
export const OUTCOMES = [
  'no_ad',
  'below_floor',
  'outbid',
  'no_money',
  'total_budget',
  'period_budget',
  'placement_limit',
  'paced_out',
  'capped',
  'gap',
  'outbid_after_discount',
  'won',
  'own_line'
] as const
export type Outcome = (typeof OUTCOMES)[number]

/** Position of an outcome, the number that counters are kept by. */
export const OUTCOME = Object.fromEntries(OUTCOMES.map((name, index) => [name, index])) as Readonly<Record<Outcome, number>>

/** Upper ends of the bins by how much a lost bid fell short: of what would have won, over the bid. */
export const SHORT_BY = [1.1, 1.25, 1.5, 2, 3, Infinity] as const

/** All upper ends are twentieths: bin by how many of them, rounded up, what was needed is of the bid. */
const BIN_BY_TWENTIETHS = Uint8Array.from({ length: 20 * SHORT_BY[SHORT_BY.length - 2] + 2 }, (_, twentieths) =>
  SHORT_BY.findIndex((end) => twentieths <= Math.round(end * 20))
)

/** The bin of a lost bid. @param need least bid that would have won, at least 1 over `bid` */
export function shortBin(need: number, bid: number): number {
  return bid > 0 ? BIN_BY_TWENTIETHS[Math.min(BIN_BY_TWENTIETHS.length - 1, Math.ceil((need * 20) / bid))] : SHORT_BY.length - 1
}
