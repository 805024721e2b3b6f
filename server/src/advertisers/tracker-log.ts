import { Op, QueryTypes, type Sequelize } from 'sequelize'
import type { ToldView, TrackerView } from '@tin-harbor/core/contract'
import { HOURS_PER_DAY } from '@tin-harbor/core/time'
import { readMarket } from '../going-live/publications.js'
import { ToldConversionRow } from '../hits/told-conversion-model.js'
import { Tracker } from './tracker-model.js'
import { trackerView } from './trackers.js'

/** Rows of a log that a page shows. */
const MOST_SHOWN = 200

/** Trackers of an advertiser, with how much was told of each. */
export async function trackersFor(sequelize: Sequelize, advertiserId: number): Promise<TrackerView[]> {
  const trackers = await Tracker.findAll({ where: { advertiserId }, order: [['id', 'ASC']] })
  if (trackers.length === 0) return []
  const { hour } = await readMarket()
  const rows = await sequelize.query<{ tracker: number; today: number; counted: number; lastAt: number | null }>(
    `SELECT tracker_id AS tracker, CAST(SUM(outcome = 'counted' AND entered_hour >= :from) AS SIGNED) AS today,
       CAST(SUM(outcome = 'counted') AS SIGNED) AS counted, MAX(told_at) AS lastAt
     FROM told_conversion WHERE tracker_id IN (:ids) GROUP BY tracker_id`,
    { type: QueryTypes.SELECT, replacements: { from: hour - HOURS_PER_DAY, ids: trackers.map(({ id }) => id) } }
  )
  const byTracker = new Map(rows.map((row) => [row.tracker, row]))
  return trackers.map((tracker) => {
    const { today = 0, counted = 0, lastAt = null } = byTracker.get(tracker.id) ?? {}
    return trackerView(tracker, { today: Number(today), all: Number(counted), lastAt })
  })
}

/** What was told last: of a tracker, or of the ads of a line. */
export async function toldLast(what: { tracker: number } | { ads: readonly number[] } | { told: number }): Promise<ToldView[]> {
  const where = 'tracker' in what ? { trackerId: what.tracker } : 'ads' in what ? { adId: { [Op.in]: [...what.ads] } } : { id: what.told }
  const rows = await ToldConversionRow.findAll({ where, order: [['id', 'DESC']], limit: MOST_SHOWN })
  const names = new Map(
    (await Tracker.findAll({ attributes: ['id', 'name'], where: { id: [...new Set(rows.map((row) => row.trackerId))] } })).map((one) => [
      one.id,
      one.name
    ])
  )
  return rows.map((row) => ({
    id: row.id,
    tracker: names.get(row.trackerId) ?? '',
    how: row.how,
    outcome: row.outcome,
    says: row.says,
    term: row.term,
    by: row.earnedBy,
    click: row.click,
    transaction: row.transactionId,
    valueMicros: row.valueMicros,
    page: row.page,
    toldAt: row.toldAt,
    line: row.lineId,
    ad: row.adId,
    enteredHour: row.enteredHour
  }))
}
