import { idField, yup } from '../input/index.js'
import type { AdRules, Cap } from '../exchange/index.js'
import type { Dimension } from '../dimensions/index.js'
import { targetingSchema, type Targeting } from '../targeting/index.js'
import { capsField } from './budget.js'
import { LIMITS, moneyField } from './fields.js'
import { landingField, landingsField, type Landing } from './landings.js'

/** What an ad's own targeting can narrow by, beside its line's. */
export const AD_DIMENSIONS = ['where', 'language', 'device', 'system', 'browser'] as const satisfies readonly Dimension[]
export const MOST_AD_WEIGHT = 1000
/** Ads on one line; its draft may still say something of others that were replaced since it went live. */
export const MOST_ADS = 500
/** Ways in which the ads of one line are narrowed: each takes a bit. */
const MOST_WAYS = 31

/** What one ad of a line has of its own; what is left out is as its line has it. */
export interface AdTerms {
  /** Number of the ad. */
  ad: number
  /** Of the draws among the ads that fit a slot; left out for 1. */
  weight?: number
  /** It is not shown, and what it learnt is kept. */
  off?: boolean
  /** In place of the line's bid, in the unit of its price. */
  bidMicros?: number | null
  /** An ad with caps of its own neither counts in nor obeys the line's. */
  caps?: Cap[]
  /** Beside the line's own, so never wider than it. */
  targeting?: Targeting | null
  /** In place of the line's landing link; and of its links for some countries and devices. */
  landing?: string
  landings?: Landing[]
}

const WEIGHT = `A weight is a whole number from 1 to ${MOST_AD_WEIGHT.toLocaleString('en')}.`

const adTermsSchema: yup.ObjectSchema<AdTerms> = yup
  .object({
    ad: idField('Which ad?'),
    weight: yup.number().integer(WEIGHT).min(1, WEIGHT).max(MOST_AD_WEIGHT, WEIGHT).optional(),
    off: yup.boolean().optional(),
    bidMicros: moneyField("The ad's bid", LIMITS.mostCpmMicros).optional(),
    caps: capsField.optional(),
    targeting: targetingSchema
      .nullable()
      .optional()
      .default(undefined)
      .test('narrow', '', function (targeting) {
        const other = targeting?.restrictions.find(({ dimension }) => !AD_DIMENSIONS.some((known) => known === dimension))
        return (
          !other ||
          this.createError({ message: `An ad is narrowed by ${AD_DIMENSIONS.join(', ')}; by ${other.dimension} the whole line is.` })
        )
      }),
    landing: landingField().optional(),
    landings: landingsField().optional()
  })
  .noUnknown()

export const adsField = yup
  .array()
  .of(adTermsSchema.required())
  .max(4 * MOST_ADS, `At most ${MOST_ADS} ads are on a line; terms of more than four times as many are none of its own.`)
  .optional()
  .test('once', '', function (all) {
    const seen = new Set<number>()
    for (const { ad } of all ?? []) {
      if (seen.has(ad)) return this.createError({ message: `Ad ${ad} is named twice.` })
      seen.add(ad)
    }
    const ways = new Set(
      (all ?? []).flatMap(({ targeting }) => (targeting && targeting.restrictions.length > 0 ? JSON.stringify(targeting) : []))
    )
    return ways.size <= MOST_WAYS || this.createError({ message: `The ads of a line are narrowed in at most ${MOST_WAYS} ways.` })
  })

const NONE: Omit<AdTerms, 'ad'> = {}
/** What an ad has of its own. */
export const termsOfAd = (draft: { ads?: readonly AdTerms[] }, ad: number): Omit<AdTerms, 'ad'> =>
  draft.ads?.find((one) => one.ad === ad) ?? NONE

/** Terms without what says no more than its absence; null where nothing is left. */
export function plainTerms({ ad, weight, off, bidMicros, caps, targeting, landing, landings }: AdTerms): AdTerms | null {
  const own = {
    ...(weight !== undefined && weight !== 1 ? { weight } : {}),
    ...(off ? { off } : {}),
    ...(bidMicros == null ? {} : { bidMicros }),
    ...(caps && caps.length > 0 ? { caps: caps.map(({ times, hours }) => ({ times, hours })) } : {}),
    ...(targeting && targeting.restrictions.length > 0 ? { targeting } : {}),
    ...(landing ? { landing } : {}),
    ...(landings && landings.length > 0 ? { landings: landings.map(({ countries, devices, link }) => ({ countries, devices, link })) } : {})
  }
  return Object.keys(own).length === 0 ? null : { ad, ...own }
}

/** The terms of a draft's ads that say something, by the ads' numbers. */
export const plainAds = (all: readonly AdTerms[] | undefined): AdTerms[] =>
  (all ?? []).flatMap((one) => plainTerms(one) ?? []).sort((a, b) => a.ad - b.ad)

/** The same line without what it says of ads that are not on it. */
export const withAdsOn = <Draft extends { ads?: AdTerms[] }>(draft: Draft, on: ReadonlySet<number>): Draft => ({
  ...draft,
  ads: plainAds(draft.ads).filter(({ ad }) => on.has(ad))
})

/** The same line with its ads numbered by their order: those of a copy are ads of their own. */
export const withAdsInOrder = <Draft extends { ads?: AdTerms[] }>(draft: Draft): Draft => ({
  ...draft,
  ads: plainAds(draft.ads).map((terms, n) => ({ ...terms, ad: n + 1 }))
})

/** A draft's terms with some of one ad's changed. */
export function withTerms(all: readonly AdTerms[] | undefined, ad: number, change: Partial<Omit<AdTerms, 'ad'>>): AdTerms[] {
  const others = (all ?? []).filter((one) => one.ad !== ad)
  return plainAds([...others, { ...termsOfAd({ ads: all }, ad), ...change, ad }])
}

/** Fields of rules that terms say. */
type SaidByTerms = 'weight' | 'off' | 'bidMicros' | 'caps' | 'targeting'

/** An ad's rules by what its line's draft says of it. */
export function adRules(draft: { ads?: readonly AdTerms[] }, ad: Omit<AdRules, SaidByTerms>): AdRules {
  const { weight = 1, off, bidMicros, caps, targeting } = termsOfAd(draft, ad.ad)
  return {
    ad: ad.ad,
    shape: ad.shape,
    ...(ad.viewPoint === undefined ? {} : { viewPoint: ad.viewPoint }),
    weight,
    ...(off ? { off } : {}),
    ...(bidMicros == null ? {} : { bidMicros }),
    ...(caps && caps.length > 0 ? { caps } : {}),
    ...(targeting && targeting.restrictions.length > 0 ? { targeting } : {})
  }
}
