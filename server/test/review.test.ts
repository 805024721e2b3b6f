import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { LineView, LivePlan, ReviewsView } from '@tin-harbor/core/contract'
import type { LineDraft } from '@tin-harbor/core/buying'
import { Ad } from '../src/creatives/creative-model.js'
import { Campaign } from '../src/campaigns/campaign-model.js'
import { readCampaign, readLine } from '../src/forecasts/reading.js'
import { readMarket, rulesInForce } from '../src/going-live/publications.js'
import { AdReview } from '../src/review/review-model.js'
import { Line } from '../src/lines/line-model.js'
import { foreseen } from '../src/review/foreseen.js'
import { sumsBy } from '../src/delivery/roll-ups.js'
import {
  campaignDraft,
  formOf,
  lineDraft,
  newToken,
  picture,
  testServer,
  READER,
  TRADER,
  type Ask,
  type TestServer
} from './support/server.js'

let server: TestServer
let ask: Ask
beforeAll(async () => {
  server = await testServer('review', process.env.TEST_DATABASE_URL, 'working hours')
  ask = await server.as(TRADER)
})
afterAll(() => server.close())

const EVERYWHERE = { restrictions: [{ dimension: 'where' as const, mode: 'include' as const, values: ['NL', 'DE'] }] }
const lineOf = async (id: number) => (await ask<LineView>('GET', `/lines/${id}`)).body
const putLive = async (id: number) => {
  const { version } = await lineOf(id)
  return ask('POST', `/lines/${id}/live`, { version, token: newToken() })
}
const reviewsOf = async (line: number) => (await ask<ReviewsView>('GET', '/reviews')).body.reviews.filter((review) => review.line === line)
async function run(hours: number) {
  await ask('POST', '/market/run', { hours })
  await server.deps.runner.idle()
}
/** Runs the market to an hour of a day. */
async function runTo(weekdayHour: number) {
  const { hour } = await readMarket()
  const left = (((weekdayHour - (hour % 24)) % 24) + 24) % 24
  if (left > 0) await run(left)
}
/** Runs the market until all that waits of a line is answered. */
async function answered(line: number) {
  for (let n = 0; n < 60 && (await reviewsOf(line)).some(({ state }) => state === 'waits'); n++) await run(2)
}
/** A line of the second advertiser, with pictures of its own. */
async function freshLine(over: Partial<LineDraft> = {}, pictures = 1, campaign = {}) {
  const made = (await ask('POST', '/advertisers/2/campaigns', campaignDraft({ name: 'Reviewed', ...campaign }))).body.id as number
  const draft = lineDraft({ landing: 'https://ostler.example/test-ride', targeting: EVERYWHERE, ...over })
  const { id } = (await ask<LineView>('POST', `/campaigns/${made}/lines`, draft)).body
  for (let n = 0; n < pictures; n++) await ask('POST', `/lines/${id}/creatives`, formOf(await picture(300, 250 + 0 * n), `ride ${n}.png`))
  return id
}
const native = (headline: string, over = {}) => ({
  name: headline,
  kind: 'native',
  parts: {
    headline,
    longHeadline: headline,
    text: 'An hour, a bike, and a hill.',
    brand: 'Ostler',
    icon: 'https://ostler.example/256x256.png',
    picture: 'https://ostler.example/1200x800.png',
    button: 'Book',
    ...over
  }
})
async function nativeLine(...headlines: string[]) {
  const id = await freshLine({ format: 'native' }, 0)
  const creatives: number[] = []
  for (const headline of headlines)
    creatives.push((await ask<{ id: number }>('POST', '/advertisers/2/made-creatives', native(headline))).body.id)
  const { ads } = (await ask<LineView>('POST', `/lines/${id}/ads`, { creatives })).body
  return { id, ads: ads.map((ad) => ad.id) }
}
const shownIn = async (line: number) => {
  const { lines } = await rulesInForce((await readMarket()).publicationId)
  return [...new Set(lines.find((one) => one.line === line)?.ads.flatMap(({ ad, off }) => (off ? [] : [ad])))]
}

