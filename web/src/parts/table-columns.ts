/** A column of a table: what a row is sorted by there, and how that is written. */
export interface TableColumn<Row> {
  id: string
  label: string
  /** Said of the column where its heading is short. */
  title?: string
  /** Pixels; a column without takes what is left, and has `least`. */
  width?: number
  least?: number
  side?: 'left' | 'right'
  /** What it is sorted by; left out where it cannot be. */
  value?: (row: Row) => number | string | null
  words?: (row: Row) => string
  /** What is better when it is less comes with the least first; names do so anyway. */
  isLeastFirst?: boolean
  /** It says what a row is: the row's head. */
  isHead?: boolean
  /** Nothing is written over it; it is named for those who listen. */
  isBare?: boolean
  cellClass?: (row: Row) => string
}

export interface TableSort {
  id: string
  down: boolean
}

/** Two values of a column: numbers by size, texts by letter, what is not there before what is. */
function compared(a: number | string | null, b: number | string | null): number {
  if (a === null || b === null) return a === b ? 0 : a === null ? -1 : 1
  return typeof a === 'number' && typeof b === 'number' ? a - b : String(a).localeCompare(String(b))
}

/** How two rows stand to each other; those that are alike stay as they were. */
export function orderBy<Row>(column: Pick<TableColumn<Row>, 'value'> | undefined, down: boolean): (a: Row, b: Row) => number {
  const value = column?.value
  return value ? (a, b) => (down ? -1 : 1) * compared(value(a), value(b)) : () => 0
}

/** What a click on a column's head asks for: the other way round, or the way in which it is usually read. */
export function sortNext<Row>(column: TableColumn<Row>, now: TableSort): TableSort {
  return { id: column.id, down: now.id === column.id ? !now.down : !column.isLeastFirst && !column.isHead }
}
