import type { OUTCOMES, Outcome } from '../exchange/index.js'

/** Counts of a line by outcome over a period. */
export type OutcomeCounts = Readonly<Record<(typeof OUTCOMES)[number], number>>

/** A step of the falling stair: what is left after it, and what it took. */
export interface StairStep {
  name: string
  left: number
  lost: number
  /** Outcomes that it is made of; empty for the first. */
  outcomes: readonly Outcome[]
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
    steps.push({ name, left, lost, outcomes })
  }
  return steps
}

/** Outcomes that each kind of loss is made of. */
export const LOSS_OUTCOMES = {
  bid: ['below_floor', 'outbid'],
  budget: ['total_budget', 'period_budget', 'placement_limit', 'paced_out'],
  caps: ['capped', 'gap'],
  ads: ['no_ad'],
  balance: ['no_money'],
  'own lines': ['own_line']
} as const satisfies Record<string, readonly Outcome[]>
export type Loss = keyof typeof LOSS_OUTCOMES

/** A change of one line that would lift what it loses most by, and the wins it would bring. */
export interface Lift {
  loss: Loss
  /** Opportunities that it took. */
  lost: number
  /** What to change, in words. */
  change: string
  /** Factor on bid and maximum; null for another kind of change. */
  bidFactor: number | null
  /** Wins in all after the change, from the counts. */
  wins: number
}

/** Part by which limits and bids are raised where lifting them altogether would change what else binds. */
const RAISED = 0.25
/** Share of wins that limits must keep out before they are what binds. */
const BINDS = 0.02

/**
 * What holds a line back most, and the change that lifts it. Wins after the change come from the counts. Where its plan binds,
 * a higher bid or a looser cap only buys other impressions for the same money, and is not offered.
 * @param short lost bids by bin of `SHORT_BY`
 */
export function liftsOf(counts: OutcomeCounts, short: readonly number[]): Lift[] {
  const { won } = counts
  const lost = Object.fromEntries(
    Object.entries(LOSS_OUTCOMES).map(([loss, outcomes]) => [loss, outcomes.reduce((sum, outcome) => sum + counts[outcome], 0)])
  ) as Record<Loss, number>
  const { budget, caps } = lost
  const afterBid = won + lost.balance + budget + caps + counts.outbid_after_discount + counts.own_line
  const share = (part: number, all: number) => (all > 0 ? part / all : 1)
  const lifts: Lift[] = []
  const lift = (loss: Loss, change: string, wins: number, bidFactor: number | null = null) =>
    lifts.push({ loss, lost: lost[loss], change, bidFactor, wins })
  const budgetBinds = budget > BINDS * won
  if (budgetBinds && budget * share(won, won + caps) > RAISED * won)
    lift('budget', 'raise its limits of money and impressions by a quarter', won * (1 + RAISED))
  else if (budget > 0)
    lift(
      'budget',
      'lift its limits of money and impressions',
      won + budget * share(won, won + caps + counts.outbid_after_discount + counts.own_line)
    )
  if (!budgetBinds) {
    const near = short[0] + short[1]
    if (caps > 0) lift('caps', 'lift its caps and gap', won + caps * share(won, won + counts.outbid_after_discount + counts.own_line))
    if (near > 0) lift('bid', 'bid a quarter more', won + near * share(won, afterBid), 1 + RAISED)
    if (lost.ads > 0) lift('ads', 'add an ad for the slots it has none for', won + lost.ads * share(won, matchedOf(counts) - lost.ads))
    if (lost['own lines'] > 0) lift('own lines', 'keep your own lines apart', won + lost['own lines'])
  }
  if (lost.balance > 0) lift('balance', 'top the balance up', won + lost.balance * share(won, afterBid - lost.balance))
  return lifts.sort((a, b) => b.wins - a.wins)
}
