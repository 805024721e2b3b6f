import { Op, type Transaction } from 'sequelize'
import { TOLD_EVENTS, type HourFacts, type ToldEventName, type ToldInput } from '@tin-harbor/core/exchange'
import { Tracker } from '../advertisers/tracker-model.js'
import { Hit } from './hit-model.js'
import type { Impressions } from './impressions.js'
import { ToldConversionRow } from './told-conversion-model.js'

/** Rows that one hour takes: what comes beyond goes into the hour after it. */
const MOST = 20_000
/** As far as the log is looked back on. */
const LOOK_BACK_HOURS = 30 * 24
const NAMES = Object.keys(TOLD_EVENTS)

/** What an hour takes in of all that was told, and the rows that it is of. */
export interface Entering {
  input: ToldInput
  hits: readonly number[]
}

/** What was told, counts and entered no hour yet. */
export async function toEnter(impressions: Impressions): Promise<Entering> {
  const hits = await Hit.findAll({
    where: { counts: true, enteredHour: null, event: NAMES, hour: { [Op.not]: null } },
    order: [['id', 'ASC']],
    limit: MOST
  })
  const rows = await ToldConversionRow.findAll({ where: { outcome: 'waits' }, order: [['id', 'ASC']], limit: MOST })
  const trackers = new Map(
    (await Tracker.findAll({ where: { id: [...new Set(rows.map((row) => row.trackerId))] } })).map((one) => [one.id, one.advertiserId])
  )
  const events: ToldInput['events'][number][] = []
  for (const { hour, place, event } of hits) {
    const found = await impressions.of(hour as number, place as number)
    if (!found) continue
    const { line, ad, path, device, did } = found
    events.push({ event: event as ToldEventName, hour: hour as number, index: place as number, line, ad, path, device, did })
  }
  return {
    hits: hits.map(({ id }) => id),
    input: {
      events,
      conversions: rows.map(({ id, trackerId, person, valueMicros }) => ({
        told: id,
        tracker: trackerId,
        advertiser: trackers.get(trackerId) ?? -1,
        person: person ?? -1,
        valueMicros
      }))
    }
  }
}

/** Notes with its hour what went into it, and what was earned. */
export async function noteEntered({ hour, told }: HourFacts, { hits }: Entering, transaction: Transaction): Promise<void> {
  if (hits.length > 0) await Hit.update({ enteredHour: hour }, { where: { id: [...hits] }, transaction })
  for (const by of ['click', 'view', null] as const) {
    const id = told.filter((one) => one.by === by).map((one) => one.told)
    if (id.length > 0)
      await ToldConversionRow.update(
        by === null
          ? { outcome: 'late', says: 'No click or view of ours lies inside its window.', enteredHour: hour }
          : { outcome: 'counted', says: '', earnedBy: by, enteredHour: hour },
        { where: { id }, transaction }
      )
  }
}

/** What entered hours before, of impressions that the log of the last 30 days has. */
export async function enteredBefore(hour: number): Promise<{ hour: number; index: number; event: ToldEventName }[]> {
  const rows = await Hit.findAll({
    attributes: ['hour', 'place', 'event'],
    where: { counts: true, event: NAMES, enteredHour: { [Op.lt]: hour }, hour: { [Op.gte]: hour - LOOK_BACK_HOURS } },
    order: [['id', 'ASC']]
  })
  return rows.map((row) => ({ hour: row.hour as number, index: row.place as number, event: row.event as ToldEventName }))
}
