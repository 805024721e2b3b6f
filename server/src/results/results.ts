import type { Sequelize } from 'sequelize'
import { valuesOf } from '@tin-harbor/core/targeting'
import { RESULT_EVENTS, eventsOf, hoursRun, type ResultEvent } from '@tin-harbor/core/results'
import { dateOfDay, dayOfDate, startOfLocalDay, zoneIndex } from '@tin-harbor/core/time'
import { SHAPES } from '@tin-harbor/core/taxonomy'
import { cpmOf } from '@tin-harbor/core/money'
import { costRange, countRange, wilson } from '@tin-harbor/core/report'
import type { Results } from '@tin-harbor/core/contract'
import { sumsBy } from '../delivery/roll-ups.js'
import { placementName, type Catalogue } from '../market/catalogue.js'
import { hoursInForce } from '../going-live/in-force.js'
import { findCampaign } from '../campaigns/campaigns.js'
import { findLine } from '../lines/lines.js'
import { readMarket } from '../going-live/publications.js'
import { LineRevision } from '../lines/line-model.js'

type Sums = { impressions: number; viewable: number; spendMicros: number } & Record<ResultEvent, number>

function measures({ impressions, viewable, spendMicros, ...counts }: Sums, events: readonly ResultEvent[]): Results['total'] {
  return {
    impressions,
    viewable,
    spendMicros,
    cpmMicros: cpmOf(spendMicros, impressions),
    brought: events.map((event) => {
      const count = counts[event]
      return {
        count,
        rate: impressions > 0 ? count / impressions : 0,
        range: event === 'pages' ? countRange(count, impressions) : wilson(count, impressions),
        costMicros: count > 0 ? spendMicros / count : null,
        costRange: costRange(spendMicros, count)
      }
    })
  }
}

const SUMS = ['wins', 'viewable', 'spendMicros', ...RESULT_EVENTS] as const

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
  const draft = revision?.draft ?? line.draft
  const out = new Set(valuesOf(draft.targeting, 'placement', 'exclude'))
  const own = new Map(
    (draft.price.adjustments ?? []).flatMap(({ dimension, value, ownMicros }) => (dimension === 'placement' ? [[value, ownMicros]] : []))
  )
  const events = eventsOf(draft, (await findCampaign(line.campaignId)).goal)
  const span = { from: from === null ? undefined : dayOfDate(from), to: to === null ? undefined : dayOfDate(to) + 1 }
  const read = async (by: 'placement' | 'day') =>
    (await sumsBy(sequelize, by, SUMS, { lines: [lineId] }, span)).map(({ wins, ...sums }) => ({ ...sums, impressions: wins }))
  const places = (await read('placement')).sort((a, b) => b.spendMicros - a.spendMicros || a.by - b.by)
  const days = await read('day')
  const { hour } = await readMarket()
  const zone = zoneIndex(line.draft.zone)
  const [since, until] = [span.from, span.to].map((day) => (day === undefined ? null : startOfLocalDay(zone, day)))
  const ran = (await hoursInForce(sequelize, [lineId], hour)).get(lineId) ?? []
  const summed = Object.fromEntries(
    ['impressions' as const, 'viewable' as const, 'spendMicros' as const, ...RESULT_EVENTS].map((name) => [
      name,
      places.reduce((total, row) => total + row[name], 0)
    ])
  ) as Sums
  return {
    events,
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
        ownMicros: own.get(placement) ?? null,
        ...measures(sums, events)
      }
    }),
    total: measures(summed, events),
    hours: hoursRun({ startHour: since ?? -Infinity, endHour: until }, ran, hour),
    days: days.map(({ by, impressions, spendMicros }) => ({ date: dateOfDay(by), impressions, spendMicros }))
  }
}
