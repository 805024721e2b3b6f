import { randomUUID } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { LinePreview, LineView, OfferPage, TestSent, ToldView, TrackerSetUp, TrackerView } from '@tin-harbor/core/contract'
import { postbackSignature, type SignedFields } from '../src/advertisers/trackers.js'
import { Tracker } from '../src/advertisers/tracker-model.js'
import { Campaign } from '../src/campaigns/campaign-model.js'
import { readMarket } from '../src/going-live/publications.js'
import { sumsBy } from '../src/delivery/roll-ups.js'
import { Line } from '../src/lines/line-model.js'
import { Ad } from '../src/creatives/creative-model.js'
import { Impressions, whereOf } from '../src/hits/impressions.js'
import { DEMO_HOUR } from '../src/demo/scenario.js'
import { READER, TRADER, newToken, testServer, type Ask, type TestServer } from './support/server.js'

let server: TestServer
let ask: Ask
beforeAll(async () => {
  server = await testServer('trackers')
  ask = await server.as(TRADER)
  await run(24)
})
afterAll(() => server.close())

/** Runs the market, and says which hour came first. */
async function run(hours: number): Promise<number> {
  const { hour } = await readMarket()
  await ask('POST', '/market/run', { hours })
  await server.deps.runner.idle()
  return hour
}
const trackerOf = async (name: string) => Tracker.findOne({ where: { name }, rejectOnEmpty: true })
const toldOf = async (tracker: number) => (await ask<ToldView[]>('GET', `/trackers/${tracker}/told`)).body
const seconds = () => Math.floor(Date.now() / 1000)

async function postback(tracker: Tracker, fields: Partial<SignedFields>, { secret = tracker.secret } = {}) {
  const whole = { click: '', transaction: '', value: '', currency: '', at: String(seconds()), ...fields }
  const sign = postbackSignature(secret, whole)
  const response = await fetch(`${server.address}/p/${tracker.pathKey}`, { method: 'POST', body: new URLSearchParams({ ...whole, sign }) })
  return { status: response.status, body: (await response.json()) as { title: string; field?: string } }
}

/** An impression of a line of an advertiser that the log of the demo has, seen by nobody's click so far. */
async function impressionOf(advertiserId: number, wanted: (did: number) => boolean = () => true) {
  const campaigns = await Campaign.findAll({ where: { advertiserId } })
  const lines = new Set((await Line.findAll({ where: { campaignId: campaigns.map(({ id }) => id) } })).map(({ id }) => id))
  const impressions = new Impressions(server.deps.sequelize, server.deps.catalogue, server.deps.tapes.world, server.deps.tapes.ready)
  const { hour: now } = await readMarket()
  for (let hour = now - 1; hour >= DEMO_HOUR && hour > now - 60; hour--)
    for (let place = 0; place < 400; place++) {
      const found = await impressions.of(hour, place)
      if (!found) break
      if (lines.has(found.line) && wanted(found.did)) return { hour, place, ...found }
    }
  throw new Error('No impression of the advertiser in the last hours.')
}

