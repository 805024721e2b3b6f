import { describe, expect, it } from 'vitest'
import { lineSchema, parseInput } from '../src/buying/index.js'
import { longWording, plainLine, readWording } from '../src/wording/index.js'
import { numbers } from './support/lines.js'
import { randomLine } from './support/random-lines.js'

describe('the long wording', () => {
  it('of a thousand random lines reads back to the same line in all its fields', () => {
    const below = numbers(20261127)
    for (let n = 0; n < 1000; n++) {
      const line = plainLine(parseInput(lineSchema, randomLine(below)))
      const words = longWording(line)
      const { draft, unknown, issues } = readWording(words)
      expect({ unknown, issues, words }).toEqual({ unknown: [], issues: [], words })
      expect(plainLine(draft ?? line), words).toEqual(line)
      expect(draft && longWording(plainLine(draft))).toBe(words)
    }
  })

  it('reads as a paragraph', () => {
    const line = plainLine(parseInput(lineSchema, {
      name: 'Native, phones', format: 'native', zone: 'Europe/Madrid',
      targeting: { restrictions: [{ dimension: 'device', mode: 'include', values: ['phone'] }, { dimension: 'where', mode: 'include', values: ['ES', 'PT', 'FR-BRE'] }, { dimension: 'category', mode: 'include', values: ['science'], exact: true }] },
      price: { model: 'CPM', bidMicros: 1_900_000, maxMicros: 3_000_000, adjustments: [{ dimension: 'device', value: 'tablet', perMille: 800, ownMicros: null }], repeatDiscount: 120 },
      hours: { clock: 'viewer', perMille: Array.from({ length: 168 }, (_, hour) => (hour % 24 < 7 ? 0 : hour % 24 >= 18 ? 1250 : 1000)) }, flight: { startDate: '2026-03-14', endDate: '2026-03-23' },
      budget: { dailyMicros: 12_000_000, totalMicros: 120_000_000 }, pacing: 'even', caps: [{ times: 3, hours: 24 }], gapMinutes: 20, landing: 'https://nightjar.example/equinox', onceCleared: 'wait'
    }))
    expect(longWording(line)).toBe(
      'Buy native as “Native, phones”: on phones; in Spain, Portugal or Bretagne; beside science alone. Run from 14 March 2026 to 23 March 2026, by the days of Europe/Madrid. ' +
      "Open in the viewer's time Monday, Tuesday, Wednesday, Thursday, Friday, Saturday, Sunday 7 to 18 and 18 to 24 at 125 %. " +
      'Bid €1.90 CPM, never above €3.00. Adjust device: tablets by −20 %. Bid 12 % less for each earlier showing to the same person. ' +
      'Spend at most €12.00 a day, €120.00 in all, evenly. Show it to one person 3 times in 24 hours, 20 minutes apart. Land on “https://nightjar.example/equinox”. Once cleared, wait for release.')
  })

  const WHOLE = 'Buy native as “A”: in Spain. Run from 14 March 2026 on, by the days of “Europe/Madrid”. Bid €1.90 CPM. Spend at most €12.00 a day, evenly. Once cleared, start with the flight.'
  it.each([
    ['in Spain', 'within Spain', 'Not a environment we know: Spain.'], ['in Spain', 'in Atlantis', 'Not a place we know: Atlantis.'], ['14 March 2026', '31 February 2026', 'Run from 31 February 2026 on, by the days of “Europe/Madrid”'],
    ['€1.90 CPM', '1.90 CPM', 'Bid 1.90 CPM'], ['€1.90', '€1,9,0', 'Bid €1,9,0 CPM'], ['evenly', 'somehow', 'Spend at most €12.00 a day, somehow'], ['Bid', 'Offer', 'Offer €1.90 CPM'], ['in Spain', 'in Spain; near the sea', 'near the sea'], ['native', 'posters', 'Buy posters as “A”: in Spain'],
    ['start with the flight', 'start now', 'Once cleared, start now'], ['€12.00 a day', '12 sheep', 'Spend at most 12 sheep, evenly']
  ])('with %s written as %s says what it does not understand, and guesses nothing', (was, is, said) => {
    expect(readWording(WHOLE).draft).not.toBeNull()
    const { draft, unknown, issues } = readWording(WHOLE.replace(was, is))
    expect(draft).toBeNull()
    expect([...unknown, ...issues.map(({ message }) => message)].join(' | ')).toContain(said)
  })
})
