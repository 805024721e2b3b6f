import { QueryTypes, type Sequelize } from 'sequelize'
import type { ForecastRecordRow, ForecastRecordView } from '@tin-harbor/core/contract'
import { namesApart } from '@tin-harbor/core/buying'
import { judge, judgedHours, type Came, type MainFigures } from '@tin-harbor/core/forecast'
import type { Actor } from '../security/sessions.js'
import { readMarket } from '../going-live/publications.js'
import { sumsOfSpans } from '../delivery/roll-ups.js'
import { linesFor } from '../results/reports.js'

/** Revisions that are looked at, newest first. */
const MOST_ROWS = 300

/** A revision that was in force: from its first publication to the first one after it that does not hold it. */
interface Ran {
  id: number
  line: number
  forecast: Pick<MainFigures, 'day' | 'flight'>
  startHour: number
  endHour: number | null
  from: number
  to: number | null
}

async function revisionsOf(sequelize: Sequelize, lines: number[]): Promise<Ran[]> {
  const rows = await sequelize.query<
    Omit<Ran, 'forecast' | 'startHour' | 'endHour'> & Record<'forecast' | 'startHour' | 'endHour', string>
  >(
    `SELECT r.id, r.line_id AS line, r.forecast, JSON_VALUE(r.rules, '$.startHour') AS startHour, JSON_VALUE(r.rules, '$.endHour') AS endHour, f.hour AS \`from\`,
       (SELECT MIN(n.from_hour) FROM publication n WHERE n.id > f.id
          AND NOT EXISTS (SELECT 1 FROM publication_line x WHERE x.publication_id = n.id AND x.line_revision_id = r.id)) AS \`to\`
     FROM line_revision r JOIN (SELECT p.line_revision_id AS revision, MIN(q.id) AS id, MIN(q.from_hour) AS hour
       FROM publication_line p JOIN publication q ON q.id = p.publication_id GROUP BY p.line_revision_id) f ON f.revision = r.id
     WHERE r.line_id IN (:lines) ORDER BY r.id DESC LIMIT :most`,
    { type: QueryTypes.SELECT, replacements: { lines, most: MOST_ROWS } }
  )
  return rows.map(({ forecast, startHour, endHour, ...row }) => ({
    ...row,
    forecast: JSON.parse(forecast) as MainFigures,
    startHour: Number(startHour),
    // JSON's null is told as the word.
    endHour: endHour === null || endHour === 'null' ? null : Number(endHour)
  }))
}

/** Hours [from, to) of a line, by which a row is judged. */
interface Counting {
  row: number
  line: number
  from: number
  to: number
}

/** What came in the hours of each row, in one query. */
async function cameIn(sequelize: Sequelize, counting: readonly Counting[]): Promise<Map<number, Came>> {
  const sums = await sumsOfSpans(sequelize, ['wins', 'spendMicros', 'views', 'visits', 'conversions'], counting)
  return new Map(sums.map(({ spendMicros, ...came }, n) => [counting[n].row, { ...came, spend: spendMicros }]))
}

/** What was forecast of each revision beside what came, newest first, and how often the ranges held. */
export async function forecastRecord(
  sequelize: Sequelize,
  actor: Actor,
  asked: { campaign: number | null; line: number | null }
): Promise<ForecastRecordView> {
  const lines = await linesFor(actor, asked)
  const { hour } = await readMarket()
  const names = namesApart(lines.map(({ id, draft }) => ({ id, name: draft.name })))
  const ran = lines.length > 0 ? await revisionsOf(sequelize, [...names.keys()]) : []
  const inForce = ran
    .map((one) => ({
      ...one,
      from: Math.max(one.from, one.startHour),
      to: Math.min(one.to ?? hour, one.endHour ?? Infinity, hour)
    }))
    .filter(({ from, to }) => to > from)
    .map((one) => ({ ...one, judged: judgedHours({ from: one.from, to: one.to, flight: { from: one.startHour, to: one.endHour } }) }))
  const counted = await cameIn(
    sequelize,
    inForce.flatMap(({ line, judged }, row) => (judged ? [{ row, line, from: judged.from, to: judged.to }] : []))
  )
  const rows = inForce.map(({ id, line, forecast, from, to, judged }, row): ForecastRecordRow => {
    const came = counted.get(row)
    return {
      line,
      name: names.get(line) ?? '',
      revision: id,
      from,
      to,
      by: judged?.by ?? null,
      figures: judged && came ? judge(forecast, judged.by, came) : []
    }
  })
  const figures = rows.flatMap((row) => row.figures)
  return { rows, ranges: figures.length, held: figures.filter(({ held }) => held).length }
}
