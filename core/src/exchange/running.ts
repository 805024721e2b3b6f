import { BRANCHES } from '../taxonomy/index.js'
import type { Inventory } from '../market/index.js'
import { SOURCES } from '../market/index.js'
import { OPEN_MARKET, PriceProgramme, baseUnits, dealsByPlacement, hasMultipliers, type DealChoice } from '../pricing/index.js'
import { compileTargeting, type CompiledTargeting } from '../targeting/index.js'
import { SHAPES } from '../taxonomy/index.js'
import { ZONES, localDayOf, startOfLocalDay, zoneIndex } from '../time/index.js'
import { emptyPurse, type LineAccount, type Purse } from './allocation.js'
import { calendarOfCampaign, type Calendar } from './day-plan.js'
import { calendarOfLine } from './planning.js'
import type { Cap } from './caps.js'
import { noFacts, type LearnedEvent, type Learned, type LineFacts, type Recent } from './learning.js'
import type { SpentSoFar } from './limits.js'
import type { LineCells } from './line-cells.js'
import { Pacer, type Supply } from './pacing.js'
import { copyOf, nothingSoFar, type DaySoFar } from './sharing.js'
import type { Catalogue } from '../dimensions/index.js'
import type { AdRules, CampaignRules, LineRules } from './rules.js'

/** What of a line's past its next hour depends on; all of it is in stored facts and a small row a line. */
export interface OpeningLine {
  spent: SpentSoFar
  supply: Supply
  /** Correction of an aim's bids, in thousandths; 0 before there is one. */
  correction: number
  facts: LineFacts
  /** The last 24 hours, oldest first. */
  recent: Recent[]
  /** Of the campaign's day, as it was left. */
  soFar: DaySoFar | undefined
}

export interface RunningAd {
  rules: AdRules
  targeting: CompiledTargeting | null
  /** Base bid of its own in base units; -1 for the line's. */
  base: number
  caps: readonly Cap[]
  /** Of this hour. */
  weight: number
}

export interface RunningCampaign {
  rules: CampaignRules
  /** Its lines in force. */
  lines: readonly LineRules[]
  calendar: Calendar
  localDay: number
  purse: Purse
}

/** A line in force, with what its hour needs. */
export interface RunningLine {
  rules: LineRules
  /** Its place in the matcher's order. */
  place: number
  account: LineAccount
  calendar: Calendar
  campaign: RunningCampaign | null
  localDay: number
  dayStart: number
  /** Local day that the account's plan is of; NaN before there is one. */
  plannedDay: number
  programme: PriceProgramme
  adjusting: CompiledTargeting | null
  event: 'none' | 'click' | 'view'
  buys: DealChoice
  /** Deal of each placement; null where it uses none. */
  deals: Int16Array | null
  ads: RunningAd[]
  byShape: RunningAd[][]
  /** All ads of a shape are alike but for their weights. */
  isSimple: boolean
  weightByShape: Uint32Array
  dataMicros: number
  discount: number
  facts: LineFacts
  recent: Recent[]
  soFar: DaySoFar
  correction: number
  /** Of this hour: base bid in base units, one bid for all rows where there is one, multipliers by the viewer's zone and half hour. */
  base: number
  bid: number
  isPlain: boolean
  zoneHours: Int32Array | null
  /** Of what it aims at, or else pays for; and of what it pays for. */
  learned: Learned | null
  paid: Learned | null
  followed: Int32Array | null
  localHour: number
}

/** What the line's results are learned for: what it pays for, or aims at. */
export function learnedEvent({ aim, price }: Pick<LineRules, 'aim' | 'price'>): LearnedEvent | null {
  return aim ? aim.event : paidEvent(price)
}

/** The event that a price is of; null for impressions. */
export function paidEvent({ model }: Pick<LineRules['price'], 'model'>): 'click' | 'view' | null {
  return model === 'CPC' ? 'click' : model === 'view' ? 'view' : null
}

export function runningCampaign(
  rules: CampaignRules,
  lines: readonly LineRules[],
  hour: number,
  spent: SpentSoFar | undefined
): RunningCampaign {
  const purse = emptyPurse(rules.limits)
  if (spent) takeSpent(purse, spent)
  const calendar = calendarOfCampaign(rules)
  return {
    rules,
    calendar,
    purse,
    lines: lines.filter((line) => line.campaign === rules.campaign),
    localDay: localDayOf(calendar.zone, hour)
  }
}

function takeSpent(purse: Purse, spent: SpentSoFar): void {
  for (const period of ['day', 'week', 'month', 'total'] as const) Object.assign(purse.spent[period], spent[period])
}

/** What a line begins its first hour with. */
export interface LineStart {
  rules: LineRules
  campaign: RunningCampaign | null
  /** The market hour. */
  hour: number
  opening?: Partial<OpeningLine>
  onPlacement?: Map<number, number>
  catalogue: Catalogue
  /** Table that its counts and pace are kept in, and its place there. */
  cells: LineCells
  place: number
}

