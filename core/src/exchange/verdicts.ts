import { POSTAL_ZONE } from '../places/index.js'
import { DEVICE_TYPE, FIRST_PRICE, PERSON_WORDS, SOURCES, postalOf, type Opportunities, type World } from '../market/index.js'
import { baseUnits, bidAt, impressionBid, multiplied, rowNeed, dealsByPlacement, OPEN_MARKET } from '../pricing/index.js'
import {
  MINUTES_PER_DAY,
  MINUTES_PER_WEEK,
  dayOfHour,
  localDayOf,
  localHourOf,
  offsetMinutes,
  weekdayOf,
  zoneIndex
} from '../time/index.js'
import {
  compileTargeting,
  explain,
  failures,
  laneValues,
  type Catalogue,
  type CompiledTargeting,
  type Restriction,
  type Targeting
} from '../targeting/index.js'
import { PriceProgramme } from '../pricing/index.js'
import { benchmarksOf, catalogueOf } from './market-facts.js'
import { expectations } from './expectations.js'
import { LEAST_EVENTS, learn, learnedRate, priorOf, type LineFacts } from './learning.js'
import { learnedEvent } from './running.js'
import type { LineRules } from './rules.js'

/** What one line would have made of one opportunity, as far as no state is asked. */
export interface Verdict {
  line: number
  /** Whether its flight was open at that hour. */
  isOpen: boolean
  /** Restrictions that the opportunity does not meet, in the trader's order; all others it meets. */
  failing: Restriction[]
  /** Whether a cleared ad fits slot and person. */
  hasAd: boolean
  /** The bid as it is built, a row a step: micros an impression, or an event. */
  steps: { what: string; micros: number }[]
  bidMicros: number
  /** Least bid that would have won. */
  needMicros: number
  verdict: 'not in flight' | 'out of hours' | 'does not match' | 'no ad' | 'outbid' | 'could win'
}

/** An opportunity as it was offered. */
export interface Offered {
  key: number
  person: number
  minute: number
  path: number
  floorMicros: number
  rivalMicros: number
  secondMicros: number
  isFirstPrice: boolean
}

export function offeredAt(world: World, rows: Opportunities, i: number): Offered {
  const path = rows.path[i]
  return {
    key: rows.key[i],
    person: rows.person[i],
    minute: rows.minute[i],
    path,
    floorMicros: world.inventory.floors[path],
    rivalMicros: rows.rival[i],
    secondMicros: rows.second[i],
    isFirstPrice: FIRST_PRICE[path % SOURCES.length] === 1
  }
}

/** What is known of a line that learns. */
export interface Knowledge {
  facts: LineFacts
  /** Correction of its aim, in thousandths. */
  correction: number
}

/**
 * Every line's verdict on one opportunity. Money, pace and caps are of the moment and are told by the hour's counts.
 * @param known of lines that learn, as of now: what they bid here and why
 */
export function verdictsOn(
  world: World,
  lines: readonly LineRules[],
  rows: Opportunities,
  i: number,
  hour: number,
  known: ReadonlyMap<number, Knowledge> = new Map()
): Verdict[] {
  return lines.map((line) => verdictOf(world, line, rows, i, hour, known.get(line.line)))
}

/** The chance that the line's event follows here: the trade's average, and what the line's own results make of it. */
function chanceOf(
  world: World,
  line: LineRules,
  rows: Opportunities,
  i: number,
  hour: number,
  knowledge: Knowledge | undefined
): { prior: number; rate: number; events: number } | null {
  const event = learnedEvent(line)
  if (!event) return null
  const expected = { views: 0, visits: 0, conversions: 0 }
  expectations(benchmarksOf(world), rows.path[i], rows.device[i], world.persons.words, rows.person[i], expected)
  const prior = priorOf(event, expected)
  if (!knowledge) return { prior, rate: prior, events: 0 }
  const zone = zoneIndex(line.zone)
  const learned = learn(knowledge.facts, event, localDayOf(zone, hour))
  return {
    prior,
    rate: Math.min(
      1e6,
      learnedRate(learned, prior, Math.floor(rows.path[i] / SOURCES.length), DEVICE_TYPE[rows.device[i]], localHourOf(zone, hour))
    ),
    events: learned.events
  }
}

function hourMultiplier({ hours, zone }: LineRules, world: World, person: number, hour: number): number {
  if (!hours) return 1000
  const viewer = POSTAL_ZONE[postalOf(world.persons.words[person * PERSON_WORDS])]
  const offset = offsetMinutes(hours.clock === 'viewer' ? viewer : zoneIndex(zone), hour)
  const ofWeek = (weekdayOf(dayOfHour(hour)) * MINUTES_PER_DAY + (hour % 24) * 60 + offset + 2 * MINUTES_PER_WEEK) % MINUTES_PER_WEEK
  return hours.perMille[Math.floor(ofWeek / 60)]
}

const compiled = new WeakMap<Targeting, CompiledTargeting>()
/** Many opportunities are asked of one line when one of them is looked for. */
function compiledOf(targeting: Targeting, catalogue: Catalogue): CompiledTargeting {
  let known = compiled.get(targeting)
  if (!known) compiled.set(targeting, (known = compileTargeting(targeting, catalogue)))
  return known
}

