import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { AdTerms, LineDraft } from '@tin-harbor/core/buying'
import type {
  AdStandings,
  FileTaken,
  LinePreview,
  LineView,
  MixMade,
  MixView,
  PageRead,
  PreviewLinkMade,
  PreviewLinkView,
  VastRead
} from '@tin-harbor/core/contract'
import type { Mix, MixPart } from '@tin-harbor/core/creative'
import type { AdRules } from '@tin-harbor/core/exchange'
import type { Targeting } from '@tin-harbor/core/targeting'
import { MadeCreative } from '../src/creatives/made-creative-model.js'
import { LineRevision } from '../src/lines/line-model.js'
import { PreviewLink } from '../src/previews/link-model.js'
import { libraryOf } from './support/library.js'
import { formOf, lineDraft, newToken, picture, readyLine, testServer, TRADER, type Ask, type TestServer } from './support/server.js'

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
/** A line with two ads for one slot. */
async function twoAds(): Promise<{ id: number; ads: [number, number] }> {
  const { lineId: id } = await readyLine(ask)
  const { body } = await ask<LineView>('POST', `/lines/${id}/creatives`, formOf(await picture(300, 250), 'second.png'))
  return { id, ads: [body.ads[0].id, body.ads[1].id] }
}
const onPhones: Targeting = { restrictions: [{ dimension: 'device', mode: 'include', values: ['phone'] }] }

