import { flag, list, maybe, number, shape, text, type TypeOf } from './shapes.js'

/** What a VAST tag leads to: the addresses that it was read through, and what is played and told. */
export const vastRead = shape({
  version: text(),
  /** Addresses of the tag and its wrappers, the first one first. */
  chain: list(text()),
  ads: list(
    shape({
      title: text(),
      system: text(),
      seconds: maybe(number()),
      skipAfter: maybe(number()),
      landing: text(),
      media: list(shape({ address: text(), type: text(), width: number(), height: number(), kbps: number(), isPlayed: flag() })),
      impressions: list(text()),
      events: list(shape({ event: text(), address: text() })),
      errors: list(text())
    })
  )
})
export type VastRead = TypeOf<typeof vastRead>

/** Something that a player told of a showing of an ad. */
export const hitView = shape({
  ad: number(),
  event: text(),
  /** Seconds since 1970. */
  toldAt: number(),
  /** What it is told of: hits of one showing have the same. */
  showing: text(),
  /** Whether it counts in results; of previews none does. */
  counts: flag()
})
export type HitView = TypeOf<typeof hitView>
