import { list, maybe, number, shape, text, type TypeOf } from './shapes.js'

/** What a landing page says of itself, or why it was not read. */
export const pageRead = shape({
  link: text(),
  problem: maybe(text()),
  /** Where the link ended. */
  address: text(),
  title: text(),
  description: text(),
  brand: text(),
  icon: maybe(text()),
  pictures: list(text())
})
export type PageRead = TypeOf<typeof pageRead>

/** What a link answered when it was looked at, macros filled in with an example each. */
export const linkLooked = shape({
  link: text(),
  /** Why it does not answer; null where it does. */
  problem: maybe(text()),
  /** Where it ended. */
  address: text(),
  /** Addresses that it was led through, the first one first. */
  hops: list(text()),
  title: text(),
  milliseconds: number()
})
export type LinkLooked = TypeOf<typeof linkLooked>

/** A link that a replacement would change. */
export const linkChange = shape({
  line: number(),
  name: text(),
  version: number(),
  /** Null for the line's own. */
  ad: maybe(number()),
  /** Its place among the line's links by country and device; null for any other. */
  nth: maybe(number()),
  before: text(),
  after: text(),
  problem: maybe(text())
})
export type LinkChange = TypeOf<typeof linkChange>
