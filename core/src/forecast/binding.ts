import type { MoneyResult, PlanLimit } from './money.js'
import { overGroups, sumOf, type Replay } from './totals.js'

/** What decides how much a line buys. */
export type Binding =
  | PlanLimit
  /** Even pacing holds it back in its best hours, although the money is not all spent. */
  | { kind: 'pace' | 'cap' | 'bid' | 'supply' }

/** Share of what could be bought that must be lost before something is said to bind. */
const LOST = 0.0005
const LOST_TO_PACE = 0.02
/** Shares of matched opportunities: under them neither bid nor caps are worth a word. */
const MOST = 0.95

/** A week's replay under its budgets. */
interface Week {
  replay: Replay
  money: MoneyResult
}

/**
 * Names what binds over two weeks. A limit binds where what could be spent without it is more than it allows, and by nothing else: so the
 * budget is never said to bind where spend without it is below it.
 * @param standing rows of both weeks that matched, and that the bid wins before caps and budgets
 * @param sample people of the market for each on the tape
 */
export function bindingOf(weeks: readonly Week[], { matched, first }: { matched: number; first: number }, sample: number): Binding {
  const limits = new Map<string, { limit: PlanLimit; able: number; allowed: number; lost: number }>()
  let [could, bought] = [0, 0]
  for (const { replay, money } of weeks) {
    const slots = { money: overGroups(replay.slotSpend, replay.slots), impressions: overGroups(replay.slotWins, replay.slots) }
    could += sumOf(slots.money)
    bought += money.spend
    money.plans.forEach((plan, day) => {
      for (const what of ['money', 'impressions'] as const) {
        const able = sumOf(slots[what].subarray(day * 24, day * 24 + 24)) * sample
        const limit = plan.by[what]
        const allowed = what === 'money' ? plan.micros : plan.impressions
        if (!limit) continue
        const name = JSON.stringify(limit)
        const known = limits.get(name) ?? { limit, able: 0, allowed: 0, lost: 0 }
        limits.set(name, {
          limit,
          able: known.able + able,
          allowed: known.allowed + allowed,
          lost: known.lost + (able > allowed ? 1 - allowed / able : 0)
        })
      }
    })
  }
  // A limit that is passed on some days and not reached over all of them is not what binds.
  const [worst] = [...limits.values()].filter(({ able, allowed }) => able * (1 - LOST) > allowed).sort((x, y) => y.lost - x.lost)
  if (worst) return worst.limit
  if (could > 0 && bought < could * (1 - LOST_TO_PACE)) return { kind: 'pace' }
  const wins = weeks.reduce((sum, { replay }) => sum + replay.wins, 0)
  const [toBid, toCaps] = [matched - first, first - wins]
  if (first > MOST * matched && wins > MOST * first) return { kind: 'supply' }
  return { kind: toCaps > toBid ? 'cap' : 'bid' }
}

/** Whether money or impressions, not the market, decide how much is bought. */
export const isLimit = (binding: Binding): binding is PlanLimit => binding.kind === 'limit'
