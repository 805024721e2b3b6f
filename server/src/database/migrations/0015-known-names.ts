import { QueryTypes, type Sequelize } from 'sequelize'
import { codeAt, makeInventory, type Coded, type Inventory } from '@tin-harbor/core/market'

export const name = '0015-known-names'

const CODED: readonly string[] = ['property', 'placement', 'publisher'] satisfies Coded[]
const LISTS: Readonly<Record<string, Coded>> = { properties: 'property', placements: 'placement' }
/** Documents that hold restrictions, adjustments or changes of them. */
const DOCUMENTS = [
  ['line', 'draft'],
  ['line_revision', 'draft'],
  ['line_revision', 'rules'],
  ['line_revision', 'forecast'],
  ['saved_list', 'contents'],
  ['audit_entry', 'was'],
  ['audit_entry', 'became']
] as const

/**
 * Properties, placements and publishers went by their position in the inventory; they go by what everybody calls them: an address, the
 * number of a source, a name. What was converted already stays, so that it may be run again.
 */
export async function run(sequelize: Sequelize): Promise<void> {
  const [state] = await sequelize.query<{ seed: number }>('SELECT seed FROM market_state LIMIT 1', { type: QueryTypes.SELECT })
  if (!state) return
  const inventory = makeInventory(state.seed)
  for (const [table, column] of DOCUMENTS) {
    const rows = await sequelize.query<{ id: number; document: string }>(
      `SELECT id, ${column} AS document FROM ${table} WHERE ${CODED.map((what) => `${column} LIKE '%"dimension":"${what}"%'`).join(' OR ')}`,
      { type: QueryTypes.SELECT }
    )
    for (const { id, document } of rows) await write(sequelize, table, column, id, renamed(JSON.parse(document), inventory))
  }
  const lists = await sequelize.query<{ id: number; kind: string; contents: string }>(
    "SELECT id, kind, contents FROM saved_list WHERE kind IN ('properties', 'placements')",
    { type: QueryTypes.SELECT }
  )
  for (const { id, kind, contents } of lists) {
    const { values, ...rest } = JSON.parse(contents) as { values: string[] }
    await write(sequelize, 'saved_list', 'contents', id, { ...rest, values: values.map(codeOf(LISTS[kind], inventory)) })
  }
  const leftOut = await sequelize.query<{ id: number; became: string }>(
    "SELECT id, became FROM audit_entry WHERE action IN ('leave out', 'take in') AND object = 'line'",
    { type: QueryTypes.SELECT }
  )
  for (const { id, became } of leftOut)
    await write(sequelize, 'audit_entry', 'became', id, (JSON.parse(became) as unknown[]).map(String).map(codeOf('placement', inventory)))
}

const write = (sequelize: Sequelize, table: string, column: string, id: number, document: unknown) =>
  sequelize.query(`UPDATE ${table} SET ${column} = :document WHERE id = :id`, { replacements: { document: JSON.stringify(document), id } })

/** What a value is called now; what is no position, or none of this market, is left as it is. */
const codeOf = (what: Coded, inventory: Inventory) => (value: string) =>
  /^\d{1,6}$/.test(value) ? (codeAt(inventory, what, Number(value)) ?? value) : value

/** A document in which every restriction, adjustment and change by what is sold has names for its values. */
export function renamed(document: unknown, inventory: Inventory): unknown {
  if (Array.isArray(document)) return document.map((one) => renamed(one, inventory))
  if (typeof document !== 'object' || document === null) return document
  const { dimension } = document as { dimension?: unknown }
  const what = typeof dimension === 'string' && CODED.includes(dimension) ? (dimension as Coded) : null
  return Object.fromEntries(
    Object.entries(document).map(([field, value]: [string, unknown]) => {
      if (what && field === 'values' && Array.isArray(value)) return [field, value.map(String).map(codeOf(what, inventory))]
      if (what && field === 'value' && typeof value === 'string') return [field, codeOf(what, inventory)(value)]
      return [field, renamed(value, inventory)]
    })
  )
}
