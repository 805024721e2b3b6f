import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { AdTerms, LineDraft } from '@tin-harbor/core/buying'
import type { AdStandings, LineView } from '@tin-harbor/core/contract'
import type { AdRules } from '@tin-harbor/core/exchange'
import type { Targeting } from '@tin-harbor/core/targeting'
import { LineRevision } from '../src/lines/line-model.js'
import { formOf, newToken, picture, readyLine, testServer, TRADER, type Ask, type TestServer } from './support/server.js'

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
