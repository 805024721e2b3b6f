import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import type { Router } from 'vue-router'
import type { AdReviewView, OfferPage, ReviewsView, TrackerView } from '@tin-harbor/core/contract'
import type { Landing } from '@tin-harbor/core/buying'
import LandingsField from '@/parts/LandingsField.vue'
import LineState from '@/views/line/LineState.vue'
import ReviewView from '@/views/review/ReviewView.vue'
import SoldView from '@/views/sold/SoldView.vue'
import { settle, traderAt, viewOf, type Request } from './support'

let requests: Request[]
let router: Router
const asked = (method: string, path: string) => requests.filter((one) => one.method === method && one.path === path)
beforeEach(() => {
  ;({ requests, router } = traderAt({ line: '/campaigns/lines/:lineId', campaign: '/campaigns/:campaignId', sold: '/sold/:advertiserId' }))
})

const review = (over: Partial<AdReviewView> = {}): AdReviewView => ({
  id: 4,
  ad: 9,
  name: 'Saturn tonight',
  line: 7,
  lineName: 'Native, DE',
  desk: 'the reviewer',
  state: 'waits',
  findings: [],
  sentHour: 1450,
  byHour: 1454,
  answeredHour: null,
  note: '',
  links: ['https://shop.example/'],
  creativeId: null,
  older: null,
  isLast: true,
  ...over
})

describe('the review of ads', () => {
  const shown = async (reviews: AdReviewView[], over: Partial<ReviewsView> = {}) => {
    const view = mount(ReviewView, { global: { plugins: [router] } })
    await asked('GET', '/reviews')[0].reply({
      body: { reviews, rules: [{ rule: 'claims', says: 'A claim has a source.', reason: 'So.' }], isAway: false, ...over }
    })
    await flushPromises()
    return view
  }

  it('says who waits until when, what serves meanwhile, and what was refused and why', async () => {
    const findings = [
      { rule: 'capitals' as const, value: '“NOW” in the headline', reason: 'It shouts.' },
      { rule: 'capitals' as const, value: '“NOW” in the text', reason: 'It shouts.' }
    ]
    const view = await shown([
      review({ older: { name: 'Saturn', links: ['https://shop.example/old'], creativeId: null } }),
      review({ id: 5, state: 'refused', findings, answeredHour: 1451 }),
      review({ id: 6, state: 'cleared', answeredHour: 1451 })
    ])
    expect(view.get('[data-test=review-words]').text()).toBe('1 waits, all answered by Mon 2 Mar, 14:00; 1 is refused.')
    expect(view.get('[data-test=review-4]').text()).toContain('its version before goes on serving')
    expect(view.get('.ReviewEntry-both').text()).toMatch(/serves\s*Saturn, leads to https:\/\/shop.example\/old/)
    expect(view.get('[data-test=review-5] li').text()).toBe('capitals: “NOW” in the headline; “NOW” in the text. It shouts.')
    expect(view.find('[data-test=review-6]').exists()).toBe(false)
    await view.get('[data-test=review-show]').setValue('cleared')
    expect(view.findAll('.ReviewEntry').map((one) => one.attributes('data-test'))).toEqual(['review-6'])
  })

  it('answers a refusal, and says what stands in the way', async () => {
    const view = await shown([review({ id: 5, state: 'refused', answeredHour: 1451 })], { isAway: true })
    expect(view.get('[role=alert]').text()).toContain('could not be reached')
    await view.get('[data-test=answer-5]').trigger('click')
    await view.get('[data-test=answer-text-5]').setValue('See https://ostler.example/steel')
    await view.get('form').trigger('submit')
    const [sent] = asked('POST', '/reviews/5/answer')
    expect(sent.body).toEqual({ text: 'See https://ostler.example/steel' })
    await sent.reply({ status: 409, body: { title: 'Only a refusal that is the last word on an ad is answered.' } })
    await flushPromises()
    expect(view.get('form [role=alert]').text()).toContain('last word')
  })

  it('is told at the line: by when it is answered, and what to do where all is refused', () => {
    const state = (over: object) => mount(LineState, { props: { line: viewOf(undefined, over) } }).text()
    const inForce = { draft: viewOf().draft, forecast: {} as never, marketHour: 1450, changes: [] }
    expect(state({ state: 'in review', inForce, reviews: [review()] })).toContain('1 of its ads is answered by Mon 2 Mar, 14:00')
    const twice = [review(), review({ id: 5, desk: 'Quay House', byHour: 1455 })]
    expect(state({ state: 'in review', inForce, reviews: twice })).toContain('1 of its ads is answered by Mon 2 Mar, 15:00')
    expect(state({ state: 'refused', inForce, reviews: [review({ state: 'refused' })] })).toContain('all its ads were refused')
  })
})

