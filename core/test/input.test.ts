import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  InputError,
  MOST_PROBLEMS,
  idField,
  linesOfText,
  parseInput,
  pastedText,
  textList,
  told,
  withoutControls,
  yup
} from '../src/input/index.js'
import { askSchema, campaignSchema, lineSchema, listSchema, offerSchema, sentenceSchema, slipItemsSchema } from '../src/buying/index.js'
import { creativeSchema } from '../src/creative/index.js'

const SCHEMAS = {
  line: lineSchema,
  campaign: campaignSchema,
  sentence: sentenceSchema,
  list: listSchema,
  slip: slipItemsSchema,
  ask: askSchema,
  offer: offerSchema,
  creative: creativeSchema
}

function issuesOf(schema: yup.Schema<unknown>, input: unknown) {
  try {
    parseInput(schema, input)
    return []
  } catch (error) {
    if (!(error instanceof InputError)) throw error
    return [...error.issues]
  }
}

const small = yup
  .object({
    name: yup.string().max(10).required('A name is needed.'),
    of: yup
      .string()
      .oneOf(['a', 'b'] as const)
      .required(),
    size: yup.number().integer().min(1).default(3),
    words: textList(4, 'At most four words.', 8).optional(),
    note: linesOfText(20, 'Too long.').optional(),
    row: idField('Which row?').optional(),
    parts: yup
      .array()
      .of(yup.object({ n: yup.number().required() }).noUnknown().required())
      .max(2, 'At most two parts.')
      .optional()
  })
  .noUnknown()
const good = { name: 'x', of: 'a' }

describe('an input', () => {
  it('that is right comes back with the defaults of what was left out', () => {
    expect(parseInput(small, good)).toEqual({ ...good, size: 3 })
    expect(parseInput(small, { ...good, size: 7, words: ['x', 'y'], note: 'two\nlines', row: 4, parts: [{ n: 1.5 }] })).toMatchObject({
      size: 7,
      row: 4
    })
  })

  it.each([
    ['nothing at all', undefined, 'body'],
    ['null', null, 'body'],
    ['a list', [], 'body'],
    ['text', 'x', 'body'],
    ['a field we do not know', { ...good, colour: 1 }, 'colour'],
    ['a field named like a part of every object', { ...good, ['__proto__x']: 1, constructor: 2 }, '__proto__x'],
    ['a missing field', { of: 'a' }, 'name'],
    ['a value outside the set', { name: 'x', of: 'constructor' }, 'of'],
    ['a number too large to count with', { ...good, size: 1e300 }, 'size'],
    ['a number without end', { ...good, size: Infinity }, 'size'],
    ['an object that claims to be text', { ...good, name: { toString: 1 } }, 'name'],
    ['a row past what the database counts', { ...good, row: 2 ** 31 }, 'row'],
    ['a control character', { ...good, name: 'a\u0000b' }, 'name'],
    ['half of a pair', { ...good, name: '\ud800' }, 'name'],
    ['a turn of the writing', { ...good, name: 'a\u202eb' }, 'name'],
    ['a line end in a name', { ...good, name: 'a\nb' }, 'name'],
    ['a null element', { ...good, parts: [null] }, 'parts[0]'],
    ['a wrong word', { ...good, words: ['x', 7] }, 'words[1]'],
    ['a long word', { ...good, words: ['123456789'] }, 'words[0]']
  ])('%s is refused by the name of its field', (_, input, field) => {
    expect(issuesOf(small, input)[0]).toMatchObject({ field })
  })

  it('that was pasted may hold anything: it is read entry by entry', () => {
    const pasted = yup.object({ text: pastedText(100, 'Too long.').defined() }).noUnknown()
    expect(parseInput(pasted, { text: '\ufeffa\u2028b\u0000' }).text).toHaveLength(5)
    expect(issuesOf(pasted, { text: 'x'.repeat(101) })).toEqual([{ field: 'text', message: 'Too long.' }])
  })

  it('is told in our words, never the library’s', () => {
    const wrong = { name: 5, of: 7, size: 'x', words: {}, note: [], row: 1.5, parts: [{ n: 'x' }, {}] }
    for (const { message } of issuesOf(small, wrong))
      expect(message).not.toMatch(/must be a `|must match|is a required field|greater than or equal|unspecified keys|final value/)
    expect(issuesOf(small, { ...good, size: 0 })).toEqual([{ field: 'size', message: 'This is at least 1.' }])
    expect(issuesOf(small, { ...good, name: 'too long a name' })).toEqual([{ field: 'name', message: 'This has at most 10 letters.' }])
  })

  it('of any size is looked at only as far as its lengths allow, and twenty problems are told', () => {
    let looks = 0
    const watched = (value: unknown) =>
      new Proxy(new Array<unknown>(480_000).fill(value), {
        get: (all, key, self) => {
          if (typeof key === 'string' && /^\d+$/.test(key)) looks++
          return Reflect.get(all, key, self) as unknown
        }
      })
    expect(issuesOf(small, { ...good, words: watched(7) })).toEqual([{ field: 'words', message: 'At most four words.' }])
    expect(issuesOf(small, { ...good, parts: watched(null) })).toEqual([{ field: 'parts', message: 'At most two parts.' }])
    expect(looks).toBeLessThan(1000)
    const many = issuesOf(lineSchema, Object.fromEntries(Array.from({ length: 50_000 }, (_, n) => [`field${n}`, n])))
    expect(many).toHaveLength(MOST_PROBLEMS)
    const deep = JSON.parse('['.repeat(100_000) + ']'.repeat(100_000)) as unknown
    expect(issuesOf(small, deep)[0].field).toBe('body')
    expect(issuesOf(creativeSchema, { name: 'x', kind: 'native', parts: { title: deep } })[0].field).toBe('parts')
  })

  it('is not sent back: values are cut and cleaned where they are named', () => {
    const input = { name: 'x', kind: 'keywords', values: [`${'z'.repeat(150)}`, 'no such\tword'.replace('\t', ' ')], group: null }
    const [{ message }] = issuesOf(listSchema, input)
    expect(message.length).toBeLessThan(200)
    expect(told(['a\u0007b', 'c'.repeat(60)])).toBe(`a?b, ${'c'.repeat(40)}…`)
    expect(withoutControls('plain')).toBe('plain')
  })

  it('tells what is wrong with a field beside those of another kind', () => {
    expect(issuesOf(lineSchema, { name: '', pacing: 7 }).map(({ field }) => field)).toEqual(
      expect.arrayContaining(['pacing', 'name', 'format', 'price'])
    )
  })

  it('of anything is refused with a field and a sentence, or taken; nothing else ever happens', () => {
    fc.assert(
      fc.property(fc.constantFrom(...(Object.keys(SCHEMAS) as (keyof typeof SCHEMAS)[])), fc.jsonValue({ maxDepth: 4 }), (name, input) => {
        for (const { field, message } of issuesOf(SCHEMAS[name] as yup.Schema<unknown>, input)) {
          expect(field).not.toBe('')
          expect(message.length).toBeGreaterThan(5)
          expect(message.length).toBeLessThan(500)
        }
      }),
      { numRuns: 1000 }
    )
  })
})
