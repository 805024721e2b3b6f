import { BLOCK_ROWS, type Opportunities, type World } from '../market/index.js'
import type { LogColumns } from './log.js'
import { Matcher } from './matching.js'
import { catalogueOf } from './market-facts.js'
import type { LineRules } from './rules.js'
import { buyablePaths } from './running.js'
import { comesBefore } from './auction.js'
import { verdictsOn, type Knowledge, type Verdict } from './verdicts.js'

/** What a line's opportunities are looked for by: all it matched, or one kind of what became of them. */
export const SOUGHT = ['matched', 'won', 'outbid', 'stopped'] as const
export type Sought = (typeof SOUGHT)[number]

/** A win as its log row tells it. */
export interface Bought {
  line: number
  /** Micros an impression, and what was charged. */
  priceMicros: number
  mediaMicros: number
  /** Which exposure of this person to the line it was. */
  nth: number
  /** Its place in the log of the hour. */
  place: number
}

/** Wins of an hour by the opportunity they bought. */
export class HourWins {
  private readonly rowOf = new Map<number, number>()

  constructor(private readonly log: LogColumns) {
    for (let n = 0; n < log.count; n++) this.rowOf.set(opportunity(log.person[n], log.key[n]), n)
  }

  of(rows: Opportunities, i: number): Bought | null {
    const n = this.rowOf.get(opportunity(rows.person[i], rows.key[i]))
    return n === undefined
      ? null
      : { line: this.log.line[n], priceMicros: this.log.price[n], mediaMicros: this.log.media[n], nth: this.log.nth[n], place: n }
  }
}

/** Keys of a day may meet by chance; with the person they tell an opportunity. */
const opportunity = (person: number, key: number) => person * 0x100000000 + key

const BECAME: Readonly<Record<Sought, readonly Verdict['verdict'][]>> = {
  matched: ['no ad', 'outbid', 'could win'],
  won: ['could win'],
  outbid: ['outbid'],
  stopped: ['could win']
}

/** Where an opportunity is looked for: rows of a market day from `after` (not itself) to `to`, the end of an hour. */
export interface Search {
  rows: Opportunities
  after: number
  to: number
  hour: number
}

/**
 * The next opportunity of a line that became what is sought.
 * @param wins of the hour
 * @param known of the line, where it learns
 * @returns its row, -1 for none until the hour's end
 */
export function seek(
  world: World,
  line: LineRules,
  { rows, after, to, hour }: Search,
  sought: Sought,
  wins: HourWins,
  known?: ReadonlyMap<number, Knowledge>
): number {
  const wonHere = (i: number) => wins.of(rows, i)?.line === line.line
  if (sought === 'won') {
    for (let i = after + 1; i < to; i++) if (wonHere(i)) return i
    return -1
  }
  const matcher = new Matcher([line.targeting], catalogueOf(world), [buyablePaths(line, world.inventory)])
  let located = after + 1
  for (let i = located; i < to; i++) {
    if (i === located) matcher.locate(world.persons, rows, i, (located = Math.min(to, i + BLOCK_ROWS)))
    if (matcher.match(world.persons, rows, i) === 0) continue
    const [{ verdict }] = verdictsOn(world, [line], { rows, i, hour }, known)
    if ((sought === 'matched' && wonHere(i)) || (BECAME[sought].includes(verdict) && (sought === 'matched' || !wonHere(i)))) return i
  }
  return -1
}

/** What became of an opportunity that a line could win. */
export type Became = 'won' | 'own line' | 'stopped'

/**
 * What became of it for a line, as the log of the hour tells.
 * @param winner the verdict on the line that bought it; null when none of ours did
 */
export function becameOf(verdict: Verdict, winner: Verdict | null, key: number): Became | null {
  if (winner?.line === verdict.line) return 'won'
  if (verdict.verdict !== 'could win') return null
  return winner && comesBefore(winner.bidMicros, winner.line, verdict.bidMicros, verdict.line, key) ? 'own line' : 'stopped'
}
