import { QueryTypes } from 'sequelize'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { CARRIERS, propertyCode } from '@tin-harbor/core/market'
import { GrantedDeal } from '../src/deals/deal-model.js'
import { MarketState } from '../src/exchange/market-model.js'
import { Publication } from '../src/going-live/publication-model.js'
import { Line, LineRevision } from '../src/lines/line-model.js'
import { AuditEntry } from '../src/team/audit-model.js'
import { Session } from '../src/team/user-model.js'
import { moneyColumn, wholeNumber } from '../src/database/connection.js'
import { migrate } from '../src/database/migrate.js'
import {
  TRADER,
  campaignDraft,
  formOf,
  lineDraft,
  newToken,
  picture,
  readyLine,
  testServer,
  type Ask,
  type TestServer
} from './support/server.js'

let server: TestServer
let ask: Ask

beforeAll(async () => {
  server = await testServer('buying')
  ask = await server.as(TRADER)
})
afterAll(() => server.close())

const issue = (answer: { body: { issues?: { field: string; message: string }[] } }, field: string) =>
  answer.body.issues?.find((one) => one.field === field)?.message

describe('the demo', () => {
  it('has three advertisers, money, a live campaign with results that the exchange made, and a draft', async () => {
    const { body } = await ask('GET', '/manifest')
    expect(body.advertisers).toHaveLength(3)
    const states = body.lines.map((line: { state: string }) => line.state)
    expect(states.filter((state: string) => state === 'live')).toHaveLength(2)
    expect(states).toContain('draft')
    expect(body.lines[0].spentMicros).toBeGreaterThan(0)
    expect((await ask('GET', '/market')).body).toMatchObject({ hour: 60 * 24 + 8 })
  })

  it('is made once: a second start changes nothing', async () => {
    const { setUpDemo } = await import('../src/demo/demo.js')
    const before = (await ask('GET', '/manifest')).body
    await setUpDemo(server.deps, () => undefined)
    expect((await ask('GET', '/manifest')).body).toEqual(before)
    expect(await migrate(server.url)).toEqual([])
  })
})

