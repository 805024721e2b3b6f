import { QueryTypes, type Sequelize } from 'sequelize'
import {
  addTally,
  emptyTally,
  learnedEvent,
  type Aim,
  type DaySoFar,
  type LineRules,
  type Recent,
  type PublicationRules,
  type Tallied,
  type Tally
} from '@tin-harbor/core/exchange'
import { localDayOf, localHourOf, zoneIndex } from '@tin-harbor/core/time'
import { wholeNumber } from '../database/connection.js'
import type { StoredFacts, StoredKnowledge, StoredLog, StoredOpening } from '../jobs/messages.js'
import { LOG_FORMAT } from './commit-hour.js'
import { EVENT_COLUMN } from './learned-events.js'
import { readMarket } from './publications.js'
import { spentSoFar } from './spent.js'
import { TALLY_SUMS, tallyOf } from './tallies.js'

/** Hours of the log that caps may look back on. */
const LOOK_BACK_HOURS = 30 * 24
/** Hours that an aim's correction looks back on. */
const RECENT_HOURS = 24

/** The balance of an organisation: the sum of its ledger entries. */
export async function balance(sequelize: Sequelize, organisationId: number): Promise<number> {
  return (await balances(sequelize, organisationId)).get(organisationId) ?? 0
}

/** Balances by organisation; one without an entry is not among them. @param only of one of them */
export async function balances(sequelize: Sequelize, only: number | null = null): Promise<Map<number, number>> {
  const rows = await sequelize.query<{ organisation: number; sum: number }>(
    'SELECT organisation_id AS organisation, CAST(SUM(amount_micros) AS SIGNED) AS sum FROM ledger_entry WHERE ? IS NULL OR organisation_id = ? GROUP BY organisation_id',
    { type: QueryTypes.SELECT, replacements: [only, only] }
  )
  return new Map(rows.map(({ organisation, sum }) => [organisation, wholeNumber(Number(sum), 'balance')]))
}

/**
 * All that a line's results say by hour of its day and by day; and by ad, placement and device.
 * @param parts whether the last three are wanted: nobody tells them apart where no bid follows a rate
 */
export async function factsOf(sequelize: Sequelize, line: number, zone: number, parts = true): Promise<StoredFacts> {
  const select = <T>(by: string, from: string) =>
    sequelize.query<T & Record<Tallied, number>>(`SELECT ${by}, ${TALLY_SUMS} FROM ${from} WHERE line_id = ? GROUP BY ${by}`, {
      type: QueryTypes.SELECT,
      replacements: [line]
    })
  const hours = await select<{ hour: number }>('hour', 'line_hour')
  const byHour = new Map<number, Tally>()
  const byDay = new Map<number, Tally>()
  const into = (map: Map<number, Tally>, key: number, tally: Tally) => {
    const known = map.get(key) ?? emptyTally()
    addTally(known, tally)
    map.set(key, known)
  }
  const total = emptyTally()
  for (const row of hours) {
    const tally = tallyOf(row)
    into(byHour, localHourOf(zone, row.hour), tally)
    into(byDay, localDayOf(zone, row.hour), tally)
    addTally(total, tally)
  }
  const by = async <K extends string>(key: K, from: string): Promise<[number, Tally][]> =>
    parts ? (await select<Record<K, number>>(key, from)).map((row) => [row[key], tallyOf(row)]) : []
  return {
    total,
    byHour: [...byHour],
    byDay: [...byDay],
    byAd: await by('ad_id', 'line_hour'),
    byDevice: await by('device', 'line_hour'),
    byPlacement: await by('placement', 'line_day')
  }
}

/** What a line with an aim paid and got in the last hours, oldest first. */
async function recentOf(sequelize: Sequelize, line: number, aim: Aim, hour: number): Promise<Recent[]> {
  const rows = await sequelize.query<Recent & { hour: number }>(
    `SELECT hour, CAST(SUM(spend_micros) AS SIGNED) AS spend, CAST(SUM(predicted) AS SIGNED) AS predicted, CAST(SUM(${EVENT_COLUMN[aim.event]}) AS SIGNED) AS events FROM line_hour WHERE line_id = ? AND hour >= ? AND hour < ? GROUP BY hour`,
    { type: QueryTypes.SELECT, replacements: [line, hour - RECENT_HOURS, hour] }
  )
  const byHour = new Map(
    rows.map((row) => [row.hour, { spend: Number(row.spend), predicted: Number(row.predicted), events: Number(row.events) }])
  )
  return Array.from({ length: RECENT_HOURS }, (_, n) => byHour.get(hour - RECENT_HOURS + n) ?? { spend: 0, predicted: 0, events: 0 })
}

