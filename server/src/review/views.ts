import type { AdReviewView } from '@tin-harbor/core/contract'
import { Ad } from '../creatives/creative-model.js'
import { linksOf } from '@tin-harbor/core/buying'
import { Line } from '../lines/line-model.js'
import { adView, adsShown, type AdShown } from '../lines/ads-shown.js'
import { AdReview } from './review-model.js'

/** Rows as they are shown; the last word of each desk on each ad is told apart. */
export async function reviewViews(rows: readonly AdReview[]): Promise<AdReviewView[]> {
  const adId = [...new Set(rows.map((row) => row.adId))]
  const ads = new Map((await Ad.findAll({ where: { id: adId } })).map((ad) => [ad.id, ad]))
  const lineId = [...new Set(rows.map((row) => row.lineId))]
  const names = new Map((await Line.findAll({ where: { id: lineId } })).map((line) => [line.id, line.draft.name]))
  const earlier = await Ad.findAll({ where: { id: [...ads.values()].flatMap(({ replaces }) => replaces ?? []) } })
  const shown = new Map((await adsShown([...ads.values(), ...earlier])).map((one) => [one.ad.id, one]))
  const last = await lastOf(adId)
  return rows.map((row) => {
    const ad = ads.get(row.adId)
    const isOpen = row.state === 'waits' || row.state === 'refused'
    const older = isOpen && ad !== undefined && !ad.removed ? olderOf(ad, shown) : null
    return {
      id: row.id,
      ad: row.adId,
      name: row.reviewed.name,
      line: row.lineId,
      lineName: names.get(row.lineId) ?? '',
      desk: row.desk,
      state: row.state,
      findings: row.findings,
      sentHour: row.sentHour,
      byHour: row.byHour,
      answeredHour: row.answeredHour ?? null,
      note: row.reviewed.note,
      links: linksOf(row.landings),
      creativeId: ad?.creativeId ?? null,
      older,
      isLast: last.has(row.id) && ad !== undefined && !ad.removed
    }
  })
}

/** What serves while an ad waits: itself with the links that were cleared, or the ad whose place it takes. */
function olderOf(ad: Ad, shown: ReadonlyMap<number, AdShown>): AdReviewView['older'] {
  const one = shown.get(ad.clearedLandings === null ? (ad.replaces ?? -1) : ad.id)
  if (!one?.ad.clearedLandings) return null
  return { name: adView(one).name, links: linksOf(one.ad.clearedLandings), creativeId: one.ad.creativeId }
}

/** The last rows of each desk on some ads. */
async function lastOf(adId: readonly number[]): Promise<Set<number>> {
  const rows = await AdReview.findAll({
    attributes: ['id', 'adId', 'publisher', 'state'],
    where: { adId: [...adId] },
    order: [['id', 'ASC']]
  })
  const last = new Map(rows.filter(({ state }) => state !== 'withdrawn').map((row) => [`${row.adId} ${row.publisher}`, row.id]))
  return new Set(last.values())
}

/** What was said last of the ads that are on a line. */
export async function reviewsOfLine(lineId: number): Promise<AdReviewView[]> {
  const rows = await AdReview.findAll({ where: { lineId }, order: [['id', 'ASC']] })
  return (await reviewViews(rows)).filter(({ isLast }) => isLast)
}
