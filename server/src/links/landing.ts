import { landingSteps, type LandingStep, type LineDraft } from '@tin-harbor/core/buying'
import { Offer } from '../advertisers/offer-model.js'
import type { Campaign } from '../campaigns/campaign-model.js'

/** Links that a campaign and its offer say: what its lines and ads have where they say nothing. */
export interface LandingsAround {
  offer: NonNullable<Offer['terms']['landings']>
  campaign: NonNullable<Campaign['landings']>
}

export async function landingsAround({ offerId, landings }: Pick<Campaign, 'offerId' | 'landings'>): Promise<LandingsAround> {
  const offer = offerId === null ? null : await Offer.findByPk(offerId)
  return { offer: offer?.terms.landings ?? [], campaign: landings ?? [] }
}

/** Where links of an ad of a line are said, nearest first. @param ad null for the line as such */
export const stepsOf = (draft: LineDraft, ad: number | null, around: LandingsAround): LandingStep[] => landingSteps(draft, ad, around)