/** What lines that learn know now. */
export async function knownOf(
  sequelize: Sequelize,
  lines: readonly LineRules[],
  { owners = [], trackers = [] }: PublicationRules
): Promise<StoredKnowledge[]> {
  const states = await sequelize.query<{ line: number; correction: number }>('SELECT line_id AS line, correction FROM line_state', {
    type: QueryTypes.SELECT
  })
  const correctionOf = new Map(states.map((state) => [state.line, state.correction]))
  const advertiserOf = new Map(owners.map(({ line, advertiser }) => [line, advertiser]))
  const known: StoredKnowledge[] = []
  for (const line of lines)
    if (learnedEvent(line) !== null)
      known.push([
        line.line,
        {
          facts: await factsOf(sequelize, line.line, zoneIndex(line.zone)),
          // None is known of a line whose first hour is still to come.
          correction: correctionOf.get(line.line) || (line.firstCorrection ?? 1000),
          trackers: trackers.filter(({ advertiser }) => advertiser === advertiserOf.get(line.line))
        }
      ])
  return known
}

/** Whether the next hour of a line depends on what its results were by part. */
const learns = (line: LineRules) => learnedEvent(line) !== null || line.rotation === 'learning'

/** The state at an hour's start, from stored facts alone: the log of the last 30 days and a small row a line. */
export async function loadOpening(sequelize: Sequelize, rules: PublicationRules, hour: number): Promise<StoredOpening> {
  const { organisationId: organisation } = await readMarket()
  const states = await sequelize.query<{ line: number; micros: number; shown: number; correction: number; soFar: string | null }>(
    'SELECT line_id AS line, supply_micros AS micros, supply_shown AS shown, correction, so_far AS soFar FROM line_state',
    { type: QueryTypes.SELECT }
  )
  const stateOf = new Map(states.map((state) => [state.line, state]))
  const lines: StoredOpening['lines'] = []
  for (const line of rules.lines) {
    const state = stateOf.get(line.line)
    lines.push([
      line.line,
      {
        spent: await spentSoFar(sequelize, { line: line.line }, line.zone, hour),
        supply: { micros: wholeNumber(Number(state?.micros ?? 0), 'supply'), shown: Number(state?.shown ?? 0) },
        correction: state?.correction ?? 0,
        soFar: state?.soFar ? (JSON.parse(state.soFar) as DaySoFar) : undefined,
        facts: learns(line) ? await factsOf(sequelize, line.line, zoneIndex(line.zone)) : null,
        recent: line.aim ? await recentOf(sequelize, line.line, line.aim, hour) : []
      }
    ])
  }
  const campaigns: StoredOpening['campaigns'] = []
  for (const { campaign, zone } of rules.campaigns) campaigns.push([campaign, await spentSoFar(sequelize, { campaign }, zone, hour)])
  return {
    hour,
    lines,
    campaigns,
    balanceMicros: organisation === null ? 0 : await balance(sequelize, organisation),
    logs: await readStoredLogs(sequelize, hour - LOOK_BACK_HOURS, hour)
  }
}

/** Hours of the log, oldest first. @throws for one of an older format */
export async function readStoredLogs(sequelize: Sequelize, from: number, to: number): Promise<StoredLog[]> {
  const rows = await sequelize.query<{
    hour: number
    n: number
    crc: number
    data: Buffer
    format: number
    eventN: number
    eventCrc: number
    events: Buffer | null
    publication: number
  }>(
    'SELECT hour, n, crc32 AS crc, data, format, event_n AS eventN, event_crc32 AS eventCrc, events, publication_id AS publication FROM delivery_hour WHERE hour >= ? AND hour < ? ORDER BY hour',
    { type: QueryTypes.SELECT, replacements: [from, to] }
  )
  return rows.map(({ hour, n, crc, data, format, eventN, eventCrc, events, publication }) => {
    if (format !== LOG_FORMAT)
      throw new Error(
        `Hour ${hour} of the delivery log is of format ${format}, which this version does not read. The demo's folder must be made anew.`
      )
    return { hour, n, crc, data: new Uint8Array(data), eventCount: eventN, eventCrc, events: new Uint8Array(events ?? []), publication }
  })
}
