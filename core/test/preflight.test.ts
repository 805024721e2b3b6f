import { CLICK_MACRO } from '@tin-harbor/core/creative'
import { describe, expect, it } from 'vitest'
import { lineSchema, parseInput, type LineDraft, type FixableFinding } from '../src/buying/index.js'
import {
  adsOn,
  bareShapes,
  forecastFindings,
  isInside,
  preflight,
  reachOf,
  withFix,
  type PreflightContext
} from '../src/preflight/index.js'
import { CITIES, COUNTRIES, METROS, POSTALS, REGIONS, cityCode, metroCode, postalPlaceCode } from '../src/places/index.js'
import { codeAt } from '../src/market/index.js'
import { SHAPES, shapesOf } from '../src/taxonomy/index.js'
import { changesBetween, withFields } from '../src/wording/index.js'
import { draftOf as draft, include } from './support/drafts.js'
import { figuresWith } from './support/figures.js'
import { catalogueOf, numbers, smallWorld } from './support/lines.js'
import { randomLine } from './support/random-lines.js'

const catalogue = catalogueOf(smallWorld())
const adsFor = (sizes: readonly string[]) => sizes.map((size, n) => ({ id: n + 1, name: `ad ${n + 1}`, shapes: [size] }))
const CONTEXT: PreflightContext = {
  campaign: { budget: { dailyMicros: null, totalMicros: null } },
  ads: adsFor(['300x250']),
  nowHour: 61 * 24
}
const check = (line: LineDraft, over: Partial<PreflightContext> = {}) =>
  preflight(line, {
    ...CONTEXT,
    reach: reachOf(
      line,
      adsOn(line, over.ads ?? CONTEXT.ads).flatMap(({ shapes }) => shapes),
      catalogue
    ),
    ...over
  })
const stops = (line: LineDraft, over = {}) =>
  check(line, over)
    .filter((finding) => finding.severity === 'stops')
    .map((finding) => finding.field)
const said = (line: LineDraft, over: Partial<PreflightContext> = {}) =>
  check(line, over).map(({ severity, field, message }) => `${severity} ${field}: ${message}`)
/** A draft with the fix of the finding that says this. */
function fixed(line: LineDraft, words: string, over: Partial<PreflightContext> = {}): LineDraft {
  const finding = check(line, over).find(({ message }) => message.includes(words))
  if (!finding?.fix) throw new Error(`No fix for "${words}" among ${said(line, over).join(' | ')}`)
  return withFix(line, finding.fix)
}

