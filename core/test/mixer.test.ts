import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  MOST_CELLS,
  cellKey,
  cellName,
  cellParts,
  cellsOf,
  contentOf,
  creativeSchema,
  mergedMix,
  mixFindings,
  mixSchema,
  mixWords,
  pastedParts,
  writingFindings,
  type Mix,
  type MixPart
} from '../src/creative/index.js'
import { InputError, parseInput } from '../src/input/index.js'

const hash = (n: number) => `sha256:${n.toString(16).padStart(64, '0')}`
const parts = (what: string, count: number): MixPart[] =>
  Array.from({ length: count }, (_, n) => ({
    key: `${what}${n}`,
    said: what === 'p' ? `sky ${n}.png` : `${what} number ${n}`,
    ...(what === 'p' ? { file: hash(n + 1) } : {})
  }))
const mixOf = (over: Partial<Mix> = {}): Mix => ({
  name: 'Winter',
  kind: 'native',
  headlines: parts('h', 3),
  pictures: parts('p', 2),
  texts: parts('t', 1),
  common: { brand: 'Nightjar', button: 'See it', icon: hash(99) },
  struck: [],
  ...over
})
const issues = (mix: unknown) => {
  try {
    parseInput(mixSchema, mix)
    return []
  } catch (error) {
    return (error as InputError).issues.map(({ field }) => field)
  }
}

describe('a matrix', () => {
  it('makes every combination once, with a name of its own and parts that its kind takes', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 7 }), fc.integer({ min: 1, max: 6 }), fc.integer({ min: 1, max: 3 }), (h, p, t) => {
        const mix = mixOf({ headlines: parts('h', h), pictures: parts('p', p), texts: parts('t', t) })
        const cells = cellsOf(mix)
        expect(cells).toHaveLength(h * p * t)
        expect(new Set(cells.map(({ key }) => key)).size).toBe(cells.length)
        expect(new Set(cells.map((cell) => cellName(mix, cell))).size).toBe(cells.length)
        const drafts = cells.map((cell) =>
          parseInput(creativeSchema, { name: cellName(mix, cell), kind: mix.kind, parts: cellParts(mix, cell) })
        )
        // What people respond to is of the parts: ads that share one share what it says.
        const contents = drafts.map(contentOf)
        expect(new Set(contents.map(({ headline }) => headline)).size).toBe(h)
        expect(new Set(contents.map(({ picture }) => picture)).size).toBe(p)
        expect(new Set(contents.map(({ text }) => text)).size).toBe(t)
      }),
      { numRuns: 30 }
    )
  })

  it('leaves out what is struck: single ones, rows, columns, sheets', () => {
    const mix = mixOf({ texts: parts('t', 2) })
    const left = (over: Partial<Mix>) => cellsOf({ ...mix, ...over }).filter(({ struck }) => !struck).length
    expect(left({})).toBe(12)
    expect(left({ struck: [cellKey('h0', 'p1', 't0'), cellKey('h0', 'p1', 't1'), 'gone p1 t0'] })).toBe(10)
    const without = (axis: 'headlines' | 'pictures' | 'texts') => ({ [axis]: mix[axis].map((part, n) => ({ ...part, struck: n === 0 })) })
    expect([left(without('headlines')), left(without('pictures')), left(without('texts'))]).toEqual([8, 6, 6])
    expect(mixWords({ ...mix, ...without('headlines') })).toBe('8 ads of 3 headlines, 2 pictures and 2 texts, 4 struck')
    expect(mixWords(mixOf({ headlines: parts('h', 1), pictures: parts('p', 1) }))).toBe('1 ad of 1 headline and 1 picture')
  })

  it('of notifications may do without pictures; a long headline is the short one where none is written', () => {
    const mix = mixOf({ kind: 'notification', pictures: [] })
    expect(cellsOf(mix).map((cell) => cellParts(mix, cell))[0]).toEqual({
      title: 'h number 0',
      text: 't number 0',
      icon: hash(99),
      picture: null
    })
    expect(cellsOf(mixOf({ pictures: [] }))).toEqual([])
    const native = mixOf({
      headlines: [
        { key: 'a', said: 'Short', long: 'A longer one' },
        { key: 'b', said: 'Alone' }
      ]
    })
    const long = cellsOf(native).map((cell) => (cellParts(native, cell) as { longHeadline: string }).longHeadline)
    expect([...new Set(long)]).toEqual(['A longer one', 'Alone'])
  })

  it('is refused with too many combinations, two parts of one key, and pictures that are no files', () => {
    expect(issues(mixOf())).toEqual([])
    expect(issues(mixOf({ headlines: parts('h', 40), pictures: parts('p', 26) }))).toEqual(['headlines'])
    expect(40 * 26).toBeGreaterThan(MOST_CELLS)
    expect(issues(mixOf({ headlines: [...parts('h', 1), ...parts('h', 1)] }))).toEqual(['headlines'])
    expect(issues(mixOf({ pictures: [{ key: 'p', said: 'x' }] }))).toEqual(['pictures'])
    expect(issues(mixOf({ pictures: [{ key: 'p', said: 'x', file: 'https://x.example/a.png' }] }))).toEqual(['pictures[0].file'])
    expect(issues({ ...mixOf(), kind: 'video' })).toEqual(['kind'])
  })
})