describe('an ad that goes live', () => {
  it('is looked at in working hours, starts its line once it is cleared, and says by when', async () => {
    await runTo(7)
    const id = await freshLine()
    const plan = (await ask<LivePlan>('GET', `/lines/${id}/live-plan`)).body
    const { hour } = await readMarket()
    expect(plan.ads).toBe(1)
    expect(plan.answeredBy).toBeGreaterThan(hour)
    expect(plan.findings.some(({ field, message }) => field === 'flight.startDate' && message.includes('answered by'))).toBe(true)
    expect((await putLive(id)).body).toMatchObject({ state: 'in review' })
    const [sent] = await reviewsOf(id)
    expect(sent).toMatchObject({
      state: 'waits',
      desk: 'the reviewer',
      sentHour: hour,
      byHour: plan.answeredBy,
      older: null,
      isLast: true
    })
    expect(await shownIn(id)).toEqual([])
    for (let n = 0; n < 80 && (await lineOf(id)).state === 'in review'; n++) await run(1)
    const line = await lineOf(id)
    expect(line).toMatchObject({ state: 'live', ads: [{ review: 'cleared' }] })
    const [answered] = await reviewsOf(id)
    expect(answered.state).toBe('cleared')
    expect(answered.answeredHour).toBeLessThanOrEqual(answered.byHour)
    await run(6)
    expect((await sumsBy(server.deps.sequelize, 'line', ['wins'], { lines: [id] }))[0]?.wins).toBeGreaterThan(0)
  })

  it('is refused with the rule, what was seen and why; preflight said so before; its repair clears it', async () => {
    const { id, ads } = await nativeLine('BOOK A RIDE NOW', 'A ride on Saturday')
    const { findings } = (await ask<LivePlan>('GET', `/lines/${id}/live-plan`)).body
    expect(findings.map(({ message }) => message)).toContainEqual(
      expect.stringMatching(/^The reviewer would refuse “BOOK A RIDE NOW”: .*capitals|shouted/)
    )
    await putLive(id)
    await answered(id)
    const line = await lineOf(id)
    expect(line.ads.map(({ review }) => review)).toEqual(['refused', 'cleared'])
    expect(line.state).toBe('live')
    expect(await shownIn(id)).toEqual([ads[1]])
    const refused = line.reviews.find(({ ad }) => ad === ads[0])
    expect(refused?.findings[0]).toMatchObject({ rule: 'capitals', value: expect.stringContaining('BOOK A RIDE NOW') as string })
    const fine = (await ask<{ id: number }>('POST', '/advertisers/2/made-creatives', native('A ride now'))).body.id
    await ask('POST', `/lines/${id}/ads/removed`, { ads: [ads[0]] })
    await ask('POST', `/lines/${id}/ads`, { creatives: [fine] })
    await putLive(id)
    // That ad alone is sent: the other was cleared, and goes on.
    expect((await reviewsOf(id)).filter(({ state }) => state === 'waits')).toHaveLength(1)
    expect(await shownIn(id)).toEqual([ads[1]])
    await answered(id)
    expect((await lineOf(id)).ads.map(({ review }) => review)).toEqual(['cleared', 'cleared'])
    expect(await shownIn(id)).toHaveLength(2)
  })

  it('of which all are refused refuses its line, which goes back to a draft with the next edit', async () => {
    const { id } = await nativeLine('The best in the world!!')
    await putLive(id)
    await answered(id)
    const line = await lineOf(id)
    expect([line.state, line.ads[0].review]).toEqual(['refused', 'refused'])
    expect([...new Set(line.reviews[0].findings.map(({ rule }) => rule))].sort()).toEqual(['claims', 'punctuation'])
    const { draft, version } = line
    await ask('PUT', `/lines/${id}`, { version, line: { ...draft, name: 'Once more' } })
    expect((await lineOf(id)).state).toBe('draft')
  })

  it('that was refused can be answered with a source, once, by whoever may put live', async () => {
    const { id } = await nativeLine('Proven: 100% steel')
    await putLive(id)
    await answered(id)
    const [review] = (await lineOf(id)).reviews
    expect(new Set(review.findings.map(({ rule }) => rule))).toEqual(new Set(['claims']))
    const reader = await server.as(READER)
    expect((await reader('POST', `/reviews/${review.id}/answer`, { text: 'x' })).status).toBe(403)
    expect((await ask('POST', `/reviews/${review.id}/answer`, { text: ' ' })).body.issues[0].field).toBe('text')
    const text = 'It is steel: https://ostler.example/steel says who measured it.'
    expect((await ask<LineView>('POST', `/reviews/${review.id}/answer`, { text })).body.state).toBe('in review')
    expect((await ask('POST', `/reviews/${review.id}/answer`, { text })).status).toBe(409)
    await answered(id)
    const line = await lineOf(id)
    expect([line.state, line.ads[0].review, line.reviews[0].note]).toEqual(['live', 'cleared', text])
  })
})