describe('preflight', () => {
  it('passes a whole line and stops for each thing that is missing', () => {
    expect(check(draft())).toEqual([])
    expect(stops(draft({ targeting: { restrictions: [] } }))).toEqual(['targeting.where'])
    expect(stops(draft({ price: { model: 'CPM', bidMicros: null, maxMicros: null } }))).toEqual(['price.bidMicros'])
    expect(stops(draft({ budget: { dailyMicros: null, totalMicros: null } }))).toEqual(['budget.dailyMicros'])
    expect(stops(draft({ landing: '' }))).toEqual(['landing'])
    expect(stops(draft(), { ads: [] })).toEqual(['creatives'])
    expect(stops(draft(), { ads: adsFor(['728x90']), reach: null })).toEqual([])
    expect(
      stops(draft({ targeting: { restrictions: [include('where', 'PT'), include('size', '300x250')] } }), {
        ads: adsFor(['728x90']),
        reach: null
      })
    ).toEqual(['creatives'])
    expect(stops(draft(), { nowHour: 200 * 24 })).toEqual(['flight.endDate'])
  })

  it('warns of what cannot be read afterwards or may be spent at once', () => {
    const mixed = draft({
      name: 'Mixed',
      caps: [],
      flight: { startDate: '2026-03-02', endDate: null },
      budget: { dailyMicros: null, totalMicros: 5_000_000 },
      targeting: { restrictions: [include('where', 'PT', 'ES-MD')] }
    })
    expect(check(mixed).map(({ severity, field }) => `${severity} ${field}`)).toEqual([
      'warns targeting.where',
      'warns targeting.device',
      'warns budget.dailyMicros',
      'warns caps'
    ])
    expect(fixed(mixed, 'Without a cap').caps).toEqual([{ times: 3, hours: 24 }])
  })

  it('a value both wanted and left out, and restrictions that never meet, stop it', () => {
    const both = draft({
      targeting: {
        restrictions: [
          include('where', 'PT', 'ES'),
          include('device', 'phone'),
          { dimension: 'where', mode: 'exclude', values: ['ES', 'FR'] }
        ]
      }
    })
    expect(said(both).find((words) => words.includes('both wanted'))).toBe(
      'stops targeting.where: Spain is both wanted and left out: what is left out wins.'
    )
    expect(fixed(both, 'both wanted').targeting.restrictions[2].values).toEqual(['FR'])
    const apart = draft({
      format: 'video',
      targeting: { restrictions: [include('where', 'PT'), include('device', 'TV'), include('connection', 'cellular')] }
    })
    expect(stops(apart, { ads: [] })).toContain('targeting.connection')
    expect(fixed(apart, 'never meet', { ads: [] }).targeting.restrictions.map(({ dimension }) => dimension)).toEqual(['where', 'device'])
  })

  it('a property that nothing is called stops it, and is taken out where others are left', () => {
    const known = codeAt(catalogue.inventory, 'property', 0) ?? ''
    const line = (...values: string[]) =>
      draft({ targeting: { restrictions: [...draft().targeting.restrictions, { dimension: 'property', mode: 'exclude', values }] } })
    expect(said(line('gone.example'))).toEqual(['stops targeting.property: gone.example: no property of the market is called that.'])
    expect(fixed(line('gone.example', known), 'is called that').targeting).toEqual(line(known).targeting)
    expect(check(line(known))).toEqual([])
  })

  it('a bid under every floor stops it, and the fix bids a twentieth over the dearest', () => {
    const low = draft({ price: { model: 'CPM', bidMicros: 1000, maxMicros: 1000 } })
    const { floors } = reachOf(low, ['300x250'], catalogue)
    expect(floors && floors.least < floors.most).toBe(true)
    const after = fixed(low, 'under every floor')
    expect(after.price.bidMicros).toBe(Math.ceil(((floors?.most ?? 0) * 1.05) / 1000) * 1000)
    expect(after.price.maxMicros).toBe(after.price.bidMicros)
    expect(stops(draft({ price: { model: 'CPM', bidMicros: floors?.least ?? 0, maxMicros: null } }))).toEqual([])
  })

  it('deals that ended or ask for more, sources that ask for a least spend', () => {
    const deal = { id: 4, name: 'Homepage', priceMicros: 3_000_000, leastSpendMicros: 9_000_000, isExpired: false }
    const by = draft({
      buys: { open: false, deals: [4] },
      targeting: { restrictions: [...draft().targeting.restrictions, include('source', 'Graven')] }
    })
    expect(said(by, { deals: [deal] }).map((words) => words.split(':')[0])).toEqual([
      'warns price.bidMicros',
      'warns budget.dailyMicros',
      'warns budget.dailyMicros'
    ])
    expect(fixed(by, 'asks for €3.00', { deals: [deal] }).price.bidMicros).toBe(3_150_000)
    expect(fixed(by, 'Graven asks', { deals: [deal] }).budget.dailyMicros).toBe(10_000_000)
    expect(fixed(by, 'has ended', { deals: [{ ...deal, isExpired: true }] }).buys).toEqual({ open: true, deals: [] })
  })

  it('goals, trackers, click ids and aims that cannot be reached', () => {
    const goal = { campaign: { budget: CONTEXT.campaign.budget, goal: 'conversions' as const } }
    expect(said(draft(), goal)[0]).toContain('has no tracker')
    const linked = fixed(draft({ landing: 'https://kana.example/a?x=1#top' }), 'no click id', { ...goal, trackers: 1 })
    expect(linked.landing).toBe(`https://kana.example/a?x=1&click=${CLICK_MACRO}#top`)
    expect(parseInput(lineSchema, linked).landing).toBe(linked.landing)
    const aimed = draft({
      price: { model: 'CPM', bidMicros: null, maxMicros: 3_000_000, aim: { event: 'conversion', micros: 18_000_000 } }
    })
    expect(fixed(aimed, 'under twice', { trackers: 1 }).budget.dailyMicros).toBe(36_000_000)
    expect(stops(aimed)).toEqual(['price.aim'])
    expect(said(draft(), { campaign: { ...goal.campaign, goal: 'views' } })[0]).toContain('views, which are measured of video')
  })

  it('hours that never meet the flight, and the night on which clocks change', () => {
    const evenings = (days: number[]) => ({
      clock: 'line' as const,
      perMille: Array.from({ length: 168 }, (_, hour) => (days.includes(Math.floor(hour / 24)) && hour % 24 < 20 ? 1000 : 0))
    })
    const short = draft({ flight: { startDate: '2026-03-03', endDate: '2026-03-04' }, hours: evenings([0]) })
    expect(stops(short)).toEqual(['hours'])
    expect(fixed(short, 'never meet').hours).toBeNull()
    expect(said(draft({ hours: evenings([6]) }))).toEqual([
      'warns hours: On 2026-03-29 the clock of Europe/Lisbon changes: the hour from 1:00, in which it is open, does not happen.'
    ])
    expect(said(draft({ flight: { startDate: '2026-10-20', endDate: '2026-10-30' }, hours: evenings([6]) }))[0]).toContain('happens twice')
    expect(said(draft({ hours: evenings([2]) }))).toEqual([])
  })

  it('a start when nobody works, a name that says more, a copy by name only, places that add nothing', () => {
    expect(fixed(draft({ onceCleared: 'start' }), 'It would start').onceCleared).toBe('wait')
    expect(said(draft({ onceCleared: 'start' }), { nowHour: 62 * 24 + 11 })).toEqual([])
    expect(fixed(draft({ name: 'Native, tablets, PT ES' }), 'The name says native, ES, tablets').name).toBe('Display, phones, PT')
    const original = { name: 'First', draft: draft({ name: 'First' }) }
    expect(said(draft(), { original })).toEqual(['warns name: It differs from “First”, of which it is a copy, by name only.'])
    expect(said(draft({ pacing: 'fast' }), { original })).toEqual([])
    const city = CITIES.find((one) => COUNTRIES[one.country].code === 'PT')
    const where = draft({
      targeting: { restrictions: [include('where', 'PT', cityCode(city as (typeof CITIES)[0])), include('device', 'phone')] }
    })
    expect(fixed(where, 'adds nothing').targeting.restrictions[0].values).toEqual(['PT'])
    const stray = postalPlaceCode(POSTALS.find((one) => COUNTRIES[CITIES[one.city].country].code === 'FR') as (typeof POSTALS)[0])
    expect(
      fixed(draft({ targeting: { restrictions: [include('where', 'PT', stray), include('device', 'phone')] } }), 'in no chosen country')
        .targeting.restrictions[0].values
    ).toEqual(['PT'])
  })

  it('lines that compete, terms of the offer, budgets that are spent, a balance that does not pay', () => {
    const mate = { name: 'Other', draft: draft({ targeting: { restrictions: [include('where', 'PT-11', 'ES')] } }) }
    expect(said(draft(), { mates: [mate] })[0]).toContain('“Other” of this campaign looks for the same people')
    expect(said(draft(), { mates: [{ ...mate, draft: draft({ targeting: { restrictions: [include('where', 'ES')] } }) }] })).toEqual([])
    const terms = [{ countries: ['PT'], devices: ['phone' as const], systems: [], connections: [], hours: null }]
    const wide = draft({ targeting: { restrictions: [include('where', 'PT', 'ES'), include('device', 'phone', 'tablet')] } })
    expect(fixed(wide, 'pays for Spain', { terms }).targeting.restrictions[0].values).toEqual(['PT'])
    expect(fixed(wide, 'pays for tablets', { terms }).targeting.restrictions[1].values).toEqual(['phone'])
    const open = { countries: [], devices: [], systems: [], connections: [], hours: null }
    const wifi = { ...open, connections: ['Wi-Fi' as const] }
    const bought = fixed(draft(), 'pay for Wi-Fi alone, and the line buys all', { terms: [wifi] })
    expect(bought.targeting.restrictions.at(-1)).toMatchObject({ dimension: 'connection', values: ['Wi-Fi'] })
    expect(said(bought, { terms: [wifi] }).some((one) => one.includes('Wi-Fi'))).toBe(false)
    expect(said(draft(), { terms: [wifi, open] }).some((one) => one.includes('Wi-Fi'))).toBe(false)
    const weekdays = { ...open, hours: Array.from({ length: 168 }, (_, n) => (n < 120 ? 1 : 0)) }
    const shut = { clock: 'line' as const, perMille: Array.from({ length: 168 }, (_, n) => (n < 120 ? 1000 : 0)) }
    expect(said(draft(), { terms: [weekdays] }).some((one) => one.includes('hours of the week'))).toBe(true)
    expect(said(draft({ hours: shut }), { terms: [weekdays] }).some((one) => one.includes('hours of the week'))).toBe(false)
    expect(said(draft(), { spent: { day: 5_000_000, week: 0, month: 0, total: 0 } })[0]).toContain('€5.00 was spent today, more than €4.00')
    expect(said(draft(), { left: { micros: 1_000_000, by: 'balance' } })[0]).toContain('more than the balance of')
    expect(
      stops(draft({ price: { model: 'CPC', bidMicros: 2_000_000, maxMicros: null } }), { left: { micros: 1_000_000, by: 'limit' } })
    ).toEqual(['price.bidMicros'])
  })

  it('single ads: over the maximum, under every floor, shown to nobody, without a click id, all of them off', () => {
    const ads = [1, 2].map((id) => ({ id, name: `ad ${id}`, shapes: ['300x250'] }))
    const phones = include('device', 'phone')
    const line = draft({
      targeting: { restrictions: [include('where', 'PT'), phones] },
      price: { model: 'CPM', bidMicros: 2_000_000, maxMicros: 2_500_000 },
      landing: `https://kana.example?click=${CLICK_MACRO}`,
      ads: [
        { ad: 1, bidMicros: 3_000_000, targeting: { restrictions: [include('device', 'TV')] } },
        { ad: 2, bidMicros: 1000, landing: 'https://kana.example/two' }
      ]
    })
    const over = { ads, trackers: 1, campaign: { ...CONTEXT.campaign, goal: 'conversions' as const } }
    const found = said(line, over).filter((words) => words.startsWith('warns ads'))
    expect(found.map((words) => words.replace(/.*“(ad .)” (\S+ \S+).*|.*of “(ad .)” (\S+ \S+).*/, '$1$3 $2$4'))).toEqual([
      'ad 1 bids €3.00,',
      'ad 1 is narrowed',
      'ad 2 bids €0.001,',
      'ad 2 carries no'
    ])
    expect(fixed(line, 'over the maximum', over).ads?.[0].bidMicros).toBe(2_500_000)
    expect(fixed(line, 'under every floor', over).ads?.[1]).toEqual({ ad: 2, landing: 'https://kana.example/two' })
    expect(fixed(line, 'nobody would see it', over).ads?.[0]).toEqual({ ad: 1, bidMicros: 3_000_000 })
    expect(fixed(line, '“ad 2” carries no click id', over).ads?.[1].landing).toContain(CLICK_MACRO)
    const off = draft({ ads: [{ ad: 1, off: true, weight: 3 }] })
    expect(stops(off)).toEqual(['ads'])
    expect(fixed(off, 'All its ads are off').ads).toEqual([{ ad: 1, weight: 3 }])
    expect(bareShapes(off, CONTEXT.ads)).toContain('300x250')
    expect(bareShapes(draft(), CONTEXT.ads)).not.toContain('300x250')
  })

  it('every fix of random lines removes its finding, adds nothing that stops, and names the warnings that it adds', () => {
    const below = numbers(41)
    const key = ({ field, message }: FixableFinding) => `${field} ${message}`
    let fixes = 0
    for (let n = 0; n < 150; n++) {
      const line = randomLine(below)
      const shapes = shapesOf(line.format)
      const context: PreflightContext = {
        ...CONTEXT,
        ads: adsFor(below(4) ? shapes.slice(0, 1 + below(shapes.length)) : [SHAPES[below(SHAPES.length)]]),
        nowHour: below(8000),
        trackers: below(2),
        left: { micros: below(3) ? 1e12 : 0, by: below(2) ? 'balance' : 'limit' },
        campaign: { ...CONTEXT.campaign, goal: (['reach', 'views', 'conversions'] as const)[below(3)] },
        terms: [{ countries: ['PT', 'ES'], devices: ['phone'], systems: [], connections: [], hours: null }],
        deals: (line.buys?.deals ?? []).map((id) => ({
          id,
          name: `No. ${id}`,
          priceMicros: 3_000_000,
          leastSpendMicros: 50_000_000,
          isExpired: below(2) === 0
        })),
        reach: reachOf(line, shapes, catalogue)
      }
      const findings = preflight(line, context)
      for (const finding of findings) {
        if (!finding.fix) continue
        fixes++
        const after = withFix(line, finding.fix)
        expect(() => parseInput(lineSchema, after)).not.toThrow()
        const left = preflight(after, { ...context, reach: after.targeting === line.targeting ? context.reach : null })
        const fresh = left.filter((one) => !findings.some((known) => key(known) === key(one)))
        expect(left.map(key)).not.toContain(key(finding))
        expect(fresh.filter(({ severity }) => severity === 'stops')).toEqual([])
        expect(finding.fix.adds).toEqual(fresh.map(({ message }) => message))
      }
    }
    expect(fixes).toBeGreaterThan(200)
  })

  it('of a forecast says that rates put a bid under the floors, of lines that follow a rate alone', () => {
    const figures = figuresWith({ spendMicros: 4_000_000, demandMicros: 4_000_000 })
    const low = { ...figures, day: { ...figures.day, eligible: { value: 2000, low: 2000, high: 2000 } } }
    const said = (price: Partial<LineDraft['price']>, told = low) =>
      forecastFindings(draft({ price: { model: 'CPM', bidMicros: 2_000_000, maxMicros: 3_000_000, ...price } }), told, null).map(
        ({ field, message }) => [field, message]
      )
    const words = (event: string) => `At the rate of ${event} that is expected of it, it bids under the floor of 78 % of what it matches.`
    expect(said({})).toEqual([])
    expect(said({ model: 'CPC' })).toEqual([['price.bidMicros', words('clicks')]])
    expect(said({ bidMicros: null, aim: { event: 'page', micros: 400_000 } })).toEqual([['price.aim', words('pages')]])
    expect(said({ model: 'CPC' }, figures)).toEqual([])
  })

  it('of a forecast says what cannot be spent, what is gone in an hour, and which cap ends the reach', () => {
    const figures = figuresWith({ spendMicros: 1_200_000, demandMicros: 1_200_000 })
    const little = forecastFindings(draft(), figures, null)
    expect(little.map(({ message, fix }) => [message, fix?.edits[0].value])).toEqual([
      ['It would spend about €1.20 of €4.00 a day.', 2_000_000]
    ])
    expect(
      forecastFindings(draft({ pacing: 'fast' }), figuresWith({ spendMicros: 4_000_000, demandMicros: 900_000_000 }), null)[0].fix?.edits
    ).toEqual([{ field: 'pacing', value: 'even' }])
    const cap = {
      changes: [{ kind: 'cap' as const, cap: 0, times: 6 }],
      gain: 10,
      low: 5,
      high: 15,
      wins: 10,
      spendMicros: 5,
      spends: true,
      takesMore: false,
      eachMicros: null
    }
    expect(forecastFindings(draft(), figuresWith({ spendMicros: 4_000_000, demandMicros: 5_000_000 }), [cap])[0].fix).toEqual({
      words: 'Cap at 6 in 24 hours',
      edits: [{ field: 'caps', value: [{ times: 6, hours: 24 }] }],
      adds: []
    })
    // A tighter one is advised for other reasons.
    const tighter = { ...cap, changes: [{ ...cap.changes[0], times: 1 }] }
    expect(forecastFindings(draft(), figuresWith({ spendMicros: 4_000_000, demandMicros: 5_000_000 }), [tighter])).toEqual([])
    expect(forecastFindings(draft(), null, null)).toEqual([])
  })
})