describe('a conversion that a server tells', () => {
  it('of a click of ours counts with the next market hour, once, and is earned as the market earns', async () => {
    const tracker = await trackerOf('purchase')
    const one = await impressionOf(tracker.advertiserId, (did) => (did & 5) === 0)
    const click = server.deps.hits.ids.sign({ kind: 'impression', hour: one.hour, place: one.place })
    expect((await fetch(`${server.address}/e/${click}?event=click`)).status).toBe(204)
    // Told many times at once, with one transaction.
    const answers = await Promise.all(
      Array.from({ length: 20 }, () => postback(tracker, { click, transaction: 'A-1', value: '249.50', currency: 'EUR' }))
    )
    expect(new Set(answers.map(({ status }) => status))).toEqual(new Set([202]))
    const before = await toldOf(tracker.id)
    expect(before.filter(({ outcome }) => outcome === 'waits')).toHaveLength(1)
    expect(before.filter(({ outcome }) => outcome === 'double')).toHaveLength(19)
    // Without a transaction a click converts once.
    for (const answer of [await postback(tracker, { click }), await postback(tracker, { click })]) expect(answer.status).toBe(202)
    const hour = await run(1)
    const after = await toldOf(tracker.id)
    expect(after.filter(({ outcome }) => outcome === 'waits')).toEqual([])
    const counted = after.filter(({ outcome }) => outcome === 'counted')
    expect(counted.map(({ transaction, by, valueMicros, enteredHour }) => ({ transaction, by, valueMicros, enteredHour }))).toEqual([
      { transaction: '', by: 'click', valueMicros: tracker.valueMicros, enteredHour: hour },
      { transaction: 'A-1', by: 'click', valueMicros: 249_500_000, enteredHour: hour }
    ])
    const sums = async () =>
      (await sumsBy(server.deps.sequelize, 'hour', ['conversions', 'clicks', 'valueMicros'], { lines: [one.line] })).find(
        ({ by }) => by === hour
      )
    const first = await sums()
    expect(first?.conversions).toBeGreaterThanOrEqual(2)
    expect(first?.clicks).toBeGreaterThanOrEqual(1)
    // Told again an hour later it counts for nothing.
    await fetch(`${server.address}/e/${click}?event=click`)
    await postback(tracker, { click, transaction: 'A-1', value: '249.50', currency: 'EUR' })
    await run(1)
    expect((await toldOf(tracker.id)).filter(({ outcome }) => outcome === 'counted')).toHaveLength(2)
    expect(await sums()).toEqual(first)
    // Who sold it, and to whom, stands in the report of that campaign.
    const trackers = (await ask<TrackerView[]>('GET', `/advertisers/${tracker.advertiserId}/trackers`)).body
    expect(trackers.find(({ id }) => id === tracker.id)).toMatchObject({ today: 2, all: 2 })
  })

  it('that is forged, old, in another currency, without or with a strange click is kept apart, each with its answer', async () => {
    const tracker = await trackerOf('purchase')
    const other = await trackerOf('test ride')
    const one = await impressionOf(tracker.advertiserId)
    const click = server.deps.hits.ids.sign({ kind: 'impression', hour: one.hour, place: one.place })
    const nowhere = server.deps.hits.ids.sign({ kind: 'impression', hour: one.hour, place: 3_000_000 })
    const last = async () => (await toldOf(tracker.id))[0]
    const cases: [Partial<SignedFields>, number, Partial<ToldView>, object?][] = [
      [{ click, transaction: 'F-1' }, 403, { outcome: 'forged' }, { secret: '00'.repeat(32) }],
      [{ click, transaction: 'O-1', at: String(seconds() - 200_000) }, 422, { outcome: 'old' }],
      [{ click, transaction: 'C-1', value: '10', currency: 'USD' }, 422, { outcome: 'currency', valueMicros: 0 }],
      [{ transaction: 'N-1' }, 202, { outcome: 'no click' }],
      [{ click: `${click}x`, transaction: 'X-1' }, 202, { outcome: 'not ours' }],
      [{ click: nowhere, transaction: 'X-2' }, 202, { outcome: 'not ours' }]
    ]
    for (const [fields, status, noted, with_ = {}] of cases) {
      const answer = await postback(tracker, fields, with_)
      expect(answer.status, JSON.stringify(fields)).toBe(status)
      if (status >= 400) expect(answer.body.title).toMatch(/\.$/)
      expect(await last()).toMatchObject({ transaction: fields.transaction, ...noted })
    }
    await server.deps.hits.tell({
      told: randomUUID(),
      tracker: other.id,
      how: 'server',
      click,
      transaction: 'E-1',
      valueMicros: null,
      page: '',
      toldAt: seconds(),
      refused: null
    })
    expect((await toldOf(other.id))[0]).toMatchObject({ outcome: 'elsewhere', transaction: 'E-1' })
    await run(1)
    expect(
      (await toldOf(tracker.id)).filter(({ transaction }) => /^[FOCNXE]-/.test(transaction)).every((row) => row.enteredHour === null)
    ).toBe(true)
    for (const [path, status] of [
      ['/p/000000000000000000', 404],
      [`/t/${tracker.pathKey}.gif?click=${click}`, 409],
      [`/p/${tracker.pathKey}?value=much`, 422],
      [`/p/${tracker.pathKey}?value=4000.01`, 422],
      [`/p/${tracker.pathKey}?click=${'a'.repeat(300)}`, 422]
    ] as const)
      expect((await fetch(server.address + path)).status, path).toBe(status)
    // Whoever says the same again and again, or has no click of ours, fills nothing.
    const counted = (await toldOf(tracker.id)).length
    const minute = () => Math.floor(Date.now() / 60_000)
    const began = minute()
    for (let n = 0; n < 200; n++) await postback(tracker, { click: 'mine', transaction: `J-${n}` })
    // So many a minute: they may have been told in two.
    expect((await toldOf(tracker.id)).length).toBeLessThanOrEqual(Math.min(200, counted + 120 * (1 + minute() - began)))
    const long = await fetch(`${server.address}/p/${tracker.pathKey}`, { method: 'POST', body: 'a'.repeat(20_000) })
    expect(long.status).toBe(413)
  })

  it('long after its click is outside the window, and says so', async () => {
    const tracker = await trackerOf('purchase')
    const one = await impressionOf(tracker.advertiserId, (did) => (did & 5) === 0)
    const click = server.deps.hits.ids.sign({ kind: 'impression', hour: one.hour, place: one.place })
    // Neither clicked nor seen: nothing of ours earned it.
    await postback(tracker, { click, transaction: `L-${randomUUID()}` })
    await run(1)
    const [row] = await toldOf(tracker.id)
    expect(row.outcome === 'late' || row.outcome === 'counted').toBe(true)
    if (row.outcome === 'late') expect(row.says).toContain('window')
  })
})