describe('an ad that is edited while it is live', () => {
  it('by another landing link is sent alone; it serves with the old one until it is cleared; a tail sends nothing', async () => {
    const { id, ads } = await nativeLine('A bike for two', 'A bike for three')
    await putLive(id)
    await answered(id)
    const line = await lineOf(id)
    const { draft, version } = line
    const own = [{ ad: ads[0], landing: 'https://ostler.example/' }]
    await ask('PUT', `/lines/${id}`, { version, line: { ...draft, ads: own } })
    await putLive(id)
    const waiting = (await reviewsOf(id)).filter(({ state }) => state === 'waits')
    expect(waiting.map(({ ad, older }) => [ad, older?.links])).toEqual([[ads[0], ['https://ostler.example/test-ride']]])
    expect((await shownIn(id)).sort()).toEqual([...ads].sort())
    const before = await Ad.findByPk(ads[0], { rejectOnEmpty: true })
    expect(JSON.stringify(before.clearedLandings)).toContain('test-ride')
    await answered(id)
    const after = await Ad.findByPk(ads[0], { rejectOnEmpty: true })
    expect(JSON.stringify(after.clearedLandings)).toContain('https://ostler.example/"')
    const { body: campaign } = await ask('GET', `/campaigns/${line.campaignId}`)
    const { id: _, code: _code, advertiserId: _whose, version: was, ...rest } = campaign.campaign
    await ask('PUT', `/campaigns/${line.campaignId}`, { version: was, campaign: { ...rest, linkTail: 'a=1' } })
    const now = await lineOf(id)
    await ask('PUT', `/lines/${id}`, { version: now.version, line: { ...now.draft, price: { ...now.draft.price, bidMicros: 2_000_000 } } })
    await putLive(id)
    expect((await reviewsOf(id)).filter(({ state }) => state === 'waits')).toEqual([])
    // The link that was cleared before needs no second look.
    const third = await lineOf(id)
    await ask('PUT', `/lines/${id}`, { version: third.version, line: { ...third.draft, ads: [] } })
    await putLive(id)
    expect((await reviewsOf(id)).filter(({ state }) => state === 'waits')).toEqual([])
    expect(JSON.stringify((await Ad.findByPk(ads[0], { rejectOnEmpty: true })).clearedLandings)).toContain('test-ride')
  })

  it('by another file serves as it was until the new one is cleared; a refusal leaves it so', async () => {
    const id = await freshLine()
    await putLive(id)
    await answered(id)
    const [old] = (await lineOf(id)).ads
    const files = (await ask('GET', '/advertisers/2/files')).body as { id: number; name: string; version: number }[]
    const was = files.find(({ name }) => name === 'ride 0.png')
    const dull = await ask(
      'POST',
      `/lines/${(await freshLine()).toString()}/creatives`,
      formOf(
        await (
          await import('sharp')
        )
          .default({ create: { width: 300, height: 250, channels: 3, background: '#777777' } })
          .png()
          .toBuffer(),
        'dull.png'
      )
    )
    expect(dull.status).toBe(200)
    const by = ((await ask('GET', '/advertisers/2/files')).body as { id: number; name: string }[]).find(({ name }) => name === 'dull.png')
    await ask('POST', `/files/${was?.id}/replace`, { by: by?.id, version: was?.version })
    const [fresh] = (await lineOf(id)).ads
    expect(fresh.id).not.toBe(old.id)
    await putLive(id)
    expect(await shownIn(id)).toEqual([old.id])
    expect((await lineOf(id)).reviews[0]).toMatchObject({ ad: fresh.id, state: 'waits', older: { creativeId: old.creativeId } })
    await answered(id)
    const line = await lineOf(id)
    expect(line.reviews[0].findings[0]).toMatchObject({ rule: 'contrast' })
    expect([line.state, line.ads[0].review, await shownIn(id)]).toEqual(['live', 'refused', [old.id]])
  })
})

