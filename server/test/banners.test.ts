import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { FileView, MadeChoice, SandboxView } from '@tin-harbor/core/contract'
import { fileVerdict } from '@tin-harbor/core/creative'
import { GrantedDeal } from '../src/deals/deal-model.js'
import { MadeCreative } from '../src/creatives/made-creative-model.js'
import { statements } from '../src/database/migrations/0018-ads-of-parts.js'
import { keptFile, keptFiles } from '../src/demo/demo-files.js'
import { shownBy, sandboxToken } from '../src/sandbox/tokens.js'
import { PAGE, factsOf, zipped } from './support/files.js'
import { libraryOf } from './support/library.js'
import { testServer, type Ask, type TestServer } from './support/server.js'

const refusal = (data: Buffer) =>
  factsOf(data).then(
    () => 'taken',
    ({ issues }: { issues?: { message: string }[] }) => issues?.[0].message ?? 'something else'
  )
/** The same bytes with a name, as long, in place of another. */
const renamed = (data: Buffer, from: string, to: string) => Buffer.from(data.toString('latin1').replaceAll(from, to), 'latin1')
const LINK = 0o120777

describe('a banner', () => {
  it('is known by its page: its size, where a click leads, what it weighs unpacked', async () => {
    const facts = await factsOf(await zipped({ 'ad/index.html': PAGE, 'ad/more.js': 'var x = 1', 'ad/deep/other.html': 'x' }))
    expect(facts).toMatchObject({
      medium: 'banner',
      width: 300,
      height: 250,
      banner: { entry: 'ad/index.html', files: 3, hasClick: true, calls: null, unpacked: PAGE.length + 10 }
    })
    expect(fileVerdict(facts).findings.map(({ rule }) => rule)).toContain('calls')
    const ran = fileVerdict({ ...facts, banner: { ...facts.banner!, calls: [] } })
    expect(ran.takes).toEqual([{ shape: '300x250', part: 'file' }])
    const bare = fileVerdict(await factsOf(await zipped({ 'index.html': '<p>nothing said' })), ['300x250'])
    expect(bare.findings.map(({ is }) => is)).toEqual(['no size in its page', 'no clickTag', 'it has not run yet'])
    const heavy = await factsOf(await zipped({ 'index.html': PAGE, 'big.js': Buffer.alloc(5 * 1024 * 1024, 'a') }))
    expect(fileVerdict(heavy, ['300x250']).findings.map(({ is }) => is)).toContain('5 MB unpacked')
  })

  it('is refused where its zip leads out, links, holds a name twice, lies, is locked, or is a bomb', async () => {
    const good = await zipped({ 'index.html': PAGE, 'aaaaaaaaaa.js': 'x' })
    expect(await refusal(good)).toBe('taken')
    for (const name of ['../../../a.js', '/aaaaaaaaa.js', 'a\\aaaaaaaa.js'])
      expect(await refusal(renamed(good, 'aaaaaaaaaa.js', name))).toBe('A name in the zip leads out of it.')
    expect(await refusal(await zipped({ 'index.html': PAGE, 'x.js': '/etc/passwd' }, { 'x.js': LINK }))).toContain('is a link')
    expect(await refusal(renamed(await zipped({ 'index.html': PAGE, 'one.js': 'x', 'two.js': 'y' }), 'two.js', 'One.js'))).toContain(
      'twice'
    )
    expect(await refusal(await zipped({ 'index.html': PAGE, 'run.php': 'x' }))).toContain('“run.php” is nothing that a banner shows')
    expect(await refusal(await zipped({ 'a.html': PAGE, 'b.html': PAGE }))).toContain('Which page is first?')
    expect(await refusal(await zipped({ 'a.js': 'x' }))).toContain('holds no page')
    const many = Object.fromEntries(Array.from({ length: 220 }, (_, n) => [`${n}.js`, 'x']))
    expect(await refusal(await zipped({ 'index.html': PAGE, ...many }))).toContain('more than 200 files')
    const bomb = await zipped({ 'index.html': PAGE, 'bomb.js': Buffer.alloc(40 * 1024 * 1024) })
    expect(await refusal(bomb)).toContain('more than 32 MB')
    // The same bomb that says it is small: what it holds is believed, not what it says.
    const size = Buffer.alloc(4)
    size.writeUInt32LE(40 * 1024 * 1024)
    expect(await refusal(renamed(bomb, size.toString('latin1'), '\x10\0\0\0'))).toContain('say of itself what is not so')
    const locked = Buffer.from(good)
    for (let i = locked.indexOf('PK\x01\x02', 0, 'latin1'); i >= 0; i = locked.indexOf('PK\x01\x02', i + 4, 'latin1')) locked[i + 8] |= 1
    expect(await refusal(locked)).toContain('locked with a password')
    expect(await refusal(good.subarray(0, good.length - 30))).toContain('cannot be read')
  })
})

