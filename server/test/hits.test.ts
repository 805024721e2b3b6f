import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import fc from 'fast-check'
import { createConnection } from 'mariadb'
import { QueryTypes } from 'sequelize'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { HitView, LinePreview, LineView } from '@tin-harbor/core/contract'
import { copyTemplate, startTestServer } from '../../scripts/test-server.mjs'
import { HitIds, type HitSubject } from '../src/hits/ids.js'
import { Journal, leftJournals, linesOf } from '../src/hits/journal.js'
import { Hit } from '../src/hits/hit-model.js'
import { TEMPLATE } from './support/template.js'
import { lineDraft, testServer, twoAds, TRADER, type Ask, type TestServer } from './support/server.js'

const key = (id: number) => ({ id, secret: Buffer.alloc(32, id) })
const subjects: fc.Arbitrary<HitSubject> = fc.oneof(
  fc.record({ kind: fc.constant('impression' as const), hour: fc.nat(100_000), place: fc.nat(5_000_000) }),
  fc.record({ kind: fc.constant('preview' as const), ad: fc.nat(1_000_000), nonce: fc.stringMatching(/^[a-z0-9]{1,20}$/) })
)

describe('ids of what is told', () => {
  it('name what was signed, by the newest key, and by those before it; nothing else is one', () => {
    const ids = new HitIds([key(1), key(2)])
    const before = new HitIds([key(1)])
    const letters = 'abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-_.'
    fc.assert(
      fc.property(subjects, fc.nat(), fc.constantFrom(...letters), (subject, place, letter) => {
        const id = ids.sign(subject)
        expect(ids.read(id)).toEqual(subject)
        expect(ids.read(before.sign(subject))).toEqual(subject)
        expect(before.read(id)).toBeNull()
        const n = place % id.length
        const forged = id.slice(0, n) + letter + id.slice(n + 1)
        if (forged !== id) expect(ids.read(forged)).toBeNull()
      })
    )
    for (const other of ['', '.', '..', 'x.y.z', '1.i1-1.', `1.i1-1.${'A'.repeat(16)}`, 'a'.repeat(5000)])
      expect(ids.read(other)).toBeNull()
  })
})

describe('the journal', () => {
  const folder = mkdtempSync(join(tmpdir(), 'tin-harbor-journal-'))
  afterAll(() => rmSync(folder, { recursive: true, force: true }))

  it('has each line before whoever wrote it goes on, in their order; a torn one is nobody’s', async () => {
    const journal = await Journal.begin(folder)
    const told = Array.from({ length: 500 }, (_, n) => `line ${n}`)
    await Promise.all(
      told.map(async (line) => {
        await journal.append(line)
        expect(linesOf(await readFile(journal.path, 'utf8'))).toContain(line)
      })
    )
    await journal.close()
    const content = await readFile(journal.path, 'utf8')
    expect(linesOf(content)).toEqual(told)
    expect(linesOf(content.slice(0, -3))).toEqual(told.slice(0, -1))
    expect(linesOf(content.replace('line 7', 'line 8'))).toHaveLength(499)
    // What another process that is gone left is found; what is no journal is not touched.
    writeFileSync(join(folder, 'notes.txt'), 'x')
    const [left] = await leftJournals(folder, 'none')
    expect(left.lines).toEqual(told)
    await left.remove()
    expect(readdirSync(folder)).toEqual(['notes.txt'])
  })
})

