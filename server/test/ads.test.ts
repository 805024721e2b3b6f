import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { AdTerms, LineDraft } from '@tin-harbor/core/buying'
import type { AdStandings, LineView, MixMade, MixView } from '@tin-harbor/core/contract'
import type { Mix, MixPart } from '@tin-harbor/core/creative'
import type { AdRules } from '@tin-harbor/core/exchange'
import type { MainFigures } from '@tin-harbor/core/forecast'
import type { Targeting } from '@tin-harbor/core/targeting'
import { MadeCreative } from '../src/creatives/made-creative-model.js'
import { LineRevision } from '../src/lines/line-model.js'
import { libraryOf } from './support/library.js'
import { lineDraft, newToken, readyLine, testServer, twoAds, TRADER, type Ask, type TestServer } from './support/server.js'

let server: TestServer
let ask: Ask

beforeAll(async () => {
  server = await testServer('ads')
  ask = await server.as(TRADER)
})
afterAll(() => server.close())

const line = async (id: number): Promise<LineView> => (await ask('GET', `/lines/${id}`)).body as LineView
const save = async (id: number, change: (draft: LineDraft) => void) => {
  const { draft, version } = await line(id)
  change(draft)
  return ask('PUT', `/lines/${id}`, { version, line: draft })
}
const live = async (id: number) => ask('POST', `/lines/${id}/live`, { version: (await line(id)).version, token: newToken() })
const rules = async (lineId: number): Promise<AdRules[]> =>
  (await LineRevision.findOne({ where: { lineId }, order: [['id', 'DESC']], rejectOnEmpty: true })).rules.ads
const onPhones: Targeting = { restrictions: [{ dimension: 'device', mode: 'include', values: ['phone'] }] }

