import type { AdRules, Cap } from '../exchange/index.js'
import { baseUnits } from '../pricing/index.js'
import { STREAM, draw } from '../random/index.js'
import { SHAPES, type PriceModel } from '../taxonomy/index.js'
import { compileTargeting } from '../targeting/index.js'
import { cellFailures, fixedFailures, fullLanes, personFailures, type FullLanes } from './lanes.js'
import { CELLULAR, PERSON_WORDS, type Opportunities } from '../market/index.js'
import type { ForecastMarket, ForecastQuestion } from './question.js'

/** Ads of a line that are alike in all that a forecast reads: drawn as one. */
export interface AdClass {
  weight: number
  /** Base bid of its own in base units; -1 for the line's. */
  base: number
  /** Its own caps by place in `AdChoice.caps`; -1 for the line's. Ads with caps of their own are each a class. */
  capped: number
}

/** Ads that fit a slot and a viewer, and the sum of their weights. */
export interface AdSet {
  classes: readonly AdClass[]
  weight: number
}
const NO_AD: AdSet = { classes: [], weight: 0 }

/** Place of the set of a row that no ad fits. */
export const NO_SET = 0

const isNarrowed = ({ targeting }: AdRules) => (targeting?.restrictions.length ?? 0) > 0
/** Whether an ad has anything of its own that changes who is shown something, and for what. */
export const hasOwnRules = (ad: AdRules) => isNarrowed(ad) || ad.bidMicros != null || (ad.caps?.length ?? 0) > 0

/** The ads of a question that are not all alike, compiled: which of them fit a row, and which of those is drawn. */
export class AdChoice {
  /** Which ads fit, by the number that rows carry. */
  readonly sets: AdSet[] = [NO_AD]
  /** Caps of ads that have their own. */
  readonly caps: readonly (readonly Cap[])[]
  /** Whether any ad bids by itself. */
  readonly bids: boolean
  /** Ways in which ads are narrowed; an ad's place in `parts` is its way's. */
  private readonly parts: { targeting: FullLanes; sincePop: number }[]
  private readonly ads: readonly { ad: AdRules; shape: number; part: number; one: AdClass }[]
  private readonly known = new Map<number, number>()
  private readonly line: number

  constructor(question: Pick<ForecastQuestion, 'price' | 'among'>, ads: readonly AdRules[], market: ForecastMarket) {
    const ways = [...new Set(ads.filter(isNarrowed).map(({ targeting }) => JSON.stringify(targeting)))]
    if (ways.length > 31) throw new RangeError(`The ads are narrowed in ${ways.length} ways; at most 31 fit.`)
    const every = SHAPES.map((_, shape) => shape)
    this.parts = ways.map((way) => {
      const compiled = compileTargeting(JSON.parse(way) as NonNullable<AdRules['targeting']>, market)
      return { targeting: fullLanes(compiled, market.inventory, every, { open: true, deals: [] }), sincePop: compiled.sincePop }
    })
    this.line = question.among ?? 0
    // An ad of several shapes is one ad: its caps are one.
    const own = [...new Set(ads.filter(({ caps }) => caps && caps.length > 0).map(({ ad }) => ad))]
    this.caps = own.map((number) => ads.find(({ ad }) => ad === number)?.caps ?? [])
    this.bids = ads.some(({ bidMicros }) => bidMicros != null)
    this.ads = ads.map((ad) => ({
      ad,
      shape: ad.shape,
      part: isNarrowed(ad) ? ways.indexOf(JSON.stringify(ad.targeting)) : -1,
      one: { weight: ad.weight, base: baseOfAd(ad, question.price.model), capped: own.indexOf(ad.ad) }
    }))
  }

  /** Ways that a person cannot be shown; bits by place in `parts`. @param network the failures of the two networks, cellular first */
  ofPerson(words: Int32Array, person: number, network: Int32Array): number {
    let failed = 0
    const word2 = words[person * PERSON_WORDS + 2]
    network[0] = network[1] = 0
    this.parts.forEach(({ targeting }, n) => {
      if (personFailures(targeting, words, person) !== 0) failed |= 1 << n
      if (cellFailures(targeting, word2) !== 0) network[0] |= 1 << n
      if (fixedFailures(targeting, word2) !== 0) network[1] |= 1 << n
    })
    return failed
  }

  /** The set of a row's ads. @param person ways that its person fails, with `network` as `ofPerson` filled it */
  setOf(rows: Opportunities, i: number, shape: number, person: number, network: Int32Array): number {
    const state = rows.state[i]
    let failed = person | (((state >> 3) & 3) === CELLULAR ? network[0] : network[1])
    for (let n = 0; n < this.parts.length; n++) {
      const { targeting, sincePop } = this.parts[n]
      if (
        (targeting.path[rows.path[i]] | targeting.device[rows.device[i]] | targeting.page[rows.page[i]] | targeting.state[state]) !== 0 ||
        rows.sincePop[i] < sincePop
      )
        failed |= 1 << n
    }
    const key = (failed >>> 0) * SHAPES.length + shape
    const known = this.known.get(key)
    if (known !== undefined) return known
    const made = this.made(failed, shape)
    const number = made.weight === 0 ? NO_SET : this.sets.push(made) - 1
    this.known.set(key, number)
    return number
  }

  private made(failed: number, shape: number): AdSet {
    const classes = new Map<string, AdClass>()
    for (const { shape: own, part, one } of this.ads) {
      if (own !== shape || (part >= 0 && ((failed >> part) & 1) !== 0)) continue
      const key = `${one.base} ${one.capped}`
      const known = classes.get(key)
      if (known) known.weight += one.weight
      else classes.set(key, { ...one })
    }
    const all = [...classes.values()]
    return { classes: all, weight: all.reduce((sum, { weight }) => sum + weight, 0) }
  }

  /** Place in its set of the ad that is drawn for a row, as the exchange draws it. */
  drawn(set: number, key: number): number {
    return this.drawnAmong(set, key, () => true)
  }

  /** The same among those that are free for the person. @returns -1 where none is */
  drawnAmong(set: number, key: number, isFree: (one: AdClass) => boolean): number {
    const { classes } = this.sets[set]
    let weight = 0
    for (const one of classes) if (isFree(one)) weight += one.weight
    if (weight === 0) return -1
    let left = draw(key ^ this.line, STREAM.ad) % weight
    for (let n = 0; n < classes.length; n++) {
      if (!isFree(classes[n])) continue
      if (left < classes[n].weight) return n
      left -= classes[n].weight
    }
    return -1
  }
}

const baseOfAd = ({ bidMicros }: AdRules, model: PriceModel) => (bidMicros == null ? -1 : baseUnits(model, bidMicros))

/** The ads of a question where they are not all alike; null where they are. */
export function adChoice(question: ForecastQuestion, market: ForecastMarket): AdChoice | null {
  const { ads } = question
  return ads?.some(hasOwnRules) ? new AdChoice(question, ads, market) : null
}
