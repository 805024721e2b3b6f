import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  REVIEWERS,
  WRITTEN_RULES,
  afterWorking,
  answeredBy,
  isWorkingHour,
  publisherFindings,
  reviewFindings,
  type LinkSeen,
  type Reviewed
} from '../src/review/index.js'
import { preflight } from '../src/preflight/index.js'
import { weekdayOf } from '../src/time/index.js'
import { draftOf } from './support/drafts.js'

const fine: Reviewed = {
  kind: 'native',
  name: 'Saturday',
  advertiser: 'Ostler Cargo Bikes',
  domain: 'ostler.example',
  texts: [
    { part: 'headline', text: 'A ride on Saturday' },
    { part: 'brand', text: 'Ostler' }
  ],
  outside: [],
  tones: [{ part: 'picture', contrast: 8 }],
  links: ['https://ostler.example/'],
  about: 'cycling',
  note: ''
}
const seen = (over: Partial<LinkSeen> = {}): LinkSeen => ({
  link: 'https://ostler.example/',
  problem: null,
  address: 'https://ostler.example/',
  title: 'Bikes',
  milliseconds: 90,
  ...over
})
const rules = (over: Partial<Reviewed>, links = [seen()]) => [
  ...new Set(reviewFindings({ ...fine, ...over }, links).map(({ rule }) => rule))
]
const saying = (text: string, more: Partial<Reviewed> = {}) =>
  rules({
    texts: [
      { part: 'headline', text },
      { part: 'brand', text: 'Ostler' }
    ],
    ...more
  })

describe('the written rules', () => {
  it('pass what is as it should be, and name what is not, with what was seen and why', () => {
    expect(rules({})).toEqual([])
    expect(saying('A RIDE ON SATURDAY')).toEqual(['capitals'])
    expect(saying('A ride in the EU, GB and NL')).toEqual([])
    expect(saying('Ride now!!')).toEqual(['punctuation'])
    expect(saying('Ride! Now!')).toEqual(['punctuation'])
    expect(saying('Ride now!')).toEqual([])
    expect(saying('Guaranteed dry')).toEqual(['claims'])
    expect(saying('100 % dry')).toEqual(['claims'])
    expect(saying('Guaranteed dry', { note: 'See https://ostler.example/rain' })).toEqual([])
    expect(saying('Ride to the casino')).toEqual(['category'])
    expect(saying('A casing for tools')).toEqual([])
    expect(rules({ tones: [{ part: 'picture', contrast: 2.9 }] })).toEqual(['contrast'])
    expect(rules({ outside: ['The file has 900 kB; 150 are taken.'] })).toEqual(['specification'])
    const [found] = reviewFindings({ ...fine, texts: [{ part: 'longHeadline', text: 'A RIDE ON SATURDAY' }, fine.texts[1]] }, [seen()])
    expect(found).toEqual({
      rule: 'capitals',
      value: '“A RIDE ON SATURDAY” in the long headline',
      reason: 'It reads as if somebody shouted.'
    })
  })

  it('ask whose an ad of text is, and that its links answer, soon, at home', () => {
    expect(
      rules({
        texts: [
          { part: 'headline', text: 'A ride' },
          { part: 'brand', text: 'Somebody' }
        ]
      })
    ).toEqual(['brand'])
    expect(rules({ kind: 'notification', texts: [{ part: 'title', text: 'A ride' }] })).toEqual(['brand'])
    expect(rules({ kind: 'notification', texts: [{ part: 'title', text: 'A ride with Ostler' }] })).toEqual([])
    expect(rules({ kind: 'picture', texts: [] })).toEqual([])
    expect(rules({}, [seen({ problem: 'It answers 404.' })])).toEqual(['link'])
    expect(rules({}, [seen({ milliseconds: 5001 })])).toEqual(['link'])
    expect(rules({}, [seen({ address: 'https://other.example/' })])).toEqual(['link'])
    expect(rules({}, [seen({ address: 'https://www.ostler.example/x' })])).toEqual([])
    expect(rules({}, [seen({ title: 'The best casino' })])).toEqual(['category'])
  })

  it('are a publisher’s too, who takes none of some subjects', () => {
    expect(publisherFindings(fine, [seen()], ['science'])).toEqual([])
    expect(publisherFindings(fine, [seen()], ['cycling']).map(({ rule, value }) => [rule, value])).toEqual([['publisher', 'cycling']])
    expect(publisherFindings({ ...fine, about: null }, [seen()], ['cycling'])).toEqual([])
    expect(WRITTEN_RULES.map(({ rule }) => rule)).toContain('publisher')
  })
})