describe('what an ad has of its own', () => {
  it('is saved with its line, goes live in its rules, and is staged like any edit', async () => {
    const { id, ads } = await twoAds(ask)
    const own = { weight: 3, bidMicros: 2_750_000, caps: [{ times: 1, hours: 24 }], targeting: onPhones }
    expect((await save(id, (draft) => (draft.ads = [{ ad: ads[0], ...own }]))).status).toBe(200)
    expect((await live(id)).status).toBe(200)
    expect(await rules(id)).toMatchObject([
      { ad: ads[0], ...own },
      { ad: ads[1], weight: 1 }
    ])
    expect((await rules(id))[1]).not.toHaveProperty('bidMicros')
    await save(id, (draft) => {
      draft.ads = [{ ad: ads[1], off: true }]
      draft.price.bidMicros = 2_600_000
    })
    const staged = (await line(id)).inForce?.changes
    expect(staged).toEqual([
      { field: 'price.bidMicros', before: '€2.50', after: '€2.60' },
      { field: `ads.${ads[0]}`, before: 'weight 3, bids €2.75, once a day, on phones', after: 'none' },
      { field: `ads.${ads[1]}`, before: 'none', after: 'off' }
    ])
    // Edits of ads that stay on the slip leave the ads in force as they are.
    const items = (fields: string[]) => [{ line: id, fields }]
    expect((await ask('POST', '/slips/live', { name: 'Bid', items: items(['price.bidMicros']), token: newToken() })).status).toBe(200)
    expect(await rules(id)).toMatchObject([{ weight: 3, bidMicros: 2_750_000 }, { weight: 1 }])
    expect((await ask('POST', '/slips/live', { name: 'Off', items: items([`ads.${ads[1]}`]), token: newToken() })).status).toBe(200)
    expect(await rules(id)).toMatchObject([{ weight: 3 }, { off: true }])
    expect((await line(id)).inForce?.changes.map(({ field }) => field)).toEqual([`ads.${ads[0]}`])
  })

  it('is refused for ads of other lines, for what a line is not narrowed by an ad by, and for weights that are none', async () => {
    const { id, ads } = await twoAds(ask)
    const { ads: others } = await twoAds(ask)
    const refused = async (terms: object[]) => {
      const { status, body } = await save(id, (draft) => (draft.ads = terms as AdTerms[]))
      expect(status).toBe(422)
      return body.issues[0]
    }
    expect(await refused([{ ad: others[0], weight: 2 }])).toEqual({ field: 'ads[0].ad', message: `Ad ${others[0]} is not on this line.` })
    expect(await refused([{ ad: ads[0], weight: 0 }])).toMatchObject({ field: 'line.ads[0].weight' })
    expect(await refused([{ ad: ads[0], bidMicros: 1500 }])).toMatchObject({ message: "An ad's bid goes in steps of 0.001." })
    const byMoment = { restrictions: [{ dimension: 'moment', mode: 'include', values: ['commuting'] }] }
    expect(await refused([{ ad: ads[0], targeting: byMoment }])).toMatchObject({ field: 'line.ads[0].targeting' })
    expect(await refused([{ ad: ads[0] }, { ad: ads[0] }])).toMatchObject({ message: `Ad ${ads[0]} is named twice.` })
    expect((await line(id)).draft.ads ?? []).toEqual([])
  })

  it('stops a line whose ads are all off, and is found where it cannot hold', async () => {
    const { id, ads } = await twoAds(ask)
    await save(id, (draft) => (draft.ads = ads.map((ad) => ({ ad, off: true }))))
    expect((await live(id)).body.issues).toContainEqual({ field: 'ads', message: 'All its ads are off.' })
    const { draft } = await line(id)
    const elsewhere = { restrictions: [{ dimension: 'device', mode: 'include', values: ['desktop'] }] }
    const changed = { ...draft, ads: [{ ad: ads[0], targeting: elsewhere }] }
    const { findings } = (await ask('POST', `/lines/${id}/preflight`, { line: changed })).body as { findings: { message: string }[] }
    expect(findings.map(({ message }) => message).join()).toContain('narrowed to what its line leaves out')
  })

  it('narrows what a forecast of the draft counts on', async () => {
    const { id, ads } = await twoAds(ask)
    const { draft, campaignId } = await line(id)
    const asked = async (targeting: Targeting | undefined) => {
      const next = { ...draft, ads: ads.map((ad) => ({ ad, ...(targeting ? { targeting } : {}) })) }
      const { body } = await ask<{ figures?: MainFigures }[]>('POST', '/forecast', {
        page: 'narrowed',
        number: 1,
        campaignId,
        lineId: id,
        line: next
      })
      return body.flatMap(({ figures }) => figures ?? [])[0].day
    }
    const whole = await asked(undefined)
    const part = await asked({ restrictions: [{ dimension: 'where', mode: 'include', values: ['FR'] }] })
    // Its money bounds what it wins; what there is to win is what is narrowed.
    expect(part.matched.value).toBeGreaterThan(0)
    expect(part.matched.value).toBeLessThan(0.7 * whole.matched.value)
  })

  it('is kept of an ad that was taken off until its line goes live without it', async () => {
    const { id, ads } = await twoAds(ask)
    await save(id, (draft) => (draft.ads = ads.map((ad) => ({ ad, weight: 2 }))))
    expect((await live(id)).status).toBe(200)
    await ask('POST', `/lines/${id}/ads/removed`, { ads: [ads[0]] })
    expect((await line(id)).draft.ads?.map(({ ad }) => ad)).toEqual(ads)
    // An edit that leaves the ads as they are leaves both in force.
    await save(id, (draft) => (draft.price.bidMicros = 2_600_000))
    const items = [{ line: id, fields: ['price.bidMicros'] }]
    expect((await ask('POST', '/slips/live', { name: 'Bid', items, token: newToken() })).status).toBe(200)
    expect(await rules(id)).toMatchObject(ads.map((ad) => ({ ad, weight: 2 })))
    expect((await live(id)).status).toBe(200)
    expect((await line(id)).draft.ads).toEqual([{ ad: ads[1], weight: 2 }])
    expect((await line(id)).inForce?.changes).toEqual([])
    expect(await rules(id)).toMatchObject([{ ad: ads[1], weight: 2 }])
  })

  it('is copied with its ad; ads are taken off all or none', async () => {
    const { id, ads } = await twoAds(ask)
    await save(id, (draft) => (draft.ads = [{ ad: ads[1], weight: 4 }]))
    const { body: copy } = await ask<LineView>('POST', `/lines/${id}/copy`, { name: 'A copy of it', campaignId: null })
    expect(copy.draft.ads).toEqual([{ ad: copy.ads[1].id, weight: 4 }])
    expect(copy.copiedFrom?.differs.map(({ field }) => field)).toEqual(['name'])
    expect((await ask('POST', `/lines/${id}/ads/removed`, { ads: [ads[0], 999_999] })).status).toBe(404)
    expect((await line(id)).ads).toHaveLength(2)
    await ask('POST', `/lines/${id}/ads/removed`, { ads })
    expect((await ask('POST', `/lines/${id}/ads/removed`, { ads })).status).toBe(404)
    expect((await line(id)).ads).toEqual([])
  })

  it('is told with what came of it: showings, a rate with its range, and how often it is drawn', async () => {
    const { counts, ads } = (await ask('GET', '/lines/1001/ads/standing')).body as AdStandings
    expect(counts).toBe('visits')
    expect(ads.length).toBeGreaterThan(1)
    for (const { impressions, events, rate, range, share, best } of ads) {
      expect(rate).toBeCloseTo(impressions > 0 ? events / impressions : 0)
      expect(range.low <= rate && rate <= range.high).toBe(true)
      expect([share, best]).toEqual([1, 1])
    }
    const { id } = await twoAds(ask)
    expect(((await ask('GET', `/lines/${id}/ads/standing`)).body as AdStandings).ads.map(({ share }) => share)).toEqual([0.5, 0.5])
  })
})

