import { linksOf, type LandingStep } from '@tin-harbor/core/buying'
import type { Reviewed } from '@tin-harbor/core/review'
import type { Ad } from '../creatives/creative-model.js'
import type { AdReview } from './review-model.js'

/** An ad as it is shown to whoever reviews it, and the links with which it would be cleared. */
export interface ReadyAd {
  ad: number
  reviewed: Reviewed
  landings: LandingStep[]
}

/** The same links, whatever their order: what is added to all of them is no part of it. */
export const sameLinks = (a: readonly LandingStep[], b: readonly LandingStep[]): boolean =>
  JSON.stringify([...linksOf(a)].sort()) === JSON.stringify([...linksOf(b)].sort())

/** Whether an ad has to be looked at before it serves with its links as they are. */
export const isUnseen = ({ clearedLandings }: Pick<Ad, 'clearedLandings'>, { landings }: { landings: readonly LandingStep[] }): boolean =>
  clearedLandings === null || !sameLinks(clearedLandings, landings)

/** Whether somebody refused an ad as it is: it is not sent again so. */
export const isRefusedAs = (
  { state, landings, reviewed }: Pick<AdReview, 'state' | 'landings' | 'reviewed'>,
  one: Pick<ReadyAd, 'landings' | 'reviewed'>
): boolean => state === 'refused' && sameLinks(landings, one.landings) && JSON.stringify(reviewed) === JSON.stringify(one.reviewed)