describe('campaigns', () => {
  it('are checked field by field, and nothing is kept of a wrong one', async () => {
    const before = (await ask('GET', '/manifest')).body.campaigns.length
    const answer = await ask('POST', '/advertisers/3/campaigns', {
      name: '  ',
      goal: 'fame',
      flight: { startDate: '2026-03-10', endDate: '2026-03-02' },
      budget: { totalMicros: -5, dailyMicros: 1.5 }
    })
    expect(answer.status).toBe(422)
    expect(answer.body.issues.map((one: { field: string }) => one.field).sort()).toEqual([
      'budget.dailyMicros',
      'budget.totalMicros',
      'flight.endDate',
      'goal',
      'name'
    ])
    expect(issue(answer, 'flight.endDate')).toBe('The flight ends before it starts.')
    expect((await ask('GET', '/manifest')).body.campaigns).toHaveLength(before)
    expect(issue(await ask('POST', '/advertisers/3/campaigns', { ...campaignDraft(), extra: 1 }), 'extra')).toBe('Not a field we know.')
    expect((await ask('POST', '/advertisers/99/campaigns', campaignDraft())).status).toBe(404)
  })

  it('keep limits by week, month and impressions and caps, which the forecast of their lines reads', async () => {
    const { campaignId, lineId } = await readyLine(ask)
    const { body } = await ask('GET', `/campaigns/${campaignId}`)
    const save = (version: number, over: object) =>
      ask('PUT', `/campaigns/${campaignId}`, { version, campaign: { ...campaignDraft(), ...over } })
    const wrong = await save(body.campaign.version, {
      budget: { totalMicros: null, dailyMicros: null, weeklyMicros: 0, dailyImpressions: 1.5 },
      caps: [{ times: 0, hours: 900 }]
    })
    expect(wrong.body.issues.map((one: { field: string }) => one.field).sort()).toEqual(
      ['budget.dailyImpressions', 'budget.weeklyMicros', 'caps[0].hours', 'caps[0].times'].map((field) => `campaign.${field}`)
    )
    const asked = async () => {
      const answer = await ask('POST', '/forecast', { page: 'page-limits', number: 1, campaignId, lineId, line: lineDraft() })
      return answer.body.find((one: { part: string }) => one.part === 'figures').figures.day
    }
    const free = await asked()
    const saved = await save(body.campaign.version, {
      budget: { totalMicros: null, dailyMicros: null, weeklyMicros: 7_000_000_000, dailyImpressions: 40 },
      caps: [{ times: 1, hours: 48 }]
    })
    expect(saved.body).toMatchObject({ budget: { weeklyMicros: 7_000_000_000, dailyImpressions: 40 }, caps: [{ times: 1, hours: 48 }] })
    expect((await ask('GET', `/campaigns/${campaignId}`)).body.campaign).toMatchObject({
      budget: { dailyImpressions: 40 },
      caps: [{ times: 1, hours: 48 }]
    })
    const bound = await asked()
    expect(free.wins.value).toBeGreaterThan(60)
    expect(bound.wins.value).toBeLessThanOrEqual(40 * 1.001)
    expect(bound.people.slice(2)).toEqual(bound.people.slice(2).map(() => 0))
  })

  it('refuse a flight that would leave a line outside, and a stale edit', async () => {
    const { campaignId } = await readyLine(ask)
    const { body } = await ask('GET', `/campaigns/${campaignId}`)
    const shorter = { ...campaignDraft(), flight: { startDate: '2026-03-02', endDate: '2026-03-10' } }
    expect(
      issue(await ask('PUT', `/campaigns/${campaignId}`, { version: body.campaign.version, campaign: shorter }), 'flight.endDate')
    ).toContain('Display, phones, GB')
    expect(
      (await ask('PUT', `/campaigns/${campaignId}`, { version: body.campaign.version, campaign: campaignDraft({ name: 'Renamed' }) })).body
        .name
    ).toBe('Renamed')
    const again = await ask('PUT', `/campaigns/${campaignId}`, { version: body.campaign.version, campaign: campaignDraft() })
    expect(again.status).toBe(409)
    expect(again.body.current.name).toBe('Renamed')
  })
})

describe('lines', () => {
  it.each([
    ['a negative bid', { price: { model: 'CPM', bidMicros: -1_000_000, maxMicros: null } }, 'price.bidMicros', 'more than 0'],
    ['an absurd bid', { price: { model: 'CPM', bidMicros: 900_000_000, maxMicros: null } }, 'price.bidMicros', 'over 500'],
    ['a bid between steps', { price: { model: 'CPM', bidMicros: 1_000_500, maxMicros: null } }, 'price.bidMicros', '0.001'],
    [
      'a maximum below the bid',
      { price: { model: 'CPM', bidMicros: 2_000_000, maxMicros: 1_000_000 } },
      'price.maxMicros',
      'below the bid'
    ],
    ['a budget below one impression', { budget: { dailyMicros: 2000, totalMicros: null } }, 'budget.dailyMicros', 'one impression'],
    ['a flight that ends first', { flight: { startDate: '2026-03-12', endDate: '2026-03-10' } }, 'flight.endDate', 'ends before it starts'],
    ['a flight outside the campaign', { flight: { startDate: '2026-03-12', endDate: '2026-05-10' } }, 'flight.endDate', '2026-03-31'],
    ['no real date', { flight: { startDate: '2026-02-31', endDate: null } }, 'flight.startDate', 'date'],
    ['a link that is none', { landing: 'javascript:alert(1)' }, 'landing', 'web address'],
    [
      'an unknown country',
      { targeting: { restrictions: [{ dimension: 'where', mode: 'include', values: ['PT', 'ZZ'] }] } },
      'targeting.restrictions[0].values',
      'ZZ'
    ],
    ['a cap of no hours', { caps: [{ times: 1, hours: 0 }] }, 'caps[0].hours', 'at least an hour']
  ])('refuse %s at its field', async (_, over, field, words) => {
    const { body: campaign } = await ask('POST', '/advertisers/3/campaigns', campaignDraft())
    const answer = await ask('POST', `/campaigns/${campaign.id}/lines`, lineDraft(over as never))
    expect(answer.status).toBe(422)
    expect(issue(answer, field)).toContain(words)
    expect(answer.headers.get('content-type')).toContain('application/problem+json')
    expect(JSON.stringify(answer.body)).not.toMatch(/node_modules|at .*\.js/)
  })

  it('tell a stale edit what changed meanwhile, and lose nothing', async () => {
    const { lineId, version } = await readyLine(ask)
    expect((await ask('PUT', `/lines/${lineId}`, { version, line: lineDraft({ name: 'First' }) })).status).toBe(200)
    const late = await ask('PUT', `/lines/${lineId}`, { version, line: lineDraft({ name: 'Second' }) })
    expect(late.status).toBe(409)
    expect(late.body.code).toBe('stale')
    expect(late.body.current.changes).toEqual([{ field: 'name', before: 'Second', after: 'First' }])
    expect((await ask('GET', `/lines/${lineId}`)).body.draft.name).toBe('First')
  })

  it('of an unknown number are not there; a draft can be deleted, a live line cannot', async () => {
    for (const id of ['999999', 'abc', '0', '-1', '1e3', '99999999999999']) expect((await ask('GET', `/lines/${id}`)).status).toBe(404)
    const { lineId } = await readyLine(ask)
    expect((await ask('DELETE', `/lines/${lineId}`)).status).toBe(204)
    expect((await ask('GET', `/lines/${lineId}`)).status).toBe(404)
    expect((await ask('DELETE', '/lines/1001')).body.title).toContain('Only a draft')
  })
})

