import { LIST_KINDS, type ListKind } from '../buying/lists.js'
import { FORMATS } from '../taxonomy/index.js'
import { targetingSchema } from '../targeting/index.js'
import { flag, formOf, list, maybe, number, oneOf, shape, text, type TypeOf } from './shapes.js'

const usedBy = () => list(shape({ line: number(), name: text() }))

/** A list as pages show it. */
export const listView = shape({
  id: number(),
  advertiserId: maybe(number()),
  name: text(),
  kind: oneOf([...(Object.keys(LIST_KINDS) as ListKind[]), 'group']),
  values: list(text()),
  /** What properties and placements are called, in the order of the values; empty where values say it themselves. */
  names: list(text()),
  group: maybe(formOf(targetingSchema)),
  version: number(),
  /** Lines whose drafts follow it. */
  usedBy: usedBy()
})
export type ListView = TypeOf<typeof listView>

/** A list as it was saved, and whether others changed it meanwhile. */
export const savedList = shape({ ...listView.fields, merged: flag() })

/** What was read of a paste. */
export const pasteRead = shape({
  values: list(text()),
  problems: list(shape({ line: number(), text: text(), message: text() })),
  /** Entries that were read. */
  entries: number()
})

/** A granted deal. */
export const dealView = shape({
  id: number(),
  name: text(),
  publisher: text(),
  kind: oneOf(['fixed', 'floor']),
  priceMicros: number(),
  placements: number(),
  format: oneOf(FORMATS),
  volume: maybe(number()),
  leastSpendMicros: maybe(number()),
  untilHour: maybe(number()),
  isExpired: flag(),
  usedBy: usedBy()
})
export type DealView = TypeOf<typeof dealView>

/** A deal that was asked for, and what the publisher's office said. */
export const dealAskView = shape({
  id: number(),
  publisher: text(),
  format: oneOf(FORMATS),
  kind: oneOf(['fixed', 'floor']),
  priceMicros: number(),
  volume: number(),
  about: text(),
  note: text(),
  askedHour: number(),
  state: oneOf(['asked', 'granted', 'countered', 'refused']),
  answeredHour: maybe(number()),
  dealId: maybe(number()),
  /** The rule that decided. */
  rule: maybe(text()),
  answer: maybe(text()),
  offered: maybe(shape({ priceMicros: number(), volume: number() }))
})
export type DealAskView = TypeOf<typeof dealAskView>

/** A deal that a publisher offers to everybody. */
export const offeredDealView = shape({
  code: text(),
  name: text(),
  publisher: text(),
  format: oneOf(FORMATS),
  kind: oneOf(['fixed', 'floor']),
  priceMicros: number(),
  placements: number(),
  /** Properties of its placements, by name. */
  properties: list(text()),
  volume: maybe(number()),
  leastSpendMicros: maybe(number()),
  days: number(),
  /** The deal that it was taken as and that still stands. */
  dealId: maybe(number())
})
export type OfferedDealView = TypeOf<typeof offeredDealView>
export const offeredDealsView = shape({ offers: list(offeredDealView) })

/** All deals, everything asked for, and who can be asked. */
export const dealsView = shape({
  deals: list(dealView),
  asks: list(dealAskView),
  publishers: list(shape({ name: text(), formats: list(text()) }))
})
export type DealsView = TypeOf<typeof dealsView>
