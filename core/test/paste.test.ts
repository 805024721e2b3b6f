import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { LIST_KINDS, MOST_PASTED, listSchema, parseInput, readPaste, type ListKind } from '../src/buying/index.js'
import { CITIES, COUNTRIES, POSTALS, REGIONS, cityCode } from '../src/places/index.js'
import { withValues } from '../src/targeting/index.js'
import { placementCode } from '../src/market/index.js'
import { smallWorld } from './support/lines.js'

const { inventory } = smallWorld()
const named = inventory.properties.filter((property) => property.domain !== '')
const read = (kind: ListKind, text: string, has: string[] = []) => readPaste(kind, text, inventory, has)

describe('a paste', () => {
  it('of addresses, store ids and numbers finds properties, and names the rest line by line', () => {
    const [a, b] = named
    const text = `\uFEFFhttps://www.${a.domain}/page\n${b.domain.toUpperCase()}, ${b.domain}\r\nnowhere.example\n\n"${named[2].domain}"\n208\nthis is none`
    const found = read('properties', text)
    expect(found.values).toEqual([a.domain, b.domain, named[2].domain])
    expect(found.problems.map(({ line, message }) => [line, message.slice(0, 22)])).toEqual([
      [2, 'The same as in line 2.'],
      [3, 'No property of the mar'],
      [6, 'Nothing is sold under '],
      [7, 'Neither an address, a ']
    ])
    expect(read('properties', a.domain, [a.domain]).problems[0].message).toBe('The list has it already.')
  })

  it('knows properties by name, those sold under a number by that, placements by both, and asks where two are called alike', () => {
    const count = (name: string) => inventory.properties.filter((one) => one.name === name).length
    const plain = named.find(({ name }) => count(name) === 1 && name.includes(' ')) as (typeof named)[number]
    const blind = inventory.properties.find((one) => one.anonymous) as (typeof named)[number]
    expect(read('properties', `${plain.name.toLowerCase()}\n${blind.name}`).values).toEqual([plain.domain, blind.name])
    expect(read('properties', blind.name.replace('No. ', '')).values).toEqual([blind.name])
    const placement = inventory.placements.find(({ property }) => property === plain.index) as (typeof inventory.placements)[number]
    const code = `${plain.domain}: ${placement.position}`
    for (const said of [code, code.toUpperCase(), `${plain.name}, ${placement.position}`, `${plain.domain} ${placement.position}`])
      expect(read('placements', said).values).toEqual([code])
    const twice = named.find(({ name }) => count(name) > 1)
    if (twice) expect(read('properties', twice.name).problems[0].message).toContain('are called that')
  })

  it('keeps what is within quotes together: separators, line ends and quotes that are written twice', () => {
    expect(read('keywords', '"telescope", "star chart"\n"eclipse').values).toEqual(['telescope', 'star chart'])
    // A city whose name has a comma, as a spreadsheet writes it.
    expect(read('places', '"near:53.55,9.99,60"; "DE"').values).toEqual(['near:53.55,9.99,60', 'DE'])
    const found = read('keywords', '"no such, word"\n"two\nlines"\r\n"a ""quote"" in it",telescope\nan "ordinary" quote')
    expect(found.problems.map(({ line, text }) => [line, text])).toEqual([
      [1, 'no such, word'],
      [2, 'two lines'],
      [4, 'a "quote" in it'],
      [5, 'an "ordinary" quote']
    ])
    expect(found.values).toEqual(['telescope'])
  })

  it('of places takes postal codes, countries by name, regions and radii', () => {
    const postal = POSTALS[40]
    const code = `${COUNTRIES[CITIES[postal.city].country].code} ${postal.code}`
    const found = read('places', `${code}\nGermany\nde-be\nnear:53.55,9.99,60; ES\nAtlantis`)
    expect(found.values).toEqual([`post:${code}`, 'DE', 'DE-BE', 'near:53.55,9.99,60', 'ES'])
    const once = CITIES.find(({ name }) => CITIES.filter((other) => other.name === name).length === 1 && !/[A-Z]{2}/.test(name))
    expect(read('places', once?.name ?? '').values).toEqual([cityCode(once ?? CITIES[0])])
    // The name of a country or region is that before it is a city's.
    const larger = new Set([...COUNTRIES, ...REGIONS].map(({ name }) => name))
    const both = CITIES.filter(({ name }) => !larger.has(name) && CITIES.filter((other) => other.name === name).length > 1)
    if (both.length > 0) {
      expect(read('places', both[0].name).problems[0].message).toContain('are called that')
      expect(read('places', `${both[0].name}, ${REGIONS[both[0].region].code}`).values).toEqual([cityCode(both[0])])
    }
    expect(found.problems).toEqual([{ line: 5, text: 'Atlantis', message: expect.stringContaining('Not a country') as string }])
  })

  it('of keywords, ranges and placements says what is malformed', () => {
    expect(read('keywords', 'Telescope, star chart\nno such word').values).toEqual(['telescope', 'star chart'])
    expect(read('address ranges', '10.0.0.0/24 300.1.1.1/8').problems.some(({ text }) => text === '300.1.1.1/8')).toBe(true)
    const codes = inventory.placements.slice(0, 2).map((placement) => placementCode(inventory, placement))
    expect(read('placements', [codes[0], codes[1], codes[0], 'abc', '12'].join('\n')).problems.map(({ message }) => message)).toEqual([
      'The same as in line 1.',
      ...[4, 5].map(() => 'No placement is called that: they are named as in “lay-by.example: page head”.')
    ])
  })

  it('of five hundred entries with seven bad ones takes all but the seven', () => {
    const good = inventory.placements.slice(0, 493).map((placement) => placementCode(inventory, placement))
    const bad = ['x', '1200', '-1', good[3], '12', 'No. 1', 'placement 7']
    const text = [...good.slice(0, 250), ...bad, ...good.slice(250)].join('\n')
    const { values, problems, entries } = read('placements', text)
    expect([entries, values.length, problems.length]).toEqual([500, 493, 7])
    expect(problems.map(({ line }) => line)).toEqual([251, 252, 253, 254, 255, 256, 257])
  })

  it('never throws, takes no value twice, and only what a list takes', () => {
    fc.assert(
      fc.property(fc.constantFrom(...(Object.keys(LIST_KINDS) as ListKind[])), fc.string({ maxLength: 300 }), (kind, text) => {
        const { values } = read(kind, text)
        expect(new Set(values).size).toBe(values.length)
        expect(() => parseInput(listSchema, { name: 'x', kind, values, group: null })).not.toThrow()
      }),
      { numRuns: 300 }
    )
    expect(read('placements', 'z\n'.repeat(MOST_PASTED + 5)).problems.at(-1)?.message).toContain('Only the first')
  })
})

describe('a restriction that follows a list', () => {
  it('follows it no more once its values are chosen by hand', () => {
    const targeting = { restrictions: [{ dimension: 'property' as const, mode: 'include' as const, values: ['1'], list: 4, exact: true }] }
    expect(withValues(targeting, 'property', 'include', ['1', '2']).restrictions).toEqual([
      { dimension: 'property', mode: 'include', values: ['1', '2'], exact: true }
    ])
  })
})