describe('a click in a preview', () => {
  const walk = async (address: string, init: RequestInit = {}) => fetch(address, { redirect: 'manual', ...init })

  it('is followed to a conversion that shows, and counts nowhere', async () => {
    const tracker = await trackerOf('purchase')
    const campaign = await Campaign.findOne({ where: { advertiserId: tracker.advertiserId }, rejectOnEmpty: true })
    await Campaign.sequelize?.transaction((transaction) => campaign.update({ linkTail: 'click=${CLICK_ID}' }, { transaction }))
    const line = await Line.findOne({ where: { campaignId: campaign.id }, rejectOnEmpty: true })
    const ad = await Ad.findOne({ where: { lineId: line.id, removed: false }, rejectOnEmpty: true })
    const { ads } = (await ask<LinePreview>('GET', `/lines/${line.id}/preview`)).body
    const own = ads.find(({ id }) => id === ad.id)
    const clicked = await walk(`${server.address}${own?.click}`)
    expect(clicked.status).toBe(302)
    const landed = await walk(clicked.headers.get('location') as string)
    const page = await landed.text()
    expect(page).toContain('Wader 80')
    expect(page).toContain('/t/')
    const cookie = (landed.headers.get('set-cookie') ?? '').split(';')[0]
    const site = new URL(clicked.headers.get('location') as string)
    const paid = await walk(`${site.origin}/nightjar.example/paid`, { method: 'POST', headers: { cookie } })
    expect(paid.status).toBe(303)
    const thanks = await walk(site.origin + (paid.headers.get('location') as string), { headers: { cookie } })
    expect(await thanks.text()).toContain('Order N-')
    const told = (await ask<ToldView[]>('GET', `/lines/${line.id}/told`)).body
    expect(told[0]).toMatchObject({ outcome: 'preview', by: 'click', tracker: 'purchase', valueMicros: 249_000_000, ad: ad.id })
    await run(1)
    expect((await toldOf(tracker.id)).find(({ id }) => id === told[0].id)).toMatchObject({ outcome: 'preview', enteredHour: null })
  })
})

