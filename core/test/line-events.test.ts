import { describe, expect, it } from 'vitest'
import { eventsOf } from '../src/results/index.js'
import { countRange, wilson } from '../src/report/index.js'
import type { Goal, LineDraft } from '../src/buying/index.js'

const line = (format: LineDraft['format'], price: Partial<LineDraft['price']> = {}) =>
  ({ format, price: { model: 'CPM', bidMicros: 1, maxMicros: null, ...price } }) as Pick<LineDraft, 'format' | 'price'>

describe('what a line is judged by', () => {
  it.each<[string, Pick<LineDraft, 'format' | 'price'>, Goal, string[]]>([
    ['its campaign’s goal', line('display'), 'visits', ['visits']],
    ['what its format brings, where people are to be reached', line('display'), 'reach', ['visits']],
    ['views of a film that is to reach people', line('video'), 'reach', ['views']],
    ['what it is paid for beside the goal', line('video', { model: 'view' }), 'visits', ['visits', 'views']],
    ['a click that is paid for', line('native', { model: 'CPC' }), 'visits', ['visits', 'clicks']],
    ['visits of a pop', line('pop', { model: 'visit' }), 'reach', ['visits']],
    ['conversions, and what comes before them often', line('display'), 'conversions', ['conversions', 'visits']],
    ['value in conversions', line('pop', { model: 'visit' }), 'revenue', ['conversions', 'visits']],
    ['its aim first', line('display', { aim: { event: 'stay', micros: 1 } }), 'visits', ['stays', 'visits']]
  ])('is %s', (_, draft, goal, events) => {
    expect(eventsOf(draft, goal)).toEqual(events)
  })

  it('has ranges of counts that may come several times, near those of rates where they are few', () => {
    const [counted, rate] = [countRange(40, 100_000), wilson(40, 100_000)]
    expect(counted.low / rate.low).toBeCloseTo(1, 1)
    expect(counted.high / rate.high).toBeCloseTo(1, 1)
    expect(countRange(300, 100).high).toBeGreaterThan(3)
    expect([countRange(0, 100).low, countRange(0, 0)]).toEqual([0, { low: 0, high: 1 }])
  })
})