describe('creatives', () => {
  it('are read from the file itself, and refused with what would do', async () => {
    const { lineId } = await readyLine(ask)
    const upload = (data: Buffer, name: string) => ask('POST', `/lines/${lineId}/creatives`, formOf(data, name))
    expect(issue(await upload(Buffer.from('just words, no picture'), 'banner.png'), 'file')).toContain('no picture, film, sound or banner')
    expect(issue(await upload(await picture(400, 400), 'square.png'), 'file')).toBe(
      '400x400 fits no slot of this line. These would: 300x250, or two or three times that.'
    )
    expect(issue(await upload(await picture(728, 90), 'wide.png'), 'file')).toContain('300x250')
    expect(issue(await upload((await picture(300, 250)).subarray(0, 40), 'cut.png'), 'file')).toMatch(
      /cannot be read|fits no slot|no picture/
    )
    expect(issue(await upload(Buffer.alloc(0), 'empty.png'), 'file')).toContain('Choose a file')
    const dense = await upload(await picture(600, 500, 'jpeg'), 'named.png')
    expect(dense.body.ads.at(-1)).toMatchObject({ size: '300x250', width: 600, type: 'image/jpeg', review: 'draft' })
  })

  it('of 200 MB are turned away before they are read, with a clear word', async () => {
    const { lineId } = await readyLine(ask)
    const answer = await ask('POST', `/lines/${lineId}/creatives`, formOf(Buffer.alloc(200 * 1024 * 1024), 'huge.png'))
    expect(answer.status).toBe(413)
    expect(issue(answer, 'file')).toContain('at most 8 MB')
    expect((await ask('GET', `/lines/${lineId}`)).body.ads).toHaveLength(1)
  })

  it('are served to those who see them, as what they are', async () => {
    const { lineId } = await readyLine(ask)
    const { body } = await ask('GET', `/lines/${lineId}`)
    const answer = await ask('GET', `/creatives/${body.ads[0].creativeId}/picture`)
    expect(answer.headers.get('content-type')).toBe('image/png')
    expect(answer.headers.get('content-security-policy')).toBe("default-src 'none'")
    expect((await ask('POST', `/lines/${lineId}/ads/removed`, { ads: [body.ads[0].id] })).body.ads).toEqual([])
  })
})