describe('a tracker', () => {
  const draft = {
    name: 'newsletter',
    kind: 'request',
    subject: null,
    reports: 'script',
    clickHours: 24,
    viewHours: null,
    valueMicros: null,
    pages: { which: 'these', paths: ['/news/*'], leastPages: 2, leastSeconds: 10 }
  }

  it('is made, built in, tried, and counts what its rule says of pages', async () => {
    const made = await ask<TrackerView[]>('POST', '/advertisers/1/trackers', draft)
    expect(made.status).toBe(200)
    const tracker = made.body.at(-1) as TrackerView
    expect(tracker).toMatchObject({ name: 'newsletter', all: 0, lastAt: null })
    const setUp = (await ask<TrackerSetUp>('GET', `/trackers/${tracker.id}/set-up`)).body
    expect(setUp.code).toContain(`/t/${tracker.key}.js`)
    expect(setUp.postback).toBeNull()
    const script = await (await fetch(`${server.address}/t/${tracker.key}.js`)).text()
    expect(() => new Function(script)).not.toThrow()
    const sent = (await ask<TestSent>('POST', `/trackers/${tracker.id}/test`)).body
    expect(sent).toMatchObject({ status: 200, noted: { outcome: 'test', by: 'click', how: 'script' } })
    const click = server.deps.hits.testOf(tracker.id)
    const page = (path: string, pages: number, after: number) =>
      fetch(
        `${server.address}/t/${tracker.key}?${new URLSearchParams({ click, page: `https://x.example${path}`, pages: String(pages), seconds: String(after), called: '' })}`
      )
    for (const [path, pages, after] of [
      ['/news/1', 1, 60],
      ['/news/1', 5, 5],
      ['/other', 5, 60]
    ] as const)
      expect((await page(path, pages, after)).status).toBe(200)
    expect(await toldOf(tracker.id)).toHaveLength(1)
    await page('/news/1', 2, 10)
    expect(await toldOf(tracker.id)).toHaveLength(2)
    const saved = await ask<TrackerView[]>('PUT', `/trackers/${tracker.id}`, { version: 1, tracker: { ...draft, clickHours: 48 } })
    expect(saved.body.at(-1)).toMatchObject({ clickHours: 48, version: 2 })
    expect((await ask('PUT', `/trackers/${tracker.id}`, { version: 1, tracker: draft })).status).toBe(409)
  })

  it('of a wrong form, of one name twice, or by somebody who may not, is refused by the field', async () => {
    const refused = async (change: object) => (await ask('POST', '/advertisers/1/trackers', { ...draft, name: 'x', ...change })).body
    expect((await refused({ name: 'purchase' })).issues[0].field).toBe('name')
    expect((await refused({ clickHours: 0 })).issues[0].field).toBe('clickHours')
    expect((await refused({ pages: { ...draft.pages, paths: [] } })).issues[0].field).toBe('pages.paths')
    expect((await refused({ pages: { ...draft.pages, paths: ['news'] } })).issues[0].field).toBe('pages.paths[0]')
    const reader = await server.as(READER)
    expect((await reader('POST', '/advertisers/1/trackers', draft)).status).toBe(403)
    const { id } = await trackerOf('purchase')
    expect((await reader('GET', `/trackers/${id}/set-up`)).status).toBe(403)
    expect((await reader('GET', `/trackers/${id}/told`)).status).toBe(200)
  })
})

