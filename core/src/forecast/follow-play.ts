import { bidsOfWorth, type Landscape } from '../exchange/index.js'
import { FIRST_PRICE, SOURCES } from '../market/index.js'
import type { MoneyResult } from './money.js'
import { mostBase, type Play } from './play.js'
import { replay } from './replay.js'
import { overGroups, type Replay } from './totals.js'
import type { Timeline } from './timeline.js'

/** What one more win may cost, at which a line is tried: powers of two around its full bid. */
const WORTHS = Array.from({ length: 11 }, (_, n) => 2 ** (n / 2 - 4))
/** Over the plan, as the exchange looks for it: what is met early is held, what is missed is lost. */
const MARGIN = 1.03

/**
 * Bids of a line that follows the market, for each weekday: the least, placement by placement, at which it spends that day's plan.
 * @param mostRows from which only every n-th person is asked
 * @param full replays of the weeks at the whole bid, and what budgets plan of them
 * @returns null where the plan takes the whole bid on every day
 */
export function followPlay(
  play: Play,
  { landscape, weeks, mostRows }: { landscape: Landscape; weeks: readonly Timeline[]; mostRows: number },
  full: readonly { replay: Replay; money: MoneyResult }[],
  cancelled: () => boolean
): Play | null {
  const { tape, market } = play
  const most = mostBase(play)
  const every = Math.max(1, Math.ceil(play.matched.rows.length / mostRows))
  const isFirst = (path: number) => FIRST_PRICE[path % SOURCES.length] === 1
  const bidsAt = (worth: number) => bidsOfWorth(landscape, worth, most, isFirst, new Int32Array(market.inventory.floors.length))
  /** Spend and wins by weekday, Monday first; weeks as they stand begin on one. */
  const byDay = (parts: readonly Replay[]) =>
    Array.from({ length: 7 }, (_, day) => {
      const sum = (slots: (part: Replay) => Float64Array) =>
        parts.reduce(
          (all, part) =>
            all +
            overGroups(slots(part), part.slots)
              .subarray(day * 24, day * 24 + 24)
              .reduce((a, b) => a + b, 0),
          0
        )
      return { spend: sum((part) => part.slotSpend), wins: sum((part) => part.slotWins) }
    })
  const everybody = byDay(full.map((part) => part.replay))
  const planned = Array.from({ length: 7 }, (_, day) => ({
    spend: full.reduce((sum, { money }) => sum + money.plans[day].micros, 0) / tape.sample,
    wins: full.reduce((sum, { money }) => sum + money.plans[day].impressions, 0) / tape.sample
  }))
  const isShort = planned.map(({ spend, wins }, day) => spend >= everybody[day].spend && wins >= everybody[day].wins)
  if (isShort.every(Boolean)) return null
  const replays = (bids: Int32Array, nth: number) =>
    weeks.map((week) => replay({ ...play, pathBids: [bids] }, week, { full: false, every: nth }, cancelled))
  const tried = WORTHS.map((worth) => byDay(replays(bidsAt(worth * most), every)))
  const whole = byDay(weeks.map((week) => replay(play, week, { full: false, every }, cancelled)))
  const bids = planned.map(({ spend, wins }, day) => {
    if (isShort[day]) return bidsAt(most * 64)
    // The part of the people that was asked stands for all by what both spend at the whole bid.
    const part = whole[day].spend > 0 ? whole[day].spend / everybody[day].spend : 1
    const over = (n: number) => Math.max(tried[n][day].spend / (spend * part), tried[n][day].wins / (wins * part)) / MARGIN
    const enough = WORTHS.findIndex((_, n) => over(n) >= 1)
    if (enough < 0) return bidsAt(most * 64)
    if (enough === 0) return bidsAt(WORTHS[0] * most)
    const [low, high] = [over(enough - 1), over(enough)]
    const between = low > 0 ? Math.log(1 / low) / Math.log(high / low) : 0.5
    return bidsAt(most * WORTHS[enough - 1] * (WORTHS[enough] / WORTHS[enough - 1]) ** between)
  })
  return { ...play, pathBids: bids }
}
