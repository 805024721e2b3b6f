import { yup } from '../input/index.js'
import { cutText, letters } from './letters.js'
import type { CreativeDraft } from './kinds.js'
import { TEXTS } from './texts.js'
import { asRead, writingFindings, type WritingFinding } from './writing.js'

/** Kinds of ad that are mixed. */
export const MIX_KINDS = ['native', 'notification'] as const
export type MixKind = (typeof MIX_KINDS)[number]

/** What a matrix is made of: headlines down, pictures across, texts one sheet each. */
export const AXES = ['headlines', 'pictures', 'texts'] as const
export type Axis = (typeof AXES)[number]

/** A part of a matrix. Its key is its own for good, so that several people can add and move parts at once. */
export interface MixPart {
  key: string
  /** Short headline or title, name of a picture's file, or text. */
  said: string
  /** Long headline; left out for the short one. */
  long?: string
  /** Of a picture: the file, by its content. */
  file?: string
  /** None of its combinations is made. */
  struck?: boolean
}

/** What all ads of a matrix have in common. */
export interface MixCommon {
  brand: string
  button: string
  icon: string
}

export interface Mix {
  name: string
  kind: MixKind
  headlines: MixPart[]
  pictures: MixPart[]
  texts: MixPart[]
  common: MixCommon
  /** Single combinations that are not made, as `cellKey` names them. */
  struck: string[]
}

/** Ads that one matrix makes. */
export const MOST_CELLS = 1000
const MOST_PARTS = 50

const keyField = yup
  .string()
  .matches(/^[a-z0-9]{1,12}$/, 'A part is known by letters and digits.')
  .required('A part needs its key.')
const partSchema: yup.ObjectSchema<MixPart> = yup
  .object({
    key: keyField,
    said: yup.string().max(300, 'A text has at most 300 letters.').defined(),
    long: yup.string().max(300, 'A text has at most 300 letters.').optional(),
    file: yup
      .string()
      .matches(/^sha256:[0-9a-f]{64}$/, 'A picture is a file of the library.')
      .optional(),
    struck: yup.boolean().optional()
  })
  .noUnknown()
const partsField = (what: string) =>
  yup
    .array()
    .of(partSchema.required())
    .max(MOST_PARTS, `At most ${MOST_PARTS} ${what}.`)
    .required()
    .test('once', `Two ${what} have one key.`, (parts) => new Set(parts?.map(({ key }) => key)).size === (parts?.length ?? 0))

export const mixSchema: yup.ObjectSchema<Mix> = yup
  .object({
    name: yup.string().trim().required('The matrix needs a name.').max(60, 'The name has at most 60 letters.'),
    kind: yup.string().oneOf(MIX_KINDS, 'Native ads and notifications are mixed.').required(),
    headlines: partsField('headlines'),
    pictures: partsField('pictures').test(
      'files',
      'A picture is a file of the library.',
      (parts) => parts?.every(({ file }) => file !== undefined) ?? true
    ),
    texts: partsField('texts'),
    common: yup
      .object({
        brand: yup.string().max(190).defined(),
        button: yup.string().max(190).defined(),
        icon: yup
          .string()
          .matches(/^(sha256:[0-9a-f]{64})?$/, 'The icon is a file of the library.')
          .defined()
      })
      .noUnknown()
      .required(),
    struck: yup
      .array()
      .of(yup.string().max(60).required())
      .max(MOST_CELLS * 2, 'Strike parts out whole where so many combinations are.')
      .required()
  })
  .noUnknown()
  .test('cells', '', function (mix) {
    const cells = (mix.headlines?.length ?? 0) * Math.max(1, mix.pictures?.length ?? 0) * Math.max(1, mix.texts?.length ?? 0)
    return (
      cells <= MOST_CELLS ||
      this.createError({ path: 'headlines', message: `These are ${cells} combinations; at most ${MOST_CELLS} are made.` })
    )
  })

/** A combination by its parts' keys. */
export const cellKey = (headline: string, picture: string, text: string) => `${headline} ${picture} ${text}`

