import { invalidField } from './errors.js'

/** Where a list goes on, as whoever reads it passes it back: it says nothing to them. */
export const cursorOf = (last: number): string => Buffer.from(`n${last}`).toString('base64url')

/** The number after which a list goes on; null from its beginning. @throws where it is none of ours */
export function readCursor(cursor: string | undefined): number | null {
  if (cursor === undefined) return null
  const found = /^n(\d{1,12})$/.exec(Buffer.from(cursor, 'base64url').toString('utf8'))
  if (!found) throw invalidField('after', 'This is no mark of a page that was told; begin anew.')
  return Number(found[1])
}
