import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { lineSchema, parseInput } from '../src/buying/index.js'
import {
  CLAUSES,
  clauseOfField,
  clauseWords,
  hoursSaid,
  longWording,
  nameSaysMore,
  paragraph,
  paragraphWords,
  plainLine,
  readQuick,
  readWording,
  schemeName,
  unsaid,
  whyPrice
} from '../src/wording/index.js'
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
    const line = plainLine(
      parseInput(lineSchema, {
        name: 'Native, phones',
        format: 'native',
        zone: 'Europe/Madrid',
        targeting: {
          restrictions: [
            { dimension: 'device', mode: 'include', values: ['phone'] },
            { dimension: 'where', mode: 'include', values: ['ES', 'PT', 'FR-BRE'] },
            { dimension: 'category', mode: 'include', values: ['science'], exact: true }
          ]
        },
        price: {
          model: 'CPM',
          bidMicros: 1_900_000,
          maxMicros: 3_000_000,
          adjustments: [{ dimension: 'device', value: 'tablet', perMille: 800, ownMicros: null }],
          repeatDiscount: 120
        },
        hours: { clock: 'viewer', perMille: Array.from({ length: 168 }, (_, hour) => (hour % 24 < 7 ? 0 : hour % 24 >= 18 ? 1250 : 1000)) },
        flight: { startDate: '2026-03-14', endDate: '2026-03-23' },
        budget: { dailyMicros: 12_000_000, totalMicros: 120_000_000 },
        pacing: 'even',
        caps: [{ times: 3, hours: 24 }],
        gapMinutes: 20,
        landing: 'https://nightjar.example/equinox',
        onceCleared: 'wait'
      })
    )
    expect(longWording(line)).toBe(
      'Buy native as “Native, phones”: on phones; in Spain, Portugal or Bretagne; beside science alone. Run from 14 March 2026 to 23 March 2026, by the days of Europe/Madrid. ' +
        "Open in the viewer's time Monday, Tuesday, Wednesday, Thursday, Friday, Saturday, Sunday 7 to 18 and 18 to 24 at 125 %. " +
        'Bid €1.90 CPM, never above €3.00. Adjust device: tablets by −20 %. Bid 12 % less for each earlier showing to the same person. ' +
        'Spend at most €12.00 a day, €120.00 in all, evenly. Show it to one person 3 times in 24 hours, 20 minutes apart. Land on “https://nightjar.example/equinox”. Once cleared, wait for release.'
    )
  })

  const WHOLE =
    'Buy native as “A”: in Spain. Run from 14 March 2026 on, by the days of “Europe/Madrid”. Bid €1.90 CPM. Spend at most €12.00 a day, evenly. Once cleared, start with the flight.'
  it.each([
    ['in Spain', 'within Spain', 'Not a environment we know: Spain.'],
    ['in Spain', 'in Atlantis', 'Not a place we know: Atlantis.'],
    ['14 March 2026', '31 February 2026', 'Run from 31 February 2026 on, by the days of “Europe/Madrid”'],
    ['€1.90 CPM', '1.90 CPM', 'Bid 1.90 CPM'],
    ['€1.90', '€1,9,0', 'Bid €1,9,0 CPM'],
    ['evenly', 'somehow', 'Spend at most €12.00 a day, somehow'],
    ['Bid', 'Offer', 'Offer €1.90 CPM'],
    ['in Spain', 'in Spain; near the sea', 'near the sea'],
    ['native', 'posters', 'Buy posters as “A”: in Spain'],
    ['start with the flight', 'start now', 'Once cleared, start now'],
    ['€12.00 a day', '12 sheep', 'Spend at most 12 sheep, evenly']
  ])('with %s written as %s says what it does not understand, and guesses nothing', (was, is, said) => {
    expect(readWording(WHOLE).draft).not.toBeNull()
    const { draft, unknown, issues } = readWording(WHOLE.replace(was, is))
    expect(draft).toBeNull()
    expect([...unknown, ...issues.map(({ message }) => message)].join(' | ')).toContain(said)
  })
})

