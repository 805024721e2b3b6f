import { QueryTypes, type Sequelize } from 'sequelize'
import type { ForecastRecordRow, ForecastRecordView } from '@tin-harbor/core/buying'
import { judge, judgedHours, type Came } from '@tin-harbor/core/results'
import { LineRevision } from '../models/index.js'
import type { Actor } from '../security/sessions.js'
import { readMarket } from './publications.js'
import { linesFor } from './reports.js'

/** Revisions that are looked at, newest first. */
const MOST_ROWS = 300

/** Hours in which each revision was in force, joined where one publication follows another. */
async function spansOf(sequelize: Sequelize, revisions: number[], hour: number): Promise<Map<number, { from: number; to: number }>> {
  const rows = await sequelize.query<{ revision: number; first: number; last: number | null }>(
    `SELECT p.line_revision_id AS revision, MIN(q.from_hour) AS first,
       (SELECT MIN(n.from_hour) FROM publication n WHERE n.id > MAX(q.id)) AS last
     FROM publication_line p JOIN publication q ON q.id = p.publication_id WHERE p.line_revision_id IN (:revisions) GROUP BY p.line_revision_id`,
    { type: QueryTypes.SELECT, replacements: { revisions } }
  )
  return new Map(rows.map(({ revision, first, last }) => [revision, { from: first, to: Math.min(last ?? hour, hour) }]))
}

async function cameIn(sequelize: Sequelize, line: number, from: number, to: number): Promise<Came> {
  const [sums] = await sequelize.query<Record<keyof Came, string>>(
    `SELECT COALESCE(SUM(wins), 0) AS wins, COALESCE(SUM(spend_micros), 0) AS spend, COALESCE(SUM(views), 0) AS views,
       COALESCE(SUM(visits), 0) AS visits, COALESCE(SUM(conversions), 0) AS conversions
     FROM line_hour WHERE line_id = ? AND hour >= ? AND hour < ?`,
    { type: QueryTypes.SELECT, replacements: [line, from, to] }
  )
  return Object.fromEntries(Object.entries(sums).map(([name, sum]) => [name, Number(sum)])) as Came
}

/** What was forecast of each revision beside what came, newest first, and how often the ranges held. */
export async function forecastRecord(
  sequelize: Sequelize,
  actor: Actor,
  asked: { campaign: number | null; line: number | null }
): Promise<ForecastRecordView> {
  const lines = await linesFor(actor, asked)
  const { hour } = await readMarket()
  const revisions = await LineRevision.findAll({
    where: { lineId: lines.map(({ id }) => id) },
    order: [['id', 'DESC']],
    limit: MOST_ROWS
  })
  const spans =
    revisions.length > 0
      ? await spansOf(
          sequelize,
          revisions.map(({ id }) => id),
          hour
        )
      : new Map<number, never>()
  const rows: ForecastRecordRow[] = []
  for (const { id, lineId, forecast, rules } of revisions) {
    const span = spans.get(id)
    const name = lines.find((line) => line.id === lineId)?.draft.name ?? ''
    const flight = { from: rules.startHour, to: rules.endHour }
    const inForce = span && { from: Math.max(span.from, flight.from), to: Math.min(span.to, flight.to ?? Infinity), flight }
    if (!inForce || inForce.to <= inForce.from) continue
    const judged = judgedHours(inForce)
    rows.push({
      line: lineId,
      name,
      revision: id,
      from: inForce.from,
      to: inForce.to,
      by: judged?.by ?? null,
      figures: judged ? judge(forecast, judged.by, await cameIn(sequelize, lineId, judged.from, judged.to)) : []
    })
  }
  const figures = rows.flatMap((row) => row.figures)
  return { rows, ranges: figures.length, held: figures.filter(({ held }) => held).length }
}