const programmes = new WeakMap<LineRules['price'], PriceProgramme>()
function programmeOf(price: LineRules['price'], catalogue: Catalogue): PriceProgramme {
  let known = programmes.get(price)
  if (!known) programmes.set(price, (known = new PriceProgramme(price, catalogue)))
  return known
}

function verdictOf(world: World, line: LineRules, rows: Opportunities, i: number, hour: number, knowledge: Knowledge | undefined): Verdict {
  const catalogue = catalogueOf(world)
  const values = laneValues(world.persons.words, rows.person[i], rows, i)
  const failing = explain(compiledOf(line.targeting, catalogue), values)
  const placement = Math.floor(rows.path[i] / SOURCES.length)
  const { shape } = world.inventory.placements[placement]
  const buys = line.buys ?? OPEN_MARKET
  const deal = buys.deals[dealsByPlacement(buys, world.inventory.placements.length)[placement]] ?? null
  const inSlot = !line.shapes || line.shapes.includes(shape)
  const fitting = line.ads.filter(
    (ad) =>
      ad.shape === shape &&
      (ad.weight > 0 || line.rotation === 'even' || line.rotation === 'learning') &&
      (!ad.targeting || failures(compiledOf(ad.targeting, catalogue), values) === 0)
  )
  const isOpen = hour >= line.startHour && (line.endHour === null || hour < line.endHour)
  const multiplier = hourMultiplier(line, world, rows.person[i], hour)
  const chance = chanceOf(world, line, rows, i, hour, knowledge)
  // Of the ads that fit the dearest bids; most have the line's bid.
  const bids = [...new Set(fitting.length > 0 ? fitting.map((ad) => ad.bidMicros ?? null) : [null])].map((own) =>
    pricedBy(line, own, values, hour, multiplier, catalogue, chance, knowledge?.correction ?? 1000)
  )
  const { steps, micros } = bids.reduce((dearest, bid) => (bid.micros > dearest.micros ? bid : dearest))
  const need = rowNeed(world.inventory.floors[rows.path[i]], rows.rival[i], buys.open, deal)
  const matches = failing.length === 0 && inSlot && (buys.open || deal !== null)
  const verdict = !isOpen
    ? 'not in flight'
    : multiplier === 0
      ? 'out of hours'
      : !matches
        ? 'does not match'
        : fitting.length === 0
          ? 'no ad'
          : !line.follow && micros < need
            ? 'outbid'
            : 'could win'
  return { line: line.line, isOpen, failing, hasAd: fitting.length > 0, steps, bidMicros: micros, needMicros: need, verdict }
}

/**
 * The bid in the order in which it is built: the ad's own, base or own price, adjustments, hour, maximum; the repeat
 * discount depends on who saw what.
 * @param ownBid of the ad, micros in the line's price model
 */
function pricedBy(
  line: LineRules,
  ownBid: number | null,
  values: ReturnType<typeof laneValues>,
  hour: number,
  multiplier: number,
  catalogue: ReturnType<typeof catalogueOf>,
  chance: ReturnType<typeof chanceOf>,
  correction: number
): { steps: Verdict['steps']; micros: number } {
  const { price } = line
  const day = localDayOf(zoneIndex(line.zone), hour)
  const base = baseUnits(
    price.model,
    ownBid ?? bidAt(price, { day, daysLive: Math.max(0, day - localDayOf(zoneIndex(line.zone), line.startHour)), impressions: 0 })
  )
  const programme = programmeOf(price, catalogue)
  const chain = programme.chain(programme.parts[0] ? programme.chainOf(failures(programme.parts[0], values)) : 0)
  const words = (share: number) => `${Number((share / 1e4).toPrecision(3))} %`
  const steps: Verdict['steps'] = []
  let micros = base
  if (ownBid !== null) steps.push({ what: 'bid of the ad', micros })
  else if (line.aim && line.aim.event !== 'value' && chance) {
    // What an aim is worth here: the chance of its event, times what one may cost.
    steps.push(
      { what: `aim at a ${line.aim.event}`, micros: line.aim.micros },
      { what: `x ${words(chance.prior)}, the trade's average here`, micros: Math.floor((line.aim.micros * chance.prior) / 1e6) }
    )
    micros = Math.floor((chance.rate * line.aim.micros) / 1e6)
    if (chance.events > 0)
      steps.push({ what: `${words(chance.rate)} by its ${chance.events} of ${LEAST_EVENTS} ${line.aim.event}s`, micros })
    micros = Math.floor((micros * correction) / 1000)
    if (correction !== 1000) steps.push({ what: `corrected x ${correction / 1000}`, micros })
  } else
    steps.push({
      what: line.aim ? 'most that its aim may bid' : line.follow ? 'most that following the market may bid' : 'base bid',
      micros
    })
  const step = (what: string, next: number) => {
    micros = next
    steps.push({ what, micros })
  }
  if (chain.own >= 0) step('price of its own', chain.own)
  for (const perMille of chain.multipliers) step(`adjusted x ${perMille / 1000}`, multiplied(micros, perMille))
  if (multiplier !== 1000) step(`hour x ${multiplier / 1000}`, multiplied(micros, multiplier))
  if (micros > programme.max) step('maximum', programme.max)
  if ((price.model === 'CPC' || price.model === 'view') && chance)
    step(
      `x ${words(chance.rate)}, its chance of a ${price.model === 'CPC' ? 'click' : 'view'} here`,
      impressionBid(micros, Math.floor(chance.rate))
    )
  return { steps, micros }
}
