import { FORMATS, SHAPE_FORMAT, type EventKind, type OfferKind, FORMAT_TABLE } from '../taxonomy/index.js'
import type { Profiles } from '../market/index.js'
import { COUNTRIES } from '../places/index.js'
import { STREAM, draw, exactExp, finish, fold, hash, logNormalOf, normalOf, step } from '../random/index.js'
import {
  DEVICE_CONVERSIONS,
  FAR_FROM_SHOP,
  HOUR_CONVERSIONS,
  KIND_CONVERSIONS,
  NEAR_SHOP,
  ON_SUBJECT,
  OWN_DAILY,
  PRIMED,
  REQUESTS,
  TIER_CONVERSIONS,
  crowdOf
} from './conversion-rates.js'
import { DID, type Responses, type Shown } from './events.js'

/** What a tracker counts, as far as what people do depends on it. */
export interface Counted {
  tracker: number
  advertiser: number
  kind: EventKind
  /** What it is, or for a request what that is on the way to. */
  offer: OfferKind
  /** Subject of what is sold, its place in `BRANCHES`; null where it has none. */
  subject: number | null
  /** What it is said to be worth, micros. */
  valueMicros: number | null
}

/** Somebody who may do it: everything that it depends on without an ad. */
export type Somebody = Pick<Shown, 'person' | 'profile' | 'country'>

const UNIT = 4294967296
const MINUTES_PER_DAY = 1440
/** People are drawn once for so many days: whether they do it by themselves, and when. */
const BLOCK_DAYS = 30
export const BLOCK_MINUTES = BLOCK_DAYS * MINUTES_PER_DAY
/** Minutes until half of all conversions have come, and the longest any takes. */
const MEDIAN_DELAY = 90
const LONGEST_DELAY = 30 * MINUTES_PER_DAY - 1
/** Nobody comes by themselves more often than this, on a day. */
const MOST_OWN = 0.005
const DISPLAY = FORMATS.indexOf('display')
const formatOf = ({ placement }: Pick<Shown, 'placement'>) => FORMATS[SHAPE_FORMAT[placement.shape]]

/** Draws what people do after an impression, and by themselves. Hidden factors of advertisers and trackers are drawn once and kept. */
export class ConversionModel {
  private readonly factors = new Map<number, number>()
  private readonly crowds = new Map<number | null, Float64Array>()

  /** @param shops which postal areas are near a shop, by advertiser */
  constructor(
    private readonly seed: number,
    private readonly profiles: Profiles,
    private readonly responses: Responses,
    private readonly shops: ReadonlyMap<number, Uint8Array> = new Map()
  ) {}

  /** How well an advertiser's event goes against others of its kind: of what it offers, of the tracker, and how often it is asked for. */
  private factor({ tracker, advertiser, kind }: Counted): number {
    let known = this.factors.get(tracker)
    if (known === undefined) {
      known = logNormalOf(0.12, hash(this.seed, STREAM.offer, advertiser)) * logNormalOf(0.06, hash(this.seed, STREAM.tracker, tracker))
      if (kind === 'request') known *= REQUESTS * exactExp(0.1 * normalOf(hash(this.seed, STREAM.asks, tracker)))
      this.factors.set(tracker, known)
    }
    return known
  }

  private crowd(subject: number | null, profile: number): number {
    let known = this.crowds.get(subject)
    if (!known) this.crowds.set(subject, (known = crowdOf(this.profiles, subject)))
    return known[profile]
  }

  private shopFactor({ advertiser, offer }: Counted, shown: Shown): number {
    const near = offer === 'booking' ? this.shops.get(advertiser) : undefined
    if (!near) return 1
    if (near[shown.postal] === 0) return FAR_FROM_SHOP
    return SHAPE_FORMAT[shown.placement.shape] === DISPLAY ? NEAR_SHOP.display : NEAR_SHOP.other
  }

  /** Chance that a visitor who stays does it. @param did bits of what they did before: whether a film had prepared them */
  rateOfStay(shown: Shown, did: number, counted: Counted): number {
    const { offer, subject } = counted
    return (
      KIND_CONVERSIONS[offer] *
      FORMAT_TABLE[formatOf(shown)].converts[offer] *
      DEVICE_CONVERSIONS[shown.device] *
      TIER_CONVERSIONS[COUNTRIES[shown.country].tier] *
      HOUR_CONVERSIONS[offer][shown.hour] *
      shown.placement.sells *
      (subject === shown.branch ? ON_SUBJECT : 1) *
      this.crowd(subject, shown.profile) *
      this.shopFactor(counted, shown) *
      this.responses.factors(shown.ad).pull *
      ((did & DID.primed) !== 0 ? PRIMED : 1) *
      this.factor(counted)
    )
  }

  /** Chance of a day that somebody does it without any ad. */
  ownRate({ profile, country }: Somebody, counted: Counted): number {
    const { offer, subject } = counted
    const rate = OWN_DAILY[offer] * TIER_CONVERSIONS[COUNTRIES[country].tier] * this.crowd(subject, profile) * this.factor(counted)
    return Math.min(MOST_OWN, rate)
  }

  /** Chance that an impression which could be seen or heard brings it, beyond what a stay does. */
  lifted(shown: Shown, counted: Counted): number {
    const { lifts, liftsOnTelevision = lifts } = FORMAT_TABLE[formatOf(shown)]
    return (shown.television ? liftsOnTelevision : lifts) * this.ownRate(shown, counted)
  }

  /**
   * Whether, when and for how much an event follows an impression.
   * @returns minutes after it, up to 30 days, and the value in micros; null for none
   */
  after(shown: Shown, did: number, counted: Counted): { after: number; valueMicros: number } | null {
    const viewable = (did & DID.viewable) !== 0
    const stayed = (did & DID.stayed) !== 0
    if (shown.bot || (!stayed && !viewable)) return null
    const state = shown.key ^ shown.line ^ Math.imul(counted.tracker, 0x9e3779b1)
    const u = draw(state, STREAM.convert) / UNIT
    // Most draws are far above any lift: nothing is worked out for them.
    if (!stayed && u >= MOST_OWN) return null
    const byStay = stayed ? this.rateOfStay(shown, did, counted) : 0
    if (u >= byStay && (!viewable || u >= byStay + this.lifted(shown, counted))) return null
    const delay = draw(state, STREAM.delay)
    const after = u < byStay ? Math.floor(logNormalOf(1.5, delay) * MEDIAN_DELAY) : Math.floor((delay / UNIT) * MINUTES_PER_DAY)
    return { after: Math.min(LONGEST_DELAY, after), valueMicros: this.value(counted, draw(state, STREAM.worth)) }
  }

  /**
   * Whether, when and for how much somebody does it by themselves in a block of 30 days.
   * @returns market minute and the value in micros; null for not
   */
  byThemselves(one: Somebody, block: number, counted: Counted): { minute: number; valueMicros: number } | null {
    const state = fold(this.seed, STREAM.own, counted.tracker, one.person, block)
    const u = finish(state) / UNIT / BLOCK_DAYS
    if (u >= MOST_OWN || u >= this.ownRate(one, counted)) return null
    const minute = block * BLOCK_MINUTES + Math.floor((finish(step(state, 1)) / UNIT) * BLOCK_MINUTES)
    return { minute, valueMicros: this.value(counted, finish(step(state, 2))) }
  }

  private value({ valueMicros }: Counted, uniform: number): number {
    return valueMicros === null ? 0 : Math.floor(valueMicros * logNormalOf(0.3, uniform))
  }
}
