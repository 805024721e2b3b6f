import { QueryTypes, type Sequelize } from 'sequelize'
import { valuesOf } from '@tin-harbor/core/targeting'
import { hoursRun } from '@tin-harbor/core/results'
import { dateOfDay, dayOfDate, startOfLocalDay, zoneIndex } from '@tin-harbor/core/time'
import { SHAPES } from '@tin-harbor/core/taxonomy'
import { cpmOf } from '@tin-harbor/core/money'
import { wilson } from '@tin-harbor/core/report'
import type { Results } from '@tin-harbor/core/buying'
import { placementName, type Catalogue } from './catalogue.js'
import { hoursInForce } from './in-force.js'
import { findLine } from './lines.js'
import { readMarket } from './publications.js'
import { LineRevision } from '../models/index.js'

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

const SUMS =
  'CAST(SUM(wins) AS SIGNED) AS impressions, CAST(SUM(viewable) AS SIGNED) AS viewable, CAST(SUM(clicks) AS SIGNED) AS clicks, CAST(SUM(spend_micros) AS SIGNED) AS spendMicros'

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
  const replacements = { line: lineId, from: from === null ? -100_000 : dayOfDate(from), to: to === null ? 100_000 : dayOfDate(to) }
  const query = (by: 'placement' | 'day') =>
    sequelize.query<Sums & { by: number }>(
      `SELECT ${by} AS \`by\`, ${SUMS} FROM line_day WHERE line_id = :line AND day BETWEEN :from AND :to GROUP BY ${by} ORDER BY spendMicros DESC, ${by}`,
      { type: QueryTypes.SELECT, replacements }
    )
  const places = await query('placement')
  const days = await query('day')
  const { hour } = await readMarket()
  const zone = zoneIndex(line.draft.zone)
  const [since, until] = [replacements.from, replacements.to + 1].map((day) => (Math.abs(day) > 99_000 ? null : startOfLocalDay(zone, day)))
  const ran = (await hoursInForce(sequelize, [lineId], hour)).get(lineId) ?? []
  const sum = (pick: (row: Sums) => number) => places.reduce((total, row) => total + pick(row), 0)
  return {
    from,
    to,
    rows: places.map(({ by, ...sums }) => {
      const { property, position } = placementName(catalogue, by)
      return {
        placement: by,
        property,
        position,
        size: SHAPES[catalogue.inventory.placements[by].shape],
        leftOut: out.has(String(by)),
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
    days: days.sort((a, b) => a.by - b.by).map(({ by, impressions, spendMicros }) => ({ date: dateOfDay(by), impressions, spendMicros }))
  }
}
