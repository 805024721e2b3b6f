import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  InputError,
  LINE_EVENTS,
  LINE_STATES,
  RIGHTS,
  type Right,
  ROLES,
  TransitionError,
  TARGET_MEASURES,
  campaignSchema,
  checkInsideCampaign,
  flightDays,
  flightHours,
  hasRight,
  isLandingLink,
  lineSchema,
  nextState,
  parseInput,
  targetReached,
  withTail,
  type LineDraft,
  type LineState
} from '../src/buying/index.js'
import { changesBetween } from '../src/wording/index.js'
import { pictureProblem, slotSizeOf, stillPicture } from '../src/creative/index.js'
import { clearingPrice, effectiveBid } from '../src/pricing/index.js'
import { wilson } from '../src/report/index.js'

function draft(over: Partial<LineDraft> = {}): LineDraft {
  return {
    name: 'Display, phones, PT',
    format: 'display',
    zone: 'Europe/Lisbon',
    targeting: {
      restrictions: [
        { dimension: 'where', mode: 'include', values: ['PT'] },
        { dimension: 'device', mode: 'include', values: ['phone'] },
        { dimension: 'size', mode: 'include', values: ['300x250'] }
      ]
    },
    price: { model: 'CPM', bidMicros: 2_000_000, maxMicros: null },
    flight: { startDate: '2026-03-02', endDate: '2026-03-31' },
    budget: { dailyMicros: 4_000_000, totalMicros: null },
    pacing: 'even',
    caps: [{ times: 3, hours: 24 }],
    landing: 'https://kana.example/trial',
    onceCleared: 'start',
    ...over
  }
}

const issuesOf = (input: unknown) => {
  try {
    parseInput(lineSchema, input)
    return []
  } catch (error) {
    if (!(error instanceof InputError)) throw error
    return error.issues.map((issue) => issue.field)
  }
}

describe('states of a line', () => {
  /** Every way a line can go, as the domain tells it; all others are refused. */
  const moves: [LineState, string, LineState][] = [
    ['draft', 'put live', 'in review'],
    ['in review', 'ad cleared', 'cleared'],
    ['in review', 'all ads refused', 'refused'],
    ['refused', 'edit', 'draft'],
    ['refused', 'answer', 'in review'],
    ['cleared', 'start', 'live'],
    ['live', 'pause', 'paused'],
    ['paused', 'resume', 'live'],
    ['in review', 'flight over', 'ended'],
    ['cleared', 'flight over', 'ended'],
    ['live', 'flight over', 'ended'],
    ['paused', 'flight over', 'ended'],
    ['in review', 'end', 'ended'],
    ['cleared', 'end', 'ended'],
    ['live', 'end', 'ended'],
    ['paused', 'end', 'ended']
  ]
  it.each(LINE_STATES.flatMap((state) => LINE_EVENTS.map((event) => [state, event] as const)))('%s, %s', (state, event) => {
    const move = moves.find(([from, by]) => from === state && by === event)
    if (move) expect(nextState(state, event)).toBe(move[2])
    else expect(() => nextState(state, event)).toThrow(TransitionError)
  })
  it('an extended flight brings back the state a line had', () => {
    for (const before of ['live', 'paused', 'cleared'] as const) expect(nextState('ended', 'flight extended', before)).toBe(before)
    expect(() => nextState('live', 'flight extended', 'live')).toThrow('cannot be extended')
  })
})

describe('rights', () => {
  it('grow from reader to trader, and clock, money and team are rights of their own', () => {
    const table = ROLES.map((role) => [role, ...(Object.keys(RIGHTS) as Right[]).filter((right) => hasRight(role, right))])
    expect(table).toEqual([
      ['reader', 'read'],
      ['assistant', 'read', 'draft'],
      ['trader', 'read', 'draft', 'live', 'clock'],
      ['finance', 'read', 'money'],
      ['admin', 'read', 'draft', 'live', 'clock', 'money', 'team']
    ])
  })
})