export function runningLine({ rules, campaign, hour, opening, onPlacement, catalogue, cells, place }: LineStart): RunningLine {
  const zone = zoneIndex(rules.zone)
  const purse = emptyPurse(rules.limits)
  if (opening?.spent) takeSpent(purse, opening.spent)
  const programme = new PriceProgramme(rules.price, catalogue)
  const ads = rules.ads
    .filter((ad) => !ad.off && (ad.weight > 0 || (rules.rotation ?? 'weight') !== 'weight'))
    .map((ad): RunningAd => ({
      rules: ad,
      targeting: ad.targeting && ad.targeting.restrictions.length > 0 ? compileTargeting(ad.targeting, catalogue) : null,
      caps: ad.caps ?? [],
      weight: ad.weight,
      base: ad.bidMicros == null ? -1 : baseUnits(rules.price.model, ad.bidMicros)
    }))
  const hasOwnCaps = ads.some((ad) => ad.caps.length > 0)
  const buys = rules.buys ?? OPEN_MARKET
  const account: LineAccount = {
    line: rules.line,
    purse,
    campaign: campaign?.purse ?? null,
    pacing: rules.pacing,
    plan: { limitMicros: 0, openFrom: 0, openTo: 1440 },
    pacer: new Pacer(opening?.supply, cells, place),
    caps: rules.caps,
    campaignCaps: campaign?.rules.caps ?? [],
    campaignNumber: rules.campaign,
    gapMinutes: rules.gapMinutes ?? 0,
    hasOwnCaps,
    onPlacement: onPlacement ?? new Map()
  }
  const localDay = localDayOf(zone, hour)
  return {
    rules,
    place,
    account,
    campaign,
    programme,
    ads,
    buys,
    localDay,
    dayStart: startOfLocalDay(zone, localDay),
    plannedDay: NaN,
    adjusting: programme.parts[0] ?? null,
    calendar: calendarOfLine(rules),
    event: paidEvent(rules.price) ?? 'none',
    deals: buys.deals.length > 0 ? dealsByPlacement(buys, catalogue.inventory.placements.length) : null,
    byShape: SHAPES.map((_, shape) => ads.filter((ad) => ad.rules.shape === shape)),
    weightByShape: new Uint32Array(SHAPES.length),
    isSimple: ads.every((ad) => ad.targeting === null && ad.base < 0 && ad.caps.length === 0),
    dataMicros: rules.dataMicros ?? 0,
    discount: rules.price.repeatDiscount ?? 0,
    facts: opening?.facts ?? noFacts(),
    recent: [...(opening?.recent ?? [])],
    // Of another day of the campaign it says nothing.
    soFar: opening?.soFar && opening.soFar.day === campaign?.localDay ? copyOf(opening.soFar) : nothingSoFar(campaign?.localDay ?? 0),
    correction: rules.aim ? opening?.correction || (rules.firstCorrection ?? 1000) : 0,
    base: 0,
    bid: 0,
    isPlain: true,
    zoneHours: hasMultipliers(rules.hours) ? new Int32Array(2 * ZONES.length) : null,
    learned: null,
    paid: null,
    followed: null,
    localHour: 0
  }
}

const pathsOfShapes = new WeakMap<Inventory, Map<string, Uint8Array>>()

/** Paths that a line could buy by at all: slots of its shapes, on the open market or by one of its deals; null for all. */
export function buyablePaths(rules: LineRules, inventory: Inventory): Uint8Array | null {
  const { shapes, buys } = rules
  if (!shapes && (!buys || buys.open)) return null
  if (buys && buys.deals.length > 0) return pathsOf(rules, inventory)
  // Most lines buy one of a few sets of shapes on the open market.
  const known = pathsOfShapes.get(inventory) ?? new Map<string, Uint8Array>()
  pathsOfShapes.set(inventory, known)
  const name = `${buys ? buys.open : true} ${shapes?.join(' ') ?? 'all'}`
  const paths = known.get(name) ?? pathsOf(rules, inventory)
  known.set(name, paths)
  return paths
}

function pathsOf({ shapes, buys }: LineRules, inventory: Inventory): Uint8Array {
  const deals = buys ? dealsByPlacement(buys, inventory.placements.length) : null
  return Uint8Array.from(inventory.floors, (_, path) => {
    const placement = Math.floor(path / SOURCES.length)
    return (!shapes || shapes.includes(inventory.placements[placement].shape)) &&
      (!buys || buys.open || (deals !== null && deals[placement] >= 0))
      ? 1
      : 0
  })
}

/** Branch of each placement's property, as its place in `BRANCHES`. */
export const branchOf = (groupOf: ArrayLike<number>, placement: number) => groupOf[placement] % BRANCHES.length
