/** What became of a matched opportunity for a line: the first that applies, in this order. */
export const OUTCOMES = [
  'no_ad', 'below_floor', 'outbid', 'no_money', 'total_budget', 'period_budget', 'paced_out', 'capped', 'gap', 'won', 'own_line'
] as const
export type Outcome = (typeof OUTCOMES)[number]

/** Position of an outcome, the number that counters are kept by. */
export const OUTCOME = Object.fromEntries(OUTCOMES.map((name, index) => [name, index])) as Readonly<Record<Outcome, number>>
