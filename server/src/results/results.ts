import type { Sequelize } from 'sequelize'
import { valuesOf } from '@tin-harbor/core/targeting'
import { hoursRun } from '@tin-harbor/core/results'
import { dateOfDay, dayOfDate, startOfLocalDay, zoneIndex } from '@tin-harbor/core/time'
import { SHAPES } from '@tin-harbor/core/taxonomy'
import { cpmOf } from '@tin-harbor/core/money'
import { wilson } from '@tin-harbor/core/report'
import type { Results } from '@tin-harbor/core/contract'
import { sumsBy } from '../delivery/roll-ups.js'
import { placementName, type Catalogue } from '../market/catalogue.js'
import { hoursInForce } from '../going-live/in-force.js'
import { findLine } from '../lines/lines.js'
import { readMarket } from '../going-live/publications.js'
import { LineRevision } from '../lines/line-model.js'

interface Sums {
  impressions: number
  viewable: number
  clicks: number
  spendMicros: number
}

function measures({ impressions, viewable, clicks, spendMicros }: Sums): Results['total'] {
  return {
    impressions,
    viewable,
    clicks,
    spendMicros,
    clickRate: impressions > 0 ? clicks / impressions : 0,
    clickRange: wilson(clicks, impressions),
    cpmMicros: cpmOf(spendMicros, impressions)
  }
}

const SUMS = ['wins', 'viewable', 'clicks', 'spendMicros'] as const

/** Results of a line by placement, over days of its own calendar, ends included. */
export async function resultsOf(
  sequelize: Sequelize,
  catalogue: Catalogue,
  lineId: number,
  from: string | null,
  to: string | null
): Promise<Results> {
  const line = await findLine(lineId)
  const revision = line.revisionId === null ? null : await LineRevision.findByPk(line.revisionId)
  const out = new Set(valuesOf((revision?.draft ?? line.draft).targeting, 'placement', 'exclude'))
  const span = { from: from === null ? undefined : dayOfDate(from), to: to === null ? undefined : dayOfDate(to) + 1 }
  const read = async (by: 'placement' | 'day') =>
    (await sumsBy(sequelize, by, SUMS, { lines: [lineId] }, span)).map(({ wins, ...sums }) => ({ ...sums, impressions: wins }))
  const places = (await read('placement')).sort((a, b) => b.spendMicros - a.spendMicros || a.by - b.by)
  const days = await read('day')
  const { hour } = await readMarket()
  const zone = zoneIndex(line.draft.zone)
  const [since, until] = [span.from, span.to].map((day) => (day === undefined ? null : startOfLocalDay(zone, day)))
  const ran = (await hoursInForce(sequelize, [lineId], hour)).get(lineId) ?? []
  const sum = (pick: (row: Sums) => number) => places.reduce((total, row) => total + pick(row), 0)
  return {
    from,
    to,
    rows: places.map(({ by, ...sums }) => {
      const { placement, property, position } = placementName(catalogue, by)
      return {
        placement,
        property,
        position,
        size: SHAPES[catalogue.inventory.placements[by].shape],
        leftOut: out.has(placement),
        ...measures(sums)
      }
    }),
    total: measures({
      impressions: sum((r) => r.impressions),
      viewable: sum((r) => r.viewable),
      clicks: sum((r) => r.clicks),
      spendMicros: sum((r) => r.spendMicros)
    }),
    hours: hoursRun({ startHour: since ?? -Infinity, endHour: until }, ran, hour),
    days: days.map(({ by, impressions, spendMicros }) => ({ date: dateOfDay(by), impressions, spendMicros }))
  }
}
