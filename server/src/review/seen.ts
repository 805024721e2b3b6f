import { linksOf, type LandingStep } from '@tin-harbor/core/buying'
import type { Ad } from '../creatives/creative-model.js'

/** The same links, whatever their order: what is added to all of them is no part of it. */
export const sameLinks = (a: readonly LandingStep[], b: readonly LandingStep[]): boolean =>
  JSON.stringify([...linksOf(a)].sort()) === JSON.stringify([...linksOf(b)].sort())

/** Whether an ad has to be looked at before it serves with its links as they are. */
export const isUnseen = ({ clearedLandings }: Pick<Ad, 'clearedLandings'>, { landings }: { landings: readonly LandingStep[] }): boolean =>
  clearedLandings === null || !sameLinks(clearedLandings, landings)
