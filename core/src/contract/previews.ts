import { CREATIVE_KINDS, MEDIA } from '../creative/index.js'
import { FORMATS } from '../taxonomy/index.js'
import { flag, list, maybe, number, oneOf, shape, text, type TypeOf } from './shapes.js'

/** What an ad shows: texts and files by the parts that they are. A file is asked for by its content. */
export const adPreview = shape({
  id: number(),
  name: text(),
  kind: oneOf(CREATIVE_KINDS),
  shapes: list(text()),
  review: text(),
  isOff: flag(),
  landing: text(),
  said: list(shape({ part: text(), value: text() })),
  files: list(
    shape({
      part: text(),
      sha256: text(),
      medium: oneOf(MEDIA),
      altText: text(),
      width: maybe(number()),
      height: maybe(number()),
      seconds: maybe(number()),
      hasProxy: flag()
    })
  ),
  /** Where a click on it is followed, for real: of a preview it counts nowhere. */
  click: text(),
  /** Where a banner or a tag runs; null for what is shown as it is. */
  runs: maybe(text())
})
export type AdPreview = TypeOf<typeof adPreview>

export const linePreview = shape({ advertiser: text(), format: oneOf(FORMATS), ads: list(adPreview) })
export type LinePreview = TypeOf<typeof linePreview>

/** A link that opens until then, milliseconds since 1970. */
export const previewLinkView = shape({ id: number(), until: number(), madeBy: maybe(text()) })
export type PreviewLinkView = TypeOf<typeof previewLinkView>
/** Where a new link leads: it is told once. */
export const previewLinkMade = shape({ path: text(), links: list(previewLinkView) })
export type PreviewLinkMade = TypeOf<typeof previewLinkMade>
