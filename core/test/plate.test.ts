import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  LAYOUTS,
  PLATE_SHAPES,
  builtPlate,
  contentOf,
  contrast,
  inkOn,
  mixed,
  plateFindings,
  plateParts,
  plateSchema,
  veilOver,
  wrapped,
  type Box,
  type Built,
  type Measure,
  type Plate
} from '@tin-harbor/core/creative'
import { parseInput } from '@tin-harbor/core/input'

const measure: Measure = (text, weight, size) => text.length * size * (weight === 'bold' ? 0.58 : 0.52)
const PICTURE = `sha256:${'a'.repeat(64)}`
const PLATE: Plate = {
  name: 'Winter',
  layout: 'shelf',
  headline: 'See the winter sky',
  text: 'A telescope that stands in a minute.',
  brand: 'Nightjar',
  button: 'See it',
  image: PICTURE,
  whole: false,
  cover: '',
  focal: { x: 0.5, y: 0.5 },
  ground: '#16323c',
  accent: '#d9a441',
  sizes: [...PLATE_SHAPES]
}
const colours = fc.integer({ min: 0, max: 0xffffff }).map((value) => `#${value.toString(16).padStart(6, '0')}`)
const words = (most: number) =>
  fc.array(fc.stringMatching(/^[a-z]{1,9}$/), { maxLength: 12 }).map((all) => all.join(' ').slice(0, most).trim())
const plates: fc.Arbitrary<Plate> = fc.record({
  name: fc.constant('Any'),
  layout: fc.constantFrom(...LAYOUTS),
  headline: words(60),
  text: words(90),
  brand: words(25),
  button: words(20),
  image: fc.constantFrom('', PICTURE),
  whole: fc.boolean(),
  cover: fc.constantFrom('', PICTURE),
  focal: fc.record({ x: fc.double({ min: 0, max: 1, noNaN: true }), y: fc.double({ min: 0, max: 1, noNaN: true }) }),
  ground: colours,
  accent: colours,
  sizes: fc.constant<Plate['sizes']>([...PLATE_SHAPES])
})

const isInside = (inner: Box, outer: Box, by = 0.5) =>
  inner.x >= outer.x - by &&
  inner.y >= outer.y - by &&
  inner.x + inner.width <= outer.x + outer.width + by &&
  inner.y + inner.height <= outer.y + outer.height + by
/** Where the lines of a text are, from the height of their letters to what hangs below. */
const linesOf = ({ paints }: Built) =>
  paints.flatMap((one) =>
    one.kind === 'words'
      ? one.lines.map(({ x, y, width }) => ({
          part: one.part,
          x,
          y: y - one.size * 0.7,
          width,
          height: one.size * 0.9,
          colour: one.colour
        }))
      : []
  )
const meet = (a: Box, b: Box) => a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height