describe('the paragraph', () => {
  const line = plainLine(
    parseInput(lineSchema, {
      name: 'Native, phones, ES PT',
      format: 'native',
      zone: 'Europe/Lisbon',
      targeting: {
        restrictions: [
          { dimension: 'device', mode: 'include', values: ['phone'] },
          { dimension: 'where', mode: 'include', values: ['ES', 'PT'] },
          { dimension: 'category', mode: 'exclude', values: ['adult'] }
        ]
      },
      price: { model: 'CPM', bidMicros: 1_900_000, maxMicros: 3_000_000 },
      flight: { startDate: '2026-03-14', endDate: '2026-03-23' },
      budget: { dailyMicros: 12_000_000, totalMicros: null },
      pacing: 'even',
      caps: [{ times: 3, hours: 24 }],
      landing: 'https://nightjar.example/equinox?x=1',
      onceCleared: 'wait'
    })
  )

  it('says a line in few words, each phrase with its clause and the fields that it says', () => {
    expect(paragraphWords(line)).toBe(
      'Buy native on phones in Spain and Portugal, not beside adult, from 14 to 23 March 2026 at all hours. Bid €1.90 CPM, never above €3.00; spend €12 a day evenly; show it to one person 3 times a day. Land on nightjar.example/equinox; once cleared, wait for release.'
    )
    const phrases = paragraph(line).filter((piece) => typeof piece !== 'string')
    expect(phrases.map((phrase) => phrase.clause).join('')).toBe('ABBACCDDEEEGC')
    expect(phrases.find((phrase) => phrase.of === 'limits')?.fields).toEqual(['budget'])
    const empty = {
      ...line,
      targeting: { restrictions: [] },
      price: { ...line.price, bidMicros: null, maxMicros: null },
      budget: { dailyMicros: null, totalMicros: null },
      caps: [],
      landing: ''
    }
    expect(paragraphWords(empty)).toContain('Buy native nowhere yet, from 14')
    expect(paragraphWords(empty)).toContain(
      'Bid nothing yet; spend what its campaign allows evenly; show it to one person any number of times. Land on no page of its own'
    )
  })

  it.each([
    [
      { price: { model: 'CPM', bidMicros: 1_000_000, maxMicros: 2_000_000, aim: { event: 'conversion', micros: 18_000_000 } } },
      'Aim at €18.00 for a conversion, never above €2.00'
    ],
    [{ price: { model: 'CPM', bidMicros: 1_000_000, maxMicros: null, follow: true } }, 'Follow the market up to €1.00 CPM'],
    [
      {
        price: {
          model: 'CPC',
          bidMicros: 200_000,
          maxMicros: null,
          repeatDiscount: 120,
          steps: [{ after: 'days live', from: 3, bidMicros: 250_000 }],
          adjustments: [{ dimension: 'device', value: 'tablet', perMille: 800, ownMicros: null }]
        }
      },
      'Bid €0.20 a click, changing once, with 1 adjustment, 12 % less for each repeat'
    ],
    [{ buys: { open: false, deals: [3] } }, ', by 1 deal alone, from'],
    [{ gapMinutes: 20, rotation: 'learning' }, '3 times a day, 20 minutes apart; ads take turns by learning which serves the goal'],
    [{ flight: { startDate: '2026-03-30', endDate: '2026-04-02' } }, 'from 30 March to 2 April 2026'],
    [{ flight: { startDate: '2026-12-30', endDate: '2027-01-02' } }, 'from 30 December 2026 to 2 January 2027'],
    [{ flight: { startDate: '2026-03-14', endDate: '2026-03-14' } }, 'on 14 March 2026'],
    [{ flight: { startDate: '2026-03-14', endDate: null } }, 'from 14 March 2026 on at all hours'],
    [
      {
        caps: [
          { times: 1, hours: 1 },
          { times: 2, hours: 168 },
          { times: 5, hours: 72 },
          { times: 9, hours: 30 }
        ]
      },
      'once an hour and twice a week and 5 times in 3 days and 9 times in 30 hours'
    ]
  ])('of %j says %s', (over, words) => expect(paragraphWords({ ...line, ...over } as typeof line)).toContain(words))

  it('of hours says when they are, and that some bid otherwise', () => {
    const hours = (shareAt: (hour: number) => number, clock: 'viewer' | 'line' = 'line') =>
      hoursSaid({ clock, perMille: Array.from({ length: 168 }, (_, hour) => shareAt(hour)) })
    expect(hours((hour) => (hour < 120 && hour % 24 >= 18 ? 1000 : 0))).toBe('on weekday evenings')
    expect(hours((hour) => (hour % 24 === 3 ? 0 : 1000), 'viewer')).toBe("in 161 of 168 hours of the viewer's time")
    expect(hours((hour) => (hour % 24 >= 20 ? 1250 : 1000))).toBe('at all hours, 28 of them at another bid')
    expect(hoursSaid(null)).toBe('at all hours')
  })

  it('leads every field of a line to the clause that edits it', () => {
    expect(
      [
        'targeting.where',
        'targeting.size.include',
        'hours.perMille[3]',
        'zone',
        'price.maxMicros',
        'caps[0].times',
        'creatives',
        'landing',
        'buys.deals',
        'name'
      ].map(clauseOfField)
    ).toEqual(['B', 'A', 'C', 'C', 'D', 'E', 'F', 'G', 'A', null])
    expect(CLAUSES.map((clause) => clauseWords(line, clause, [{}]))).toEqual([
      'on the open market; not beside adult',
      'on phones; in Spain and Portugal',
      'from 14 to 23 March 2026, at all hours; once cleared, wait for release',
      '€1.90 CPM, never above €3.00',
      '€12 a day; evenly; 3 times a day',
      '1 ad, by weight',
      'nightjar.example/equinox'
    ])
    const ads = [{ id: 4 }, { id: 5 }, { id: 6 }]
    expect(clauseWords({ ...line, ads: [{ ad: 5, off: true }] }, 'F', ads)).toBe('3 ads, 1 of them off, by weight')
    expect(clauseWords({ ...line, ads: [{ ad: 5, weight: 2 }] }, 'F', ads)).toBe('3 ads, by weight')
  })
})

