import { QueryTypes, type Sequelize, type Transaction } from 'sequelize'
import { openLog, type HourFacts } from '@tin-harbor/core/exchange'
import { insertBatch } from '../database/connection.js'
import type { StoredLog } from './stored.js'

/** What `delivery_hour` holds: logs of other formats are refused. */
const LOG_FORMAT = 2

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

/** Impressions of hours [from, to), without what followed them; opened one hour after the other. */
export async function* readWins(
  sequelize: Sequelize,
  from: number,
  to: number
): AsyncGenerator<{ hour: number; log: ReturnType<typeof openLog> }> {
  const rows = await sequelize.query<{ hour: number; n: number; crc: number; data: Buffer }>(
    'SELECT hour, n, crc32 AS crc, data FROM delivery_hour WHERE hour >= ? AND hour < ? ORDER BY hour',
    { type: QueryTypes.SELECT, replacements: [from, to] }
  )
  for (const { hour, n, crc, data } of rows) yield { hour, log: openLog(data, n, crc) }
}

/** Keeps the log of an hour. */
export async function writeLog(facts: HourFacts, transaction: Transaction): Promise<void> {
  const { hour, publication, opportunities, wins, crc, log, eventCount, eventsCrc, events } = facts
  await insertBatch(
    transaction,
    'INSERT INTO delivery_hour (hour, publication_id, opportunities, n, crc32, data, format, event_n, event_crc32, events) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)',
    [[hour, publication, opportunities, wins, crc, Buffer.from(log), LOG_FORMAT, eventCount, eventsCrc, Buffer.from(events)]]
  )
}

/** First and last hour that ran; null before the first. */
export async function hoursRun(sequelize: Sequelize, transaction: Transaction): Promise<{ first: number; last: number } | null> {
  const [{ first, last }] = await sequelize.query<{ first: number | null; last: number | null }>(
    'SELECT MIN(hour) AS first, MAX(hour) AS last FROM delivery_hour',
    { type: QueryTypes.SELECT, transaction }
  )
  return first === null || last === null ? null : { first, last }
}

/** What publication an hour ran under; null for one that did not run. */
export async function publicationOf(sequelize: Sequelize, hour: number): Promise<number | null> {
  const [ran] = await sequelize.query<{ publication: number }>('SELECT publication_id AS publication FROM delivery_hour WHERE hour = ?', {
    type: QueryTypes.SELECT,
    replacements: [hour]
  })
  return ran?.publication ?? null
}

/** First and last hour of [from, to) that ran under each publication. */
export const spansOf = (sequelize: Sequelize, from: number, to: number): Promise<{ publication: number; first: number; last: number }[]> =>
  sequelize.query(
    'SELECT publication_id AS publication, MIN(hour) AS first, MAX(hour) AS last FROM delivery_hour WHERE hour >= ? AND hour < ? GROUP BY publication_id',
    { type: QueryTypes.SELECT, replacements: [from, to] }
  )

/** What the market offered in the hours of [from, to) in which a line was in force, and how many those were. */
export async function offeredTo(
  sequelize: Sequelize,
  line: number,
  from: number,
  to: number
): Promise<{ opportunities: number; hours: number }> {
  const [row] = await sequelize.query<{ opportunities: number; hours: number }>(
    `SELECT CAST(COALESCE(SUM(d.opportunities), 0) AS SIGNED) AS opportunities, COUNT(*) AS hours FROM delivery_hour d
     WHERE d.hour >= ? AND d.hour < ? AND EXISTS (SELECT 1 FROM publication_line p JOIN line_revision r ON r.id = p.line_revision_id WHERE p.publication_id = d.publication_id AND r.line_id = ?)`,
    { type: QueryTypes.SELECT, replacements: [from, to, line] }
  )
  return { opportunities: Number(row.opportunities), hours: Number(row.hours) }
}
