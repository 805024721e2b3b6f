import type { OUTCOMES, Outcome } from '../exchange/index.js'

/** Counts of a line by outcome over a period. */
export type OutcomeCounts = Readonly<Record<(typeof OUTCOMES)[number], number>>

/** A step of the falling stair: what is left after it, and what it took. */
export interface StairStep {
  name: string
  left: number
  lost: number
  /** Outcomes that it is made of; empty for the first. */
  outcomes: Outcome[]
}

/** Steps in the order in which outcomes are decided. */
const STEPS: readonly { name: string; outcomes: readonly Outcome[] }[] = [
  { name: 'an ad that fits', outcomes: ['no_ad'] },
  { name: 'over the floor', outcomes: ['below_floor'] },
  { name: 'over rivals', outcomes: ['outbid'] },
  { name: 'money there', outcomes: ['no_money'] },
  { name: 'inside its limits', outcomes: ['total_budget', 'period_budget', 'placement_limit'] },
  { name: 'let through by pacing', outcomes: ['paced_out'] },
  { name: 'inside caps and gaps', outcomes: ['capped', 'gap'] },
  { name: 'after the repeat discount', outcomes: ['outbid_after_discount'] },
  { name: 'not won by a line of yours', outcomes: ['own_line'] }
]

export const matchedOf = (counts: OutcomeCounts) => Object.values(counts).reduce((sum, n) => sum + n, 0)

/** The exact part of the stair: from matched to wins. */
export function stairOf(counts: OutcomeCounts): StairStep[] {
  let left = matchedOf(counts)
  const steps: StairStep[] = [{ name: 'matched', left, lost: 0, outcomes: [] }]
  for (const { name, outcomes } of STEPS) {
    const lost = outcomes.reduce((sum, outcome) => sum + counts[outcome], 0)
    left -= lost
    steps.push({ name, left, lost, outcomes: [...outcomes] })
  }
  return steps
}

/** Outcomes that each kind of loss is made of. */
const LOSS_OUTCOMES = {
  bid: ['below_floor', 'outbid'],
  budget: ['total_budget', 'period_budget', 'placement_limit', 'paced_out'],
  caps: ['capped', 'gap'],
  ads: ['no_ad'],
  balance: ['no_money'],
  'own lines': ['own_line']
} as const satisfies Record<string, readonly Outcome[]>
type Loss = keyof typeof LOSS_OUTCOMES
export const LOSSES = Object.keys(LOSS_OUTCOMES) as Loss[]

/** Opportunities that a kind of loss took. */
export interface LossCount {
  loss: Loss
  lost: number
  outcomes: Outcome[]
}

/** What took opportunities that matched, the largest first; what took none is left out. */
export function lossesOf(counts: OutcomeCounts): LossCount[] {
  return LOSSES.map((loss) => ({
    loss,
    lost: LOSS_OUTCOMES[loss].reduce((sum, outcome) => sum + counts[outcome], 0),
    outcomes: [...LOSS_OUTCOMES[loss]]
  }))
    .filter(({ lost }) => lost > 0)
    .sort((a, b) => b.lost - a.lost)
}
