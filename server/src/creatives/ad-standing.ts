import type { Sequelize } from 'sequelize'
import { adRules } from '@tin-harbor/core/buying'
import type { AdStandings } from '@tin-harbor/core/contract'
import { TALLIED, addTally, emptyTally, type Tally } from '@tin-harbor/core/exchange'
import { adStandings } from '@tin-harbor/core/results'
import { SHAPES } from '@tin-harbor/core/taxonomy'
import { findCampaign } from '../campaigns/campaigns.js'
import { sumsBy } from '../delivery/roll-ups.js'
import { adsOf } from '../lines/ads-shown.js'
import { findLine } from '../lines/lines.js'

/** What came of each ad of a line, and how much of the next draws it is given. */
export async function standingOf(sequelize: Sequelize, lineId: number): Promise<AdStandings> {
  const { draft, campaignId } = await findLine(lineId)
  const { goal } = await findCampaign(campaignId)
  const byAd = new Map<number, Tally>()
  const total = emptyTally()
  for (const { by, ...tally } of await sumsBy(sequelize, 'ad', TALLIED, { lines: [lineId] })) {
    byAd.set(by, tally)
    addTally(total, tally)
  }
  const ads = (await adsOf(lineId)).flatMap(({ id, shapes, stopped }) =>
    shapes.map((shape) => ({
      ...adRules(draft, { ad: id, shape: (SHAPES as readonly string[]).indexOf(shape) }),
      ...(stopped === null ? {} : { off: true })
    }))
  )
  return adStandings(ads, { goal, rotation: draft.rotation ?? 'weight', seed: lineId }, byAd, total)
}
