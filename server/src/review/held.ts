import { Op, QueryTypes, type Transaction } from 'sequelize'
import { Ad } from '../creatives/creative-model.js'
import { GrantedDeal } from '../deals/deal-model.js'
import { LineRevision } from '../lines/line-model.js'
import { AdReview } from './review-model.js'

/** What of a line in force may be held back: its ads, those that serve until others in their places are cleared, and its deals. */
interface Forced {
  line: number
  ads: number[]
  earlier: number[]
  deals: number[]
}

/** The rules of a line may be long: what is not asked for stays in the database. */
async function forcedOf(revisions: readonly number[], transaction: Transaction): Promise<Forced[]> {
  if (revisions.length === 0) return []
  const rows = await LineRevision.sequelize?.query<Record<'ads' | 'earlier' | 'deals', number[] | string | null> & { line: number }>(
    `SELECT line_id AS line, JSON_EXTRACT(rules, '$.ads[*].ad') AS ads, JSON_EXTRACT(rules, '$.earlier[*].ad') AS earlier,
       JSON_EXTRACT(rules, '$.buys.deals[*].deal') AS deals FROM line_revision WHERE id IN (?) ORDER BY line_id`,
    { type: QueryTypes.SELECT, replacements: [[...revisions]], transaction }
  )
  // The driver reads what it knows to be JSON itself.
  const read = (found: number[] | string | null) => [
    ...new Set(typeof found === 'string' ? (JSON.parse(found) as number[]) : (found ?? []))
  ]
  return (rows ?? []).map(({ line, ads, earlier, deals }) => ({ line, ads: read(ads), earlier: read(earlier), deals: read(deals) }))
}

/**
 * What of lines in force is held back. Ads are: what they are of cannot be had, no version of them was cleared yet, or the one that takes
 * their place was. Deals are: a publisher has not answered, or refused one of the ads that the line shows.
 */
export async function heldOf(
  revisions: readonly number[],
  transaction: Transaction
): Promise<{ stoppedAds: number[]; stoppedDeals: [line: number, deal: number][] }> {
  const lines = await forcedOf(revisions, transaction)
  const adId = lines.flatMap(({ ads, earlier }) => [...ads, ...earlier])
  const byId = new Map((await Ad.findAll({ where: { id: adId }, transaction })).map((ad) => [ad.id, ad]))
  const stopped = new Set<number>()
  for (const { ads, earlier } of lines) {
    const known = ads.flatMap((ad) => byId.get(ad) ?? [])
    for (const ad of known) if (ad.stopped !== null || ad.clearedLandings === null) stopped.add(ad.id)
    const gone = new Set(known.flatMap(({ replaces, clearedLandings }) => (clearedLandings === null ? [] : (replaces ?? []))))
    for (const ad of earlier) if (gone.has(ad) || byId.get(ad)?.stopped != null) stopped.add(ad)
  }
  return { stoppedAds: [...stopped].sort((a, b) => a - b), stoppedDeals: await heldDeals(lines, stopped, transaction) }
}

/** What publishers answered last of ads: by ad and publisher. */
async function publisherAnswers(adId: readonly number[], transaction?: Transaction): Promise<Map<string, AdReview>> {
  const rows = await AdReview.findAll({
    where: { adId: [...adId], publisher: { [Op.not]: null }, state: { [Op.ne]: 'withdrawn' } },
    order: [['id', 'ASC']],
    transaction
  })
  return new Map(rows.map((row) => [`${row.adId} ${row.publisher}`, row]))
}

async function heldDeals(
  lines: readonly Forced[],
  stopped: ReadonlySet<number>,
  transaction: Transaction
): Promise<[line: number, deal: number][]> {
  const buying = lines.filter(({ deals }) => deals.length > 0)
  if (buying.length === 0) return []
  const where = { id: buying.flatMap(({ deals }) => deals) }
  const deals = await GrantedDeal.findAll({ attributes: ['id', 'publisher'], where, transaction })
  const publisherOf = new Map(deals.map(({ id, publisher }) => [id, publisher]))
  const shownBy = ({ ads, earlier }: Forced) => [...ads, ...earlier].filter((ad) => !stopped.has(ad))
  const answers = await publisherAnswers(buying.flatMap(shownBy), transaction)
  return buying.flatMap((line) =>
    line.deals
      .filter((deal) =>
        shownBy(line).some((ad) => {
          const answer = answers.get(`${ad} ${publisherOf.get(deal)}`)
          return answer !== undefined && answer.state !== 'cleared'
        })
      )
      .map((deal): [number, number] => [line.line, deal])
  )
}
