import type { Shape } from '../taxonomy/index.js'
import { inkOn, mixed, veilOver } from './colours.js'
import { pixelsOf } from './in-place.js'
import type { Plate, PlateText } from './plate.js'

/** How wide a text is in pixels. */
export type Measure = (text: string, weight: Weight, size: number) => number
export type Weight = 'bold' | 'plain'

export interface Box {
  x: number
  y: number
  width: number
  height: number
}

/** What is painted, in order. Words stand on their base line. */
export type Paint =
  | ({ kind: 'fill'; colour: string; opacity: number; radius: number } & Box)
  | ({ kind: 'picture'; of: 'cover' | 'image'; whole: boolean } & Box)
  | {
      kind: 'words'
      part: PlateText
      weight: Weight
      size: number
      colour: string
      lines: { text: string; x: number; y: number; width: number }[]
    }

/** A plate in one size. */
export interface Built {
  shape: Shape
  width: number
  height: number
  paints: Paint[]
  /** Texts for which there was no room. */
  without: PlateText[]
  /** Why it cannot be built in this size. */
  problem: string | null
}

/** Least letters that are read, pixels. */
interface Least {
  headline: number
  other: number
}
const LEAST: Least = { headline: 12, other: 10 }
/** In a slot that is no higher than this they may be smaller. */
const LOW = 60
const LEAST_LOW: Least = { headline: 10, other: 9 }
const LEADING = { headline: 1.14, text: 1.3 } as const
/** Height of capitals and of what hangs below the line, of a letter's size. */
const [ASCENT, DESCENT] = [0.74, 0.22]
/** A slot so much wider than high has its parts in a row. */
const ROW = 2.6

interface Room {
  /** Where words stand. */
  words: Box
  /** Where the image stands; null where it has no place of its own. */
  image: Box | null
}

const inset = ({ x, y, width, height }: Box, by: number): Box => ({ x: x + by, y: y + by, width: width - 2 * by, height: height - 2 * by })
const isRow = ({ width, height }: { width: number; height: number }) => width / height >= ROW
const marginOf = ({ width, height }: { width: number; height: number }) =>
  Math.round(Math.max(4, Math.min(22, Math.min(width, height) * 0.07)))

/** The two places of a layout: the image's beside the words' where the slot is wide, above them where it is high. */
function roomOf(plate: Plate, all: Box): Room {
  const { layout } = plate
  if (plate.image === '') return { words: layout === 'label' ? labelOf(all) : all, image: null }
  const part = isRow(all) ? Math.min(all.height * 1.7, all.width * 0.3) / all.width : all.width > all.height * 1.1 ? 0.44 : 0.5
  const beside = all.width > all.height * 1.1
  const image: Box = beside ? { ...all, width: Math.round(all.width * part) } : { ...all, height: Math.round(all.height * part) }
  const words: Box = beside
    ? { ...all, x: image.x + image.width, width: all.width - image.width }
    : { ...all, y: image.y + image.height, height: all.height - image.height }
  return {
    words: layout === 'label' ? inset(words, Math.round(marginOf(all) / 2)) : words,
    image: layout === 'shelf' ? image : inset(image, marginOf(all))
  }
}

/** The card that words stand on where the picture has all the rest: the lower half, or the right one. */
function labelOf(all: Box): Box {
  const margin = marginOf(all)
  const { width, height } = all
  if (isRow(all)) return { x: Math.round(width * 0.3), y: margin, width: Math.round(width * 0.7) - margin, height: height - 2 * margin }
  const tall = Math.round(height * 0.52)
  return { x: margin, y: height - tall - margin, width: width - 2 * margin, height: tall }
}

/** A text in lines no wider than so; null where one of its words is wider. */
export function wrapped(text: string, width: number, measure: (text: string) => number): string[] | null {
  const lines: string[] = []
  let line = ''
  for (const word of text.trim().split(/\s+/)) {
    if (measure(word) > width) return null
    const longer = line === '' ? word : `${line} ${word}`
    if (line !== '' && measure(longer) > width) {
      lines.push(line)
      line = word
    } else line = longer
  }
  return line === '' ? lines : [...lines, line]
}

interface Stack {
  headline: { size: number; lines: string[] }
  text: { size: number; lines: string[] } | null
  brand: { size: number; text: string } | null
  button: { size: number; text: string; width: number; height: number } | null
  /** All of it, gaps included. */
  height: number
  gap: number
}

/** Letters of all parts, by those of the headline. */
const sizesBy = (headline: number, least: number) => ({
  text: Math.max(least, Math.round(headline * 0.56)),
  brand: Math.max(least, Math.round(headline * 0.46)),
  button: Math.max(least, Math.min(18, Math.round(headline * 0.58)))
})

