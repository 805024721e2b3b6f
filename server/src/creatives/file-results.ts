import { Op, type Sequelize } from 'sequelize'
import { filesNamed } from '@tin-harbor/core/creative'
import type { FileResults } from '@tin-harbor/core/contract'
import { wilson } from '@tin-harbor/core/report'
import { sumsBy } from '../delivery/roll-ups.js'
import type { StoredFile } from '../files/file-model.js'
import { Ad, Creative } from './creative-model.js'
import { MadeCreative } from './made-creative-model.js'

const SUMS = ['wins', 'viewable', 'views', 'clicks', 'conversions', 'spendMicros'] as const

/** What came of all ads that show a file, or showed it. */
export async function resultsOfFile(sequelize: Sequelize, { advertiserId, sha256 }: StoredFile): Promise<FileResults> {
  const pictures = await Creative.findAll({ attributes: ['id'], where: { advertiserId, sha256 } })
  const made = (await MadeCreative.findAll({ where: { advertiserId } })).filter((one) =>
    filesNamed(one).some((file) => file.sha256 === sha256)
  )
  const ads = await Ad.findAll({
    attributes: ['id', 'lineId'],
    where: { [Op.or]: [{ creativeId: pictures.map(({ id }) => id) }, { madeCreativeId: made.map(({ id }) => id) }] }
  })
  const own = new Set(ads.map(({ id }) => id))
  const lines = [...new Set(ads.map(({ lineId }) => lineId))]
  const total = { impressions: 0, viewable: 0, views: 0, clicks: 0, conversions: 0, spendMicros: 0 }
  for (const { by, wins, ...sums } of await sumsBy(sequelize, 'ad', SUMS, { lines })) {
    if (!own.has(by)) continue
    total.impressions += wins
    for (const [name, value] of Object.entries(sums)) total[name as keyof typeof sums] += value
  }
  return { ...total, clickRange: wilson(total.clicks, total.impressions), viewRange: wilson(total.views, total.impressions) }
}
