import { TAPE_DAYS } from '../../tape/index.js'
import { localDayOf } from '../../time/index.js'
import { followedEvent, rateAmong } from '../bid-rates.js'
import { biddingOf } from '../bidding.js'
import { underPrice } from '../kernel-matched.js'
import { thinnedMatch } from '../match-tape.js'
import type { Matched } from '../matched.js'
import { moneyStep } from '../money.js'
import { calendarOf, curvesOf, limitsFor } from '../period.js'
import type { Play } from '../play.js'
import { rateKnown, type ForecastQuestion } from '../question.js'
import { rateDraws } from '../rate-draws.js'
import { shapesOf } from '../shape.js'
import { overGroups, sumOf, type Replay } from '../totals.js'
import { firstBase, matchKey, type Workings } from '../workings.js'
import { changed, type Change } from './change.js'
import type { GoalMeasure } from './measure.js'

/** What a mean day buys, as thinned weeks tell: for comparing uses of the same money, not for telling. Reach is of seven days. */
export interface Trial {
  measure: number
  wins: number
  spend: number
}

/** Rows that are replayed of a week, of bids that are sought, and run in the order of time. */
const MOST_ROWS = 20_000
const SOUGHT_ROWS = 4_000
const SHAPED_ROWS = 3_000
/** Draws of the rate of a line that learns. */
const DRAWS = { draws: 2, mostRows: SOUGHT_ROWS }
const EVENTS = { views: 'view', visits: 'click', conversions: 'conversion' } as const

/** People by exposures where each exposure is kept with a chance. */
function keptOf(people: readonly number[], share: number): number[] {
  if (share >= 1) return [...people]
  const kept = new Array<number>(people.length).fill(0)
  people.forEach((count, n) => {
    const times = n + 1
    let chance = share ** times
    for (let m = times; m > 0; m--) {
      kept[m - 1] += count * chance
      chance *= (m / (times - m + 1)) * ((1 - share) / Math.max(share, 1e-12))
    }
  })
  return kept
}

/** Asks for changes of a line on a part of the people: cheap enough to try many. */
export class Trials {
  private readonly every: number
  /** Whether events must be counted. */
  private readonly isFull: boolean
  private readonly known = new Map<string, Trial>()
  private readonly matches = new Map<string, Matched>()
  /** Questions that were asked, and matched anew. */
  asked = 0

  constructor(
    private readonly work: Workings,
    private readonly measure: GoalMeasure,
    private readonly cancelled: () => boolean
  ) {
    this.isFull = (measure !== 'wins' && measure !== 'reach') || followedEvent(work.question) !== null
    this.every = Math.max(1, Math.ceil(sumOf(work.standing.eligible) / MOST_ROWS))
  }

  get matched(): number {
    return this.matches.size
  }

  of(...changes: readonly Change[]): Trial {
    const next = changed(this.work.question, ...changes)
    const key = JSON.stringify(next)
    let trial = this.known.get(key)
    if (!trial) {
      this.asked++
      this.known.set(key, (trial = this.ask(next)))
    }
    return trial
  }

  /** The rows of a question, of a part of the people where targeting or hours are others. */
  private matchOf(next: ForecastQuestion): Matched {
    const { work } = this
    const key = matchKey(next)
    let matched: Matched | undefined = key === matchKey(work.question) ? work.matched : this.matches.get(key)
    if (!matched) {
      matched = thinnedMatch(next, work.tape, work.market, this.every, this.cancelled)
      this.matches.set(key, matched)
    }
    return underPrice(matched, matched.programme.withPrice(next.price, work.market))
  }

  private ask(question: ForecastQuestion): Trial {
    const { work, every, cancelled } = this
    const { tape, market, weeks } = work
    const daysLive = Math.max(0, work.firstDay - localDayOf(work.zone, question.startHour))
    const most: Play = { tape, market, question, matched: this.matchOf(question), base: firstBase(question, work.firstDay, daysLive) }
    const bidding = biddingOf(most, work, { every, mostRows: SOUGHT_ROWS, full: this.isFull }, cancelled)
    const planned = { question, tape, flightDaysLeft: work.flightDaysLeft, firstDay: work.firstDay, ...bidding }
    const draws = rateDraws({ ...planned, weeks }, DRAWS, cancelled)
    const shares = draws.length > 0 ? draws : [{ rate: 1, wins: 1, spend: 1 }]
    const total: Trial = { measure: 0, wins: 0, spend: 0 }
    /** People for each win: both weeks are alike. */
    let perWin = -1
    weeks.forEach((timeline, n) => {
      const played = bidding.weekReplays[n]
      const [slotSpend, slotWins] = [overGroups(played.slotSpend, played.slots), overGroups(played.slotWins, played.slots)]
      const calendar = calendarOf(planned, timeline)
      const limits = limitsFor(planned, timeline)
      const bought = shares.map((by) => ({
        ...by,
        money: moneyStep(
          slotSpend.map((micros) => micros * by.spend),
          slotWins.map((wins) => wins * by.wins),
          limits,
          calendar,
          tape.sample
        )
      }))
      const mean = (pick: (one: (typeof bought)[number]) => number) => bought.reduce((sum, one) => sum + pick(one), 0) / bought.length
      const wins = mean(({ money }) => money.wins)
      const each = tape.sample / TAPE_DAYS
      total.wins += wins * each
      total.spend += mean(({ money }) => money.spend) * each
      if (this.measure === 'wins') total.measure += wins * each
      else if (this.measure === 'reach') {
        const line = { play: bidding.play, money: bought[0].money, calendar, curves: curvesOf(planned, timeline, played) }
        if (perWin < 0) perWin = wins >= played.wins * 0.999 ? played.reach / Math.max(1, played.wins) : this.reachPerWin(line, timeline)
        total.measure += (perWin * wins * tape.sample) / 2
      } else total.measure += mean((one) => this.events(question, played, one.money.wins, draws.length > 0 ? one.rate : null)) * each
    })
    return total
  }

  /** Events of so many of the wins of a replay, at the rate that is known. @param drawn of the event that bids follow */
  private events(question: ForecastQuestion, played: Replay, wins: number, drawn: number | null): number {
    const measure = this.measure as keyof typeof EVENTS
    if (played.wins === 0) return 0
    const share = Math.min(1, wins / played.wins)
    const kind = EVENTS[measure]
    const factor =
      drawn !== null && kind === followedEvent(question)
        ? drawn * rateKnown(question, kind).factor
        : rateAmong(question, kind, keptOf(played.frequency, share), wins).factor
    return (sumOf(played.byGroup[measure]) / played.wins) * wins * factor
  }

  /** People that a win under the budgets reaches, by a run of a few of them in the order of time. */
  private reachPerWin(line: Parameters<typeof shapesOf>[0][number], timeline: Workings['weeks'][number]): number {
    const rows = sumOf(this.work.standing.first) / 2 / this.every
    const every = this.every * Math.max(1, Math.round(rows / SHAPED_ROWS))
    const [shape] = shapesOf([line], timeline, this.cancelled, every)
    return shape.wins > 0 ? shape.reach / shape.wins : 0
  }
}
