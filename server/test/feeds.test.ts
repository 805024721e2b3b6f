import { QueryTypes } from 'sequelize'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { FeedItemView, FeedItems, FeedMade, FeedView, LineView } from '@tin-harbor/core/contract'
import type { Feed as FeedDraft } from '@tin-harbor/core/creative'
import { Ad } from '../src/creatives/creative-model.js'
import { Feed, FeedItemRow } from '../src/feeds/feed-model.js'
import { keepReading } from '../src/feeds/keeping.js'
import { rulesInForce, readMarket } from '../src/going-live/publications.js'
import { libraryOf } from './support/library.js'
import { campaignDraft, lineDraft, newToken, testServer, READER, TRADER, type Ask, type TestServer } from './support/server.js'

const ADVERTISER = 2
let server: TestServer
let ask: Ask
let icon = ''

beforeAll(async () => {
  server = await testServer('feeds')
  ask = await server.as(TRADER)
  const square = await sharp({ create: { width: 192, height: 192, channels: 3, background: '#885522' } })
    .png()
    .toBuffer()
  icon = `sha256:${(await libraryOf(server, ask, ADVERTISER).added('icon.png', square)).sha256}`
})
afterAll(() => server.close())

const NO_FIELDS = { key: '', title: '', text: '', link: '', picture: '', price: '', stock: '' }
const feedOf = (address: string, over: Partial<FeedDraft> = {}): FeedDraft => ({
  name: 'Shop',
  address,
  fields: NO_FIELDS,
  template: { headline: '{title}', longHeadline: '{title} for {price}', text: '{text}', button: 'Look', brand: 'Ostler', icon },
  which: { words: '', least: null, most: null },
  changed: 'goes on',
  ...over
})
const added = async (address: string, over: Partial<FeedDraft> = {}) =>
  (await ask<FeedView>('POST', `/advertisers/${ADVERTISER}/feeds`, { feed: feedOf(address, over) })).body
const itemsOf = async (id: number, show = 'all') => (await ask<FeedItems>('GET', `/feeds/${id}/items?show=${show}`)).body
const said = (item: FeedItemView, part: string) => item.said.find((one) => one.part === part)?.value