function buttonOf(text: string, size: number, measure: Measure): NonNullable<Stack['button']> {
  return { size, text, width: Math.ceil(measure(text, 'bold', size) + size * 1.7), height: Math.round(size * 2.05) }
}

/** Parts one under the other with a headline so large; null where they need more room than there is. */
function stacked(said: Partial<Record<PlateText, string>>, room: Box, headline: number, least: number, measure: Measure): Stack | null {
  const sizes = sizesBy(headline, least)
  const gap = Math.max(3, Math.round(headline * 0.42))
  const lines = wrapped(said.headline ?? '', room.width, (text) => measure(text, 'bold', headline))
  if (!lines) return null
  const text = said.text === undefined ? null : wrapped(said.text, room.width, (one) => measure(one, 'plain', sizes.text))
  if (said.text !== undefined && !text) return null
  if (said.brand !== undefined && measure(said.brand, 'bold', sizes.brand) > room.width) return null
  const button = said.button === undefined ? null : buttonOf(said.button, sizes.button, measure)
  if (button && button.width > room.width) return null
  const heights = [
    ...(said.brand === undefined ? [] : [sizes.brand * (ASCENT + DESCENT)]),
    lines.length * headline * LEADING.headline,
    ...(text ? [text.length * sizes.text * LEADING.text] : []),
    ...(button ? [button.height] : [])
  ]
  const height = heights.reduce((sum, one) => sum + one, gap * (heights.length - 1))
  if (height > room.height) return null
  return {
    headline: { size: headline, lines },
    text: text ? { size: sizes.text, lines: text } : null,
    brand: said.brand === undefined ? null : { size: sizes.brand, text: said.brand },
    button,
    height,
    gap
  }
}

/** The largest headline with which all fits; null where none does. */
function largest<T>(most: number, least: number, fits: (size: number) => T | null): T | null {
  for (let size = Math.floor(most); size >= least; size--) {
    const found = fits(size)
    if (found) return found
  }
  return null
}

/** What is left out first where there is no room for all. */
const LESS: readonly (readonly PlateText[])[] = [[], ['text'], ['text', 'brand'], ['text', 'brand', 'button']]
/** A text is left out rather than that the headline is smaller than this share of what it could be without. */
const WORTH = 0.62

/** The texts that are said, without some. */
const saidOf = (plate: Plate, without: readonly PlateText[]): Partial<Record<PlateText, string>> =>
  Object.fromEntries(
    (['headline', 'text', 'brand', 'button'] as const).flatMap((part) =>
      plate[part].trim() === '' || without.includes(part) ? [] : [[part, plate[part].trim().replace(/\s+/g, ' ')]]
    )
  )

interface Colours {
  ground: string
  ink: string
  accent: string
  accentInk: string
}

type Placed = { paints: Paint[]; size: number }
type Place = (said: Partial<Record<PlateText, string>>) => Placed | null

/** Words one under the other, in the middle of their room. */
function stackIn(room: Box, least: Least, colours: Colours, measure: Measure): Place {
  const most = Math.min(64, room.height * 0.42, room.width * 0.2 + 8)
  return (said) => {
    const stack = largest(most, least.headline, (size) => stacked(said, room, size, least.other, measure))
    if (!stack) return null
    const paints: Paint[] = []
    let y = room.y + (room.height - stack.height) / 2
    const put = (part: PlateText, weight: Weight, size: number, colour: string, lines: readonly string[], leading: number) => {
      const placed = lines.map((text, n) => ({
        text,
        x: room.x,
        y: y + size * (leading * n + ASCENT + (leading - 1) / 2),
        width: measure(text, weight, size)
      }))
      paints.push({ kind: 'words', part, weight, size, colour, lines: placed })
      y += lines.length * size * leading + stack.gap
    }
    const { brand, headline, text, button } = stack
    if (brand) put('brand', 'bold', brand.size, mixed(colours.ink, colours.ground, 0.82), [brand.text], ASCENT + DESCENT)
    put('headline', 'bold', headline.size, colours.ink, headline.lines, LEADING.headline)
    if (text) put('text', 'plain', text.size, colours.ink, text.lines, LEADING.text)
    if (button) paints.push(...buttonAt(button, room.x, y, colours))
    return { paints, size: headline.size }
  }
}