describe('places inside others', () => {
  it('are those whose every postal code area the other takes in', () => {
    const metro = METROS[3]
    const city = CITIES.find((one) => one.metro === metro.index) as (typeof CITIES)[0]
    const postal = POSTALS.find((one) => one.city === city.index) as (typeof POSTALS)[0]
    const country = COUNTRIES[city.country].code
    expect([
      isInside(cityCode(city), metroCode(metro)),
      isInside(cityCode(city), REGIONS[city.region].code),
      isInside(postalPlaceCode(postal), cityCode(city)),
      isInside(postalPlaceCode(postal), country),
      isInside(metroCode(metro), country)
    ]).toEqual([true, true, true, true, true])
    expect([
      isInside(country, country),
      isInside(country, cityCode(city)),
      isInside(cityCode(city), 'near:1,1,30'),
      isInside(metroCode(metro), cityCode(city))
    ]).toEqual([false, false, false, false])
  })
})

describe('some fields of a draft', () => {
  it('taken one by one from another make it the other, whatever differs', () => {
    const below = numbers(77)
    for (let n = 0; n < 200; n++) {
      const [a, b] = [parseInput(lineSchema, randomLine(below)), parseInput(lineSchema, randomLine(below))]
      const changes = changesBetween(a, b)
      for (const { before, after } of changes) expect(before).not.toBe(after)
      expect(
        changesBetween(
          withFields(
            a,
            b,
            changes.map(({ field }) => field)
          ),
          b
        )
      ).toEqual([])
      const half = changes.map(({ field }) => field).filter(() => below(2) === 0)
      expect(changesBetween(withFields(a, b, half), b).map(({ field }) => field)).toEqual(
        changes.map(({ field }) => field).filter((field) => !half.includes(field))
      )
    }
  })
})
