import { FIRST_PRICE, SOURCES, type Opportunities, type World } from '../market/index.js'
import { explain, type Restriction } from '../targeting/index.js'
import { Bidding, PLAIN_TERMS, type BidTerms, type BiddingStep } from './bidding.js'
import { LEAST_EVENTS, type LineFacts } from './learning.js'
import { LineCells } from './line-cells.js'
import { benchmarksOf, catalogueOf } from './market-facts.js'
import { setAds, setBids } from './preparing.js'
import { soldBy } from './conversions.js'
import { AIM_PLURALS, type LineRules, type TrackerRules } from './rules.js'
import { buyablePaths, runningLine, type RunningAd, type RunningLine } from './running.js'
import { laneValues, type Catalogue } from '../dimensions/index.js'
import { compileTargeting, type CompiledTargeting, type Targeting } from '../targeting/index.js'

/** What keeps a line from an opportunity, the first that does; or that it could win. */
export const VERDICTS = ['not in flight', 'out of hours', 'does not match', 'no ad', 'outbid', 'could win'] as const

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
  verdict: (typeof VERDICTS)[number]
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
  /** What counts as a conversion of its advertiser. */
  trackers: readonly TrackerRules[]
}

/** An opportunity of a market day, by its row. */
export interface OpportunityAt {
  rows: Opportunities
  i: number
  /** The market hour. */
  hour: number
}

/**
 * Every line's verdict on one opportunity. Money, pace and caps are of the moment and are told by the hour's counts.
 * @param known of lines that learn, as of that hour: what they bid here and why
 */
export function verdictsOn(
  world: World,
  lines: readonly LineRules[],
  where: OpportunityAt,
  known: ReadonlyMap<number, Knowledge> = new Map()
): Verdict[] {
  const bidding = new Bidding(world, benchmarksOf(world))
  bidding.look(where.rows, where.i)
  return lines.map((line) => verdictOf(world, line, bidding, where, known.get(line.line)))
}

const compiled = new WeakMap<Targeting, CompiledTargeting>()
/** Many opportunities are asked of one line when one of them is looked for. */
function compiledOf(targeting: Targeting, catalogue: Catalogue): CompiledTargeting {
  let known = compiled.get(targeting)
  if (!known) compiled.set(targeting, (known = compileTargeting(targeting, catalogue)))
  return known
}

/** A line in an hour, and the paths that it could buy by at all; null for all. */
interface Asked {
  hour: number
  knowledge: Knowledge | undefined
  line: RunningLine
  paths: Uint8Array | null
}
const asked = new WeakMap<LineRules, Asked>()
/** A line as the exchange has it in an hour, but for what it has spent: what it bids is then worked out by the same steps. */
function askedAt(world: World, rules: LineRules, hour: number, knowledge: Knowledge | undefined): Asked {
  const known = asked.get(rules)
  if (known && known.hour === hour && known.knowledge === knowledge) return known
  const opening = knowledge && { facts: knowledge.facts, correction: knowledge.correction }
  const line = runningLine({ rules, campaign: null, hour, opening, catalogue: catalogueOf(world), cells: new LineCells(1), place: 0 })
  setBids(line, hour, world.inventory, soldBy(rules, knowledge?.trackers ?? []))
  setAds(line, world.seed)
  // What follows the market depends on what has been spent; its most is told instead.
  line.followed = null
  const made = { hour, knowledge, line, paths: buyablePaths(rules, world.inventory) }
  asked.set(rules, made)
  return made
}

function verdictOf(world: World, rules: LineRules, bidding: Bidding, where: OpportunityAt, knowledge: Knowledge | undefined): Verdict {
  const { rows, i, hour } = where
  const { line, paths } = askedAt(world, rules, hour, knowledge)
  const failing = explain(compiledOf(rules.targeting, catalogueOf(world)), laneValues(world.persons.words, rows.person[i], rows, i))
  const isOpen = hour >= rules.startHour && (rules.endHour === null || hour < rules.endHour)
  const terms = bidding.termsOf(line)
  const found = terms && bidding.dearest(line, terms)
  const { steps, micros } = pricedBy(line, found?.ad ?? LINE_ITSELF, bidding, terms ?? PLAIN_TERMS)
  const need = bidding.need(line)
  const matches = failing.length === 0 && (!paths || paths[bidding.path] === 1)
  const verdict = !isOpen
    ? 'not in flight'
    : !terms
      ? 'out of hours'
      : !matches
        ? 'does not match'
        : !found
          ? 'no ad'
          : !rules.follow && micros < need
            ? 'outbid'
            : 'could win'
  return { line: rules.line, isOpen, failing, hasAd: found !== null, steps, bidMicros: micros, needMicros: need, verdict }
}

/** Of a line without an ad that fits its own bid is told. */
const LINE_ITSELF: RunningAd = {
  rules: { ad: 0, shape: 0, weight: 0 },
  targeting: null,
  base: -1,
  caps: [],
  weight: 0
}

/** The bid of an ad in the order in which it is built; the repeat discount depends on who saw what. */
function pricedBy(line: RunningLine, ad: RunningAd, bidding: Bidding, terms: BidTerms): { steps: Verdict['steps']; micros: number } {
  const steps: Verdict['steps'] = []
  const micros = bidding.bidOf(line, ad, terms, 0, (step, amount) => steps.push({ what: stepWords(step, line), micros: amount }))
  return { steps, micros }
}

const shareWords = (perMillion: number) => `${Number((perMillion / 1e4).toPrecision(3))} %`

function stepWords(step: BiddingStep, { rules, learned, programme }: RunningLine): string {
  switch (step.kind) {
    case 'ad':
      return 'bid of the ad'
    case 'base':
    case 'followed':
      return rules.follow ? 'most that following the market may bid' : 'base bid'
    case 'aim':
      return step.event === 'value' ? 'aim at value, by what a conversion is worth' : `aim at a ${step.event}`
    case 'average':
      return `x ${shareWords(step.perMillion)}, the trade's average here`
    case 'learned':
      return `${shareWords(step.perMillion)} by its ${step.events} of ${LEAST_EVENTS} ${learned ? AIM_PLURALS[learned.event] : 'events'}`
    case 'each':
      return `for each ${rules.price.model === 'CPC' ? 'click' : 'view'}, of which ${shareWords(step.perMillion)} are expected`
    case 'corrected':
      return `corrected x ${step.perMille / 1000}`
    case 'own':
      return 'price of its own'
    case 'multiplier':
      return `adjusted x ${(programme.price.adjustments?.[step.adjustment].perMille ?? 1000) / 1000}`
    case 'hour':
      return `hour x ${step.perMille / 1000}`
    case 'repeat':
      return `seen before, ${step.nth}`
    case 'maximum':
      return 'maximum'
    case 'chance':
      return `x ${shareWords(step.perMillion)}, its chance of a ${rules.price.model === 'CPC' ? 'click' : 'view'} here`
  }
}
