import { SHAPES } from '../taxonomy/index.js'
import { used } from './allocation.js'
import { OUTCOME, OUTCOMES, SHORT_BY, shortBin } from './outcomes.js'
import { PaceCells, WINDOW_MINUTES, isPaced } from './pacing.js'
import type { RunningCampaign, RunningLine } from './running.js'

const STOP_TOTAL = 1
const STOP_PERIOD = 2
const { won: WON, paced_out: PACED_OUT, no_money: NO_MONEY, total_budget: TOTAL_BUDGET, period_budget: PERIOD_BUDGET } = OUTCOME
const OUTCOME_COUNT = OUTCOMES.length
const SHORT_COUNT = SHORT_BY.length

/**
 * What nearly every opportunity asks of a line, in flat arrays by its place in the matcher's order: a thousand lines of objects do
 * not fit the nearest memory, their few numbers do.
 */
export class LineTable {
  /** One bid for all rows, micros an impression; NaN where rows are bid for apart. */
  readonly bid: Float64Array
  readonly number: Int32Array
  readonly pace: PaceCells
  readonly counts: Int32Array
  readonly short: Int32Array
  /** Plain lines without an ad of a shape this hour, as sets: `shape * words + word`. */
  readonly adless: Int32Array
  /** Whether the plain tests say all: price by the thousand, no limit by placement. */
  private readonly isQuick: Uint8Array
  private readonly isPaced: Uint8Array
  private readonly dayStart: Int32Array
  private readonly dataMicros: Float64Array
  private readonly stops: Uint8Array
  private readonly campaignAt: Int32Array
  private readonly campaignStops: Uint8Array
  private readonly campaignPlace: Map<RunningCampaign | null, number>
  private lines: readonly RunningLine[] = []

  constructor(count: number, private readonly words: number, campaigns: Iterable<RunningCampaign>) {
    const ints = () => new Int32Array(count)
    this.bid = new Float64Array(count)
    this.number = ints()
    this.pace = new PaceCells(count)
    this.counts = new Int32Array(count * OUTCOME_COUNT)
    this.short = new Int32Array(count * SHORT_COUNT)
    this.isQuick = new Uint8Array(count)
    this.isPaced = new Uint8Array(count)
    this.dayStart = ints()
    this.dataMicros = new Float64Array(count)
    this.stops = new Uint8Array(count)
    this.campaignAt = ints()
    this.campaignPlace = new Map<RunningCampaign | null, number>([...campaigns].map((campaign, n) => [campaign, n + 1]))
    this.campaignPlace.set(null, 0)
    this.campaignStops = new Uint8Array(this.campaignPlace.size)
    this.adless = new Int32Array(SHAPES.length * words)
  }

  /** The lines in the matcher's order, once they are made. */
  setLines(lines: readonly RunningLine[]): void {
    this.lines = lines
    lines.forEach((line, at) => {
      this.number[at] = line.rules.line
      this.dataMicros[at] = line.dataMicros
      this.campaignAt[at] = this.campaignPlace.get(line.campaign) ?? 0
    })
  }

  /** To be called when every line's bid, ads and plan of the hour are set. */
  beginHour(): void {
    this.counts.fill(0)
    this.short.fill(0)
    this.adless.fill(0)
    this.lines.forEach((line, at) => {
      const { account, isPlain, weightByShape } = line
      this.bid[at] = isPlain ? line.bid : NaN
      this.isQuick[at] = isPlain && account.purse.limits.placementDailyMicros === null ? 1 : 0
      this.isPaced[at] = isPaced(account.plan, account.pacing) ? 1 : 0
      this.dayStart[at] = line.dayStart * 60
      if (isPlain) for (let shape = 0; shape < SHAPES.length; shape++) if (weightByShape[shape] === 0) this.adless[shape * this.words + (at >> 5)] |= 1 << (at & 31)
      this.noteStops(line)
    })
  }

  /** Notes which limits are reached, of the line and its campaign. */
  noteStops({ at, account: { purse, campaign } }: RunningLine): void {
    const of = ({ total, periods }: { total: Parameters<typeof used>[0]; periods: Parameters<typeof used>[0] }) => (used(total) ? STOP_TOTAL : 0) | (used(periods) ? STOP_PERIOD : 0)
    this.stops[at] = of(purse)
    if (campaign) this.campaignStops[this.campaignAt[at]] = of(campaign)
  }

  count(at: number, outcome: number): void {
    this.counts[at * OUTCOME_COUNT + outcome]++
  }

  /** Counts a bid that lost, by how much it fell short of what was needed. */
  lose(at: number, outcome: number, need: number, bid: number): void {
    this.counts[at * OUTCOME_COUNT + outcome]++
    this.short[at * SHORT_COUNT + shortBin(need, bid)]++
  }

  countsOf = ({ at }: RunningLine): Int32Array => this.counts.subarray(at * OUTCOME_COUNT, (at + 1) * OUTCOME_COUNT)
  shortOf = ({ at }: RunningLine): Int32Array => this.short.subarray(at * SHORT_COUNT, (at + 1) * SHORT_COUNT)

  /**
   * The tests of money and pace for a plain line that would win, in the order of outcomes and with the answers of `allocate`.
   * @returns an outcome, `won` for go on, or -1 where the line's account has to be asked
   */
  quick(at: number, minute: number, key: number, price: number, balance: number): number {
    if (this.isQuick[at] === 0) return -1
    const cost = price + this.dataMicros[at]
    if (balance < cost) return NO_MONEY
    const stops = this.stops[at] | this.campaignStops[this.campaignAt[at]]
    if (stops !== 0) return (stops & STOP_TOTAL) !== 0 ? TOTAL_BUDGET : PERIOD_BUDGET
    if (this.isPaced[at] === 0) return WON
    const window = Math.floor((minute - this.dayStart[at]) / WINDOW_MINUTES)
    const { pace } = this
    if (pace.window[at] !== window) {
      const { account } = this.lines[at]
      account.pacer.openWindow(window, account.plan, account.pacing, account.purse.spent.day)
    }
    return pace.lets(at, cost, key, this.number[at]) ? WON : PACED_OUT
  }
}