describe('a plate', () => {
  it.each(PLATE_SHAPES)('is built in %s: all it shows is inside, no two lines of words meet, and none is too small to be read', (shape) => {
    fc.assert(
      fc.property(plates, (plate) => {
        const built = builtPlate(plate, shape, measure)
        const all = { x: 0, y: 0, width: built.width, height: built.height }
        for (const one of built.paints) if (one.kind !== 'words') expect(isInside(one, all)).toBe(true)
        const lines = linesOf(built)
        lines.forEach((line, n) => {
          expect(isInside(line, all)).toBe(true)
          expect(lines.slice(n + 1).some((other) => meet(line, other))).toBe(false)
        })
        for (const one of built.paints) if (one.kind === 'words') expect(one.size).toBeGreaterThanOrEqual(9)
        if (built.problem !== null) {
          expect(lines).toEqual([])
          return
        }
        // What is said is there, or is told as what there was no room for.
        for (const part of ['headline', 'text', 'brand', 'button'] as const)
          expect(lines.some((line) => line.part === part)).toBe(plate[part] !== '' && !built.without.includes(part))
        expect(lines.filter(({ part }) => part === 'headline').length).toBeGreaterThan(0)
      }),
      { numRuns: 40 }
    )
  })

  it('says all it has where there is room, and leaves the text out first', () => {
    expect(builtPlate(PLATE, '300x600', measure).without).toEqual([])
    expect(builtPlate(PLATE, '320x50', measure).without).toEqual(['text'])
    expect(builtPlate({ ...PLATE, headline: 'Extraordinarilylongwordwithoutanyspace' }, '160x600', measure).problem).toContain(
      'finds no room'
    )
    expect(builtPlate({ ...PLATE, headline: ' ' }, '300x250', measure).problem).toBe('It has no headline.')
  })

  it('shows its pictures in their places: the image of its own, the cover behind all, neither where there is none', () => {
    const pictures = (plate: Plate) =>
      builtPlate(plate, '300x250', measure).paints.flatMap((one) => (one.kind === 'picture' ? [[one.of, one.width, one.whole]] : []))
    expect(pictures(PLATE)).toEqual([['image', 132, false]])
    expect(pictures({ ...PLATE, whole: true, cover: PICTURE, layout: 'veil' })[0]).toEqual(['cover', 300, false])
    expect(pictures({ ...PLATE, image: '', cover: PICTURE, layout: 'label' })).toEqual([['cover', 300, false]])
    expect(pictures({ ...PLATE, image: '', cover: PICTURE, layout: 'words' })).toEqual([])
  })

  it('is read on any ground: ink has the contrast that is asked for, and under a veil whatever lies behind it', () => {
    fc.assert(
      fc.property(colours, colours, (ground, behind) => {
        expect(contrast(inkOn(ground), ground)).toBeGreaterThanOrEqual(4.5)
        const { opacity, ink } = veilOver(ground)
        expect(contrast(ink, mixed(ground, behind, opacity))).toBeGreaterThanOrEqual(4.4)
        expect(contrast(ground, behind)).toBeCloseTo(contrast(behind, ground), 10)
      })
    )
    expect(contrast('#000000', '#ffffff')).toBeCloseTo(21, 6)
    expect(contrast('#777777', '#ffffff')).toBeCloseTo(4.48, 2)
  })

  it('is looked over as it is typed: what is empty but may be is not missed', () => {
    expect(plateFindings({ ...PLATE, text: '', brand: '', button: '' })).toEqual([])
    expect(
      plateFindings({ ...PLATE, headline: 'LOOK HERE NOW', button: 'Read on!!' }).map(({ part, severity }) => [part, severity])
    ).toEqual([
      ['headline', 'warns'],
      ['button', 'warns']
    ])
    expect(plateFindings({ ...PLATE, headline: 'a'.repeat(61) })[0]).toMatchObject({ part: 'headline', severity: 'stops' })
  })

  it('is one content in every size, which its words and picture make', () => {
    const content = (plate: Plate) => contentOf({ parts: plateParts(plate) })
    expect(content({ ...PLATE, layout: 'veil', ground: '#ffffff' })).toEqual(content(PLATE))
    expect(content({ ...PLATE, headline: 'Another' }).headline).not.toBe(content(PLATE).headline)
    expect(content({ ...PLATE, headline: 'Another' }).picture).toBe(content(PLATE).picture)
  })

  it.each([
    ['ground', 'red'],
    ['image', 'sha256:12'],
    ['layout', 'pile'],
    ['sizes', []],
    ['sizes', ['300x250', '300x250']]
  ])('whose %s is %j is not taken', (field, value) => {
    expect(() => parseInput(plateSchema, { ...PLATE, [field]: value })).toThrow(
      expect.objectContaining({ issues: [expect.objectContaining({ field: expect.stringContaining(field) as string })] }) as Error
    )
  })
})

describe('a text in lines', () => {
  it('keeps its words in their order, no line wider than there is room', () => {
    fc.assert(
      fc.property(words(90), fc.integer({ min: 20, max: 90 }), (text, width) => {
        const lines = wrapped(text, width, (one) => one.length)
        expect(lines?.join(' ')).toBe(text.trim())
        for (const line of lines ?? []) expect(line.length).toBeLessThanOrEqual(width)
      })
    )
    expect(wrapped('much too long', 3, (one) => one.length)).toBeNull()
  })
})
