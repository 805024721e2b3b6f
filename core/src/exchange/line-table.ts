import { SHAPES } from '../taxonomy/index.js'
import { limitsPlaces, used } from './allocation.js'
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
    lines.forEach((line, place) => {
      this.cells.setLine(place, line.rules.line, line.dataMicros)
      const { campaign } = line.account
      if (campaign === null) return
      const known = this.byCampaign.get(campaign)
      if (known) known.lines.push(place)
      else this.byCampaign.set(campaign, { stops: 0, lines: [place] })
    })
  }

  /** To be called when every line's bid, ads and plan of the hour are set. */
  beginHour(): void {
    this.adless.fill(0)
    for (const [purse, campaign] of this.byCampaign) campaign.stops = stopsOf(purse)
    this.lines.forEach((line, place) => {
      const { account, isPlain, weightByShape } = line
      const stops =
        stopsOf(account.purse) | ((account.campaign ? (this.byCampaign.get(account.campaign)?.stops ?? 0) : 0) << CAMPAIGN_SHIFT)
      const flags =
        (isPlain && !limitsPlaces(account.purse.limits) ? QUICK : 0) | (isPaced(account.plan, account.pacing) ? PACED : 0) | stops
      this.cells.setHour(place, isPlain ? line.bid : NaN, flags, (line.dayStart * 60) / WINDOW_MINUTES)
      if (isPlain)
        for (let shape = 0; shape < SHAPES.length; shape++)
          if (weightByShape[shape] === 0) this.adless[shape * this.words + (place >> 5)] |= 1 << (place & 31)
    })
  }

  /** Notes which limits a purchase reached, of the line and its campaign. */
  noteStops({ place, account: { purse, campaign } }: RunningLine): void {
    const { cells } = this
    cells.setFlags(place, (cells.flags(place) & ~OWN_STOPS) | stopsOf(purse))
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
   * @param means what it could pay
   * @returns an outcome, `won` for go on, or `ASK_ACCOUNT`
   */
  ask(place: number, window: number, key: number, price: number, means: number): number {
    const { cells } = this
    const flags = cells.flags(place)
    if ((flags & QUICK) === 0) return ASK_ACCOUNT
    if (means < price + cells.dataMicros(place)) return NO_MONEY
    if ((flags & STOPS) !== 0) return (flags & TOTALS) !== 0 ? TOTAL_BUDGET : PERIOD_BUDGET
    if ((flags & PACED) === 0) return WON
    const ofDay = cells.windowOfDay(place, window)
    if (cells.window(place) !== ofDay) {
      const { account } = this.lines[place]
      account.pacer.openWindow(ofDay, account.plan, account.pacing, account.purse.spent.day)
    }
    return cells.lets(place, key, cells.number(place)) ? WON : PACED_OUT
  }

  /** Counts what stopped a line; what its pace did not want is supply all the same. */
  stop(place: number, outcome: number, price: number): void {
    const { cells } = this
    cells.count(place, outcome)
    if (outcome === PACED_OUT) cells.see(place, price + cells.dataMicros(place))
  }

  /** Takes a `stop` back. */
  unstop(place: number, outcome: number, price: number): void {
    const { cells } = this
    cells.uncount(place, outcome)
    if (outcome === PACED_OUT) cells.unsee(place, price + cells.dataMicros(place))
  }

  /** Counts what went on as supply of the line's pace. */
  see(place: number, price: number): void {
    const { cells } = this
    if ((cells.flags(place) & PACED) !== 0) cells.see(place, price + cells.dataMicros(place))
  }
}

const stopsOf = ({ total, periods }: Pick<RunningCampaign['purse'], 'total' | 'periods'>) =>
  (used(total) ? STOP_TOTAL : 0) | (used(periods) ? STOP_PERIOD : 0)
