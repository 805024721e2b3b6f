import { TEXTS, type CreativeKind, type Medium } from '@tin-harbor/core/creative'
import type { FileView } from '@tin-harbor/core/contract'

/** What is asked of an ad, and how. */
export interface AdField {
  part: string
  what: string
  is: 'text' | 'file' | 'size' | 'stance' | 'link' | 'markup' | 'seconds'
  /** Letters that a text may have. */
  most?: number
  /** Of a file. */
  medium?: Medium
  /** It may be left out. */
  optional?: boolean
}

const text = (part: string, { what, most, optional }: { what: string; most: number; optional?: true }): AdField => ({
  part,
  what,
  is: 'text',
  most,
  optional
})
const texts = (all: Readonly<Record<string, { what: string; most: number; optional?: true }>>) =>
  Object.entries(all).map(([part, limit]) => text(part, limit))
const file = (part: string, what: string, medium: Medium = 'picture', optional = false): AdField => ({
  part,
  what,
  is: 'file',
  medium,
  optional
})
const companion: AdField = { part: 'companion', what: 'A companion beside it', is: 'size', optional: true }

/** Kinds of ad that are written here, and what each is made of. */
export const AD_KINDS = {
  native: { words: 'a native ad', fields: [...texts(TEXTS.native), file('icon', 'Icon'), file('picture', 'Picture')] },
  notification: {
    words: 'a notification',
    fields: [...texts(TEXTS.notification), file('icon', 'Icon'), file('picture', 'Picture, if any', 'picture', true)]
  },
  interstitial: {
    words: 'an interstitial',
    fields: [{ part: 'upright', what: 'It stands', is: 'stance' }, file('file', 'Picture')]
  },
  video: {
    words: 'a film with what goes with it',
    fields: [
      file('file', 'Film', 'film'),
      { part: 'skipAfter', what: 'It may be skipped after, seconds', is: 'seconds', optional: true },
      ...texts(TEXTS.video),
      { part: 'overlayFrom', what: 'The call stands from second', is: 'seconds', optional: true },
      file('endCard', 'End card, once it is over', 'picture', true),
      file('icon', 'Icon in its corner', 'picture', true),
      companion
    ]
  },
  audio: { words: 'a spot with what goes with it', fields: [file('file', 'Sound', 'sound'), ...texts(TEXTS.audio), companion] },
  'pop page': { words: 'a page that opens in a window', fields: [{ part: 'link', what: 'The page', is: 'link' }] },
  redirect: { words: 'a redirect visit', fields: [{ part: 'link', what: 'The page', is: 'link' }] },
  markup: {
    words: 'a tag of somebody else’s',
    fields: [
      { part: 'size', what: 'Size', is: 'size' },
      { part: 'markup', what: 'Its markup', is: 'markup' }
    ]
  }
} as const satisfies Partial<Record<CreativeKind, { words: string; fields: readonly AdField[] }>>
export type AdKind = keyof typeof AD_KINDS

const NOTHING: Readonly<Record<AdField['is'], (optional: boolean) => unknown>> = {
  text: (optional) => (optional ? null : ''),
  file: () => null,
  size: (optional) => (optional ? null : ''),
  stance: () => true,
  link: () => '',
  markup: () => '',
  seconds: () => null
}

/** What is typed as the parts of an ad; what is known of a film or a sound goes with it. */
export function partsOf(kind: AdKind, typed: Readonly<Record<string, string>>, files: readonly FileView[]): Record<string, unknown> {
  const fields: readonly AdField[] = AD_KINDS[kind].fields
  const parts = Object.fromEntries(
    fields.map(({ part, is, optional = false }): [string, unknown] => {
      const said = typed[part] ?? ''
      if (is === 'stance') return [part, said !== 'wide']
      if (said.trim() === '') return [part, NOTHING[is](optional)]
      return [part, is === 'seconds' ? Number(said) : said]
    })
  )
  const chosen = files.find(({ sha256 }) => parts.file === `sha256:${sha256}`)
  if (kind === 'video')
    return { ...parts, seconds: chosen?.facts.seconds ?? null, width: chosen?.facts.width ?? null, height: chosen?.facts.height ?? null }
  return kind === 'audio' ? { ...parts, seconds: chosen?.facts.seconds ?? null } : parts
}
