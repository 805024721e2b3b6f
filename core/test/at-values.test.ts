import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { atValuesWords, changedAt, type LineDraft } from '../src/buying/index.js'
import { valuesOf } from '../src/targeting/index.js'

const line = (over: Partial<LineDraft> = {}) =>
  ({
    targeting: { restrictions: [{ dimension: 'device', mode: 'include', values: ['phone'] }] },
    price: { model: 'CPM', bidMicros: 1_000_000, maxMicros: null },
    ...over
  }) as LineDraft
const codes = fc.uniqueArray(fc.constantFrom('a.example', 'b.example', 'c.example', 'd.example', 'No. 81438'), { minLength: 1 })

describe('what a line does at values', () => {
  it('is added to what it did; taking in again undoes leaving out, and the usual bid a price of its own', () => {
    fc.assert(
      fc.property(codes, codes, (first, second) => {
        const both = [...new Set([...first, ...second])]
        const twice = (change: Parameters<typeof changedAt>[3]) =>
          changedAt(changedAt(line(), 'property', first, change), 'property', second, change)
        expect(valuesOf(twice({ buys: true }).targeting, 'property')).toEqual(both)
        const out = twice({ out: true })
        expect(valuesOf(out.targeting, 'property', 'exclude')).toEqual(both)
        expect(changedAt(out, 'property', both, { out: false }).targeting).toEqual(line().targeting)
        const priced = twice({ ownMicros: 2_000_000 })
        expect(new Set(priced.price.adjustments?.map(({ value }) => value))).toEqual(new Set(both))
        expect(priced.price.adjustments).toHaveLength(both.length)
        expect(changedAt(priced, 'property', both, { ownMicros: null }).price.adjustments).toEqual([])
      })
    )
  })

  it('bids by one of the two: a later price takes the place of a multiplier, which no price gives back', () => {
    const bent = changedAt(line(), 'where', ['DE', 'NL'], { perMille: 1200 })
    expect(changedAt(bent, 'where', ['NL'], { ownMicros: null })).toEqual(bent)
    expect(changedAt(bent, 'where', ['DE'], { ownMicros: 5 }).price.adjustments).toEqual([
      { dimension: 'where', value: 'NL', perMille: 1200, ownMicros: null },
      { dimension: 'where', value: 'DE', perMille: null, ownMicros: 5 }
    ])
    expect(changedAt(bent, 'device', ['NL'], { ownMicros: 5 }).price.adjustments).toHaveLength(3)
  })

  it('follows a list in place of what it named, and says what it does then', () => {
    const named = changedAt(line(), 'property', ['a.example'], { buys: true })
    const follows = changedAt(named, 'property', ['b.example', 'c.example'], { buys: true }, 7)
    expect(follows.targeting.restrictions[1]).toEqual({
      dimension: 'property',
      mode: 'include',
      values: ['b.example', 'c.example'],
      list: 7
    })
    expect([
      atValuesWords(follows, 'property', { buys: true }),
      atValuesWords(follows, 'property', { out: true }),
      atValuesWords(changedAt(named, 'property', ['a.example'], { perMille: 0 }), 'property', { perMille: 0 })
    ]).toEqual(['buys 2 properties', 'leaves 0 properties out', 'bids apart at 1 property'])
    // Values added by hand are not the list's any longer.
    expect(changedAt(follows, 'property', ['d.example'], { buys: true }).targeting.restrictions[1]).not.toHaveProperty('list')
  })
})
