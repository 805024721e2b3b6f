import { COUNTRIES, POSTAL_COUNTRY, POSTAL_REGION, REGIONS } from '../places/index.js'
import { CATEGORIES, DEVICE_TYPES } from '../taxonomy/index.js'
import { DEVICE_TYPE, PERSON_WORDS, SOURCES, placementCode, postalOf, toldCategory } from '../market/index.js'
import { TAPE_DAYS } from '../tape/index.js'
import { periodMoney } from './period.js'
import type { Workings } from './workings.js'
import { atLevel } from './level.js'
import { replay } from './replay.js'
import { eachLostToOwn } from './lost-to-own.js'
import { localMinuteOfWeek } from './timeline.js'

export const BREAKDOWNS = ['hour of week', 'country', 'region', 'device', 'category', 'source', 'deal', 'placement'] as const
export type BreakdownName = (typeof BREAKDOWNS)[number]

/**
 * A value's part of a day: positions in the vocabulary of its breakdown, hours from Monday 00:00, deals in the line's
 * order (-1 the open market).
 */
export interface BreakdownRow {
  value: number
  /** What restrictions call it, of placements. */
  code?: string
  matched: number
  wins: number
  spendMicros: number
}

export interface Breakdowns {
  /** Days of the flight, as calendar days from its first. */
  days: { wins: number; spendMicros: number }[]
  by: Record<BreakdownName, BreakdownRow[]>
  /** Our other lines that buy what this one would win, the first that do most: wins a day before caps and budgets. */
  taken: { line: number; wins: number }[]
}

/** Rows of the longest breakdowns that are told; the rest are summed by nobody. */
const MOST_ROWS = 200

/** Who and what the wins of a day are, by several dimensions, after budgets. */
export function breakdowns(work: Workings, cancelled: () => boolean): Breakdowns {
  const { tape, matched, question, weeks, play, offset, level } = work
  const { path, device, page, minute } = tape.rows
  const sizes: Record<BreakdownName, number> = {
    'hour of week': 168,
    country: COUNTRIES.length,
    region: REGIONS.length,
    device: DEVICE_TYPES.length,
    // One more for what nobody is told.
    category: CATEGORIES.length + 1,
    source: SOURCES.length,
    deal: question.buys.deals.length + 1,
    placement: work.market.inventory.placements.length
  }
  const tallies = Object.fromEntries(
    BREAKDOWNS.map((name) => [
      name,
      { matched: new Float64Array(sizes[name]), wins: new Float64Array(sizes[name]), spend: new Float64Array(sizes[name]) }
    ])
  ) as Record<BreakdownName, { matched: Float64Array; wins: Float64Array; spend: Float64Array }>
  const values = new Int32Array(BREAKDOWNS.length)
  const read = (row: number, person: number, hour: number) => {
    const postal = postalOf(tape.words[person * PERSON_WORDS])
    const placement = Math.floor(path[row] / SOURCES.length)
    values[0] = hour
    values[1] = POSTAL_COUNTRY[postal]
    values[2] = POSTAL_REGION[postal]
    values[3] = DEVICE_TYPE[device[row]]
    const category = toldCategory(work.market.inventory, page[row])
    values[4] = category < 0 ? CATEGORIES.length : category
    values[5] = path[row] % SOURCES.length
    values[6] = matched.deals[placement] + 1
    values[7] = placement
  }
  const names = BREAKDOWNS.map((name) => tallies[name])
  for (let p = 0; p < matched.people.length; p++) {
    for (let m = matched.starts[p]; m < matched.starts[p + 1]; m++) {
      read(matched.rows[m], matched.people[p], Math.floor(localMinuteOfWeek(tape, minute[matched.rows[m]], offset) / 60))
      for (let n = 0; n < names.length; n++) names[n].matched[values[n]]++
    }
  }
  for (const timeline of weeks) {
    const played = atLevel(replay(play, timeline, { full: false, keep: true }, cancelled), level)
    const { won } = played
    const { shares } = periodMoney(work, timeline, played).money
    for (let w = 0; w < won.rows.length; w++) {
      const hour = Math.floor(won.minutes[w] / 60)
      const share = shares[hour] * (level?.factor ?? 1)
      read(won.rows[w], won.persons[w], hour)
      for (let n = 0; n < names.length; n++) {
        names[n].wins[values[n]] += share
        names[n].spend[values[n]] += share * won.charges[w]
      }
    }
  }
  const aDay = tape.sample / TAPE_DAYS
  const rowsOf = (name: BreakdownName): BreakdownRow[] => {
    const rows = Array.from({ length: sizes[name] }, (_, value) => ({
      value: name === 'deal' ? value - 1 : value,
      matched: tallies[name].matched[value] * aDay,
      wins: tallies[name].wins[value] * aDay,
      spendMicros: tallies[name].spend[value] * aDay
    })).filter((row) => row.matched > 0)
    if (name === 'hour of week') return rows
    const told = rows.sort((a, b) => b.wins - a.wins || b.matched - a.matched || a.value - b.value).slice(0, MOST_ROWS)
    const { inventory } = work.market
    return name === 'placement' ? told.map((row) => ({ ...row, code: placementCode(inventory, inventory.placements[row.value]) })) : told
  }
  const { flightReplay, flight } = work
  const { money } = periodMoney(work, flight, flightReplay)
  return {
    days: money.daySpend.map((spend, day) => ({ wins: money.dayWins[day] * tape.sample, spendMicros: spend * tape.sample })),
    by: Object.fromEntries(BREAKDOWNS.map((name) => [name, rowsOf(name)])) as Breakdowns['by'],
    taken: takenBy(work)
  }
}

/** Lines that are named. */
const MOST_NAMED = 3

/** What our other lines take of what a line would win. */
function takenBy({ play, question, market: { own }, tape }: Workings): Breakdowns['taken'] {
  const { among } = question
  if (!own || among === undefined) return []
  const counts = new Map<number, number>()
  eachLostToOwn(play, (row) => {
    const line = own.lineAt(own.takes(row, among))
    counts.set(line, (counts.get(line) ?? 0) + 1)
  })
  return [...counts]
    .map(([line, rows]) => ({ line, wins: (rows * tape.sample) / TAPE_DAYS }))
    .sort((a, b) => b.wins - a.wins || a.line - b.line)
    .slice(0, MOST_NAMED)
}