function buttonAt(
  { size, text, width, height }: NonNullable<Stack['button']>,
  x: number,
  y: number,
  { accent, accentInk }: Colours
): Paint[] {
  const inner = width - size * 1.7
  return [
    { kind: 'fill', colour: accent, opacity: 1, radius: Math.round(height * 0.16), x, y, width, height },
    {
      kind: 'words',
      part: 'button',
      weight: 'bold',
      size,
      colour: accentInk,
      lines: [{ text, x: x + size * 0.85, y: y + height / 2 + size * (ASCENT / 2), width: inner }]
    }
  ]
}

/** Words in a row: brand and headline, or headline and text, with the button at the end. */
function rowIn(room: Box, least: Least, colours: Colours, measure: Measure): Place {
  const most = Math.min(34, room.height * 0.5)
  return ({ button: named, ...said }) =>
    largest(most, least.headline, (size) => {
      const button = named === undefined ? null : buttonOf(named, Math.max(least.other, Math.min(22, Math.round(size * 0.62))), measure)
      if (button && (button.height > room.height || button.width > room.width / 2)) return null
      const words = { ...room, width: room.width - (button ? button.width + size * 0.6 : 0) }
      const placed = stackIn(words, { ...least, headline: size }, colours, measure)(said)
      if (!placed) return null
      const paints = [...placed.paints]
      if (button) paints.push(...buttonAt(button, room.x + room.width - button.width, room.y + (room.height - button.height) / 2, colours))
      return { paints, size: placed.size }
    })
}

/** The words of a plate in a room: all of them, or those for which there is room. */
function placeWords(plate: Plate, place: Place): { placed: Placed; without: PlateText[] } | null {
  const tries = LESS.flatMap((without) => {
    const placed = place(saidOf(plate, without))
    return placed ? [{ placed, without: without.filter((part) => plate[part].trim() !== '') }] : []
  })
  // The button is what is clicked: without it is the last resort, however large the headline would be.
  const usual = tries.filter(({ without }) => !without.includes('button'))
  const best = Math.max(...usual.map(({ placed }) => placed.size))
  return usual.find(({ placed }) => placed.size >= best * WORTH) ?? tries[0] ?? null
}

/** What lies under the words, by layout. */
function groundOf({ layout, cover, image, ground }: Plate, all: Box, room: Room): { paints: Paint[]; ground: string; ink: string } {
  const fill = (box: Box, opacity = 1, radius = 0): Paint => ({ kind: 'fill', colour: ground, opacity, radius, ...box })
  const behind: Paint[] = [
    fill(all),
    ...(cover === '' || layout === 'words' ? [] : [{ kind: 'picture' as const, of: 'cover' as const, whole: false, ...all }])
  ]
  const shown: Paint[] = room.image && image !== '' ? [{ kind: 'picture', of: 'image', whole: false, ...room.image }] : []
  switch (layout) {
    case 'shelf':
      return { paints: [...behind, fill(room.words), ...shown], ground, ink: inkOn(ground) }
    case 'label':
      return { paints: [...behind, ...shown, fill(room.words, 1, marginOf(all) / 2)], ground, ink: inkOn(ground) }
    case 'veil': {
      const { opacity, ink } = veilOver(ground)
      return { paints: [...behind, ...shown, fill(cover === '' ? room.words : image === '' ? all : room.words, opacity)], ground, ink }
    }
    case 'words':
      return { paints: [...behind, ...shown], ground, ink: inkOn(ground) }
  }
}

/** Builds a plate in one size: what is painted where, by how wide its letters are. */
export function builtPlate(plate: Plate, shape: Shape, measure: Measure): Built {
  const pixels = pixelsOf(shape)
  if (!pixels) throw new Error(`“${shape}” has no pixels of its own.`)
  const all: Box = { x: 0, y: 0, ...pixels }
  const room = roomOf(plate, all)
  const under = groundOf(plate, all, room)
  const inner = inset(room.words, Math.min(marginOf(all), Math.round(room.words.height * 0.12)))
  const colours: Colours = { ground: under.ground, ink: under.ink, accent: plate.accent, accentInk: inkOn(plate.accent) }
  const least = pixels.height <= LOW ? LEAST_LOW : LEAST
  const words =
    plate.headline.trim() === '' ? null : placeWords(plate, (isRow(room.words) ? rowIn : stackIn)(inner, least, colours, measure))
  const picture = under.paints.map((one) => (one.kind === 'picture' && one.of === 'image' ? { ...one, whole: plate.whole } : one))
  return {
    shape,
    ...pixels,
    paints: [...picture, ...(words?.placed.paints ?? [])],
    without: words?.without ?? [],
    problem: plate.headline.trim() === '' ? 'It has no headline.' : words ? null : `“${plate.headline.trim()}” finds no room in it.`
  }
}
