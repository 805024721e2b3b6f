import { COUNTRIES } from '../../src/places/index.js'
import { DEVICE_TYPES, DISPLAY_SIZES } from '../../src/taxonomy/index.js'
import {
  ExposureBook,
  Exchange,
  NO_LIMITS,
  openLog,
  type CampaignRules,
  type HourFacts,
  type LineRules,
  type OpeningState,
  type PublicationRules
} from '../../src/exchange/index.js'
import {
  DEVICE_TYPE,
  PERSON_WORDS,
  SOURCES,
  makeDay,
  makeWorld,
  postalOf,
  type Opportunities,
  type World,
  type WorldSize
} from '../../src/market/index.js'
export { catalogueOf } from '../../src/exchange/index.js'
import { POSTAL_REGION } from '../../src/places/index.js'
import type { Targeting } from '../../src/targeting/index.js'

/** A small market for tests: a hundredth of the final one. */
export const SMALL: WorldSize = { seed: 20260302, people: 20_000, sample: 3 }

export const START = 60 * 24

/** A seeded sequence of whole numbers, so that a failing case can be run again. */
export function numbers(seed: number): (below: number) => number {
  let state = seed | 0
  return (below) => {
    state = (Math.imul(state, 1664525) + 1013904223) | 0
    return Math.floor(((state >>> 0) / 4294967296) * below)
  }
}

export function targetingOf(where: string[], devices: string[] = [], sizes: string[] = []): Targeting {
  const include = (dimension: 'where' | 'device' | 'size', values: string[]) =>
    values.length > 0 ? [{ dimension, mode: 'include' as const, values }] : []
  return { restrictions: [...include('where', where), ...include('device', devices), ...include('size', sizes)] }
}

/** Money limits by day and in all, as most tests set them. */
interface Money {
  dailyMicros?: number | null
  totalMicros?: number | null
}
const limitsOf = ({ dailyMicros = null, totalMicros = null }: Money) => ({ ...NO_LIMITS, dailyMicros, totalMicros })

/** Rules of a line that buys all it can; override what a test is about. */
export function lineRules(line: number, over: Partial<LineRules> & Money = {}): LineRules {
  const { dailyMicros, totalMicros, ...rest } = over
  return {
    line,
    revision: line,
    campaign: 1,
    targeting: targetingOf(['PT', 'ES']),
    price: { model: 'CPM', bidMicros: 2_500_000, maxMicros: null },
    zone: 'Europe/Lisbon',
    startHour: START,
    endHour: START + 7 * 24,
    liveFromHour: START,
    limits: limitsOf({ dailyMicros, totalMicros }),
    pacing: 'even',
    caps: [],
    ads: DISPLAY_SIZES.map((_, size) => ({ ad: line * 10 + size, shape: size, weight: 1 })),
    demandMicros: 1,
    ...rest
  }
}

export function campaignRules(over: Partial<CampaignRules> & Money = {}): CampaignRules {
  const { dailyMicros, totalMicros, ...rest } = over
  return { campaign: 1, zone: 'Europe/Lisbon', startHour: 0, endHour: null, limits: limitsOf({ dailyMicros, totalMicros }), ...rest }
}

/** A publication of one line. */
export const one = (line: LineRules, over: Partial<PublicationRules> = {}): PublicationRules => ({
  publication: 1,
  lines: [line],
  campaigns: [campaignRules()],
  owners: [{ line: line.line, campaign: 1, advertiser: 1, zone: line.zone }],
  ...over
})

export function opening(hour = START, balanceMicros = 1e12): OpeningState {
  return { hour, balanceMicros, lines: new Map(), campaigns: new Map(), exposures: new ExposureBook() }
}

const days = new Map<string, ReturnType<typeof makeDay>>()
/** Days made once for all runs of a test file. */
export const sharedDay: typeof makeDay = (world, day) => {
  const name = `${world.seed}.${world.people}.${day}`
  let made = days.get(name)
  if (!made) days.set(name, (made = makeDay(world, day)))
  return made
}

export interface Win {
  hour: number
  minute: number
  person: number
  line: number
  price: number
  placement: number
  source: number
  ad: number
  did: number
  nth: number
  deal: number
  clearing: number
}

/** Wins of hours in order, with absolute minutes. */
export function winsOf(hours: readonly HourFacts[]): Win[] {
  return hours.flatMap((facts) => {
    const log = openLog(facts.log, facts.wins, facts.crc)
    return Array.from({ length: log.count }, (_, i) => ({
      hour: facts.hour,
      minute: facts.hour * 60 + log.minute[i],
      person: log.person[i],
      line: log.line[i],
      price: log.media[i] + log.data[i],
      placement: Math.floor(log.path[i] / SOURCES.length),
      source: log.path[i] % SOURCES.length,
      ad: log.ad[i],
      did: log.did[i],
      nth: log.nth[i],
      deal: log.deal[i],
      clearing: log.price[i]
    }))
  })
}

export function runHours(exchange: Exchange, hours: number): HourFacts[] {
  return Array.from({ length: hours }, () => {
    const facts = exchange.runHour()
    if (facts === null) throw new Error('The run was cancelled.')
    return facts
  })
}

let small: World | undefined
export function smallWorld(): World {
  return (small ??= makeWorld(SMALL))
}

/** Reads of one opportunity of a day, in the words of the market. */
export function reading(world: World, rows: Opportunities) {
  return {
    placement: (i: number) => Math.floor(rows.path[i] / SOURCES.length),
    source: (i: number) => rows.path[i] % SOURCES.length,
    floor: (i: number) => world.inventory.floors[rows.path[i]],
    region: (i: number) => POSTAL_REGION[postalOf(world.persons.words[rows.person[i] * PERSON_WORDS])],
    device: (i: number) => DEVICE_TYPE[rows.device[i]],
    shape: (i: number) => world.inventory.placements[Math.floor(rows.path[i] / SOURCES.length)].shape
  }
}

/** Random rules over countries, devices, sizes, bids, caps, budgets and pacing. */
export function randomLine(line: number, below: (n: number) => number): LineRules {
  const pick = <T>(from: readonly T[], n: number) =>
    Array.from({ length: n }, () => from[below(from.length)]).filter((value, i, all) => all.indexOf(value) === i)
  return lineRules(line, {
    targeting: targetingOf(
      pick(
        COUNTRIES.map((country) => country.code),
        1 + below(5)
      ),
      below(2) ? pick(DEVICE_TYPES, 1) : [],
      below(2) ? pick(DISPLAY_SIZES, 3) : []
    ),
    price: { model: 'CPM', bidMicros: (300 + below(3700)) * 1000, maxMicros: null },
    caps: below(2) ? [{ times: 1 + below(4), hours: [1, 5, 24, 72][below(4)] }] : [],
    dailyMicros: below(3) ? 20_000 + below(400_000) : null,
    totalMicros: below(3) ? null : 100_000 + below(900_000),
    pacing: below(2) ? 'even' : 'fast'
  })
}