describe('line and campaign inputs', () => {
  it('take a whole line and an unfinished draft', () => {
    expect(issuesOf(draft())).toEqual([])
    expect(
      issuesOf(
        draft({
          targeting: { restrictions: [] },
          price: { model: 'CPM', bidMicros: null, maxMicros: null },
          landing: '',
          budget: { dailyMicros: null, totalMicros: null }
        })
      )
    ).toEqual([])
  })

  it('never fail but by naming fields, whatever comes in', () => {
    fc.assert(
      fc.property(fc.anything(), (input) => {
        expect(Array.isArray(issuesOf(input))).toBe(true)
      }),
      { numRuns: 300 }
    )
    fc.assert(
      fc.property(fc.constantFrom(...Object.keys(draft())), fc.anything(), (field, value) => {
        const issues = issuesOf({ ...draft(), [field]: value })
        for (const issue of issues) expect(issue === '' || issue.startsWith(field) || issue.startsWith('budget')).toBe(true)
      }),
      { numRuns: 300 }
    )
  })

  it('refuse unknown fields by name, and check several at once', () => {
    expect(() => parseInput(lineSchema, { ...draft(), colour: 'red' } as never)).toThrow('colour')
    expect(
      issuesOf({
        ...draft(),
        name: '',
        pacing: 'slow',
        zone: 'Asia/Kolkata',
        caps: [
          { times: 0, hours: 24 },
          { times: 1, hours: 721 }
        ]
      })
    ).toEqual(expect.arrayContaining(['name', 'pacing', 'zone', 'caps[0].times', 'caps[1].hours']))
    expect(issuesOf(draft({ flight: { startDate: '2026-03-02', endDate: '2027-12-31' } }))).toEqual(['flight.endDate'])
  })

  it('know links people can land on', () => {
    for (const link of ['https://kana.example', 'http://a.b.example:8080/x?y=1#z', 'https://käse.example/ä'])
      expect(isLandingLink(link)).toBe(true)
    for (const link of [
      'kana.example',
      'ftp://kana.example',
      'https://localhost',
      'javascript:alert(1)',
      'https://a b.example',
      'https://kana.example/a b'
    ])
      expect(isLandingLink(link)).toBe(false)
  })

  it('a daily budget is not over the total', () => {
    const campaign = {
      name: 'x',
      goal: 'visits',
      flight: { startDate: '2026-03-02', endDate: null },
      budget: { totalMicros: 5_000_000, dailyMicros: 6_000_000 }
    }
    expect(() => parseInput(campaignSchema, campaign)).toThrow('over the total')
  })

  it('a campaign’s target and link tail are checked, and what was reached is told of each measure', () => {
    const campaign = {
      name: 'x',
      goal: 'visits',
      flight: { startDate: '2026-03-02', endDate: null },
      budget: { totalMicros: 5_000_000, dailyMicros: null }
    }
    const wrong = (over: object) => {
      try {
        parseInput(campaignSchema, { ...campaign, ...over })
        return []
      } catch (error) {
        return (error as InputError).issues.map(({ field }) => field)
      }
    }
    expect([
      wrong({ target: { measure: 'CPA', value: 18_000_000 }, linkTail: 'source=harbor&click={click_id}', note: '' }),
      wrong({ target: { measure: 'fame', value: 0 } }),
      wrong({ linkTail: '?a=b' }),
      wrong({ linkTail: 'a' }),
      wrong({ linkTail: 'a=b c' })
    ]).toEqual([[], ['target.measure'], ['linkTail'], ['linkTail'], ['linkTail']])
    expect([
      withTail('https://a.example/x', 'k=v'),
      withTail('https://a.example/x?y=1#z', 'k=v'),
      withTail('', 'k=v'),
      withTail('https://a.example', '')
    ]).toEqual(['https://a.example/x?k=v', 'https://a.example/x?y=1&k=v#z', '', 'https://a.example'])
    const results = { spendMicros: 36_000_000, wins: 12_000, clicks: 90, views: 0, conversions: 2, valueMicros: 90_000_000 }
    expect(TARGET_MEASURES.map((measure) => targetReached({ measure }, results))).toEqual([18_000_000, 400_000, 3_000_000, null, 2500])
  })

  it('a flight is whole local days, the last one included, and lies in its campaign', () => {
    expect(flightHours({ startDate: '2026-03-28', endDate: '2026-03-29' }, 'Europe/Lisbon')).toEqual({
      startHour: 86 * 24,
      endHour: 88 * 24 - 1
    })
    expect(flightDays({ startDate: '2026-03-28', endDate: '2026-03-29' })).toBe(2)
    expect(flightDays({ startDate: '2026-03-28', endDate: null })).toBeNull()
    const inside = (startDate: string, endDate: string | null) =>
      checkInsideCampaign({ flight: { startDate, endDate } }, { startDate: '2026-03-02', endDate: '2026-03-31' }).map(
        (issue) => issue.field
      )
    expect(inside('2026-03-02', '2026-03-31')).toEqual([])
    expect(inside('2026-03-01', '2026-04-01')).toEqual(['flight.startDate', 'flight.endDate'])
    expect(inside('2026-03-05', null)).toEqual(['flight.endDate'])
  })
})

