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
  { name: 'an ad that fits', outcomes: ['no_ad'] }, { name: 'over the floor', outcomes: ['below_floor'] }, { name: 'over rivals', outcomes: ['outbid'] }, { name: 'money there', outcomes: ['no_money'] },
  { name: 'inside its limits', outcomes: ['total_budget', 'period_budget', 'placement_limit'] }, { name: 'let through by pacing', outcomes: ['paced_out'] },
  { name: 'inside caps and gaps', outcomes: ['capped', 'gap'] }, { name: 'after the repeat discount', outcomes: ['outbid_after_discount'] }, { name: 'not won by a line of yours', outcomes: ['own_line'] }
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

/** A change of one line that would lift what it loses most by, and the wins it would bring. */
export interface Lift {
  loss: 'bid' | 'budget' | 'caps' | 'ads' | 'balance' | 'own lines'
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
  const budget = counts.total_budget + counts.period_budget + counts.placement_limit + counts.paced_out
  const caps = counts.capped + counts.gap
  const afterBid = won + counts.no_money + budget + caps + counts.outbid_after_discount + counts.own_line
  const share = (of: number, all: number) => (all > 0 ? of / all : 1)
  const lifts: Lift[] = []
  const budgetBinds = budget > BINDS * won
  if (budgetBinds && budget * share(won, won + caps) > RAISED * won) {
    lifts.push({ loss: 'budget', lost: budget, change: 'raise its limits of money and impressions by a quarter', bidFactor: null, wins: won * (1 + RAISED) })
  } else if (budget > 0) lifts.push({ loss: 'budget', lost: budget, change: 'lift its limits of money and impressions', bidFactor: null, wins: won + budget * share(won, won + caps + counts.outbid_after_discount + counts.own_line) })
  const near = short[0] + short[1]
  if (!budgetBinds) {
    if (caps > 0) lifts.push({ loss: 'caps', lost: caps, change: 'lift its caps and gap', bidFactor: null, wins: won + caps * share(won, won + counts.outbid_after_discount + counts.own_line) })
    if (near > 0) lifts.push({ loss: 'bid', lost: counts.outbid + counts.below_floor, change: 'bid a quarter more', bidFactor: 1 + RAISED, wins: won + near * share(won, afterBid) })
    if (counts.no_ad > 0) lifts.push({ loss: 'ads', lost: counts.no_ad, change: 'add an ad for the slots it has none for', bidFactor: null, wins: won + counts.no_ad * share(won, matchedOf(counts) - counts.no_ad) })
    if (counts.own_line > 0) lifts.push({ loss: 'own lines', lost: counts.own_line, change: 'keep your own lines apart', bidFactor: null, wins: won + counts.own_line })
  }
  if (counts.no_money > 0) lifts.push({ loss: 'balance', lost: counts.no_money, change: 'top the balance up', bidFactor: null, wins: won + counts.no_money * share(won, afterBid - counts.no_money) })
  return lifts.sort((a, b) => b.wins - a.wins)
}
