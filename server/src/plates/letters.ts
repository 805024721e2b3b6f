import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { create, type Font } from 'fontkit'
import type { Measure, Weight } from '@tin-harbor/core/creative'

const require = createRequire(import.meta.url)
const WEIGHTS: Readonly<Record<Weight, number>> = { bold: 700, plain: 400 }
/** The letters of western Europe, then the others that the face has. */
const SETS = ['latin', 'latin-ext'] as const

const open = (weight: number, set: string) =>
  create(readFileSync(require.resolve(`@fontsource/archivo/files/archivo-${set}-${weight}-normal.woff`))) as Font
const faces = new Map<Weight, Font[]>()
function faceOf(weight: Weight): Font[] {
  const known = faces.get(weight) ?? SETS.map((set) => open(WEIGHTS[weight], set))
  faces.set(weight, known)
  return known
}

const has = (font: Font, letter: string) => font.hasGlyphForCodePoint(letter.codePointAt(0) ?? 0)
/** A text in runs of one font each; a letter that no font has is of the first. */
function runsOf(text: string, weight: Weight): { font: Font; text: string }[] {
  const fonts = faceOf(weight)
  const runs: { font: Font; text: string }[] = []
  for (const letter of text) {
    const last = runs.at(-1)
    // What stands between words is of the word before.
    const font = last && has(last.font, letter) ? last.font : (fonts.find((one) => has(one, letter)) ?? fonts[0])
    if (last?.font === font) last.text += letter
    else runs.push({ font, text: letter })
  }
  return runs
}

/** Letters of a text that are in no font of ours: they would be drawn as boxes. */
export const missingLetters = (text: string): string[] =>
  [...new Set(text.replace(/\s/g, ''))].filter((letter) => !faceOf('bold').some((font) => has(font, letter)))

/** How wide a text is, by the fonts that pictures are built with. */
export const measureLetters: Measure = (text, weight, size) =>
  runsOf(text, weight).reduce((sum, run) => sum + (run.font.layout(run.text).advanceWidth * size) / run.font.unitsPerEm, 0)

/** A text as the outlines of its letters, as SVG: what draws it needs no fonts. */
export function outlineOf(text: string, weight: Weight, size: number, x: number, y: number): string {
  let pen = x
  const letters: string[] = []
  for (const run of runsOf(text, weight)) {
    const scale = size / run.font.unitsPerEm
    const { glyphs, positions } = run.font.layout(run.text)
    glyphs.forEach((glyph, n) => {
      const { xAdvance, xOffset, yOffset } = positions[n]
      const [left, top] = [pen + xOffset * scale, y - yOffset * scale].map((pixels) => pixels.toFixed(2))
      const place = `translate(${left} ${top}) scale(${scale.toFixed(5)} ${(-scale).toFixed(5)})`
      letters.push(`<path transform="${place}" d="${glyph.path.toSVG()}"/>`)
      pen += xAdvance * scale
    })
  }
  return letters.join('')
}
