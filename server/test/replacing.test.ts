import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { FileReplaced, FileResults, FileView } from '@tin-harbor/core/contract'
import { Ad, Creative } from '../src/creatives/creative-model.js'
import { MadeCreative } from '../src/creatives/made-creative-model.js'
import { Publication } from '../src/going-live/publication-model.js'
import { libraryOf } from './support/library.js'
import { testServer, type Ask, type TestServer } from './support/server.js'

let server: TestServer
let ask: Ask
const ADVERTISER = 1
const LIVE = 1001
beforeAll(async () => {
  server = await testServer('replacing')
  ask = await server.as('ines@wharfside.example')
})
afterAll(() => server.close())

const files = () => libraryOf(server, ask, ADVERTISER).files()
async function picture(width: number, height: number, background: string): Promise<FileView> {
  const data = await sharp({ create: { width, height, channels: 3, background } })
    .png()
    .toBuffer()
  return libraryOf(server, ask, ADVERTISER).added(`${background}.png`, data)
}
const replace = (was: FileView, by: number, version = was.version, who = ask) => who('POST', `/files/${was.id}/replace`, { by, version })

describe('a file in the place of another', () => {
  it('is in every ad that showed it, each to be reviewed again; what is live goes on as it is; the one before is kept', async () => {
    const before = (await files()).find(({ name, usedBy }) => name === 'night sky 300x250.png' && usedBy.includes(LIVE))!
    const by = await picture(300, 250, '#224466')
    const ads = await Ad.findAll({ where: { removed: false } })
    const creatives = (await Creative.findAll({ where: { sha256: before.sha256 } })).map(({ id }) => id)
    const shown = ads.filter(({ creativeId }) => creatives.includes(creativeId ?? 0))
    expect(shown.map(({ review }) => review)).toEqual(shown.map(() => 'cleared'))
    const published = await Publication.count()
    const { draft, version } = (await ask('GET', `/lines/${LIVE}`)).body
    const weighed = shown.find(({ lineId }) => lineId === LIVE)?.id
    await ask('PUT', `/lines/${LIVE}`, { version, line: { ...draft, ads: [{ ad: weighed, weight: 5 }] } })
    const done = (await replace(before, by.id)).body as FileReplaced
    expect([done.ads, done.lines]).toEqual([shown.length, before.usedBy])
    expect(done.was).toMatchObject({ retired: true, replacedBy: by.id, usedBy: [] })
    expect(done.by.usedBy).toEqual(before.usedBy)
    const now = (await ask('GET', `/lines/${LIVE}`)).body
    const own = now.ads.find(({ size }: { size: string }) => size === '300x250')
    expect([own.review, own.name, now.state]).toEqual(['draft', by.name, 'live'])
    // What the line says of the ad goes over to the one in its place.
    expect(now.draft.ads).toContainEqual({ ad: own.id, weight: 5 })
    expect(await Publication.count()).toBe(published)
    // What came of it is still told of the one that it came of.
    const [was, next] = await Promise.all(
      [before.id, by.id].map(async (id) => (await ask<FileResults>('GET', `/files/${id}/results`)).body)
    )
    expect([was.impressions > 0, next.impressions]).toEqual([true, 0])
    expect(was.clickRange.low).toBeLessThanOrEqual(was.clicks / was.impressions)
    expect(was.clickRange.high).toBeGreaterThanOrEqual(was.clicks / was.impressions)
    const total = (await ask('GET', `/lines/${LIVE}/results`)).body.total
    expect(was.impressions).toBeLessThan(total.impressions + (await ask('GET', '/lines/1002/results')).body.total.impressions)
    // Offered again, it has nothing in its place.
    const { name, altText, tags } = done.was
    const again = await ask<FileView>('PUT', `/files/${before.id}`, { name, altText, tags, retired: false, version: done.was.version })
    expect(again.body).toMatchObject({ retired: false, replacedBy: null })
  })

  it('is refused as a whole where one ad could not show it, each named; nothing of it is left', async () => {
    const wide = (await files()).find(({ name, usedBy }) => name.startsWith('night sky 728x90') && usedBy.length > 0)!
    const counts = async () => [await Ad.count(), await Creative.count(), await MadeCreative.count()]
    const before = await counts()
    const square = await picture(300, 250, '#446622')
    const refused = await replace(wide, square.id)
    expect([refused.status, refused.body.issues]).toEqual([
      422,
      [{ field: 'by', message: `“${wide.name}”: It is 300x250; allowed is 728x90, 1456x180 or 2184x270.` }]
    ])
    const film = (await files()).find(({ medium }) => medium === 'film')!
    expect(JSON.stringify((await replace(wide, film.id)).body)).toContain('a picture takes the place of a picture')
    const others = (await ask<FileView[]>('GET', '/advertisers/2/files')).body
    expect((await replace(wide, others[0].id)).body.issues[0].message).toBe('Not another file of this advertiser.')
    expect((await replace(wide, wide.id)).status).toBe(422)
    expect((await replace(wide, square.id, wide.version + 1)).status).toBe(409)
    const reader = await server.as('rui@wharfside.example')
    expect((await replace(wide, square.id, wide.version, reader)).status).toBe(403)
    expect(await counts()).toEqual(before)
  })

  it('of a film goes with what is known of it, where its players take the other', async () => {
    const all = await files()
    const named = (name: string) => all.find((one) => one.name === name)!
    const campaign = (await ask('GET', '/lines/1001')).body
    const draft = { ...campaign.draft, name: 'Films', format: 'video', targeting: { restrictions: [] }, ads: [] }
    const { id: line } = (await ask('POST', `/campaigns/${campaign.campaignId}/lines`, draft)).body
    await ask('POST', `/lines/${line}/files`, { file: named('Winter sky, 15 s').id })
    const done = (await replace(named('Winter sky, 15 s'), named('Winter sky, 6 s').id)).body as FileReplaced
    expect([done.ads, done.lines]).toEqual([1, [line]])
    expect((await ask('GET', `/lines/${line}`)).body.ads).toMatchObject([{ seconds: 6, review: 'draft' }])
  })
})