describe('a matrix', () => {
  const ADVERTISER = 3
  const files: Record<string, string> = {}
  const part = (key: string, said: string, more: Partial<MixPart> = {}): MixPart => ({ key, said, ...more })
  beforeAll(async () => {
    const library = libraryOf(server, ask, ADVERTISER)
    for (const [name, width, height, background] of [
      ['icon', 200, 200, '#204060'],
      ['one', 1200, 628, '#335577'],
      ['two', 1200, 628, '#775533'],
      ['flat', 300, 250, '#557733']
    ] as const)
      files[name] = `sha256:${
        (
          await library.added(
            `${name}.png`,
            await sharp({ create: { width, height, channels: 3, background } })
              .png()
              .toBuffer()
          )
        ).sha256
      }`
  })
  const mixOf = (over: Partial<Mix> = {}): Mix => ({
    name: 'Songs',
    kind: 'native',
    headlines: [part('a', 'Sing along'), part('b', 'Hum it'), part('c', 'Whistle')],
    pictures: [part('p', 'one', { file: files.one }), part('q', 'two', { file: files.two })],
    texts: [part('t', 'A song a day.')],
    common: { brand: 'Kana', button: 'Listen', icon: files.icon },
    struck: [],
    ...over
  })
  const made = async (mix: Mix) => (await ask<MixView>('POST', `/advertisers/${ADVERTISER}/mixes`, { mix })).body
  const make = (id: number, version: number, line: number | null = null, takes = false) =>
    ask<MixMade>('POST', `/mixes/${id}/make`, { version, line, takes })
  const nativeLine = async () =>
    (await ask('POST', `/campaigns/${(await readyLine(ask)).campaignId}/lines`, lineDraft({ format: 'native' }))).body.id

  it('makes each ad once, puts it on a line, and takes what is struck or written anew off again', async () => {
    const { id, version } = await made(mixOf({ struck: ['c q t'] }))
    const line = await nativeLine()
    const first = (await make(id, version, line)).body
    expect([first.made, first.there, first.put, first.taken]).toEqual([5, 0, 5, 0])
    expect(first.view.made.every(({ lines }) => lines.length === 1 && lines[0] === line)).toBe(true)
    const { ads } = (await ask<LineView>('GET', `/lines/${line}`)).body
    expect(ads.map(({ name }) => name)).toEqual([
      'Sing along / one / Songs',
      'Sing along / two / Songs',
      'Hum it / one / Songs',
      'Hum it / two / Songs',
      'Whistle / one / Songs'
    ])
    expect(ads.every(({ review }) => review === 'draft')).toBe(true)
    const again = (await make(id, version, line)).body
    expect([again.made, again.there, again.put]).toEqual([0, 5, 0])
    // A part that is on the line is struck, another written anew: both stay there until they are taken off.
    const mix = { ...first.view.mix, headlines: [part('a', 'Sing along', { struck: true }), part('b', 'Hum it all'), part('c', 'Whistle')] }
    const { body: saved } = await ask<MixView>('PUT', `/mixes/${id}`, { version, mix })
    expect(saved.stillOn.map((one) => one.line)).toEqual([line, line, line, line])
    const last = (await make(id, saved.version, line, true)).body
    expect([last.made, last.there, last.put, last.taken, last.view.stillOn]).toEqual([2, 1, 2, 4, []])
    expect((await ask<LineView>('GET', `/lines/${line}`)).body.ads).toHaveLength(3)
  })

  it('is not made over what somebody else did, nor with what stops an ad; nothing of it is then made', async () => {
    const view = await made(mixOf())
    const { id, version } = view
    expect((await ask('PUT', `/mixes/${id}`, { version, mix: mixOf({ name: 'Mine' }) })).status).toBe(200)
    const late = await ask('PUT', `/mixes/${id}`, { version, mix: mixOf({ name: 'Theirs' }) })
    expect([late.status, late.body.code, late.body.current.mix.name]).toEqual([409, 'stale', 'Mine'])
    expect((await make(id, version)).status).toBe(409)
    const count = await MadeCreative.count()
    const wrong = mixOf({
      headlines: [part('a', 'This headline is far too long to be short'), part('b', ' ')],
      texts: [part('t', 'Fine.')]
    })
    const { body: saved } = await ask<MixView>('PUT', `/mixes/${id}`, { version: version + 1, mix: wrong })
    expect((await make(id, saved.version)).body as unknown).toMatchObject({
      issues: [
        { field: 'headlines[0]', message: 'The short headline has 41 letters; 25 are allowed.' },
        { field: 'headlines[1]', message: 'The short headline is needed.' }
      ]
    })
    // What is struck out stops nothing.
    const struck = { ...wrong, headlines: [...wrong.headlines.map((one) => ({ ...one, struck: true })), part('c', 'Fine')] }
    const next = (await ask<MixView>('PUT', `/mixes/${id}`, { version: saved.version, mix: struck })).body
    expect(await MadeCreative.count()).toBe(count)
    expect((await make(id, next.version)).body.made).toBe(2)
  })

  it('takes files of its advertiser that its slot takes, and lines of its format and its advertiser', async () => {
    const issue = async (mix: Mix) => (await ask('POST', `/advertisers/${ADVERTISER}/mixes`, { mix })).body.issues[0]
    expect(await issue(mixOf({ pictures: [part('p', 'flat', { file: files.flat })] }))).toMatchObject({ field: 'pictures[0].file' })
    const foreign = `sha256:${'ab'.repeat(32)}`
    expect(await issue(mixOf({ common: { brand: 'Kana', button: 'Go', icon: foreign } }))).toEqual({
      field: 'common.icon',
      message: 'Not a file of this advertiser.'
    })
    const { id, version } = await made(mixOf())
    const { lineId } = await readyLine(ask)
    const count = await MadeCreative.count()
    expect((await make(id, version, lineId)).body as unknown).toMatchObject({ issues: [{ field: 'creatives' }] })
    expect((await make(id, version, 1001)).body as unknown).toMatchObject({ issues: [{ field: 'line' }] })
    // Nothing half done is left behind.
    expect(await MadeCreative.count()).toBe(count)
    expect((await ask('DELETE', `/mixes/${id}`)).status).toBe(204)
    expect((await ask('GET', `/mixes/${id}`)).status).toBe(404)
  })

  it('of ten by ten is made and on a line at once, twice at the same moment once', async () => {
    const tens = (what: string) => Array.from({ length: 10 }, (_, n) => part(`${what}${n}`, `${what} ${n}`))
    const { id, version } = await made(mixOf({ headlines: tens('h'), texts: tens('t'), pictures: mixOf().pictures.slice(0, 1) }))
    const line = await nativeLine()
    const answers = await Promise.all([make(id, version, line), make(id, version, line)])
    expect(answers.map(({ body }) => body.made).sort((a, b) => a - b)).toEqual([0, 100])
    expect((await ask<LineView>('GET', `/lines/${line}`)).body.ads).toHaveLength(100)
  })
})