export interface MixCell {
  key: string
  headline: MixPart
  /** Null of a notification without pictures. */
  picture: MixPart | null
  text: MixPart
  /** By itself, or with a part of it. */
  struck: boolean
}

/** All combinations, row by row on one sheet after the other. */
export function cellsOf({ kind, headlines, pictures, texts, struck }: Mix): MixCell[] {
  const out = new Set(struck)
  const columns: (MixPart | null)[] = pictures.length === 0 && kind === 'notification' ? [null] : pictures
  return texts.flatMap((text) =>
    headlines.flatMap((headline) =>
      columns.map((picture): MixCell => {
        const key = cellKey(headline.key, picture?.key ?? '-', text.key)
        return { key, headline, picture, text, struck: out.has(key) || [headline, picture, text].some((part) => part?.struck === true) }
      })
    )
  )
}

/** Letters of a name that a part takes. */
const NAMED = 44
const called = (text: string) => cutText(text.trim().replace(/\s+/g, ' '), NAMED)

/** An ad's name, by its parts; those that all ads share are left out. */
export function cellName({ name, pictures, texts }: Mix, { headline, picture, text }: MixCell): string {
  return [
    called(headline.said),
    ...(picture && pictures.length > 1 ? [called(picture.said.replace(/\.[a-z]{3,4}$/i, ''))] : []),
    ...(texts.length > 1 ? [called(text.said)] : []),
    name
  ].join(' / ')
}

/** The parts of the ad that a combination is. */
export function cellParts({ kind, common }: Pick<Mix, 'kind' | 'common'>, { headline, picture, text }: MixCell): CreativeDraft['parts'] {
  const said = headline.said.trim()
  if (kind === 'notification') return { title: said, text: text.said.trim(), icon: common.icon, picture: picture?.file ?? null }
  return {
    headline: said,
    longHeadline: (headline.long ?? '').trim() || said,
    text: text.said.trim(),
    brand: common.brand.trim(),
    icon: common.icon,
    picture: picture?.file ?? '',
    button: common.button.trim()
  }
}

/** What is found in a matrix: of a part by its axis and key, of what is common by its field. */
export interface MixFinding extends WritingFinding {
  axis: Axis | 'common'
  /** Key of the part, or the field. */
  key: string
}

/** What is found in the texts of a matrix, in parts that are struck out too: they may be taken in again. */
export function mixFindings({ kind, headlines, texts, pictures, common }: Mix): MixFinding[] {
  const limits = TEXTS[kind] as Readonly<Record<string, { what: string; most: number }>>
  const noted = (axis: MixFinding['axis'], key: string, found: readonly WritingFinding[]) => found.map((one) => ({ axis, key, ...one }))
  return [
    ...headlines.flatMap(({ key, said, long }) => [
      ...noted('headlines', key, writingFindings(said, limits.headline ?? limits.title)),
      ...(kind === 'native' && long !== undefined && long.trim() !== ''
        ? noted('headlines', key, writingFindings(long, limits.longHeadline))
        : [])
    ]),
    ...texts.flatMap(({ key, said }) => noted('texts', key, writingFindings(said, limits.text))),
    ...doubles('headlines', headlines, ({ said, long }) => `${asRead(said)}|${asRead(long ?? '')}`),
    ...doubles('texts', texts, ({ said }) => asRead(said)),
    ...doubles('pictures', pictures, ({ file }) => file ?? ''),
    ...(kind === 'native'
      ? (['brand', 'button'] as const).flatMap((field) => noted('common', field, writingFindings(common[field], limits[field])))
      : []),
    ...(common.icon === '' ? noted('common', 'icon', [{ says: 'The icon is needed.', severity: 'stops' }]) : [])
  ]
}

/** Parts of an axis that say what one before them says. */
function doubles(axis: Axis, parts: readonly MixPart[], read: (part: MixPart) => string): MixFinding[] {
  const seen = new Map<string, number>()
  return parts.flatMap((part, n): MixFinding[] => {
    const said = read(part)
    const first = seen.get(said)
    seen.set(said, first ?? n)
    if (first === undefined || said === '' || said === '|') return []
    return [{ axis, key: part.key, severity: 'stops', says: `It says what ${first + 1} says.` }]
  })
}