describe('what players tell', () => {
  let server: TestServer
  let ask: Ask
  beforeAll(async () => {
    server = await testServer('hits')
    ask = await server.as(TRADER)
  })
  afterAll(() => server.close())
  const tell = (id: string, event: string) => fetch(`${server.address}/e/${id}?event=${event}`)

  it('of a preview is kept once, however often it is told, and counts nowhere', async () => {
    const { body: source } = await ask<LineView>('GET', '/lines/1001')
    const draft = lineDraft({ name: 'Films told', format: 'video', targeting: { restrictions: [] } })
    const { id: line } = (await ask<LineView>('POST', `/campaigns/${source.campaignId}/lines`, { ...draft, flight: source.draft.flight }))
      .body
    const made = (await ask<{ id: number }[]>('GET', `/lines/${line}/made-creatives`)).body
    const { ads } = (await ask<LineView>('POST', `/lines/${line}/ads`, { creatives: [made[0].id] })).body
    const xml = (await ask('GET', `/lines/${line}/ads/${ads[0].id}/vast`)).body as string
    const addresses = [...xml.matchAll(/<!\[CDATA\[(http[^\]]*\/e\/[^\]]*?)(?:\[|\]\])/g)].map(([, address]) => address)
    expect(addresses.some((address) => address.includes('event=firstQuartile'))).toBe(true)
    const first = addresses.find((address) => address.includes('event=start')) ?? ''
    const answers = await Promise.all(Array.from({ length: 12 }, () => fetch(first)))
    expect(answers.map(({ status }) => status)).toEqual(Array(12).fill(204))
    const { body: told } = await ask<HitView[]>('GET', `/lines/${line}/hits`)
    expect(told.map(({ ad, event, counts }) => [ad, event, counts])).toEqual([[ads[0].id, 'start', false]])
    // Another document is another showing.
    const again = (await ask('GET', `/lines/${line}/ads/${ads[0].id}/vast`)).body as string
    await fetch(/http[^\]]*event=start/.exec(again)?.[0] ?? '')
    expect((await ask<HitView[]>('GET', `/lines/${line}/hits`)).body).toHaveLength(2)
  })

  it('of an impression counts where it was bought, and is kept apart where it was not', async () => {
    await ask('POST', '/market/run', { hours: 3 })
    await server.deps.runner.idle()
    const [{ hour, n }] = await server.deps.sequelize.query<{ hour: number; n: number }>(
      'SELECT hour, n FROM delivery_hour WHERE n > 0 ORDER BY hour DESC LIMIT 1',
      { type: QueryTypes.SELECT }
    )
    const { ids } = server.deps.hits
    const idOf = (place: number, ran = hour) => ids.sign({ kind: 'impression', hour: ran, place })
    expect((await tell(idOf(0), 'viewable')).status).toBe(204)
    expect((await tell(idOf(n), 'viewable')).status).toBe(204)
    expect((await tell(idOf(0, 900_000), 'viewable')).status).toBe(204)
    await server.deps.hits.take()
    const rows = await Hit.findAll({ where: { event: 'viewable' }, order: [['id', 'ASC']] })
    expect(rows.map(({ place, counts }) => [place, counts])).toEqual([
      [0, true],
      [n, false],
      [0, false]
    ])
  })

  it('by a click leads to the page of the ad, macros filled in, as a browser can follow it; the click is kept once', async () => {
    const { id } = await twoAds(ask)
    const { body: line } = await ask<LineView>('GET', `/lines/${id}`)
    const landing = 'https://inkwell.example/kana?click=${CLICK_ID}&n=${LINE_NAME}&ad=${AD_ID}&price=${AUCTION_PRICE}'
    expect((await ask('PUT', `/lines/${id}`, { version: line.version, line: { ...line.draft, landing } })).status).toBe(200)
    const [ad] = (await ask<LinePreview>('GET', `/lines/${id}/preview`)).body.ads
    const follow = (path: string) => fetch(`${server.address}${path}`, { redirect: 'manual' })
    const first = await follow(`${ad.click}?to=https://elsewhere.example/`)
    expect(first.status).toBe(302)
    const place = new URL(first.headers.get('location') ?? '')
    expect(place.pathname).toBe('/inkwell.example/kana')
    expect(Object.fromEntries(place.searchParams)).toEqual({
      click: ad.click.replace('/c/', ''),
      n: line.draft.name,
      ad: String(ad.id),
      price: ''
    })
    const page = await fetch(place)
    expect([page.status, page.headers.get('content-type')]).toEqual([200, 'text/html; charset=utf-8'])
    const html = await page.text()
    expect(html).toContain('<h1>A stroke a day</h1>')
    // What lies beside the page is found below the name of its site.
    const other = /href="(\/inkwell.example\/read[^"]+)"/.exec(html)?.[1] ?? ''
    expect((await fetch(new URL(other, place))).status).toBe(200)
    expect((await fetch(new URL('/inkwell.example/900x600.png', place))).headers.get('content-type')).toBe('image/png')
    await follow(ad.click)
    const { body: told } = await ask<HitView[]>('GET', `/lines/${id}/hits`)
    expect(told.map(({ event, counts }) => [event, counts])).toEqual([['click', false]])
    // Whoever changes the id leads nobody anywhere.
    expect((await follow(ad.click.slice(0, -1))).status).toBe(404)
    expect((await follow('/c/')).status).toBe(404)
    const gone = await follow(`/c/${server.deps.hits.ids.sign({ kind: 'preview', ad: 999_999, nonce: 'a' })}`)
    expect([gone.status, await gone.text()]).toEqual([404, 'What was shown is not there any more.'])
  })

  it('by a click on an impression leads to the page of its ad, by what the log says of it', async () => {
    const [{ hour, n }] = await server.deps.sequelize.query<{ hour: number; n: number }>(
      'SELECT hour, n FROM delivery_hour WHERE n > 0 ORDER BY hour DESC LIMIT 1',
      { type: QueryTypes.SELECT }
    )
    const { ids } = server.deps.hits
    const follow = (place: number) => fetch(`${server.address}/c/${ids.sign({ kind: 'impression', hour, place })}`, { redirect: 'manual' })
    const { body: line } = await ask<LineView>('GET', '/lines/1001')
    const answer = await follow(0)
    expect([answer.status, (answer.headers.get('location') ?? '').includes(new URL(line.draft.landing).hostname)]).toEqual([302, true])
    expect((await follow(n)).status).toBe(404)
  })

  it('with an id of nobody, or of what nobody does, is refused', async () => {
    const id = server.deps.hits.ids.sign({ kind: 'preview', ad: 1, nonce: 'a' })
    expect((await tell(id, 'danced')).status).toBe(404)
    expect((await tell(`${id}x`, 'start')).status).toBe(404)
    expect((await tell(id.replace('.p', '.i'), 'start')).status).toBe(404)
    expect((await fetch(`${server.address}/e/${'%'.repeat(3000)}`)).status).toBe(404)
  })
})

