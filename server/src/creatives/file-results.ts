import type { Sequelize } from 'sequelize'
import type { FileResults } from '@tin-harbor/core/contract'
import { wilson } from '@tin-harbor/core/report'
import { sumsBy } from '../delivery/roll-ups.js'
import type { StoredFile } from '../files/file-model.js'
import { showing } from './showing.js'

const SUMS = ['wins', 'viewable', 'views', 'clicks', 'conversions', 'spendMicros'] as const

/** What came of all ads that show a file, or showed it. */
export async function resultsOfFile(sequelize: Sequelize, file: StoredFile): Promise<FileResults> {
  const { ads } = await showing(file)
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