describe('a feed', () => {
  it('is read as RSS, Atom, XML or CSV; what is a title, a price or a picture is known by its name', async () => {
    const rss = await added('https://ostler.example/bikes.rss')
    expect(rss.found).toMatchObject({ form: 'RSS', items: 7, broken: 0 })
    expect(rss.feed.fields).toMatchObject({ key: 'guid', title: 'title', link: 'link', picture: 'enclosure@url', price: 'shop:price' })
    const { items } = await itemsOf(rss.id)
    expect([items[0].title, items[0].price, said(items[0], 'longHeadline')]).toEqual([
      'Family box',
      '2490.00 EUR',
      'Family box for 2490.00 EUR'
    ])
    // A description longer than the slot shows is cut between words; one with an empty stock cannot be had.
    expect(items.at(-1)).toMatchObject({ key: 'O-107', state: 'out' })
    const csv = await added('https://nightjar.example/telescopes.csv')
    expect([csv.found?.form, csv.found?.items, csv.feed.fields.stock]).toEqual(['CSV', 4, 'availability'])
    expect((await itemsOf(csv.id)).items[2]).toMatchObject({ title: 'Plover 130', price: '449,00 €', state: 'there' })
    const atom = await added('https://inkwell.example/courses.atom')
    expect([atom.found?.form, atom.counts.there]).toEqual(['Atom', 3])
    expect((await itemsOf(atom.id)).items[0].picture).toBe('https://inkwell.example/items/0/1200x800.png')
    const list = (await ask('GET', `/advertisers/${ADVERTISER}/feeds`)).body
    expect(list.map(({ words }: { words: string }) => words)).toEqual(['3 items', '4 items', '7 items'])
  })

  it('of ten thousand items is read whole; the thirty that are broken are named, each with what is wrong', async () => {
    const feed = await added('https://tagworks.example/feed/many.xml', { which: { words: 'brass', least: 50, most: 60 } })
    expect([feed.found?.form, feed.found?.items, feed.found?.broken]).toEqual(['XML', 10_000, 30])
    expect(feed.found?.told.slice(0, 3)).toEqual([
      { nth: 333, key: 'P-333', says: '“P-333”: Its price “a lot” is no number.' },
      { nth: 666, key: 'P-666', says: '“P-666”: Its link “inside” is no web address.' },
      { nth: 999, key: 'P-999', says: '“P-999”: It has no title.' }
    ])
    expect([feed.counts.there + feed.counts.out, feed.counts.out]).toEqual([9970, 1000 - 3])
    const { items, count } = await itemsOf(feed.id, 'wanted')
    expect(count).toBe(feed.counts.wanted)
    expect(items.every(({ price }) => Number(price) >= 50 && Number(price) <= 60)).toBe(true)
  })

  it.each([
    ['bomb.xml', 'It declares entities of its own; such a file is not read.'],
    ['huge.xml', 'It has more than 24576 kB.'],
    ['page.html', 'It is a web page, and no feed.'],
    ['empty.csv', 'The feed is empty.'],
    ['nowhere.xml', 'It answers 404.']
  ])('that is no feed says why: %s', async (name, says) => {
    expect((await added(`https://tagworks.example/feed/${name}`)).problem).toBe(says)
  })

  it('that is cut off says where, and leaves what was known of its items as it was', async () => {
    const { id, version, feed } = await added('https://inkwell.example/courses.atom')
    const { body } = await ask<FeedView>('PUT', `/feeds/${id}`, {
      version,
      feed: { ...feed, address: 'https://tagworks.example/feed/cut.xml' }
    })
    expect(body.problem).toMatch(/^It is no XML that can be read: line 1/)
    expect(body.counts).toMatchObject({ there: 3, gone: 0 })
  })

  it.each(['https://127.0.0.1/feed', 'https://10.0.0.8/feed', 'https://169.254.169.254/feed', 'https://tagworks.example/inside'])(
    'is not looked for in our own network: %s',
    async (address) => {
      expect((await added(address)).problem).toBe('It is no public address.')
    }
  )

  it.each(['https://2130706433/feed', 'https://localhost/feed', 'https://[::1]/feed', 'http://ostler.example/bikes.rss', 'no address'])(
    'lies at an address of the web, and nowhere else: %s',
    async (address) => {
      const { status, body } = await ask('POST', `/advertisers/${ADVERTISER}/feeds`, { feed: feedOf(address) })
      expect([status, body.issues[0].field]).toEqual([422, 'feed.address'])
    }
  )

  it('is nobody’s to change who only reads, and one that two change at once says so', async () => {
    const { id, version, feed } = await added('https://inkwell.example/courses.atom')
    const reader = await server.as(READER)
    expect((await reader('POST', `/feeds/${id}/read`)).status).toBe(403)
    expect((await ask('PUT', `/feeds/${id}`, { version, feed: { ...feed, name: 'Courses' } })).status).toBe(200)
    expect((await ask('PUT', `/feeds/${id}`, { version, feed })).status).toBe(409)
    expect((await ask('DELETE', `/feeds/${id}`)).status).toBe(204)
    expect((await ask('GET', `/feeds/${id}`)).status).toBe(404)
  })

  it('is kept whole or not at all, whatever dies while it is', async () => {
    const { id, version, feed } = await added('https://tagworks.example/feed/many.xml')
    let turn = version
    const wrote = async () => {
      const rows = await FeedItemRow.findAll({ attributes: ['item'], where: { feedId: id } })
      return [...new Set(rows.map(({ item }) => item.texts.button))]
    }
    for (let n = 0; n < 2; n++) {
      const button = `Look ${n}`
      const was = await wrote()
      const asked = ask('PUT', `/feeds/${id}`, { version: turn, feed: { ...feed, template: { ...feed.template, button } } })
      await new Promise((resolve) => setTimeout(resolve, 350 + 220 * n))
      const busy = await server.deps.sequelize.query<{ id: number }>(
        `SELECT id FROM information_schema.processlist WHERE db = DATABASE() AND id <> CONNECTION_ID()`,
        { type: QueryTypes.SELECT }
      )
      for (const one of busy) await server.deps.sequelize.query(`KILL ${Number(one.id)}`).catch(() => undefined)
      const { status } = await asked
      turn = (await Feed.findByPk(id, { rejectOnEmpty: true })).version
      expect([was, [button]]).toContainEqual(await wrote())
      if (status === 200) expect(await wrote()).toEqual([button])
    }
    expect((await ask<FeedView>('POST', `/feeds/${id}/read`)).body.counts.there).toBe(8973)
  }, 120_000)
})

