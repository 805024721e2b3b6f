import type { LineDraft } from '@tin-harbor/core/buying'
import type { PreflightContext } from '@tin-harbor/core/preflight'
import { reviewFindings, subjectFindings } from '@tin-harbor/core/review'
import type { Deps } from '../deps.js'
import type { LineReading } from '../forecasts/reading.js'
import { adsShownOn } from '../lines/ads-shown.js'
import type { Line } from '../lines/line-model.js'
import { refusedBranches } from '../standins/deal-office.js'
import { lookedAtSoon } from './looking.js'
import { AdReview } from './review-model.js'
import { isRefusedAs } from './seen.js'
import { allAnsweredBy, publishersOf } from './sending.js'
import { adsAround, unseenAds } from './subject.js'

export interface Foreseen {
  refusals: NonNullable<PreflightContext['refusals']>
  answeredBy: number | null
  /** Ads that have to be looked at. */
  unseen: number
}

/** What whoever looks at the ads of a draft would refuse, by the same rules, and by when they have answered. */
export async function foreseen(
  deps: Pick<Deps, 'store' | 'catalogue' | 'reviews' | 'configuration'>,
  draft: LineDraft,
  { line, around: { advertiser, campaign, hour } }: LineReading<Line>
): Promise<Foreseen> {
  const all = await unseenAds(await adsAround(deps.store, advertiser, campaign), draft, await adsShownOn(line.id))
  const answers = await AdReview.findAll({ where: { adId: all.map(({ ad }) => ad), publisher: null, state: 'refused' } })
  // What was refused as it is stands there as refused.
  const unseen = all.filter((one) => !answers.some((answer) => answer.adId === one.ad && isRefusedAs(answer, one)))
  if (unseen.length === 0) return { refusals: [], answeredBy: null, unseen: 0 }
  const links = await lookedAtSoon([...new Set(unseen.flatMap(({ reviewed }) => reviewed.links))])
  const publishers = await publishersOf(deps, draft.buys?.deals ?? [], advertiser.organisationId)
  const { seed } = deps.configuration.world
  const refusals = unseen.flatMap(({ ad, reviewed }) => {
    const own = links.filter(({ link }) => reviewed.links.includes(link))
    return [
      ...reviewFindings(reviewed, own).map((found) => ({ ad, name: reviewed.name, desk: 'The reviewer', ...found })),
      ...publishers.flatMap(({ publisher, name }) =>
        subjectFindings(reviewed, refusedBranches(seed, publisher)).map((found) => ({ ad, name: reviewed.name, desk: name, ...found }))
      )
    ]
  })
  return { refusals, unseen: unseen.length, answeredBy: deps.reviews.reviewer.isAtOnce ? null : allAnsweredBy(hour, publishers) }
}
