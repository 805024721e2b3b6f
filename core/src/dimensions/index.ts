import { WHAT, WHEN } from './bought.js'
import { CONNECTION } from './connection.js'
import { CONTEXT } from './context.js'
import { DEVICE } from './device.js'
import type { Restricting, Telling } from './dimension.js'
import { INVENTORY } from './inventory.js'
import { SLOT } from './slot.js'
import { WHERE } from './where.js'
import { WHO } from './who.js'

export { segmentsIn } from './who.js'
export * from './lanes.js'
export type { Restricting, SegmentGroup, Telling, TellingMarket, Wanted } from './dimension.js'

/**
 * Everything that can be told apart, one object a dimension: what a line is restricted by, what results and the market
 * are counted by, and how each is said. In the order in which prices are adjusted and lists are shown.
 */
const GROUPS = {
  what: WHAT,
  when: WHEN,
  where: WHERE,
  device: DEVICE,
  connection: CONNECTION,
  who: WHO,
  context: CONTEXT,
  slot: SLOT,
  inventory: INVENTORY
}
export type DimensionGroup = keyof typeof GROUPS

type Entries = typeof WHAT &
  typeof WHEN &
  typeof WHERE &
  typeof DEVICE &
  typeof CONNECTION &
  typeof WHO &
  typeof CONTEXT &
  typeof SLOT &
  typeof INVENTORY
type Having<Part> = { [Name in keyof Entries]: Entries[Name] extends Part ? Name : never }[keyof Entries]

/** What a line can be restricted by, and its bid adjusted by. */
export type Dimension = Having<{ restricts: object }>
/** What results can be told apart by. */
export type ReportDimensionName = Having<{ tells: object }>
/** What the traffic of the market can be counted by. */
export type CountedBy = Exclude<ReportDimensionName, Having<{ tells: { ofWins: true } }>>

const entries = Object.entries(GROUPS).flatMap(([group, members]) =>
  Object.entries(members as Record<string, { restricts?: Restricting; tells?: Telling }>).map(([name, entry]) => ({
    group: group as DimensionGroup,
    name,
    ...entry
  }))
)
const restricting = entries.flatMap(({ name, restricts }) => (restricts ? [[name as Dimension, restricts] as const] : []))
const telling = entries.flatMap(({ name, tells }) => (tells ? [[name as ReportDimensionName, tells] as const] : []))

export const DIMENSION_KINDS = Object.fromEntries(restricting) as Readonly<Record<Dimension, Restricting>>
export const DIMENSIONS: readonly Dimension[] = restricting.map(([name]) => name)
export const REPORT_DIMENSIONS = Object.fromEntries(telling) as Readonly<Record<ReportDimensionName, Telling>>
export const REPORT_DIMENSION_NAMES: readonly ReportDimensionName[] = telling.flatMap(([name, { onlyCounted }]) =>
  onlyCounted ? [] : [name]
)
export const COUNTED_BY = telling.flatMap(([name, { ofWins }]) => (ofWins ? [] : [name as CountedBy]))

const GROUP_NAMES = Object.keys(GROUPS) as DimensionGroup[]
const inGroups = <Name extends string>(names: readonly Name[]) => {
  const groupOf = new Map(entries.map(({ name, group }) => [name, group]))
  return GROUP_NAMES.map((name) => ({ name, dimensions: names.filter((one) => groupOf.get(one) === name) })).filter(
    ({ dimensions }) => dimensions.length > 0
  )
}
/** What pages call a dimension. */
export function dimensionTitle(name: Dimension | ReportDimensionName): string {
  const restricts = (DIMENSION_KINDS as Partial<Record<string, Restricting>>)[name]
  const tells = (REPORT_DIMENSIONS as Partial<Record<string, Telling>>)[name]
  return restricts?.title ?? tells?.title ?? name
}

/** What a line can be restricted by, as pages list it. */
export const DIMENSION_GROUPS: readonly { name: DimensionGroup; dimensions: readonly Dimension[] }[] = inGroups(DIMENSIONS)
/** What results can be told apart by, as pages list it. */
export const DIMENSION_SETS: readonly { name: DimensionGroup; dimensions: readonly ReportDimensionName[] }[] =
  inGroups(REPORT_DIMENSION_NAMES)
