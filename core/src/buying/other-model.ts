import { CPM_STEP, threeDigits } from '../money/index.js'
import { inEachWay } from '../pricing/index.js'
import { MODEL_WORDS, type PriceModel } from '../taxonomy/index.js'
import { plainAds } from './ad-terms.js'
import type { LineDraft } from './line.js'

/** What is assumed of a line when its price becomes one of another unit, shares of impressions from 0 to 1. */
export interface ModelRates {
  clickRate: number
  viewRate: number
}

/** Figures of a small amount that a trader reads: cents, or three digits. */
const shown = (micros: number) => {
  const euros = micros / 1e6
  return euros >= 0.1 ? euros.toFixed(2) : String(Number(euros.toPrecision(3)))
}

/**
 * A line paid for in another way. Its amounts, those of its ads too, are converted at what is assumed; without that they are emptied:
 * none is kept under a unit that it does not have.
 * @returns the price and what the ads have of their own, and the assumption in words; null where nothing was converted
 */
export function withModel(
  { price, ads: own }: Pick<LineDraft, 'price' | 'ads'>,
  model: PriceModel,
  rates: ModelRates | null
): Required<Pick<LineDraft, 'price' | 'ads'>> & { assumed: string | null } {
  const convert = (micros: number): number | null => {
    const ways = rates && inEachWay(price.model, micros, rates)
    if (!ways) return null
    const { cpmMicros, clickMicros, viewMicros } = ways
    const found = { CPM: cpmMicros, CPC: clickMicros, view: viewMicros, visit: cpmMicros / 1000 }[model]
    if (found === null || found <= 0) return null
    return threeDigits(found, model === 'CPM' ? CPM_STEP : 1)
  }
  const or = (micros: number | null) => (micros === null ? null : convert(micros))
  const { bidMicros, maxMicros, adjustments, steps, aim, follow, ...rest } = price
  const next: LineDraft['price'] = { ...rest, model, bidMicros: or(bidMicros), maxMicros: or(maxMicros), aim }
  if (adjustments)
    next.adjustments = adjustments.flatMap((one) => {
      if (one.ownMicros === null) return [one]
      const ownMicros = convert(one.ownMicros)
      return ownMicros === null ? [] : [{ ...one, ownMicros }]
    })
  if (steps)
    next.steps = steps.flatMap((step) => {
      const stepMicros = convert(step.bidMicros)
      return stepMicros === null ? [] : [{ ...step, bidMicros: stepMicros }]
    })
  // The market is followed on prices by the thousand alone.
  if (follow !== undefined) next.follow = follow && model === 'CPM'
  const ads = plainAds(own?.map((terms) => ({ ...terms, bidMicros: or(terms.bidMicros ?? null) })))
  const told = aim ? ([maxMicros, next.maxMicros] as const) : ([bidMicros, next.bidMicros] as const)
  if (told[0] === null || told[1] === null || !rates) return { price: next, ads, assumed: null }
  return {
    price: next,
    ads,
    assumed: `${shown(told[0])} ${MODEL_WORDS[price.model]} is ${shown(told[1])} ${MODEL_WORDS[model]}${assumedOf([price.model, model], rates)}.`
  }
}

function assumedOf(models: readonly PriceModel[], { clickRate, viewRate }: ModelRates): string {
  const perCent = (rate: number) => `${Number((rate * 100).toPrecision(2))} %`
  const parts = [
    ...(models.includes('CPC') ? [`${perCent(clickRate)} of impressions clicked`] : []),
    ...(models.includes('view') ? [`${perCent(viewRate)} of impressions viewed`] : [])
  ]
  return parts.length > 0 ? ` at ${parts.join(' and ')}, as forecast` : ', since every win is a visit'
}