describe('what is written', () => {
  const limit = { what: 'The headline', most: 25 }
  it('is found as it is typed: length by letters, capitals, repeated punctuation', () => {
    const says = (text: string) => writingFindings(text, limit).map(({ says: words, severity }) => `${severity}: ${words}`)
    expect(says('See the rings of Saturn')).toEqual([])
    expect(says('   ')).toEqual(['stops: The headline is needed.'])
    expect(says('See the rings of Saturn tonight')).toEqual(['stops: The headline has 31 letters; 25 are allowed.'])
    expect(says('SEE THE RINGS')).toEqual(['warns: The headline is written in capitals.'])
    expect([says('On NASA TV'), says('MIT and ESA say'), says('Wait…'), says('Wait...')]).toEqual([[], [], [], []])
    for (const text of ['Look!!', 'Really?!', 'Now....', 'One,, two'])
      expect(says(text)).toEqual(['warns: The headline repeats its punctuation.'])
    expect(says('👨‍👩‍👧‍👦'.repeat(25))).toEqual([])
  })

  it('twice is found at the second, however it is spaced; what is common is looked at too', () => {
    const mix = mixOf({
      headlines: [
        { key: 'a', said: 'See the rings' },
        { key: 'b', said: ' see  THE rings' },
        { key: 'c', said: '' }
      ],
      pictures: [...parts('p', 1), { key: 'q', said: 'again.png', file: hash(1) }],
      common: { brand: '', button: 'See it', icon: '' }
    })
    expect(mixFindings(mix).map(({ axis, key, says }) => [axis, key, says])).toEqual([
      ['headlines', 'c', 'The short headline is needed.'],
      ['headlines', 'b', 'It says what 1 says.'],
      ['pictures', 'q', 'It says what 1 says.'],
      ['common', 'brand', 'The brand is needed.'],
      ['common', 'icon', 'The icon is needed.']
    ])
  })

  it('and pasted is a part a line, without what is there', () => {
    let n = 0
    const found = pastedParts('One\n\n  two \r\nONE\nThree\tmore', [{ key: 'x', said: 'Two' }], () => `k${n++}`)
    expect(found).toEqual([
      { key: 'k0', said: 'One' },
      { key: 'k1', said: 'Three more' }
    ])
  })
})

describe('two people in one matrix', () => {
  const edits: readonly ((mix: Mix) => Mix)[] = [
    (mix) => ({ ...mix, headlines: [...mix.headlines, { key: 'mine', said: 'Mine' }] }),
    (mix) => ({ ...mix, headlines: mix.headlines.slice(1) }),
    (mix) => ({ ...mix, headlines: mix.headlines.map((part, n) => (n === 1 ? { ...part, said: 'Written anew' } : part)) }),
    (mix) => ({ ...mix, pictures: mix.pictures.map((part, n) => (n === 0 ? { ...part, struck: true } : part)) }),
    (mix) => ({ ...mix, struck: [...mix.struck, cellKey('h2', 'p1', 't0')] }),
    (mix) => ({ ...mix, struck: [] }),
    (mix) => ({ ...mix, common: { ...mix.common, brand: 'Another' } })
  ]
  const base = mixOf({ struck: [cellKey('h0', 'p0', 't0')] })

  it('keep what each did, and their own where nobody else did anything', () => {
    edits.forEach((mine, m) =>
      edits.forEach((theirs, t) => {
        const merged = mergedMix(base, mine(base), theirs(base))
        expect(merged.clashes).toEqual([])
        expect(mergedMix(base, base, theirs(base)).mix).toEqual(theirs(base))
        expect(mergedMix(base, mine(base), base).mix).toEqual(mine(base))
        // What is of different places is as if one did both.
        if (m !== t && !(m < 3 && t < 3) && !(m >= 4 && m <= 5 && t >= 4 && t <= 5)) expect(merged.mix).toEqual(mine(theirs(base)))
      })
    )
  })

  it('are told of a part that both wrote', () => {
    const said = (words: string) => (mix: Mix) => ({
      ...mix,
      headlines: mix.headlines.map((part, n) => (n === 0 ? { ...part, said: words } : part))
    })
    const { mix, clashes } = mergedMix(base, said('Mine')(base), said('Theirs')(base))
    expect(clashes).toEqual([{ axis: 'headlines', key: 'h0', mine: 'Mine', theirs: 'Theirs' }])
    expect(mix.headlines[0].said).toBe('Mine')
    expect(mergedMix(base, said('Same')(base), said('Same')(base)).clashes).toEqual([])
    // One who took it away does not take away what the other wrote in it.
    const away = (one: Mix) => ({ ...one, headlines: one.headlines.slice(1) })
    expect(mergedMix(base, away(base), said('Theirs')(base)).mix.headlines.map(({ key }) => key)).toContain('h0')
    expect(mergedMix(base, said('Mine')(base), away(base)).mix.headlines.map(({ key }) => key)).toContain('h0')
  })
})