describe('forecasts', () => {
  it('answer with the number of their question, and a newer one of the page cancels the older', async () => {
    const { campaignId, lineId } = await readyLine(ask)
    const question = (number: number, page: string) => ask('POST', '/forecast', { page, number, campaignId, lineId, line: lineDraft() })
    const one = await question(7, 'page-a')
    expect(one.headers.get('content-type')).toContain('application/x-ndjson')
    expect(one.body.map((line: { number: number; part: string }) => `${line.number} ${line.part}`)).toEqual([
      '7 figures',
      '7 ladder',
      '7 sieve',
      '7 breakdowns',
      '7 advice'
    ])
    expect(one.body[0].figures.day.wins.value).toBeGreaterThan(0)
    expect(one.body[0].figures.day.wins.low).toBeLessThan(one.body[0].figures.day.wins.high)
    const many = await Promise.all([1, 2, 3, 4, 5, 6].map((n) => question(n, 'page-b')))
    expect(many.at(-1)?.status).toBe(200)
    for (const answer of many.slice(0, -1))
      expect(answer.status === 200 ? (answer.body.at(-1).code ?? 'whole') : answer.body.code).toMatch(/superseded|whole/)
  })

  it('count what matches before a bid is chosen, and refuse what is wrong at its field', async () => {
    const { campaignId } = await readyLine(ask)
    const ofLine = (line: unknown) => ask('POST', '/forecast', { page: 'page-c', number: 1, campaignId, lineId: null, line })
    const none = await ofLine(lineDraft({ price: { model: 'CPM', bidMicros: null, maxMicros: null } }))
    expect(none.body[0].figures.day.matched.value).toBeGreaterThan(0)
    expect(none.body[0].figures.day.wins.value).toBe(0)
    expect(
      issue(await ofLine(lineDraft({ price: { model: 'CPM', bidMicros: -1000, maxMicros: null } })), 'line.price.bidMicros')
    ).toContain('more than 0')
    expect(
      issue(await ofLine(lineDraft({ hours: { clock: 'line', perMille: new Array<number>(168).fill(0) } })), 'line.hours.perMille')
    ).toContain('never be open')
    const wrong = lineDraft()
    wrong.targeting.restrictions.push({ dimension: 'category', mode: 'include', values: ['cats', 'krakens'] })
    expect(issue(await ofLine(wrong), 'line.targeting.restrictions[3].values')).toContain('krakens')
    expect(issue(await ofLine(lineDraft({ buys: { open: false, deals: [999] } })), 'line.buys.deals')).toContain('999')
    expect(
      issue(await ofLine(lineDraft({ format: 'audio', price: { model: 'CPC', bidMicros: 90_000, maxMicros: null } })), 'line.price.model')
    ).toContain('audio is bought by CPM or view')
    expect((await ask('POST', '/forecast', { page: 'page-c', number: 2 })).status).toBe(422)
  })

  it('of every format, by deals and by the click, and with what a live line has spent', async () => {
    const { campaignId } = await readyLine(ask)
    const {
      restrictions: [where]
    } = lineDraft().targeting
    const answerOf = async (over: object) =>
      (
        await ask('POST', '/forecast', {
          page: 'page-e',
          number: 1,
          campaignId,
          lineId: null,
          line: lineDraft({ targeting: { restrictions: [where] }, ...over })
        })
      ).body[0].figures.day
    for (const format of ['native', 'video', 'audio', 'pop'] as const) expect((await answerOf({ format })).matched.value).toBeGreaterThan(0)
    expect(
      (
        await answerOf({
          format: 'native',
          price: { model: 'CPC', bidMicros: 300_000, maxMicros: null },
          budget: { dailyMicros: 4_000_000, totalMicros: null }
        })
      ).wins.value
    ).toBeGreaterThan(0)
    const deals = await GrantedDeal.findAll()
    expect(deals.length).toBe(12)
    const byDeal = await answerOf({ format: 'display', buys: { open: false, deals: deals.map((deal) => deal.id) } })
    expect(byDeal.matched.value).toBeLessThan((await answerOf({ format: 'display' })).matched.value)
  })

  it('count the market by what is asked, name properties and deals, and refuse what is no sentence', async () => {
    const survey = (over: object, sentence: object = {}) =>
      ask('POST', '/market/survey', {
        page: 'page-d',
        sentence: { formats: ['display'], targeting: { restrictions: [] }, hours: null, ...sentence },
        by: ['property', 'deal'],
        without: null,
        bidMicros: 1_000_000,
        ...over
      })
    const { body } = await survey({})
    expect(body.groups[0].rows.length).toBeGreaterThan(20)
    expect(body.groups[0].rows[0].about).toMatch(/^\w.* in [A-Z]{2}/)
    const deals = (await GrantedDeal.findAll()).map((deal) => deal.name)
    const standing = body.groups[1].rows.filter((row: { key: number }) => row.key > 0)
    expect(standing.length).toBeGreaterThan(3)
    expect(standing.every((row: { label: string }) => deals.includes(row.label))).toBe(true)
    const emptied = await survey(
      { by: [] },
      {
        targeting: {
          restrictions: [
            { dimension: 'where', mode: 'include', values: ['DE'] },
            { dimension: 'carrier', mode: 'include', values: [CARRIERS.find((carrier) => carrier.country !== 3)?.name] }
          ]
        }
      }
    )
    expect(emptied.body).toMatchObject({ total: { opportunitiesADay: 0 }, emptiedBy: 'carrier' })
    expect(
      issue(
        await survey({}, { targeting: { restrictions: [{ dimension: 'where', mode: 'include', values: ['XX'] }] } }),
        'sentence.targeting.restrictions[0].values'
      )
    ).toContain('Not a place')
    expect(issue(await survey({ by: ['shoe size'] }), 'by[0]')).toContain('Not something')
  })

  it('say neither whose a source is that is sold under a number, nor what it is about, however the market is asked', async () => {
    const { properties, publishers } = server.deps.catalogue.inventory
    const blind = properties.filter((property) => property.anonymous)
    expect(blind.length).toBeGreaterThan(3)
    const names = new Set(blind.map(({ publisher }) => publishers[publisher].name))
    const count = (by: string[], property: string) =>
      ask('POST', '/market/survey', {
        page: 'page-blind',
        sentence: {
          formats: [],
          targeting: { restrictions: [{ dimension: 'property', mode: 'include', values: [property] }] },
          hours: null
        },
        by,
        without: null,
        bidMicros: 1_000_000
      })
    for (const { name } of blind.slice(0, 3)) {
      const { body } = await ask('GET', `/market/property?property=${name}`)
      expect([body.publisher, body.category, new Set(body.sellers.map((one: { seller: null }) => one.seller))]).toEqual([
        null,
        null,
        new Set([null])
      ])
      const [rows, told] = [await count(['property', 'placement'], name), await count(['publisher', 'category', 'branch of content'], name)]
      const labels = (group: { rows: { label: string }[] }) => group.rows.map(({ label }) => label)
      expect(told.body.groups.map(labels)).toEqual([['not told'], ['not told'], ['not told']])
      expect(rows.body.groups.flatMap((group: { rows: object[] }) => group.rows).some((row: object) => 'publisher' in row)).toBe(false)
      expect([...names].filter((name) => JSON.stringify([body, rows.body, told.body]).includes(name))).toEqual([])
    }
  })

  it('tell of a property who may sell it, from the files of its publisher and the sources', async () => {
    const all = await Promise.all(
      server.deps.catalogue.inventory.properties
        .slice(0, 60)
        .map(async (property) => (await ask('GET', `/market/property?property=${propertyCode(property)}`)).body)
    )
    expect(all.every((one) => one.sellers.length > 0 && one.placements.length > 0)).toBe(true)
    const sellers = all.flatMap((one) => one.sellers)
    expect(sellers.filter((seller) => seller.authorised).length / sellers.length).toBeGreaterThan(0.6)
    const problems = sellers.flatMap((seller) => seller.problem ?? []).join(' ')
    expect([/ads.txt does not name/.test(problems), /has no ads.txt/.test(problems) || /does not know/.test(problems)]).toEqual([
      true,
      true
    ])
    expect(all.some((one) => one.file?.problems.some((problem: { message: string }) => problem.message.startsWith('A record has')))).toBe(
      true
    )
    expect((await ask('GET', '/market/property?property=9')).status).toBe(404)
  })
})