describe('working hours', () => {
  it('are counted, and nothing is answered outside of them', () => {
    fc.assert(
      fc.property(fc.nat(20_000), fc.integer({ min: 1, max: 9 }), (hour, hours) => {
        const by = afterWorking(hour, hours, REVIEWERS)
        const worked = Array.from({ length: by - hour }, (_, n) => hour + n).filter((one) => isWorkingHour(one, REVIEWERS))
        expect(worked).toHaveLength(hours)
        expect(worked.at(-1)).toBe(by - 1)
      })
    )
    // Friday 27 February 2026, 17:00: an hour of that day, three of Monday.
    const friday = 57 * 24 + 17
    expect(weekdayOf(57)).toBe(4)
    expect(answeredBy(friday) - friday).toBe(3 * 24 - 17 + 8 + 3)
    expect(afterWorking(friday, 0, REVIEWERS)).toBe(friday)
  })
})

describe('preflight', () => {
  const draft = draftOf({ flight: { startDate: '2026-03-02', endDate: '2026-03-31' } })
  const context = {
    campaign: { budget: { totalMicros: null, dailyMicros: null } },
    ads: [{ id: 9, name: 'Saturday', shapes: ['300x250'] }],
    nowHour: 60 * 24
  }
  const refusal = { ad: 9, name: 'Saturday', desk: 'The reviewer', reason: 'So.' }
  const says = (over: object, line = draft) => preflight(line, { ...context, ...over }).map(({ field, message }) => `${field}: ${message}`)

  it('says what would be refused, a rule once an ad and a link once for all; nothing of an ad that is off', () => {
    const refusals = [
      { ...refusal, rule: 'claims' as const, value: '“Proven” in the text' },
      { ...refusal, rule: 'claims' as const, value: '“Cures” in the text' },
      { ...refusal, rule: 'link' as const, value: 'https://x.example/: It answers 404' },
      { ...refusal, ad: 10, rule: 'link' as const, value: 'https://x.example/: It answers 404' },
      { ...refusal, rule: 'specification' as const, value: 'too large' }
    ]
    const found = says({ refusals }).filter((one) => one.includes('would refuse'))
    expect(found).toEqual([
      'landing: The reviewer would refuse its ads: https://x.example/: It answers 404. So.',
      'creatives: The reviewer would refuse “Saturday”: “Proven” in the text; “Cures” in the text. So.'
    ])
    const off = { ...draft, ads: [{ ad: 9, off: true }] }
    expect(says({ refusals: refusals.slice(0, 2) }, off).filter((one) => one.includes('would refuse'))).toEqual([])
  })

  it('says by when it is answered, where the line would start before', () => {
    const told = (answeredBy: number, over: object = {}) => says({ answeredBy, ...over }).filter((one) => one.includes('answered'))
    expect(told(60 * 24 + 12)).toEqual([
      'flight.startDate: Its flight has begun, and its ads are answered by 2 March 2026, 12:00: it starts then at the latest.'
    ])
    expect(told(60 * 24 + 12, { nowHour: 59 * 24 })).toEqual([
      'flight.startDate: It would start before its ads are answered, which is by 2 March 2026, 12:00.'
    ])
    expect(told(59 * 24, { nowHour: 58 * 24 })).toEqual([])
    expect(told(60 * 24 + 12, { isLive: true })).toEqual([])
  })
})