describe('what an ad has of its own', () => {
  it('is saved with its line, goes live in its rules, and is staged like any edit', async () => {
    const { id, ads } = await twoAds()
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
    const { id, ads } = await twoAds()
    const { ads: others } = await twoAds()
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
    const { id, ads } = await twoAds()
    await save(id, (draft) => (draft.ads = ads.map((ad) => ({ ad, off: true }))))
    expect((await live(id)).body.issues).toContainEqual({ field: 'ads', message: 'All its ads are off.' })
    const { draft } = await line(id)
    const inside = draft.targeting.restrictions.find(({ dimension }) => dimension === 'device')?.values ?? []
    const outside = (['phone', 'desktop', 'TV'] as const).find((one) => !inside.includes(one))
    const elsewhere = { restrictions: [{ dimension: 'device', mode: 'include', values: [outside] }] }
    const changed = { ...draft, ads: [{ ad: ads[0], targeting: elsewhere }] }
    const { findings } = (await ask('POST', `/lines/${id}/preflight`, { line: changed })).body as { findings: { message: string }[] }
    if (inside.length > 0) expect(findings.map(({ message }) => message).join()).toContain('narrowed to what its line leaves out')
  })

  it('is copied with its ad; ads are taken off all or none', async () => {
    const { id, ads } = await twoAds()
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
    const { id } = await twoAds()
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

describe('ads in place', () => {
  it('are told with all that is seen of them, and nothing else of the library is reached through their line', async () => {
    const { id } = await twoAds()
    const preview = (await ask<LinePreview>('GET', `/lines/${id}/preview`)).body
    expect(preview.ads.map(({ kind, shapes, runs }) => [kind, shapes, runs])).toEqual([
      ['picture', ['300x250'], null],
      ['picture', ['300x250'], null]
    ])
    const [{ sha256, medium, width }] = preview.ads[0].files
    expect([medium, width]).toEqual(['picture', 300])
    const content = await ask('GET', `/lines/${id}/content?sha256=${sha256}`)
    expect([content.status, content.headers.get('content-type')]).toEqual([200, 'image/png'])
    expect(content.headers.get('content-security-policy')).toContain('sandbox')
    const { sha256: others } = await libraryOf(server, ask, 3).added(
      'other.png',
      await sharp({ create: { width: 728, height: 90, channels: 3, background: '#123123' } })
        .png()
        .toBuffer()
    )
    expect((await ask('GET', `/lines/${id}/content?sha256=${others}`)).status).toBe(404)
    expect((await ask('GET', `/lines/${id}/content?sha256=nonsense`)).body.issues[0].field).toBe('sha256')
  })

  it('are seen by a client who has a link, until it is over or closed; the link itself is kept nowhere', async () => {
    const { id } = await twoAds()
    const { body: made } = await ask<PreviewLinkMade>('POST', `/lines/${id}/preview-links`, { days: 14 })
    const link = made.path.split('/').at(-1) ?? ''
    const row = await PreviewLink.findByPk(made.links[0].id, { rejectOnEmpty: true })
    expect(JSON.stringify(row)).not.toContain(link)
    expect(row.digest).toMatch(/^[0-9a-f]{64}$/)
    const seen = await server.nobody('GET', `/shown?link=${link}`)
    const { ads } = seen.body as LinePreview
    expect([seen.status, ads.length]).toEqual([200, 2])
    const content = (name: string) => server.nobody('GET', `/shown/content?link=${name}&sha256=${ads[0].files[0].sha256}`)
    expect((await content(link)).status).toBe(200)
    expect((await server.nobody('GET', `/shown/content?link=${link}&sha256=${'0'.repeat(64)}`)).status).toBe(404)
    // A link opens what it was made for, and no more.
    expect((await server.nobody('GET', `/lines/${id}/preview`)).status).toBe(401)
    await server.deps.sequelize.transaction((transaction) => row.update({ expiresAt: Math.floor(Date.now() / 1000) - 1 }, { transaction }))
    const over = await server.nobody('GET', `/shown?link=${link}`)
    const never = await server.nobody('GET', `/shown?link=${'a'.repeat(43)}`)
    // Whoever guesses is not told what was there.
    expect([over.status, over.body]).toEqual([404, never.body])
    expect((await content(link)).status).toBe(404)
    expect((await ask<PreviewLinkView[]>('GET', `/lines/${id}/preview-links`)).body).toEqual([])
    const { body: next } = await ask<PreviewLinkMade>('POST', `/lines/${id}/preview-links`, { days: 1 })
    expect((await ask('DELETE', `/preview-links/${next.links[0].id}`)).status).toBe(204)
    expect((await server.nobody('GET', `/shown?link=${next.path.split('/').at(-1)}`)).body).toEqual(never.body)
    expect((await ask('POST', `/lines/${id}/preview-links`, { days: 91 })).body.issues[0]).toMatchObject({ field: 'days' })
  })
})

describe('VAST', () => {
  const read = (tag: string) => ask<VastRead>('POST', '/vast/read', { tag })
  const problem = async (tag: string) => (await ask('POST', '/vast/read', { tag })).body.issues?.[0]

  it('of somebody else is read through its wrappers to what it plays and tells; a film of it is taken into the library', async () => {
    const { body } = await read('https://tagworks.example/vast/wrapped')
    expect(body.chain).toEqual(['https://tagworks.example/vast/wrapped', 'https://tagworks.example/vast/plain'])
    expect(body.ads).toHaveLength(1)
    const [one] = body.ads
    expect([one.title, one.seconds, one.skipAfter, one.landing]).toEqual(['Winter sky', 15, 5, 'https://nightjar.example/winter'])
    expect(one.impressions).toHaveLength(2)
    expect(one.errors).toHaveLength(2)
    expect(one.events.map(({ event }) => event)).toEqual(['start', 'firstQuartile', 'midpoint', 'thirdQuartile', 'complete', 'skip'])
    expect(one.media).toMatchObject([{ type: 'video/mp4', width: 1280, height: 720, kbps: 900, isPlayed: true }])
    const { body: taken } = await ask<FileTaken>('POST', '/advertisers/3/fetched-files', { address: one.media[0].address })
    expect(taken.file).toMatchObject({ medium: 'film', name: 'winter-15.mp4' })
    expect((await read('https://tagworks.example/vast/empty')).body.ads).toEqual([])
  })

  it('that leads in a circle, too deep, nowhere, or is none is refused, and says so', async () => {
    expect(await problem('https://tagworks.example/vast/loop')).toEqual({
      field: 'tag',
      message: 'Its wrappers lead in a circle, back to tagworks.example.'
    })
    expect((await problem('https://tagworks.example/vast/deep/1')).message).toBe('It is wrapped more than 5 times.')
    expect((await problem('https://tagworks.example/vast/none')).message).toBe('It answers 404.')
    expect((await problem('<html></html>')).message).toContain('no VAST but <html>')
    expect((await problem('not <xml')).message).toContain('no web address')
    const bomb = '<!DOCTYPE a [<!ENTITY b "bbbb"><!ENTITY c "&b;&b;&b;">]><VAST version="4.2">&c;</VAST>'
    expect((await problem(bomb)).message).toContain('defines entities')
    const wrapped = (uri: string) =>
      `<VAST version="4.2"><Ad id="1"><Wrapper><AdSystem>x</AdSystem><VASTAdTagURI>${uri}</VASTAdTagURI></Wrapper></Ad></VAST>`
    expect((await read(wrapped('https://tagworks.example/vast/plain'))).body.ads[0].title).toBe('Winter sky')
    expect((await problem(wrapped('http://127.0.0.1:1/'))).message).toBe('It is no public address.')
  })

  it.each([
    'http://127.0.0.1/',
    'http://localhost/',
    'http://[::1]/',
    'http://2130706433/',
    'http://0x7f.1/',
    'http://127.1/',
    'http://0.0.0.0/',
    'http://10.0.0.8/',
    'http://169.254.169.254/latest',
    'http://[::ffff:127.0.0.1]/',
    'http://[::ffff:7f00:1]/',
    'https://tagworks.example/inside'
  ])('does not reach into our own network: %s', async (address) => {
    expect((await problem(address)).message).toBe('It is no public address.')
  })

  it('is fetched by http and https alone, without a name or a password', async () => {
    expect((await problem('ftp://tagworks.example/x')).message).toBe('Only http and https are fetched.')
    expect((await problem('http://a:b@tagworks.example/')).message).toContain('with a name or a password')
    expect((await problem('http://nobody.example/')).message).toBe('It answers 404.')
  })

  it('of our own is read by an independent parser, and plays for a client who has a link', async () => {
    const ines = await server.as('ines@wharfside.example')
    const { body: source } = await ines<LineView>('GET', '/lines/1001')
    const draft = { ...source.draft, name: 'Films', format: 'video', targeting: { restrictions: [] }, ads: [], viewSeconds: 6 }
    const { id } = (await ines<LineView>('POST', `/campaigns/${source.campaignId}/lines`, draft)).body
    const made = (await ines<{ id: number; kind: string }[]>('GET', `/lines/${id}/made-creatives`)).body
    const { body: line } = await ines<LineView>('POST', `/lines/${id}/ads`, { creatives: [made[0].id] })
    const { body: link } = await ines<PreviewLinkMade>('POST', `/lines/${id}/preview-links`, { days: 2 })
    const name = link.path.split('/').at(-1) ?? ''
    const answer = await fetch(`${server.address}/api/shown/vast?link=${name}&ad=${line.ads[0].id}`)
    expect([answer.status, answer.headers.get('content-type')]).toEqual([200, 'application/xml; charset=utf-8'])
    const answered = await read(await answer.text())
    expect(answered.status, JSON.stringify(answered.body)).toBe(200)
    const { body: told } = answered
    expect(told.version).toBe('4.2')
    const [one] = told.ads
    expect(one.title).toBe(line.ads[0].name)
    expect(one.seconds).toBe(line.ads[0].seconds)
    expect(one.landing).toContain(source.draft.landing)
    expect(one.events.map(({ event }) => event)).toEqual(expect.arrayContaining(['firstQuartile', 'midpoint', 'thirdQuartile', 'complete']))
    expect(one.events.some(({ event }) => event.startsWith('progress'))).toBe(true)
    expect(one.errors).toHaveLength(1)
    // What it names is what plays, and the link is all that is needed.
    const film = await fetch(one.media[0].address, { headers: { range: 'bytes=0-99' } })
    expect([film.status, film.headers.get('content-type')]).toEqual([206, one.media[0].type])
    const picture = await ines('GET', `/lines/1001/ads/${source.ads[0].id}/vast`)
    expect(picture.status).toBe(404)
  })
})

describe('parts from elsewhere', () => {
  const pages = (links: string) => ask<PageRead[]>('POST', '/pages/read', { links })

  it('are read from a page: title, description, pictures, icon and brand; its pictures are taken into the library', async () => {
    const [page] = (await pages('https://nightjar.example/winter')).body
    expect(page).toEqual({
      link: 'https://nightjar.example/winter',
      problem: null,
      address: 'https://nightjar.example/winter',
      title: 'See the winter sky',
      description: 'A telescope that stands in a minute, for clear winter nights.',
      brand: 'Nightjar Telescopes',
      icon: 'https://nightjar.example/256x256.png',
      pictures: ['https://nightjar.example/1200x628.png', 'https://nightjar.example/900x600.png']
    })
    const { body } = await ask<FileTaken>('POST', '/advertisers/3/fetched-files', { address: page.pictures[0] })
    expect([body.file.facts.width, body.file.facts.height, body.wasKnown]).toEqual([1200, 628, false])
    expect((await ask<FileTaken>('POST', '/advertisers/3/fetched-files', { address: page.pictures[0] })).body.wasKnown).toBe(true)
    expect((await ask('POST', '/advertisers/3/fetched-files', { address: 'https://nightjar.example/winter' })).body.issues[0]).toEqual({
      field: 'address',
      message: 'It is text/html, which is not what is looked for.'
    })
  })

  it('of 500 links with 7 bad ones are 493, and each of the 7 is told with its reason', { timeout: 60_000 }, async () => {
    const good = Array.from({ length: 493 }, (_, n) => `https://inkwell.example/kana?page=${n}`)
    const bad: Record<string, string> = {
      'not a link': '“not a link” is no web address.',
      'ftp://inkwell.example/': 'Only http and https are fetched.',
      'http://127.0.0.1:3306/': 'It is no public address.',
      'http://[::1]/': 'It is no public address.',
      'https://nobody.example/': 'It answers 404.',
      'https://a:b@inkwell.example/': 'An address with a name or a password in it is not fetched.',
      'https://inkwell.example/256x256.png': 'It is image/png, which is not what is looked for.'
    }
    const { body } = await pages([...good.slice(0, 100), ...Object.keys(bad), ...good.slice(100)].join('\r\n'))
    expect(body).toHaveLength(500)
    expect(Object.fromEntries(body.filter(({ problem }) => problem !== null).map(({ link, problem }) => [link, problem]))).toEqual(bad)
    expect(
      (await ask('POST', '/pages/read', { links: good.concat(good.map((link) => `${link}&b`)).join('\n') })).body.issues[0].message
    ).toBe('At most 500 links are read at once; these are 986.')
    expect((await ask('POST', '/pages/read', { links: ' \n ' })).status).toBe(422)
  })
})