describe('putting live', () => {
  it('counts what will exist, stops for what is missing, and makes an immutable revision in a publication', async () => {
    const { lineId, version } = await readyLine(ask, { targeting: { restrictions: [] }, landing: '' })
    const plan = (await ask('GET', `/lines/${lineId}/live-plan`)).body
    expect(plan).toMatchObject({ campaigns: 1, lines: 1, ads: 1, mostADayMicros: 300_000, isLive: false })
    expect(plan.mostInAllMicros).toBe(300_000 * 19)
    const stopped = await ask('POST', `/lines/${lineId}/live`, { version, token: newToken() })
    expect(stopped.status).toBe(422)
    expect(stopped.body.issues.map((one: { field: string }) => one.field)).toEqual(['targeting.where', 'landing'])
    expect((await Line.findByPk(lineId))?.state).toBe('draft')

    const saved = await ask('PUT', `/lines/${lineId}`, { version, line: lineDraft() })
    const token = newToken()
    const live = await ask('POST', `/lines/${lineId}/live`, { version: saved.body.version, token })
    expect(live.body.state).toBe('live')
    const state = await MarketState.findByPk(1, { rejectOnEmpty: true })
    const publications = await Publication.count()
    // The same confirmation sent twice does nothing more.
    expect((await ask('POST', `/lines/${lineId}/live`, { version: saved.body.version, token })).body).toEqual(live.body)
    expect(await Publication.count()).toBe(publications)
    expect((await MarketState.findByPk(1))?.publicationId).toBe(state.publicationId)

    const view = (await ask('GET', `/lines/${lineId}`)).body
    expect(view.ads[0].review).toBe('cleared')
    expect(view.inForce.forecast.day.wins.value).toBeGreaterThan(0)
    await ask('PUT', `/lines/${lineId}`, {
      version: view.version,
      line: lineDraft({ price: { model: 'CPM', bidMicros: 1_000_000, maxMicros: null } })
    })
    const edited = (await ask('GET', `/lines/${lineId}`)).body
    expect(edited.inForce.draft.price.bidMicros).toBe(2_500_000)
    expect(edited.inForce.changes.map((change: { field: string }) => change.field)).toEqual(['price.bidMicros', 'price.maxMicros'])
    expect(await LineRevision.findAll({ where: { lineId } })).toHaveLength(1)
    expect(await AuditEntry.count({ where: { object: 'line', objectId: lineId, action: 'put live' } })).toBe(1)
  })

  it('keeps revisions and publications as they were made, and a confirmation for its own line', async () => {
    const first = await readyLine(ask)
    const second = await readyLine(ask)
    const token = newToken()
    await ask('POST', `/lines/${first.lineId}/live`, { version: first.version, token })
    expect((await ask('POST', `/lines/${second.lineId}/live`, { version: second.version, token })).status).toBe(409)
    expect((await ask('GET', `/lines/${second.lineId}`)).body.state).toBe('draft')
    await expect(
      server.deps.sequelize.transaction((transaction) =>
        LineRevision.update({ marketHour: 1 }, { where: { lineId: first.lineId }, transaction })
      )
    ).rejects.toThrow('never changed')
    await expect(server.deps.sequelize.transaction((transaction) => Publication.destroy({ where: {}, transaction }))).rejects.toThrow(
      'never changed'
    )
  })

  it('tells of an ad that was taken off as of any other edit, and goes on with it until then', async () => {
    const { lineId, version } = await readyLine(ask)
    await ask('POST', `/lines/${lineId}/creatives`, formOf(await picture(300, 250), 'second.png'))
    await ask('POST', `/lines/${lineId}/live`, { version, token: newToken() })
    const live = (await ask('GET', `/lines/${lineId}`)).body
    expect(live.inForce.changes).toEqual([])
    const without = (await ask('POST', `/lines/${lineId}/ads/removed`, { ads: [live.ads[0].id] })).body
    expect(without.inForce.changes).toEqual([{ field: 'creatives', before: '2 ads', after: '1 ad' }])
    expect((await LineRevision.findOne({ where: { lineId }, order: [['id', 'DESC']], rejectOnEmpty: true })).rules.ads).toHaveLength(2)
    await ask('POST', `/lines/${lineId}/live`, { version: without.version, token: newToken() })
    expect((await LineRevision.findOne({ where: { lineId }, order: [['id', 'DESC']], rejectOnEmpty: true })).rules.ads).toHaveLength(1)
  })

  it('waits for release when told so, pauses, goes on and ends', async () => {
    const { lineId, version } = await readyLine(ask, { onceCleared: 'wait' })
    expect((await ask('POST', `/lines/${lineId}/live`, { version, token: newToken() })).body.state).toBe('cleared')
    expect((await ask('GET', `/lines/${lineId}`)).body).toMatchObject({ state: 'cleared', waits: true, serving: 'waits for release' })
    const move = (name: string) => ask('POST', `/lines/${lineId}/move`, { move: name })
    expect((await move('pause')).body.title).toBe('A line that is cleared cannot be paused.')
    expect((await move('release')).body).toMatchObject({ state: 'live', waits: false })
    expect((await move('release')).status).toBe(409)
    expect((await move('pause')).body.state).toBe('paused')
    expect((await move('resume')).body.state).toBe('live')
    expect((await move('end')).body.state).toBe('ended')
    expect((await move('resume')).status).toBe(409)
  })

  it('starts a cleared line with its flight and ends it after', async () => {
    const { lineId, version } = await readyLine(ask, { flight: { startDate: '2026-03-03', endDate: '2026-03-03' } })
    expect((await ask('POST', `/lines/${lineId}/live`, { version, token: newToken() })).body.state).toBe('cleared')
    const stateAfter = async (hours: number) => {
      await ask('POST', '/market/run', { hours })
      await server.deps.runner.idle()
      return (await ask('GET', `/lines/${lineId}`)).body.state as string
    }
    expect(await stateAfter(15)).toBe('cleared')
    expect(await stateAfter(1)).toBe('live')
    expect(await stateAfter(23)).toBe('live')
    expect(await stateAfter(1)).toBe('ended')
    expect((await ask('GET', `/lines/${lineId}/live-plan`)).body.findings[0].message).toContain('over by the market clock')
  })
})