describe('an offer', () => {
  it('is made, sold by a campaign, says what came of it, and is not thrown away while it is sold', async () => {
    const before = (await ask<OfferPage[]>('GET', '/advertisers/1/offers')).body
    expect(before[0]).toMatchObject({ name: 'Winter telescopes', tracked: [true, true] })
    const { id, version, name, landings, payouts, stock } = before[0]
    const draft = { name, landings, payouts, stock, terms: before[0].terms }
    const terms = { ...draft.terms, devices: ['phone' as const] }
    const saved = await ask<OfferPage[]>('PUT', `/offers/${id}`, { version, offer: { ...draft, terms } })
    expect(saved.body[0]).toMatchObject({ version: version + 1, terms: { devices: ['phone'] } })
    const came = (await ask('GET', `/offers/${id}/came`)).body
    expect(came.events.map(({ event }: { event: string }) => event)).toEqual(['purchase', 'catalogue'])
    expect(came.events[0].unpaid + came.events[0].accepted).toBeGreaterThanOrEqual(2)
    expect(came.left).toBe(400 - came.events[0].accepted)
    expect((await ask('DELETE', `/offers/${id}`)).status).toBe(409)
    const twice = { ...draft, name: 'Twice', landings: [draft.landings[0], draft.landings[0]] }
    expect((await ask('POST', '/advertisers/1/offers', twice)).body.issues[0].message).toContain('Two links are for the same')
    const fresh = (await ask<OfferPage[]>('POST', '/advertisers/1/offers', { ...draft, name: 'Spring' })).body.at(-1) as OfferPage
    expect((await ask<OfferPage[]>('DELETE', `/offers/${fresh.id}`)).body.map(({ name }) => name)).toEqual(['Winter telescopes'])
    const { body: campaign } = await ask('GET', '/campaigns/1')
    const { id: _, code: _code, advertiserId: _advertiser, version: was, ...campaignDraft } = campaign.campaign
    expect(campaignDraft.offerId).toBe(id)
    const other = (await ask<OfferPage[]>('GET', '/advertisers/2/offers')).body[0]
    const wrong = await ask('PUT', '/campaigns/1', { version: was, campaign: { ...campaignDraft, offerId: other.id } })
    expect(wrong.body.issues[0].field).toBe('offerId')
  })
})

describe('where somebody lands', () => {
  it('is the nearest link that is for them, as it was cleared; macros say who it was', async () => {
    const one = await impressionOf(1)
    const { ids } = server.deps.hits
    const follow = async () => {
      const path = `/c/${ids.sign({ kind: 'impression', hour: one.hour, place: one.place })}`
      return (await fetch(server.address + path, { redirect: 'manual' })).headers.get('location') ?? ''
    }
    expect(await follow()).toContain('/nightjar.example/winter')
    const { COUNTRY, DEVICE } = whereOf(one.seen)
    const line = (await ask<LineView>('GET', `/lines/${one.line}`)).body
    const landings = [
      {
        countries: [COUNTRY],
        devices: [DEVICE],
        link: 'https://nightjar.example/de/winter-m?to=${COUNTRY}-${DEVICE}&at=${HOUR}&by=${SOURCE}'
      },
      { countries: [COUNTRY], devices: [], link: 'https://nightjar.example/?country' }
    ]
    const saved = await ask('PUT', `/lines/${one.line}`, { version: line.version, line: { ...line.draft, landings } })
    expect(saved.status).toBe(200)
    // The draft leads nobody anywhere before it is live.
    expect(await follow()).not.toContain('winter-m')
    const { version } = (await ask<LineView>('GET', `/lines/${one.line}`)).body
    expect((await ask('POST', `/lines/${one.line}/live`, { version, token: newToken() })).status).toBe(200)
    await new Promise((resolve) => setTimeout(resolve, 2200))
    expect(await follow()).toMatch(new RegExp(`/nightjar.example/de/winter-m\\?to=${COUNTRY}-${DEVICE}&at=\\d\\d&by=\\w`))
  }, 60_000)
})