describe('links by country and device', () => {
  const all: Landing[] = [{ countries: ['DE'], devices: [], link: 'https://shop.example/de' }]
  it('are added once they are links, changed and taken out', async () => {
    const field = mount(LandingsField, { props: { id: 'x', landings: all, disabled: false } })
    await field.get('[data-test=x-add]').trigger('click')
    const fresh = field.get('[data-test=x-fresh]')
    await fresh.setValue('shop')
    expect(field.emitted('change')).toBeUndefined()
    expect(field.text()).toContain('A link is a web address')
    await field.get('[data-test=x-fresh]').setValue('https://shop.example/at')
    expect(field.emitted('change')?.[0]).toEqual([[...all, { countries: [], devices: [], link: 'https://shop.example/at' }]])
    await field.get('[data-test=landing-0]').setValue('https://shop.example/ch')
    expect(field.emitted('change')?.[1]).toEqual([[{ ...all[0], link: 'https://shop.example/ch' }]])
    await field.get('[aria-label="Take the link for DE out"]').trigger('click')
    expect(field.emitted('change')?.[2]).toEqual([[]])
  })
})

describe('what an advertiser sells', () => {
  const offer: OfferPage = {
    id: 2,
    advertiserId: 1,
    name: 'Winter telescopes',
    landings: [{ countries: [], devices: [], link: 'https://shop.example/winter' }],
    payouts: [
      { event: 'purchase', micros: 44_000_000 },
      { event: 'leaflet', micros: 1_000_000 }
    ],
    stock: 400,
    terms: { countries: ['DE'], devices: [], systems: [], connections: [], hours: null },
    version: 3,
    campaigns: [{ id: 1, name: 'Clear winter skies' }],
    tracked: [true, false]
  }
  const tracker: TrackerView = {
    id: 8,
    advertiserId: 1,
    name: 'purchase',
    kind: 'purchase',
    subject: null,
    reports: 'script',
    clickHours: 720,
    viewHours: null,
    valueMicros: null,
    pages: { which: 'these', paths: ['/thanks'], leastPages: 2, leastSeconds: 0 },
    key: 'ab',
    version: 1,
    today: 0,
    all: 0,
    lastAt: null
  }
  async function opened() {
    await router.push('/sold/1')
    const view = mount(SoldView, { global: { plugins: [router] } })
    await asked('GET', '/advertisers/1/offers')[0].reply({ body: [offer] })
    await asked('GET', '/advertisers/1/trackers')[0].reply({ body: [tracker] })
    await settle()
    const came = {
      days: 90,
      spendMicros: 20_000_000,
      left: 390,
      events: [{ event: 'purchase', accepted: 10, unpaid: 2, payMicros: 440_000_000 }]
    }
    await asked('GET', '/offers/2/came')[0].reply({ body: came })
    await settle()
    return view
  }

  it('stands in words, with what came of it and what nobody counts', async () => {
    const view = await opened()
    const said = view.get('[data-test=offer-2]').text()
    expect(said).toContain('€44.00 for a purchase')
    expect(said).toContain('only in DE')
    expect(said).toContain('10 × purchase and 2 that are not paid for')
    expect(said).toContain('400 in stock, 390 left')
    expect(said).toContain('No tracker counts leaflet')
    const counts = view.get('[data-test=tracker-8]').text()
    expect(counts).toContain('it is the page /thanks, from page 2 on. A click counts for 30 days, a view does not')
  })

  it('is changed with its version, and says what is wrong by the field', async () => {
    const view = await opened()
    await view.get('[data-test=edit-offer-2]').trigger('click')
    await view.get('#offer-name').setValue('')
    await view.get('form').trigger('submit')
    await settle()
    expect(asked('PUT', '/offers/2')).toHaveLength(0)
    expect(view.get('.FieldRow-problem').text()).not.toBe('')
    await view.get('#offer-name').setValue('Spring telescopes')
    await view.get('form').trigger('submit')
    const [saved] = asked('PUT', '/offers/2')
    expect(saved.body).toMatchObject({ version: 3, offer: { name: 'Spring telescopes', terms: { countries: ['DE'] } } })
    await saved.reply({ body: [{ ...offer, name: 'Spring telescopes', version: 4 }] })
    await settle()
    expect(view.get('[data-test=offer-2] h3').text()).toBe('Spring telescopes')
  })

  it('sends a test of a tracker, and tells what came of it', async () => {
    const view = await opened()
    await view.get('[data-test=test-8]').trigger('click')
    const [test] = asked('POST', '/trackers/8/test')
    const noted = {
      id: 3,
      tracker: 'purchase',
      how: 'script',
      outcome: 'test',
      says: 'a test: counts nowhere',
      term: null,
      by: 'click',
      click: 'c',
      transaction: 't',
      valueMicros: 5_000_000,
      page: '',
      toldAt: 1,
      line: null,
      ad: null,
      enteredHour: null
    }
    await test.reply({ body: { sent: 'http://here/t/ab?x=1', status: 200, answer: 'an image of one pixel', noted } })
    await asked('GET', '/advertisers/1/trackers')[1].reply({ body: [{ ...tracker, lastAt: 1 }] })
    await settle()
    expect(view.get('[data-test=test-sent]').text()).toContain(
      'Noted as number 3, €5.00: a test: counts nowhere; it would be earned by a click'
    )
    await view.get('[data-test=edit-tracker-8]').trigger('click')
    await view.get('[data-test=tracker-paths]').setValue('/thanks /done')
    await view.get('[data-test=save-tracker]').trigger('submit')
    expect(asked('PUT', '/trackers/8')[0].body).toMatchObject({ tracker: { pages: { which: 'these', paths: ['/thanks', '/done'] } } })
  })
})