describe('a server that is killed while it is told', () => {
  it('has kept each hit that it answered, once, when it is back', { timeout: 120_000 }, async () => {
    const base = process.env.TEST_DATABASE_URL ?? ''
    const tapes = await copyTemplate(base, TEMPLATE, 'test_hits_killed')
    const url = new URL(base)
    url.pathname = '/test_hits_killed'
    const { hostname, port, username, password } = url
    const database = await createConnection({ host: hostname, port: Number(port), user: username, password, database: 'test_hits_killed' })
    const answered = new Set<string>()
    const told = new Set<string>()
    try {
      for (let life = 0; life < 2; life++) {
        const server = await startTestServer(url.href, '20000', { fresh: false, tapes })
        const keys = (await database.query('SELECT id, secret FROM hit_key ORDER BY id')) as { id: number; secret: string }[]
        const ids = new HitIds(keys.map((one) => ({ id: one.id, secret: Buffer.from(one.secret, 'hex') })))
        let isDead = false
        const teller = async (lane: number) => {
          for (let n = 0; !isDead && n < 400; n++) {
            const nonce = `l${life}n${lane}x${n}`
            told.add(nonce)
            const answer = await fetch(`${server.address}/e/${ids.sign({ kind: 'preview', ad: 1, nonce })}?event=start`).catch(() => null)
            if (answer?.status === 204) answered.add(nonce)
          }
        }
        const lanes = Promise.all(Array.from({ length: 8 }, (_, lane) => teller(lane)))
        if (life < 1) {
          await new Promise((resolve) => setTimeout(resolve, 350))
          process.kill(server.pid, 'SIGKILL')
          isDead = true
          await lanes
        } else {
          await lanes
          await server.stop()
        }
      }
      const rows = (await database.query('SELECT subject FROM hit')) as { subject: string }[]
      const kept = rows.map(({ subject }) => subject.replace(/^p1-/, ''))
      expect(new Set(kept).size).toBe(kept.length)
      expect([...answered].filter((nonce) => !kept.includes(nonce))).toEqual([])
      expect(kept.filter((nonce) => !told.has(nonce))).toEqual([])
      expect(answered.size).toBeGreaterThan(100)
    } finally {
      await database.end()
    }
  })
})