describe('the database', () => {
  it('ends a statement that takes half a minute, and a silence a little longer', async () => {
    const read = (sql: string) => server.deps.sequelize.query<{ seconds: number }>(sql, { type: QueryTypes.SELECT })
    const [{ seconds }] = await read('SELECT @@max_statement_time AS seconds')
    expect(Number(seconds)).toBe(30)
    await expect(
      read(
        'SET STATEMENT max_statement_time = 0.05 FOR SELECT COUNT(*) FROM line a, line b, line c, line d, audit_entry e, audit_entry f, audit_entry g'
      )
    ).rejects.toMatchObject({ original: { errno: 1969 } })
  })

  it('takes no write outside a transaction', async () => {
    await expect(Session.create({ tokenHash: 'x', userId: 1, madeAt: 0, seenAt: 0, expiresAt: 1, passwordMark: '' })).rejects.toThrow(
      'outside a transaction'
    )
    await expect(Line.update({ state: 'draft' }, { where: { id: 1001 } })).rejects.toThrow('outside a transaction')
    await expect(Line.destroy({ where: { id: 1001 } })).rejects.toThrow('outside a transaction')
  })

  it('takes only whole micros, and gives back numbers or an error', () => {
    expect(() => wholeNumber('9007199254740993', 'spend')).toThrow('string')
    expect(() => wholeNumber(1.5, 'spend')).toThrow()
    const column = moneyColumn('amount', false) as unknown as { set: (this: { setDataValue: () => void }, value: unknown) => void }
    expect(() => column.set.call({ setDataValue: () => undefined }, 2400.7)).toThrow('whole micros')
  })
})
