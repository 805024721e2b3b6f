import { VASTClient } from '@dailymotion/vast-client'
import { DOMParser } from '@xmldom/xmldom'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type {
  AdvertiserView,
  FileTaken,
  LinePreview,
  LineView,
  LinkChange,
  LinkLooked,
  PageRead,
  PreviewLinkMade,
  PreviewLinkView,
  VastRead
} from '@tin-harbor/core/contract'
import { statements } from '../src/database/migrations/0024-macros.js'
import { PreviewLink } from '../src/previews/link-model.js'
import { libraryOf } from './support/library.js'
import { lineDraft, testServer, twoAds, TRADER, type Ask, type TestServer } from './support/server.js'

let server: TestServer
let ask: Ask

beforeAll(async () => {
  server = await testServer('outside')
  ask = await server.as(TRADER)
})
afterAll(() => server.close())

describe('ads in place', () => {
  it('are told with all that is seen of them, and nothing else of the library is reached through their line', async () => {
    const { id } = await twoAds(ask)
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
    const { id } = await twoAds(ask)
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
    expect((await problem('https://tagworks.example/nowhere')).message).toContain('is no web address')
    expect((await problem('https://tagworks.example/unsaid')).message).toBe('It leads on, but not where to.')
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

  it('of a film has its call, its end card, its icon and its companion, as an independent parser reads them', async () => {
    const ines = await server.as('ines@wharfside.example')
    const { body: source } = await ines<LineView>('GET', '/lines/1001')
    const { advertiserId } = source
    const library = libraryOf(server, ines, advertiserId)
    const still = async (name: string, width: number, height: number) => {
      const drawn = sharp({ create: { width, height, channels: 3, background: '#335577' } })
      return `sha256:${(await library.added(name, await drawn.png().toBuffer())).sha256}`
    }
    const film = (await library.files()).find(({ medium, facts }) => medium === 'film' && (facts.seconds ?? 0) < 30)
    const [endCard, icon] = [await still('end.png', 640, 360), await still('icon.png', 64, 64)]
    await still('beside.png', 300, 250)
    const { seconds, width, height } = film?.facts ?? { seconds: 0, width: 0, height: 0 }
    const parts = { file: `sha256:${film?.sha256}`, seconds, width, height, skipAfter: 5, companion: '300x250' }
    const make = (own: object) =>
      ines('POST', `/advertisers/${advertiserId}/made-creatives`, { name: 'With all', kind: 'video', parts: { ...parts, ...own } })
    const whole = { overlay: 'See <it> tonight', overlayFrom: 4, endCard, icon }
    expect((await make({ ...whole, overlay: 'a'.repeat(21) })).body.issues).toEqual([
      { field: 'parts.overlay', message: 'The call over the film has at most 20 letters.' }
    ])
    expect((await make({ ...whole, endCard: icon })).body.issues[0]).toMatchObject({ field: 'parts.endCard' })
    const draft = { ...source.draft, name: 'Films with all', format: 'video', targeting: { restrictions: [] }, ads: [] }
    const { id } = (await ines<LineView>('POST', `/campaigns/${source.campaignId}/lines`, draft)).body
    const { body: line } = await ines<LineView>('POST', `/lines/${id}/ads`, { creatives: [(await make(whole)).body.id] })
    const xml = await (await ines('GET', `/lines/${id}/ads/${line.ads[0].id}/vast`)).body
    const { ads } = await new VASTClient().parseVAST(new DOMParser().parseFromString(xml as string, 'text/xml') as never, {})
    const [linear, call, beside] = ads[0].creatives as never as {
      icons: { width: number }[]
      variations: { htmlResource?: string; htmlResources?: string[]; attributes?: Record<string, string>; width: number | string }[]
    }[]
    expect(linear.icons.map((one) => one.width)).toEqual([64])
    expect(call.variations[0].htmlResource).toContain('See &lt;it&gt; tonight')
    expect(beside.variations.map((one) => [Number(one.width), (one as { renderingMode?: string }).renderingMode])).toEqual([
      [300, 'concurrent'],
      [640, 'end-card']
    ])
    const preview = (await ines<LinePreview>('GET', `/lines/${id}/preview`)).body.ads[0]
    expect(preview.files.map(({ part }) => part).sort()).toEqual(['companion', 'endCard', 'file', 'icon'])
    expect(preview.said).toContainEqual({ part: 'overlayFrom', value: '4' })
  })
})

describe('the page of a pop', () => {
  const popOf = async (link: string) => {
    const { id: creative } = (await ask('POST', '/advertisers/3/made-creatives', { name: link, kind: 'pop page', parts: { link } })).body
    const { campaignId } = (await ask<LineView>('GET', `/lines/${(await twoAds(ask)).id}`)).body
    const line = (await ask('POST', `/campaigns/${campaignId}/lines`, lineDraft({ format: 'pop', targeting: { restrictions: [] } }))).body
      .id
    await ask('POST', `/lines/${line}/ads`, { creatives: [creative] })
    const runs = (await ask<LinePreview>('GET', `/lines/${line}/preview`)).body.ads[0].runs ?? ''
    const shown = (address: string, dest: string) => fetch(`${server.address}${address}`, { headers: { 'sec-fetch-dest': dest } })
    return { runs, shown }
  }

  it('is seen in a frame without an origin, with the pictures that lie beside it, and reaches nothing else', async () => {
    const { runs, shown } = await popOf('https://nightjar.example/winter')
    const page = await shown(runs, 'iframe')
    expect([page.status, page.headers.get('content-type')]).toEqual([200, 'text/html; charset=utf-8'])
    expect(page.headers.get('content-security-policy')).toMatch(/^sandbox allow-scripts; default-src 'none'/)
    const html = await page.text()
    expect(html).toContain('<h1>See the winter sky</h1>')
    const picture = /src="([^"]+\.png)"/.exec(html)?.[1] ?? ''
    const beside = await shown(runs.replace(/[^/]*$/, picture), 'image')
    expect([beside.status, beside.headers.get('content-type')]).toEqual([200, 'image/png'])
    // A page is one only in its frame, and scripts of elsewhere are not fetched.
    expect((await shown(runs, 'document')).status).toBe(403)
    expect((await shown(runs.replace(/[^/]*$/, 'winter'), 'script')).status).toBe(404)
  })

  it('that does not answer says so in its place', async () => {
    const { runs, shown } = await popOf('https://nobody.example/<b>')
    expect(await (await shown(runs, 'iframe')).text()).toContain('nobody.example is not shown here: It answers 404.')
    const inside = await popOf('https://tagworks.example/inside')
    expect(await (await inside.shown(inside.runs, 'iframe')).text()).toContain('It is no public address.')
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
    const { body: odd } = await ask<FileTaken>('POST', '/advertisers/3/fetched-files', {
      address: 'https://tagworks.example/winter%-15.mp4'
    })
    expect(odd.file.name).toContain('15.mp4')
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

describe('landing links', () => {
  const look = async (link: string) => (await ask<LinkLooked>('POST', '/links/looked', { link })).body

  it('are looked at with an example of each macro: whether they answer, and where they end', async () => {
    const found = await look('https://nightjar.example/winter?click=${CLICK_ID}')
    expect([found.problem, found.title, found.hops.length]).toEqual([null, 'See the winter sky | Nightjar Telescopes', 1])
    expect(found.link).toMatch(/click=c1\./)
    expect((await look('https://tagworks.example/inside')).problem).toBe('It is no public address.')
    expect((await look('https://nobody.example/')).problem).toBe('It answers 404.')
    expect((await look('javascript:alert(1)')).problem).toBe('Only http and https are fetched.')
  })

  it('have the tail of their advertiser and of their campaign, in VAST too, where macros are in brackets', async () => {
    const ines = await server.as('ines@wharfside.example')
    const advertiser = async () => ((await ines('GET', '/manifest')).body.advertisers as AdvertiserView[])[0]
    const { id, version } = await advertiser()
    const wrong = await ines('PUT', `/advertisers/${id}/tail`, { version, linkTail: '?a=b' })
    expect(wrong.body.issues[0].field).toBe('linkTail')
    expect((await ines('PUT', `/advertisers/${id}/tail`, { version, linkTail: 'at=${CLICK_ID}' })).body.linkTail).toBe('at=${CLICK_ID}')
    expect((await ines('PUT', `/advertisers/${id}/tail`, { version, linkTail: '' })).status).toBe(409)
    const { body: source } = await ines<LineView>('GET', '/lines/1001')
    const draft = { ...source.draft, name: 'Tails', format: 'video', targeting: { restrictions: [] }, ads: [] }
    const line = (await ines<LineView>('POST', `/campaigns/${source.campaignId}/lines`, draft)).body.id
    const made = (await ines<{ id: number }[]>('GET', `/lines/${line}/made-creatives`)).body
    const { ads } = (await ines<LineView>('POST', `/lines/${line}/ads`, { creatives: [made[0].id] })).body
    const xml = (await ines('GET', `/lines/${line}/ads/${ads[0].id}/vast`)).body as string
    expect(xml).toMatch(/<ClickThrough id="tin-harbor"><!\[CDATA\[[^\]]*at=\[CLICK_ID\]/)
    expect((await ines('PUT', `/advertisers/${id}/tail`, { version: version + 1, linkTail: '' })).status).toBe(200)
  })

  it('that were written before macros had their form are told anew, on campaigns, lines and what is in force', async () => {
    const { id } = await twoAds(ask)
    const { body: line } = await ask<LineView>('GET', `/lines/${id}`)
    const { sequelize } = server.deps
    const old = 'https://inkwell.example/kana?click={click_id}'
    await sequelize.query('UPDATE line SET draft = JSON_SET(draft, "$.landing", ?) WHERE id = ?', { replacements: [old, id] })
    await sequelize.query("UPDATE campaign SET link_tail = 'a=1&c={click_id}' WHERE id = ?", { replacements: [line.campaignId] })
    // Run again it changes nothing more.
    for (let n = 0; n < 2; n++) for (const sql of statements) await sequelize.query(sql)
    expect((await ask<LineView>('GET', `/lines/${id}`)).body.draft.landing).toBe('https://inkwell.example/kana?click=${CLICK_ID}')
    expect((await ask('GET', `/campaigns/${line.campaignId}`)).body.campaign.linkTail).toBe('a=1&c=${CLICK_ID}')
  })

  it('of many lines are changed at once, told before and after, all or none', async () => {
    const { id, ads } = await twoAds(ask)
    const { body: line } = await ask<LineView>('GET', `/lines/${id}`)
    const own = { ad: ads[0], landing: 'https://inkwell.example/kana/first' }
    await ask('PUT', `/lines/${id}`, { version: line.version, line: { ...line.draft, ads: [own] } })
    const other = (await ask<LineView>('POST', `/campaigns/${line.campaignId}/lines`, lineDraft({ name: 'Second' }))).body
    const change = (find: string, replace: string, lines: { line: number; version: number }[] | null) =>
      ask<LinkChange[]>('POST', `/campaigns/${line.campaignId}/links`, { find, replace, lines })
    const { body: told } = await change('/kana', '/brush', null)
    expect(told.map(({ line: number, ad, before, after }) => [number, ad, before, after])).toEqual([
      [id, null, 'https://inkwell.example/kana', 'https://inkwell.example/brush'],
      [id, ads[0], 'https://inkwell.example/kana/first', 'https://inkwell.example/brush/first'],
      [other.id, null, 'https://inkwell.example/kana', 'https://inkwell.example/brush']
    ])
    const versions = [...new Map(told.map((one) => [one.line, one.version]))].map(([line, version]) => ({ line, version }))
    const landings = async () => {
      const [a, b] = await Promise.all([id, other.id].map(async (one) => (await ask<LineView>('GET', `/lines/${one}`)).body.draft))
      return [a.landing, a.ads?.[0].landing, b.landing]
    }
    const was = await landings()
    // One that somebody else changed meanwhile, or that would lead nowhere, keeps all of them as they were.
    expect((await change('/kana', '/brush', [versions[0], { ...versions[1], version: 99 }])).status).toBe(409)
    const refused = await ask('POST', `/campaigns/${line.campaignId}/links`, {
      find: 'inkwell.example',
      replace: '${PROPERTY}',
      lines: versions
    })
    expect(refused.body.issues[0]).toMatchObject({ field: 'replace' })
    expect(refused.body.issues[0].message).toContain('No macro stands in the host')
    expect(await landings()).toEqual(was)
    expect((await change('/kana', '/brush', versions)).status).toBe(200)
    expect(await landings()).toEqual([
      'https://inkwell.example/brush',
      'https://inkwell.example/brush/first',
      'https://inkwell.example/brush'
    ])
    expect((await change('', 'x', null)).status).toBe(422)
  })
})
