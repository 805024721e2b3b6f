import { list, maybe, shape, text, type TypeOf } from './shapes.js'

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
