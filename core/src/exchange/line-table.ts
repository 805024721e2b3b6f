import { SHAPES } from '../taxonomy/index.js'
import { used } from './allocation.js'
import { LineCells } from './line-cells.js'
import { OUTCOME } from './outcomes.js'
import { WINDOW_MINUTES, isPaced } from './pacing.js'
import type { RunningCampaign, RunningLine } from './running.js'

/** The plain tests say all of the line: price by the thousand, no limit by placement. */
const QUICK = 1
const PACED = 2
const STOP_TOTAL = 4
const STOP_PERIOD = 8
/** The campaign's stops lie two bits above the line's. */
const CAMPAIGN_SHIFT = 2
const OWN_STOPS = STOP_TOTAL | STOP_PERIOD
const STOPS = OWN_STOPS | (OWN_STOPS << CAMPAIGN_SHIFT)
const TOTALS = STOP_TOTAL | (STOP_TOTAL << CAMPAIGN_SHIFT)
const { won: WON, paced_out: PACED_OUT, no_money: NO_MONEY, total_budget: TOTAL_BUDGET, period_budget: PERIOD_BUDGET } = OUTCOME

/** Answer of the plain tests where they do not say all, so that the line's account has to be asked. */
export const ASK_ACCOUNT = -1

/** The lines of an auction by their place in the matcher's order, with what is asked of them at nearly every opportunity in cells. */
export class LineTable {
  readonly cells: LineCells
  /** Plain lines without an ad of a shape this hour, as sets: `shape * words + word`. */
  readonly adless: Int32Array
  private readonly byCampaign = new Map<RunningCampaign['purse'], { stops: number; lines: number[] }>()
  private lines: readonly RunningLine[] = []

  constructor(
    count: number,
    private readonly words: number
  ) {
    this.cells = new LineCells(count)
    this.adless = new Int32Array(SHAPES.length * words)
  }

  /** The lines in the matcher's order, once they are made. */
  setLines(lines: readonly RunningLine[]): void {
    this.lines = lines
    lines.forEach((line, at) => {
      this.cells.setLine(at, line.rules.line, line.dataMicros)
      const { campaign } = line.account
      if (campaign === null) return
      const known = this.byCampaign.get(campaign)
      if (known) known.lines.push(at)
      else this.byCampaign.set(campaign, { stops: 0, lines: [at] })
    })
  }

  /** To be called when every line's bid, ads and plan of the hour are set. */
  beginHour(): void {
    this.adless.fill(0)
    for (const [purse, campaign] of this.byCampaign) campaign.stops = stopsOf(purse)
    this.lines.forEach((line, at) => {
      const { account, isPlain, weightByShape } = line
      const stops =
        stopsOf(account.purse) | ((account.campaign ? (this.byCampaign.get(account.campaign)?.stops ?? 0) : 0) << CAMPAIGN_SHIFT)
      const flags =
        (isPlain && account.purse.limits.placementDailyMicros === null ? QUICK : 0) |
        (isPaced(account.plan, account.pacing) ? PACED : 0) |
        stops
      this.cells.setHour(at, isPlain ? line.bid : NaN, flags, (line.dayStart * 60) / WINDOW_MINUTES)
      if (isPlain)
        for (let shape = 0; shape < SHAPES.length; shape++)
          if (weightByShape[shape] === 0) this.adless[shape * this.words + (at >> 5)] |= 1 << (at & 31)
    })
  }

  /** Notes which limits a purchase reached, of the line and its campaign. */
  noteStops({ at, account: { purse, campaign } }: RunningLine): void {
    const { cells } = this
    cells.setFlags(at, (cells.flags(at) & ~OWN_STOPS) | stopsOf(purse))
    const shared = campaign === null ? undefined : this.byCampaign.get(campaign)
    if (campaign === null || !shared) return
    const stops = stopsOf(campaign)
    if (stops === shared.stops) return
    shared.stops = stops
    for (const mate of shared.lines) cells.setFlags(mate, (cells.flags(mate) & ~(OWN_STOPS << CAMPAIGN_SHIFT)) | (stops << CAMPAIGN_SHIFT))
  }

  /**
   * The tests of money and pace for a plain line that would win, in the order of outcomes and with the answers of `allocate`; nothing
   * is booked.
   * @param window five minutes of the market, counted from its beginning
   * @returns an outcome, `won` for go on, or `ASK_ACCOUNT`
   */
  ask(at: number, window: number, key: number, price: number, balance: number): number {
    const { cells } = this
    const flags = cells.flags(at)
    if ((flags & QUICK) === 0) return ASK_ACCOUNT
    if (balance < price + cells.dataMicros(at)) return NO_MONEY
    if ((flags & STOPS) !== 0) return (flags & TOTALS) !== 0 ? TOTAL_BUDGET : PERIOD_BUDGET
    if ((flags & PACED) === 0) return WON
    const ofDay = cells.windowOfDay(at, window)
    if (cells.window(at) !== ofDay) {
      const { account } = this.lines[at]
      account.pacer.openWindow(ofDay, account.plan, account.pacing, account.purse.spent.day)
    }
    return cells.lets(at, key, cells.number(at)) ? WON : PACED_OUT
  }

  /** Counts what stopped a line; what its pace did not want is supply all the same. */
  stop(at: number, outcome: number, price: number): void {
    const { cells } = this
    cells.count(at, outcome)
    if (outcome === PACED_OUT) cells.see(at, price + cells.dataMicros(at))
  }

  /** Takes a `stop` back. */
  unstop(at: number, outcome: number, price: number): void {
    const { cells } = this
    cells.uncount(at, outcome)
    if (outcome === PACED_OUT) cells.unsee(at, price + cells.dataMicros(at))
  }

  /** Counts what went on as supply of the line's pace. */
  see(at: number, price: number): void {
    const { cells } = this
    if ((cells.flags(at) & PACED) !== 0) cells.see(at, price + cells.dataMicros(at))
  }
}

const stopsOf = ({ total, periods }: Pick<RunningCampaign['purse'], 'total' | 'periods'>) =>
  (used(total) ? STOP_TOTAL : 0) | (used(periods) ? STOP_PERIOD : 0)