describe('the reviewer', () => {
  it('that is down keeps nothing from anybody: what waits is asked about again', async () => {
    await runTo(9)
    const { id } = await nativeLine('A bike for four')
    const { address } = server.deps.reviews.reviewer
    server.deps.reviews.reviewer.address = 'http://127.0.0.1:1'
    await putLive(id)
    await run(30)
    expect((await lineOf(id)).state).toBe('in review')
    expect((await ask<ReviewsView>('GET', '/reviews')).body.isAway).toBe(true)
    server.deps.reviews.reviewer.address = address
    await run(1)
    expect((await lineOf(id)).state).toMatch(/live|in review/)
    await answered(id)
    expect((await lineOf(id)).state).toBe('live')
    expect((await ask<ReviewsView>('GET', '/reviews')).body.isAway).toBe(false)
  })

  it('and preflight agree on 200 random creatives, rule by rule', async () => {
    const words = fc.constantFrom(
      'BIKE',
      'Bike',
      'ride!!',
      'Guaranteed',
      'casino',
      'Ostler',
      'a',
      'hill',
      'SADDLE UP',
      'tobacco',
      'now?!',
      'steel'
    )
    const text = (most: number) => fc.array(words, { minLength: 1, maxLength: 4 }).map((all) => all.join(' ').slice(0, most).trim())
    const parts = fc.record({
      headline: text(25),
      longHeadline: text(90),
      text: text(90),
      brand: fc.constantFrom('Ostler', 'Somebody', 'Cargo Bikes')
    })
    const all = fc.sample(parts, { numRuns: 200, seed: 11 })
    const id = await freshLine({ format: 'native' }, 0)
    const creatives: number[] = []
    for (const [n, one] of all.entries())
      creatives.push(
        (await ask<{ id: number }>('POST', '/advertisers/2/made-creatives', { ...native('x', one), name: `random ${n}` })).body.id
      )
    const { ads, draft, version } = (await ask<LineView>('POST', `/lines/${id}/ads`, { creatives })).body
    // Some lead where nobody answers, or to somebody else.
    const links = ['https://nowhere.example/', 'https://inkwell.example/start', 'https://ostler.example/']
    const own = ads.filter((_, n) => n % 5 === 0).map(({ id: ad }, n) => ({ ad, landing: links[n % links.length] }))
    await ask('PUT', `/lines/${id}`, { version, line: { ...draft, ads: own } })
    const line = await Line.findByPk(id, { rejectOnEmpty: true })
    const around = await readCampaign(server.deps.sequelize, await Campaign.findByPk(line.campaignId, { rejectOnEmpty: true }))
    const { refusals } = await foreseen(server.deps, line.draft, await readLine(server.deps.sequelize, line, around))
    await putLive(id)
    await answered(id)
    const reviews = (await lineOf(id)).reviews
    expect(reviews).toHaveLength(200)
    const rules = new Set<string>()
    for (const { ad, state, findings } of reviews) {
      const said = refusals.filter((one) => one.ad === ad).map(({ rule, value }) => [rule, value])
      expect(findings.map(({ rule, value }) => [rule, value])).toEqual(said)
      expect(state).toBe(said.length > 0 ? 'refused' : 'cleared')
      for (const { rule } of findings) rules.add(rule)
    }
    expect([...rules].sort()).toEqual(['brand', 'capitals', 'category', 'claims', 'link', 'punctuation'])
    expect(reviews.some(({ state }) => state === 'cleared')).toBe(true)
    expect((await fetch(`${server.deps.reviews.reviewer.address}/reviews`, { method: 'POST', body: '{"hour":1,"ads":[{}]}' })).status).toBe(
      422
    )
  })

  it('of a publisher looks at the ads of its deals beside it', async () => {
    const { deals } = (await ask('GET', '/deals')).body as { deals: { id: number; format: string; isExpired: boolean }[] }
    const deal = deals.find(({ format, isExpired }) => format === 'display' && !isExpired)
    expect(deal).toBeDefined()
    const id = await freshLine({ buys: { open: true, deals: [deal?.id ?? 0] } })
    await putLive(id)
    const sent = (await lineOf(id)).reviews
    expect(sent.map(({ desk }) => desk).filter((desk) => desk !== 'the reviewer')).toHaveLength(1)
    const without = async () => {
      const { lines } = await rulesInForce((await readMarket()).publicationId)
      return lines.find((one) => one.line === id)?.buys?.deals.length
    }
    await answered(id)
    const line = await lineOf(id)
    const answer = line.reviews.find(({ desk }) => desk !== 'the reviewer')
    expect(line.state).toBe('live')
    expect(await without()).toBe(answer?.state === 'cleared' ? 1 : 0)
    // A publisher that refuses keeps its own deal back, and nothing else.
    const row = await AdReview.findByPk(answer?.id ?? 0, { rejectOnEmpty: true })
    await server.deps.sequelize.transaction((transaction) => row.update({ state: 'refused' }, { transaction }))
    const { version, draft } = await lineOf(id)
    await ask('PUT', `/lines/${id}`, { version, line: { ...draft, price: { ...draft.price, bidMicros: 1_900_000 } } })
    await putLive(id)
    expect([await without(), (await lineOf(id)).state]).toEqual([0, 'live'])
  })
})