it('Files of the demo are what is said of them', async () => {
  const kept = await keptFiles()
  expect(kept.map(({ facts }) => facts.medium).sort()).toEqual(['banner', ...Array<string>(10).fill('film'), 'sound', 'sound'])
  let bytes = 0
  for (const { file, facts } of kept) {
    const data = await keptFile(file)
    bytes += data.length
    expect(await factsOf(data)).toEqual(facts)
  }
  expect(bytes).toBeLessThan(8 * 1024 * 1024)
}, 60_000)

describe('the sandbox', () => {
  let server: TestServer
  let ask: Ask
  let reader: Ask
  const ADVERTISER = 1
  beforeAll(async () => {
    server = await testServer('banners')
    ask = await server.as('ines@wharfside.example')
    reader = await server.as('rui@wharfside.example')
  })
  afterAll(() => server.close())

  const added = async (name: string, holds: Record<string, string>) => libraryOf(server, ask, ADVERTISER).added(name, await zipped(holds))
  const get = (path: string, dest: string) => fetch(`${server.address}${path}`, { headers: { 'sec-fetch-dest': dest } })
  const report = (address: string, blocked: string) =>
    fetch(`${server.address}${address.replace(/\/[^/]*$/, '/report')}`, {
      method: 'POST',
      headers: { 'content-type': 'application/csp-report' },
      body: JSON.stringify({ 'csp-report': { 'blocked-uri': blocked, 'document-uri': 'x' } })
    })

  it('serves what it was given to frames alone, with a policy that lets nothing out, until its time is over', async () => {
    const file = await added('Quiet.zip', { 'index.html': PAGE, 'more.js': 'var x' })
    const { address, until } = (await reader<SandboxView>('GET', `/files/${file.id}/sandbox`)).body
    expect(until).toBeGreaterThan(Date.now() + 3_000_000)
    const page = await get(address, 'iframe')
    expect([page.status, await page.text()]).toEqual([200, PAGE])
    const policy = page.headers.get('content-security-policy') ?? ''
    expect(policy).toMatch(/^sandbox allow-scripts; default-src 'none'/)
    expect(policy).toContain("connect-src 'none'")
    expect(policy).toContain("frame-ancestors 'self'")
    expect(page.headers.get('cross-origin-resource-policy')).toBe('cross-origin')
    expect([page.headers.get('set-cookie'), page.headers.get('x-content-type-options')]).toEqual([null, 'nosniff'])
    for (const dest of ['document', 'empty', 'embed', 'object', '']) expect((await get(address, dest)).status).toBe(403)
    const script = address.replace('index.html', 'more.js')
    expect([(await get(script, 'script')).status, (await get(script, 'document')).status]).toEqual([200, 403])
    for (const wrong of ['not-there.js', '..%2f..%2fapi', '%2e%2e/more.js'])
      expect((await get(address.replace('index.html', wrong), 'script')).status).toBe(404)
    const [, , token] = address.split('/')
    expect((await get(address.replace(token, `${token.slice(0, -2)}xx`), 'iframe')).status).toBe(404)
    expect([shownBy(token), shownBy(token, until + 1)]).toEqual([{ kind: 'file', id: file.id }, null])
    expect(shownBy(sandboxToken({ kind: 'file', id: 3 }).token.replace('.', ''))).toBeNull()
    // Nothing runs outside of it: the zip itself is only kept.
    const { cookie } = await server.signIn('ines@wharfside.example')
    const whole = await fetch(`${server.address}/api/files/${file.id}/content`, { headers: { cookie } })
    expect(whole.headers.get('content-type')).toBe('application/octet-stream')
  })

  it('names what a banner reaches for, and never forgets it; who may not draft changes nothing', async () => {
    const file = await added('Loud.zip', { 'index.html': `${PAGE} aloud` })
    /** Shown in a frame: nothing runs before. */
    const shown = async (id: number) => {
      const { address } = (await ask<SandboxView>('GET', `/files/${id}/sandbox`)).body
      await get(address, 'iframe')
      return address
    }
    const open = () => shown(file.id)
    const ran = (address: string, left: string[] = [], by = ask) => by<FileView>('POST', `/files/${file.id}/ran`, { address, left })
    // An address that nobody looked at tells nothing: what did not run is not quiet.
    const unseen = (await ask<SandboxView>('GET', `/files/${file.id}/sandbox`)).body.address
    expect([(await ran(unseen)).status, (await report(unseen, 'https://x.example')).status]).toEqual([422, 404])
    const first = await open()
    for (const blocked of ['https://fonts.example/a.woff', 'inline', 'data', 'https://fonts.example/b', 'wss://spy.example:8443/x'])
      expect((await report(first, blocked)).status).toBe(204)
    expect((await report(first, '')).status).toBe(404)
    for (const own of [first.replace('index.html', 'data.json'), '/api/me', '']) await report(first, `${server.address}${own}`)
    expect((await ran(first, ['https://away.example/x'], reader)).status).toBe(403)
    expect((await ran(first, ['https://away.example/x', 'not an address'])).body.facts.banner?.calls).toEqual([
      'away.example',
      'fonts.example',
      'its own data.json by a script',
      'spy.example:8443',
      'this server'
    ])
    expect((await ran(await open())).body.facts.banner?.calls).toHaveLength(5)
    const other = await added('Other.zip', { 'index.html': `${PAGE} other` })
    const wrong = await ran(await shown(other.id))
    expect([wrong.status, JSON.stringify(wrong.body)]).toEqual([422, expect.stringContaining('did not run there')])
    const line = await lineOf('display')
    const refused = await ask('POST', `/lines/${line}/files`, { file: file.id })
    expect([refused.status, JSON.stringify(refused.body)]).toEqual([422, expect.stringContaining('reaches for away.example')])
    await ran(await open())
    const quiet = await ask<FileView>('POST', `/files/${other.id}/ran`, {
      address: await shown(other.id),
      left: []
    })
    expect(quiet.body.facts.banner?.calls).toEqual([])
    const onIt = await ask('POST', `/lines/${line}/files`, { file: other.id })
    expect(onIt.body.ads).toMatchObject([{ name: 'Other.zip', type: 'html5', shapes: ['300x250'] }])
  })

  async function lineOf(format: string): Promise<number> {
    const campaign = (await ask('GET', '/manifest')).body.campaigns.find(
      ({ advertiserId }: { advertiserId: number }) => advertiserId === ADVERTISER
    )
    const draft = (await ask('GET', '/lines/1001')).body.draft
    const targeting = {
      ...draft.targeting,
      restrictions: draft.targeting.restrictions.filter(({ dimension }: { dimension: string }) => dimension === 'where')
    }
    return (await ask('POST', `/campaigns/${campaign.id}/lines`, { ...draft, name: `Shows ${format} ${Math.random()}`, format, targeting }))
      .body.id
  }

  it('Ads of parts are held against what their slots take, text by text and file by file', async () => {
    const files = (await ask<FileView[]>('GET', `/advertisers/${ADVERTISER}/files`)).body
    const named = (name: string) => `sha256:${files.find((file) => file.name === name)?.sha256}`
    const native = {
      headline: 'See the winter sky 👩‍👩‍👧‍👦',
      longHeadline: 'See the winter sky tonight',
      text: 'A telescope for clear nights.',
      brand: 'Nightjar Telescopes',
      button: 'See it',
      icon: named('Night sky, icon'),
      picture: named('Night sky, card')
    }
    const make = (parts: object, kind = 'native', by = ask) =>
      by('POST', `/advertisers/${ADVERTISER}/made-creatives`, { name: 'Written', kind, parts })
    const fieldsOf = ({ body }: { body: { issues?: { field: string; message: string }[] } }) =>
      body.issues?.map(({ field, message }) => `${field}: ${message}`)
    expect(fieldsOf(await make({ ...native, headline: 'x'.repeat(26), brand: '' }))).toEqual([
      'parts.headline: The short headline has at most 25 letters.',
      'parts.brand: The brand is needed.'
    ])
    expect(fieldsOf(await make({ ...native, picture: native.icon }))).toEqual([
      'parts.picture: It is 256x256; allowed is at least 600x314. It is 256x256; allowed is 1.91:1.'
    ])
    expect(fieldsOf(await make({ ...native, icon: `sha256:${'0'.repeat(64)}` }))).toEqual(['parts.icon: Not a file of this advertiser.'])
    expect((await make(native, 'native', reader)).status).toBe(403)
    const made = (await make(native)).body as MadeChoice
    expect(made.shapes).toEqual(['native card', 'native row'])
    const line = await lineOf('native')
    expect((await ask('POST', `/lines/${line}/ads`, { creatives: [made.id] })).body.ads).toMatchObject([
      { name: 'Written', type: 'native' }
    ])
    const used = (await ask<FileView[]>('GET', `/advertisers/${ADVERTISER}/files`)).body.filter(({ usedBy }) => usedBy.includes(line))
    expect(used.map(({ name }) => name).sort()).toEqual(['Night sky, card', 'Night sky, icon'])
  })

  it('Native ads of before have a short and a long headline; what is too long stays, and is told before they go live', async () => {
    const { sequelize } = server.deps
    const old = {
      title: 'Ten minutes a day, stroke by stroke',
      text: 'x'.repeat(120),
      sponsor: 'Nightjar',
      button: 'Go',
      icon: 'https://a.example/i',
      picture: 'https://a.example/p'
    }
    const { id } = await sequelize.transaction((transaction) =>
      MadeCreative.create({ advertiserId: ADVERTISER, name: 'Of before', kind: 'native', parts: old }, { transaction })
    )
    // Done again it changes nothing more.
    for (const sql of [...statements, ...statements]) await sequelize.query(sql)
    const { parts } = await MadeCreative.findByPk(id, { rejectOnEmpty: true })
    const { title, sponsor, ...rest } = old
    expect(parts).toEqual({ ...rest, headline: title, longHeadline: title, brand: sponsor })
    const line = await lineOf('native')
    await ask('POST', `/lines/${line}/ads`, { creatives: [id] })
    const { findings } = (await ask('GET', `/lines/${line}/live-plan`)).body
    const said = findings.filter(({ field }: { field: string }) => field === 'creatives').map(({ message }: { message: string }) => message)
    expect(said).toEqual([
      '“Of before”: The short headline has 35 letters; 25 are allowed.',
      '“Of before”: The text has 120 letters; 90 are allowed.'
    ])
  })

  it('What a deal takes less of than the slot is told before the line goes live', async () => {
    const files = (await ask<FileView[]>('GET', `/advertisers/${ADVERTISER}/files`)).body
    const line = await lineOf('video')
    await ask('POST', `/lines/${line}/files`, { file: files.find(({ name }) => name === 'Winter sky, the long one')?.id })
    const { body } = await ask('GET', `/lines/${line}`)
    const deals = await GrantedDeal.findAll()
    const [fixed, floor] = (['fixed', 'floor'] as const).map((kind) => deals.find((deal) => deal.kind === kind)!)
    const saved = { line: { ...body.draft, buys: { open: true, deals: [fixed.id, floor.id] } }, version: body.version }
    expect((await ask('PUT', `/lines/${line}`, saved)).status).toBe(200)
    const { findings } = (await ask('GET', `/lines/${line}/live-plan`)).body
    const said = findings.filter(({ field }: { field: string }) => field === 'creatives').map(({ message }: { message: string }) => message)
    expect(said).toEqual([`“Winter sky, the long one”: The deal “${fixed.name}” does not take it. It is 46 s; allowed is 6 to 30 s.`])
  })

  it('A tag runs there too; it stops a line until it was seen, and what it reaches for is named', async () => {
    const tag = { name: 'A tag', kind: 'markup', parts: { size: '300x250', markup: '<script src="https://ads.example/x.js"></script>' } }
    const { id } = (await ask<MadeChoice>('POST', `/advertisers/${ADVERTISER}/made-creatives`, tag)).body
    const line = await lineOf('display')
    await ask('POST', `/lines/${line}/ads`, { creatives: [id] })
    const said = async () =>
      (await ask('GET', `/lines/${line}/live-plan`)).body.findings
        .filter(({ field }: { field: string }) => field === 'creatives')
        .map(({ severity, message }: { severity: string; message: string }) => `${severity} ${message}`)
    expect(await said()).toEqual(['stops “A tag”: It has not run yet: see it run.'])
    const { address } = (await ask<SandboxView>('GET', `/made-creatives/${id}/sandbox`)).body
    expect(await (await get(address, 'iframe')).text()).toContain(tag.parts.markup)
    await report(address, 'https://ads.example/x.js')
    expect((await ask('POST', `/made-creatives/${id}/ran`, { address, left: [] })).body).toEqual({ calls: ['ads.example'] })
    expect(await said()).toEqual(['warns “A tag”: It reaches for ads.example.'])
    expect((await ask('GET', '/made-creatives/99999/sandbox')).status).toBe(404)
  })
})
