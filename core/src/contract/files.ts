import { MEDIA } from '../creative/facts.js'
import { interval } from './figures.js'
import { flag, list, maybe, number, oneOf, optional, shape, text, type TypeOf } from './shapes.js'

const seenTrack = shape({ codec: text(), kbps: maybe(number()), framesASecond: number() })
const heardTrack = shape({
  codec: text(),
  kbps: maybe(number()),
  channels: number(),
  hertz: number(),
  lufs: maybe(number()),
  isSilent: flag()
})
const fileFacts = shape({
  medium: oneOf(MEDIA),
  type: text(),
  bytes: number(),
  width: maybe(number()),
  height: maybe(number()),
  turned: number(),
  seconds: maybe(number()),
  loops: maybe(number()),
  seen: maybe(seenTrack),
  heard: maybe(heardTrack),
  hasPlace: flag(),
  banner: optional(shape({ entry: text(), files: number(), unpacked: number(), hasClick: flag(), calls: maybe(list(text())) }))
})

/** A file of an advertiser's library. */
export const fileView = shape({
  id: number(),
  advertiserId: number(),
  name: text(),
  sha256: text(),
  bytes: number(),
  medium: oneOf(MEDIA),
  facts: fileFacts,
  altText: text(),
  tags: list(text()),
  retired: flag(),
  madeFrom: maybe(number()),
  /** How it was made of another, in words. */
  madeHow: maybe(text()),
  /** Market hour. */
  addedHour: number(),
  version: number(),
  /** Whether something stands in for it where browsers do not play it. */
  hasProxy: flag(),
  /** The file that took its place; null where none did. */
  replacedBy: maybe(number()),
  /** Lines that it is on. */
  usedBy: list(number())
})
export type FileView = TypeOf<typeof fileView>

export const fileTaken = shape({
  file: fileView,
  /** Whether the library had the same content already. */
  wasKnown: flag()
})
export type FileTaken = TypeOf<typeof fileTaken>

/** Something that is made to fit: waiting, under way, or what became of it. */
export const fitView = shape({
  id: number(),
  /** Of which file; null for what is made of none. */
  file: maybe(number()),
  /** What is done. */
  words: text(),
  share: number(),
  state: oneOf(['waits', 'works', 'done', 'failed', 'stopped']),
  said: text(),
  /** Files that were made. */
  made: list(number())
})
export type FitView = TypeOf<typeof fitView>

/** Where what somebody sent is seen as it will run, for a while. */
export const sandboxView = shape({
  address: text(),
  /** Milliseconds since 1970. */
  until: number()
})
export type SandboxView = TypeOf<typeof sandboxView>

/** Hosts that a tag was seen to reach for. */
export const tagRun = shape({ calls: list(text()) })
export type TagRun = TypeOf<typeof tagRun>

/** A file in the place of another: on which lines, in how many ads that go to review again. */
export const fileReplaced = shape({ ads: number(), lines: list(number()), was: fileView, by: fileView })
export type FileReplaced = TypeOf<typeof fileReplaced>

/** What came of all ads that show a file, or showed it; rates with their 90 % ranges. */
export const fileResults = shape({
  impressions: number(),
  viewable: number(),
  views: number(),
  clicks: number(),
  conversions: number(),
  spendMicros: number(),
  clickRange: interval(),
  viewRange: interval()
})
export type FileResults = TypeOf<typeof fileResults>