describe('a typed sentence', () => {
  const empty = unsaid()
  const said = (text: string) => readQuick(text).apply(empty)

  it('is understood word by word, and what is not is named', () => {
    const { apply, understood, unknown } = readQuick('native phones ES PT florbs 1.90 cpm 12 a day 3 per day')
    const line = apply(empty)
    expect([line.format, line.price.bidMicros, line.budget.dailyMicros, line.caps]).toEqual([
      'native',
      1_900_000,
      12_000_000,
      [{ times: 3, hours: 24 }]
    ])
    expect(line.targeting.restrictions).toEqual([
      { dimension: 'device', mode: 'include', values: ['phone'] },
      { dimension: 'where', mode: 'include', values: ['ES', 'PT'] }
    ])
    expect([unknown, understood.map(({ text }) => text)]).toEqual([
      ['florbs'],
      ['native', 'phones', 'ES', 'PT', '1.90 cpm', '12 a day', '3 per day']
    ])
  })

  it.each([
    ['pop 0.004 per visit', { format: 'pop', price: { model: 'visit', bidMicros: 4000, maxMicros: null } }],
    ['display max 3.50', { price: { model: 'CPM', bidMicros: null, maxMicros: 3_500_000 } }],
    ['200 in all fast', { budget: { dailyMicros: null, totalMicros: 200_000_000 }, pacing: 'fast' }],
    ['5 times a week, 20 minutes apart', { caps: [{ times: 5, hours: 168 }], gapMinutes: 20 }],
    ['14 march 2026 to 23 march 2026', { flight: { startDate: '2026-03-14', endDate: '2026-03-23' } }],
    ['https://a.example/x wait for release', { landing: 'https://a.example/x', onceCleared: 'wait' }]
  ])('"%s" sets what it says', (text, over) => expect(said(text)).toMatchObject(over))

  it.each<[string, object]>([
    ['max 2 per day', { caps: [{ times: 2, hours: 24 }] }],
    ['up to 3 times a week each', { caps: [{ times: 3, hours: 168 }] }],
    ['video 0.05 cpv', { format: 'video', price: { model: 'view', bidMicros: 50_000, maxMicros: null } }],
    ['2 Mar to 20 mar', { flight: { startDate: '2027-03-02', endDate: '2027-03-20' } }],
    ['from 2. March until 5 april 2028', { flight: { startDate: '2027-03-02', endDate: '2028-04-05' } }],
    ['display aim 0.40 a click', { price: { aim: { event: 'click', micros: 400_000 } } }],
    ['follow the market', { price: { follow: true } }]
  ])('"%s" sets what it says, days in the year of the market', (text, over) =>
    expect(readQuick(text, 2027).apply(empty)).toMatchObject(over)
  )

  it('knows hours, Wi-Fi, ages, people, music, sources, and what is left out', () => {
    const line = said('audio jazz on Wi-Fi 25-34 women weekday evenings through Tidewater without robots not Berlin')
    expect(readQuick('audio jazz on Wi-Fi 25-34 women weekday evenings through Tidewater without robots not Berlin').unknown).toEqual([])
    const chosen = (dimension: string, mode = 'include') =>
      line.targeting.restrictions.find((one) => one.dimension === dimension && one.mode === mode)?.values
    expect([
      chosen('music genre'),
      chosen('connection'),
      chosen('age'),
      chosen('gender'),
      chosen('source'),
      chosen('unwanted', 'exclude')
    ]).toEqual([['jazz'], ['Wi-Fi'], ['25-34'], ['women'], ['Tidewater'], ['bots']])
    expect(chosen('where', 'exclude')).toEqual(['DE-BE'])
    expect(hoursSaid(line.hours)).toContain('weekday evenings')
    expect(hoursSaid(said('weekends 8 to 20:00').hours)).toContain('weekend 8 to 20')
    expect(said('audio spot on phones')).toMatchObject({ targeting: { restrictions: [{ values: ['audio spot'] }, { values: ['phone'] }] } })
  })

  it('takes names of several words, groups of countries and regions, but small words for no country', () => {
    const values = (text: string, dimension: string) => said(text).targeting.restrictions.find((one) => one.dimension === dimension)?.values
    expect(values('video in United Kingdom and Iberia', 'where')).toEqual(['GB', 'PT', 'ES'])
    expect(values('native beside sky and space', 'category')).toEqual(['sky and space'])
    expect(values('display in it at no one', 'where')).toBeUndefined()
    expect(readQuick('display in it').unknown).toEqual(['it'])
  })

  it('never fails, and leaves every word understood or named', () => {
    fc.assert(
      fc.property(fc.string(), (text) => {
        const { apply, unknown } = readQuick(text)
        expect(apply(empty).name).toBe(empty.name)
        for (const word of unknown) expect(text).toContain(word)
      }),
      { numRuns: 400 }
    )
  })

  it('names a line by the scheme, which reads back', () => {
    const line = said('native phones ES PT')
    expect(schemeName(line)).toBe('Native, phones, ES PT')
    expect(nameSaysMore({ ...line, name: schemeName(line) })).toEqual([])
    expect(nameSaysMore({ ...line, name: 'Video, tablets, DE' })).toEqual(['video', 'DE', 'tablets'])
  })
})

