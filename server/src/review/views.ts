import type { AdReviewView } from '@tin-harbor/core/contract'
import { Ad } from '../creatives/creative-model.js'
import { Line } from '../lines/line-model.js'
import { AdReview } from './review-model.js'

/** Rows as they are shown; the last word of each desk on each ad is told apart. */
export async function reviewViews(rows: readonly AdReview[]): Promise<AdReviewView[]> {
  const adId = [...new Set(rows.map((row) => row.adId))]
  const ads = new Map((await Ad.findAll({ where: { id: adId } })).map((ad) => [ad.id, ad]))
  const lineId = [...new Set(rows.map((row) => row.lineId))]
  const names = new Map((await Line.findAll({ where: { id: lineId } })).map((line) => [line.id, line.draft.name]))
  const earlier = [...ads.values()].flatMap(({ replaces }) => replaces ?? [])
  const serving = new Set(
    (await Ad.findAll({ where: { id: earlier } })).filter(({ clearedLandings }) => clearedLandings !== null).map(({ id }) => id)
  )
  const last = await lastOf(adId)
  return rows.map((row) => {
    const ad = ads.get(row.adId)
    const isWaiting = row.state === 'waits' || row.state === 'refused'
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
      olderServes: isWaiting && ad !== undefined && !ad.removed && (ad.clearedLandings !== null || serving.has(ad.replaces ?? -1)),
      isLast: last.has(row.id) && ad !== undefined && !ad.removed
    }
  })
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
