import { QueryTypes, type Sequelize, type Transaction } from 'sequelize'
import type { DaySoFar, HourFacts, OpeningLine } from '@tin-harbor/core/exchange'
import { insertBatch, wholeNumber } from '../database/connection.js'

/** What a line takes from one hour into the next beside its results. */
export type LineState = Pick<OpeningLine, 'supply' | 'correction' | 'soFar'>

/** Of all lines that ever ran. */
export async function lineStates(sequelize: Sequelize): Promise<Map<number, LineState>> {
  const rows = await sequelize.query<{ line: number; micros: number; shown: number; correction: number; soFar: string | null }>(
    'SELECT line_id AS line, supply_micros AS micros, supply_shown AS shown, correction, so_far AS soFar FROM line_state',
    { type: QueryTypes.SELECT }
  )
  return new Map(
    rows.map(({ line, micros, shown, correction, soFar }) => [
      line,
      {
        supply: { micros: wholeNumber(Number(micros), 'supply'), shown: Number(shown) },
        correction,
        soFar: soFar ? (JSON.parse(soFar) as DaySoFar) : undefined
      }
    ])
  )
}

/** Keeps them after an hour. */
export async function writeLineStates({ lineStates: states }: HourFacts, transaction: Transaction): Promise<void> {
  await insertBatch(
    transaction,
    `INSERT INTO line_state (line_id, supply_micros, supply_shown, correction, so_far) VALUES (?, ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE supply_micros = VALUES(supply_micros), supply_shown = VALUES(supply_shown), correction = VALUES(correction),
       so_far = VALUES(so_far)`,
    states.map(({ line, supply, correction, soFar }) => [line, supply.micros, supply.shown, correction, JSON.stringify(soFar)])
  )
}
