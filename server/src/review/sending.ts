import { Op, type Transaction } from 'sequelize'
import { landingSteps, nextState, type LineDraft } from '@tin-harbor/core/buying'
import { afterWorking, answeredBy } from '@tin-harbor/core/review'
import type { Catalogue } from '../market/catalogue.js'
import { Ad } from '../creatives/creative-model.js'
import { GrantedDeal } from '../deals/deal-model.js'
import type { Line } from '../lines/line-model.js'
import type { LandingsAround } from '../links/landing.js'
import { MOST_OFFICE_HOURS, OFFICES } from '../standins/deal-office.js'
import { AdReview } from './review-model.js'
import { isRefusedAs, isUnseen, sameLinks, type ReadyAd } from './seen.js'

/** Who looks at an ad beside the reviewer. */
export interface Publisher {
  publisher: number
  name: string
}
const REVIEWER = 'the reviewer'

/** Publishers of the deals that a line buys by. */
export async function publishersOf(
  { catalogue }: { catalogue: Catalogue },
  deals: readonly number[],
  organisationId: number
): Promise<Publisher[]> {
  if (deals.length === 0) return []
  const granted = await GrantedDeal.findAll({ attributes: ['publisher'], where: { id: [...deals], organisationId } })
  return [...new Set(granted.map(({ publisher }) => publisher))].map((publisher) => ({
    publisher,
    name: catalogue.inventory.publishers[publisher].name
  }))
}

/** By when whoever looks at an ad has answered. */
export const byHourOf = (hour: number, publisher: number | null) =>
  publisher === null ? answeredBy(hour) : afterWorking(hour, MOST_OFFICE_HOURS, OFFICES)

/** By when all answered what is sent now. */
export const allAnsweredBy = (hour: number, publishers: readonly Publisher[]): number =>
  Math.max(byHourOf(hour, null), ...publishers.map(({ publisher }) => byHourOf(hour, publisher)))

interface Sending {
  line: Line
  advertiserId: number
  /** Ads of the revision, and those of them that are shown to somebody. */
  ads: readonly number[]
  ready: readonly ReadyAd[]
  publishers: readonly Publisher[]
  hour: number
  sentBy: number | null
}

/** Sends the ads of a line that nobody looked at as they are now, and those alone. */
export async function sendAds(sending: Sending, transaction: Transaction): Promise<void> {
  const { line, ads: all, ready } = sending
  const ads = await Ad.findAll({ where: { id: [...all], lineId: line.id }, order: [['id', 'ASC']], transaction })
  const rows = await AdReview.findAll({
    where: { adId: ads.map(({ id }) => id), state: { [Op.ne]: 'withdrawn' } },
    order: [['id', 'ASC']],
    transaction
  })
  const readyOf = new Map(ready.map((one) => [one.ad, one]))
  for (const ad of ads) {
    const own = rows.filter(({ adId }) => adId === ad.id)
    const one = readyOf.get(ad.id)
    const isSent = one ? await sendOne(sending, { ad, one, own }, transaction) : false
    if (!isSent && (!one || !isUnseen(ad, one))) await takeSeen(ad, own, transaction)
  }
}

/** @returns whether the ad is looked at anew */
async function sendOne(
  { line, advertiserId, publishers, hour, sentBy }: Sending,
  { ad, one, own }: { ad: Ad; one: ReadyAd; own: readonly AdReview[] },
  transaction: Transaction
): Promise<boolean> {
  const byReviewer = own.filter(({ publisher }) => publisher === null)
  // What was cleared once needs no second look.
  if (isUnseen(ad, one) && byReviewer.some(({ state, landings }) => state === 'cleared' && sameLinks(landings, one.landings)))
    await ad.update({ clearedLandings: one.landings }, { transaction })
  const last = byReviewer.at(-1)
  // What waits is looked at as it is; what was refused is not sent again as it was.
  const isWaiting = last?.state === 'waits' && sameLinks(last.landings, one.landings)
  const isKnown = last !== undefined && (isWaiting || isRefusedAs(last, one))
  const isSent = isUnseen(ad, one) && !isKnown
  const send = (to: { publisher: number | null; desk: string }) =>
    AdReview.create(
      {
        adId: ad.id,
        lineId: line.id,
        advertiserId,
        ...to,
        reviewed: one.reviewed,
        landings: one.landings,
        state: 'waits',
        findings: [],
        sentHour: hour,
        byHour: byHourOf(hour, to.publisher),
        sentBy
      },
      { transaction }
    )
  if (isSent) {
    for (const before of own) if (before.state === 'waits') await before.update({ state: 'withdrawn' }, { transaction })
    await send({ publisher: null, desk: REVIEWER })
    await ad.update({ review: 'in review' }, { transaction })
  }
  for (const { publisher, name } of publishers) {
    const known = own.filter((row) => row.publisher === publisher).at(-1)
    if (isSent || !known || !sameLinks(known.landings, one.landings)) await send({ publisher, desk: name })
  }
  return isSent
}

/** An ad that serves as it is: what was sent of it otherwise is taken back with the edit that it was of. */
async function takeSeen(ad: Ad, own: readonly AdReview[], transaction: Transaction): Promise<void> {
  for (const row of own) if (row.state === 'waits' && isUnseen(ad, row)) await row.update({ state: 'withdrawn' }, { transaction })
  if (ad.review !== 'cleared') await ad.update({ review: 'cleared' }, { transaction })
}

/**
 * Moves a line that is in review once it is known of its ads: cleared by the first that is, refused when all are; one that is released and
 * in its flight starts.
 */
export async function settleLine(line: Line, hour: number, transaction: Transaction): Promise<void> {
  if (line.state !== 'in review') return
  const ads = await Ad.findAll({ where: { lineId: line.id, removed: false }, transaction })
  if (ads.some(({ clearedLandings }) => clearedLandings !== null)) {
    line.state = nextState(line.state, 'ad cleared')
    if (line.released && line.startHour !== null && line.startHour <= hour) line.state = nextState(line.state, 'start')
  } else if (ads.every(({ review }) => review === 'refused')) line.state = nextState(line.state, 'all ads refused')
}

/** After an edit was taken back: ads serve with the links that stand in the draft again, where these were cleared before. */
export async function takeUpLinks(lineId: number, draft: LineDraft, around: LandingsAround, transaction: Transaction): Promise<void> {
  const ads = await Ad.findAll({ where: { lineId, clearedLandings: { [Op.not]: null } }, transaction })
  const cleared = await AdReview.findAll({ where: { adId: ads.map(({ id }) => id), publisher: null, state: 'cleared' }, transaction })
  for (const ad of ads) {
    const landings = landingSteps(draft, ad.id, around)
    if (!isUnseen(ad, { landings })) continue
    if (cleared.some((row) => row.adId === ad.id && sameLinks(row.landings, landings)))
      await ad.update({ clearedLandings: landings, review: 'cleared' }, { transaction })
  }
}