describe('why a property is dear', () => {
  const priced = (halfMicros: number, viewability = 0.56, label = '') => ({ halfMicros, viewability, label })
  const all = priced(1_000_000)

  it('is told by its pages, its people and what is seen of it, where they differ', () => {
    expect(
      whyPrice({
        format: 'display',
        own: priced(3_600_000, 0.7),
        all,
        pages: priced(2_800_000, 0.5, 'insurance'),
        people: priced(1_500_000, 0.5, 'the United States')
      })
    ).toBe(
      'Its display costs 3.6 times what display does here: pages about insurance cost 2.8 times what others do; people in the United States cost 1.5 times what others do; 70 % of it is viewable, 56 % elsewhere.'
    )
    expect(whyPrice({ format: 'native', own: priced(1_050_000), all, pages: priced(1_100_000), people: null })).toBe(
      'Its native costs about what native does here.'
    )
  })

  it('says where a price is more or less than all that leads one to expect', () => {
    expect(whyPrice({ format: 'display', own: priced(450_000), all, pages: priced(1_200_000, 0.56, 'cars'), people: null })).toBe(
      'Its display costs 45 % of what display does here: pages about cars cost 1.2 times what others do. That is less than they lead one to expect.'
    )
    expect(whyPrice({ format: 'display', own: priced(4_000_000), all, pages: priced(2_000_000, 0.56, 'cars'), people: null })).toContain(
      'more than'
    )
    expect(whyPrice({ format: 'pop', own: priced(4), all: priced(0), pages: null, people: null })).toBe(
      'Its pop costs about what pop does here.'
    )
  })
})