describe('changes between drafts', () => {
  it('are told in words, field by field', () => {
    const after = draft({
      price: { model: 'CPM', bidMicros: 2_505_000, maxMicros: null },
      caps: [],
      targeting: {
        restrictions: [
          ...draft().targeting.restrictions,
          { dimension: 'placement', mode: 'exclude', values: ['a.example: page head', 'No. 41234: new page 123'] }
        ]
      }
    })
    expect(changesBetween(draft(), after)).toEqual([
      { field: 'price.bidMicros', before: '€2.00', after: '€2.505' },
      { field: 'caps', before: '3 in 24 h', after: 'none' },
      { field: 'targeting.placement.exclude', before: 'none', after: 'without a.example: page head or No. 41234: new page 123' }
    ])
    expect(changesBetween(after, after)).toEqual([])
  })
})

describe('prices', () => {
  it('the maximum comes last; first price pays the bid, second what it had to beat', () => {
    expect(effectiveBid({ model: 'CPM', bidMicros: 3_000_000, maxMicros: 2_400_000 })).toBe(2400)
    expect(effectiveBid({ model: 'CPM', bidMicros: 2_000_000, maxMicros: null })).toBe(2000)
    expect([
      clearingPrice('first price', 10, 3, 7),
      clearingPrice('second price', 10, 3, 7),
      clearingPrice('second price', 10, 8, 7)
    ]).toEqual([10, 7, 8])
  })
})

describe('pictures', () => {
  it('fill the slot of their size, or of half of it', () => {
    expect([
      slotSizeOf({ width: 300, height: 250 }),
      slotSizeOf({ width: 600, height: 500 }),
      slotSizeOf({ width: 301, height: 250 })
    ]).toEqual(['300x250', '300x250', null])
  })
  it('are refused with what would do', () => {
    const facts = stillPicture('image/png', 1000, 300, 250)
    expect(pictureProblem(facts, [])).toBeNull()
    expect(pictureProblem(facts, ['728x90'])).toContain('728x90')
    expect(pictureProblem({ ...facts, bytes: 300 * 1024 }, [])).toContain('300 kB')
    expect(pictureProblem({ ...facts, type: 'image/tiff' }, [])).toContain('PNG')
  })
})

describe('how sure a rate is', () => {
  it('agrees with worked figures and holds its promise', () => {
    expect(wilson(10, 100).low).toBeCloseTo(0.0607, 3)
    expect(wilson(10, 100).high).toBeCloseTo(0.1602, 3)
    expect(wilson(0, 0)).toEqual({ low: 0, high: 1 })
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 100_000 }), fc.double({ min: 0, max: 1, noNaN: true }), (trials, share) => {
        const events = Math.floor(trials * share)
        const { low, high } = wilson(events, trials)
        expect(low).toBeLessThanOrEqual(events / trials)
        expect(high).toBeGreaterThanOrEqual(events / trials)
        expect(wilson(events * 4, trials * 4).high - wilson(events * 4, trials * 4).low).toBeLessThanOrEqual(high - low + 1e-12)
      })
    )
  })
})