describe('ads of a feed', () => {
  const nativeLine = async () => {
    const campaign = (await ask('POST', `/advertisers/${ADVERTISER}/campaigns`, campaignDraft())).body.id as number
    const draft = lineDraft({ format: 'native', targeting: EVERYWHERE, landing: 'https://ostler.example/test-ride' })
    return (await ask('POST', `/campaigns/${campaign}/lines`, draft)).body.id as number
  }
  const EVERYWHERE = { restrictions: [{ dimension: 'where' as const, mode: 'include' as const, values: ['GB', 'FR', 'DE'] }] }
  const lineOf = async (id: number) => (await ask<LineView>('GET', `/lines/${id}`)).body
  const made = async (feed: number, items: readonly FeedItemView[], line: number | null) =>
    (await ask<FeedMade>('POST', `/feeds/${feed}/ads`, { items: items.map(({ id }) => id), line })).body
  const offInForce = async (line: number) => {
    const { lines } = await rulesInForce((await readMarket()).publicationId)
    return [...new Set(lines.find((one) => one.line === line)?.ads.flatMap(({ ad, off }) => (off ? [ad] : [])))]
  }
  const runTo = async (hourOfDay: number) => {
    const { hour } = await readMarket()
    await ask('POST', '/market/run', { hours: ((hourOfDay - hour) % 24) + ((hourOfDay - hour) % 24 <= 0 ? 24 : 0) })
    await server.deps.runner.idle()
  }

  it('say what the template says of each, lead to its page, and are put on a line at once; what makes none is told', async () => {
    const { id } = await added('https://ostler.example/bikes.rss')
    await runTo(8)
    await ask('POST', `/feeds/${id}/read`)
    const line = await nativeLine()
    const { items } = await itemsOf(id)
    const first = await made(id, items, line)
    expect([first.made, first.put, first.refused.map(({ says }) => says)]).toEqual([6, 6, ['It cannot be had now.']])
    const { ads, draft } = await lineOf(line)
    expect(ads[1]).toMatchObject({ name: 'Longtail, Shop', stopped: null, shapes: ['native card', 'native row'] })
    expect(draft.ads?.find(({ ad }) => ad === ads[1].id)?.landing).toBe('https://ostler.example/items/1')
    // Once more makes nothing twice.
    const again = await made(id, items, line)
    expect([again.made, again.renewed, again.put]).toEqual([0, 0, 0])
    expect((await ask('DELETE', `/feeds/${id}`)).body.title).toBe('6 ads of it are on lines; take them off first.')
  })

  it('whose items run out are stopped, in force from the next hour on, and go on when they are back', async () => {
    const { id } = await added('https://ostler.example/bikes.rss')
    await runTo(8)
    await ask('POST', `/feeds/${id}/read`)
    const line = await nativeLine()
    await made(id, (await itemsOf(id)).items.slice(0, 3), line)
    const { ads, version } = await lineOf(line)
    expect((await ask('POST', `/lines/${line}/live`, { version, token: newToken() })).status).toBe(200)
    expect(await offInForce(line)).toEqual([])
    await runTo(15)
    const { body } = await ask<FeedView>('POST', `/feeds/${id}/read`)
    expect(body.counts).toMatchObject({ out: 2, stopped: 1 })
    expect((await lineOf(line)).ads.map(({ stopped }) => stopped)).toEqual([null, 'out of stock in “Shop”', null])
    expect(await offInForce(line)).toEqual([ads[1].id])
    expect((await ask('GET', `/lines/${line}/live-plan`)).body.findings).toContainEqual(
      expect.objectContaining({ message: 'Some of its ads are not shown: “Longtail, Shop”, out of stock in “Shop”.' })
    )
    // It is shown to nobody while it is stopped.
    const shown = async () =>
      ((await ask('GET', `/lines/${line}/ads/standing`)).body as { ads: { ad: number; impressions: number; share: number }[] }).ads
    const before = (await shown()).find(({ ad }) => ad === ads[1].id)?.impressions
    await runTo(19)
    const during = (await shown()).find(({ ad }) => ad === ads[1].id)
    expect([during?.impressions, during?.share]).toEqual([before, 0])
    await runTo(21)
    await ask('POST', `/feeds/${id}/read`)
    expect(await offInForce(line)).toEqual([])
    expect((await lineOf(line)).ads.every(({ stopped }) => stopped === null)).toBe(true)
  }, 120_000)

  it('that are put on another line, or copied, while their item is out are stopped there too', async () => {
    const { id } = await added('https://ostler.example/bikes.rss')
    await runTo(8)
    await ask('POST', `/feeds/${id}/read`)
    const first = await nativeLine()
    await made(id, (await itemsOf(id)).items.slice(0, 2), first)
    await runTo(15)
    await ask('POST', `/feeds/${id}/read`)
    const { ads } = await lineOf(first)
    const copy = (await ask('POST', `/lines/${first}/copy`, { name: 'Again', campaignId: null })).body.id as number
    expect((await lineOf(copy)).ads.map(({ stopped }) => stopped)).toEqual(ads.map(({ stopped }) => stopped))
    const other = await nativeLine()
    const { body } = await ask<LineView>('POST', `/lines/${other}/ads`, { creatives: [ads[1].madeCreativeId] })
    expect(body.ads[0].stopped).toBe('out of stock in “Shop”')
  })

  it('that are cut off between the reading and the stopping are stopped by the next hour', async () => {
    const { id } = await added('https://ostler.example/bikes.rss')
    await runTo(8)
    await ask('POST', `/feeds/${id}/read`)
    const line = await nativeLine()
    await made(id, (await itemsOf(id)).items.slice(0, 2), line)
    const feed = await Feed.findByPk(id, { rejectOnEmpty: true })
    const rows = await FeedItemRow.findAll({ where: { feedId: id } })
    const items = rows.filter(({ itemKey }) => itemKey !== 'O-101').map(({ nth, item }) => ({ nth, item }))
    // Kept, and then nothing more.
    const read = { form: 'RSS' as const, names: [], guessed: feed.draft.fields, items, broken: [] }
    expect(await keepReading(server.deps.sequelize, feed, read, feed.readAt ?? 0)).toBe(true)
    expect((await lineOf(line)).ads[0].stopped).toBeNull()
    server.deps.feeds.onHour((await readMarket()).hour + 1)
    await expect.poll(async () => (await lineOf(line)).ads[0].stopped, { timeout: 10_000 }).toBe('gone from “Shop”')
  })

  it('whose items say something else are made anew in their places, and stop before where that is wanted', async () => {
    const { id } = await added('https://nightjar.example/telescopes.csv', { changed: 'stops' })
    const line = await nativeLine()
    await made(id, (await itemsOf(id)).items.slice(0, 2), line)
    const { version, feed } = (await ask<FeedView>('GET', `/feeds/${id}`)).body
    const { body } = await ask<FeedView>('PUT', `/feeds/${id}`, {
      version,
      feed: { ...feed, template: { ...feed.template, button: 'See it' } }
    })
    expect(body.counts).toMatchObject({ changed: 2, stopped: 2 })
    const was = (await lineOf(line)).ads
    expect(was[0].stopped).toBe('“Shop” says something else of it by now')
    // Those that are there are made anew, the others for the first time, in one go.
    const anew = await made(id, (await itemsOf(id)).items, line)
    expect([anew.made, anew.renewed, anew.put]).toEqual([2, 2, 2])
    const { ads, draft } = await lineOf(line)
    expect([ads.length, ads.every(({ stopped }) => stopped === null)]).toEqual([4, true])
    expect(ads.some(({ id: ad }) => was.some((one) => one.id === ad))).toBe(false)
    const landings = ads.map(({ id: ad }) => draft.ads?.find((terms) => terms.ad === ad)?.landing)
    expect(landings.sort()).toEqual([0, 1, 2, 3].map((n) => `https://nightjar.example/items/${n}`))
    expect(await Ad.count({ where: { id: was.map((one) => one.id), removed: true } })).toBe(2)
  })
})
