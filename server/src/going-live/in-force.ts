import { QueryTypes, type Sequelize } from 'sequelize'
import { joined, type HourRange } from '@tin-harbor/core/results'

/** Market hours in which each of some lines was in force, up to the clock. Lines that never were are left out. */
export async function hoursInForce(sequelize: Sequelize, lines: readonly number[], hour: number): Promise<Map<number, HourRange[]>> {
  const rows = await sequelize.query<{ line: number; since: number; until: number | null }>(
    `SELECT r.line_id AS line, p.since, p.until FROM
       (SELECT id, from_hour AS since, LEAD(from_hour) OVER (ORDER BY id) AS until FROM publication) p
     JOIN publication_line m ON m.publication_id = p.id JOIN line_revision r ON r.id = m.line_revision_id
     WHERE r.line_id IN (?)`,
    { type: QueryTypes.SELECT, replacements: [[0, ...lines]] }
  )
  const ranges = new Map<number, HourRange[]>()
  for (const { line, since, until } of rows) {
    const range = { from: Number(since), to: Math.min(hour, until === null ? hour : Number(until)) }
    ranges.set(line, [...(ranges.get(line) ?? []), range])
  }
  return new Map([...ranges].map(([line, own]) => [line, joined(own)]))
}