/** Lines of a pasted text as parts, those that are there already left out. @param key makes keys of parts */
export function pastedParts(pasted: string, parts: readonly MixPart[], key: () => string): MixPart[] {
  const there = new Set(parts.map(({ said }) => asRead(said)))
  return pasted.split(/\r?\n/).flatMap((line): MixPart[] => {
    const said = line.replace(/\t/g, ' ').trim()
    if (letters(said) === 0 || there.has(asRead(said))) return []
    there.add(asRead(said))
    return [{ key: key(), said }]
  })
}

/** What two people wrote into one part, of which one stands. */
export interface MixClash {
  axis: Axis
  key: string
  mine: string
  theirs: string
}

/**
 * My matrix over somebody else's, both from one before: what either added, took away, struck out or wrote is kept; where both wrote the
 * same part mine stands, and is told.
 */
export function mergedMix(base: Mix, mine: Mix, theirs: Mix): { mix: Mix; clashes: MixClash[] } {
  const clashes: MixClash[] = []
  const pick = <T>(was: T, own: T, other: T): T => (JSON.stringify(own) === JSON.stringify(was) ? other : own)
  const axis = (name: Axis): MixPart[] => {
    const [was, own] = [base, mine].map((mix) => new Map(mix[name].map((part) => [part.key, part])))
    const kept = theirs[name].flatMap((part): MixPart[] => {
      const [before, now] = [was.get(part.key), own.get(part.key)]
      // What I took away is gone, unless they wrote in it meanwhile.
      if (!now) return before && JSON.stringify(before) === JSON.stringify(part) ? [] : [part]
      if (!before) return [now]
      const wrote = (one: MixPart) => one.said !== before.said || one.long !== before.long
      if (wrote(now) && wrote(part) && (now.said !== part.said || now.long !== part.long))
        clashes.push({ axis: name, key: part.key, mine: now.said, theirs: part.said })
      const merged: MixPart = {
        ...part,
        said: pick(before.said, now.said, part.said),
        long: pick(before.long, now.long, part.long),
        struck: pick(before.struck, now.struck, part.struck)
      }
      return [merged]
    })
    const there = new Set(kept.map(({ key }) => key))
    // What they took away comes back only where I wrote in it.
    const added = mine[name].filter(
      (part) => !there.has(part.key) && (!was.has(part.key) || JSON.stringify(was.get(part.key)) !== JSON.stringify(part))
    )
    return [...kept, ...added]
  }
  const struck = new Set(theirs.struck)
  for (const cell of mine.struck) if (!base.struck.includes(cell)) struck.add(cell)
  for (const cell of base.struck) if (!mine.struck.includes(cell)) struck.delete(cell)
  const mix: Mix = {
    name: pick(base.name, mine.name, theirs.name),
    kind: pick(base.kind, mine.kind, theirs.kind),
    headlines: axis('headlines'),
    pictures: axis('pictures'),
    texts: axis('texts'),
    common: {
      brand: pick(base.common.brand, mine.common.brand, theirs.common.brand),
      button: pick(base.common.button, mine.common.button, theirs.common.button),
      icon: pick(base.common.icon, mine.common.icon, theirs.common.icon)
    },
    struck: [...struck]
  }
  return { mix: JSON.parse(JSON.stringify(mix)) as Mix, clashes }
}

/** "84 ads of 10 headlines and 9 pictures, 6 struck". */
export function mixWords(mix: Mix): string {
  const cells = cellsOf(mix)
  const struck = cells.filter((cell) => cell.struck).length
  const many = (n: number, one: string) => `${n.toLocaleString('en')} ${n === 1 ? one : `${one}s`}`
  const parts = [many(mix.headlines.length, 'headline'), many(mix.pictures.length, 'picture')]
  if (mix.texts.length > 1) parts.push(many(mix.texts.length, 'text'))
  const listed = `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`
  return `${many(cells.length - struck, 'ad')} of ${listed}${struck > 0 ? `, ${struck.toLocaleString('en')} struck` : ''}`
}
