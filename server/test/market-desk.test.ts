import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { AskFacts, PlacedAsk } from '@tin-harbor/core/buying'
import type { DealView, OfferedDealView } from '@tin-harbor/core/contract'
import { placementCode, positionsOf } from '@tin-harbor/core/market'
import { BRANCHES } from '@tin-harbor/core/taxonomy'
import { Advertiser } from '../src/advertisers/advertiser-model.js'
import { Campaign } from '../src/campaigns/campaign-model.js'
import { DealRequest } from '../src/deals/deal-model.js'
import { Line } from '../src/lines/line-model.js'
import { AuditEntry } from '../src/team/audit-model.js'
import { User, UserAdvertiser } from '../src/team/user-model.js'
import { collectAnswers } from '../src/deals/deal-asks.js'
import { isWorkingHour } from '@tin-harbor/core/review'
import { OFFICES, answeredAt, decide, hoursToAnswer, leastSpendOf, refusedBranches } from '../src/standins/deal-office.js'
import { READER, TRADER, lineDraft, readyLine, testServer, type Ask, type TestServer } from './support/server.js'

let server: TestServer
let ask: Ask
/** Placements by what they are called. */
let P: string[]
beforeAll(async () => {
  server = await testServer('desk')
  const { inventory } = server.deps.catalogue
  P = inventory.placements.map((placement) => placementCode(inventory, placement))
  ask = await server.as(TRADER)
})
afterAll(() => server.close())

/** A trader who sees all advertisers but that of a line. */
async function narrowTrader(lineId: number): Promise<string> {
  const { campaignId } = await Line.findByPk(lineId, { rejectOnEmpty: true })
  const { advertiserId } = await Campaign.findByPk(campaignId, { rejectOnEmpty: true })
  const { organisationId, passwordHash } = await User.findOne({ where: { email: TRADER }, rejectOnEmpty: true })
  const email = `narrow-${lineId}@wharfside.example`
  await server.deps.sequelize.transaction(async (transaction) => {
    const user = await User.create(
      { organisationId, name: 'Narrow', email, role: 'trader', passwordHash, allAdvertisers: false },
      { transaction }
    )
    for (const { id } of await Advertiser.findAll({ transaction }))
      if (id !== advertiserId) await UserAdvertiser.create({ userId: user.id, advertiserId: id }, { transaction })
  })
  return email
}

describe('lists', () => {
  const create = async (kind = 'placements', values: string[] = P.slice(1, 4)) =>
    (await ask('POST', '/lists', { advertiserId: null, list: { name: 'Tested', kind, values, group: null } })).body
  const save = (list: { id: number; version: number; name: string }, add: string[], remove: string[] = [], name: string | null = null) =>
    ask('PUT', `/lists/${list.id}`, { version: list.version, rename: name === null ? null : { from: list.name, to: name }, add, remove })
  const follow = async (lineId: number, restriction: object) => {
    const { body: line } = await ask('GET', `/lines/${lineId}`)
    return ask('PUT', `/lines/${lineId}`, {
      version: line.version,
      line: { ...line.draft, targeting: { restrictions: [...line.draft.targeting.restrictions, restriction] } }
    })
  }

  it('are read from a paste, and what is wrong is named', async () => {
    const { body } = await ask('POST', '/lists/read', { kind: 'placements', text: `${P[1]}\n5000\n${P[1]}\nx`, has: [] })
    expect(body).toMatchObject({ values: [P[1]], entries: 4 })
    expect(body.problems.map((problem: { line: number }) => problem.line)).toEqual([2, 3, 4])
    expect((await ask('POST', '/lists/read', { kind: 'shoes', text: '', has: [] })).status).toBe(422)
    expect(
      (await ask('POST', '/lists', { advertiserId: null, list: { name: 'x', kind: 'keywords', values: ['no such word'], group: null } }))
        .body.issues[0].message
    ).toContain('no such word')
  })

  it('of two people are merged; a name that both changed is told', async () => {
    const list = await create()
    expect((await save(list, [P[7]])).body).toMatchObject({ values: [...P.slice(1, 4), P[7]], merged: false })
    expect((await save(list, [P[8]], [P[1]])).body).toMatchObject({ values: [P[2], P[3], P[7], P[8]], merged: true })
    expect((await save(list, [], [], 'Renamed')).body).toMatchObject({ name: 'Renamed', merged: true })
    const stale = await save(list, [P[9]], [], 'Another name')
    expect([stale.status, stale.body.current.name, stale.body.current.values]).toEqual([409, 'Renamed', [P[2], P[3], P[7], P[8]]])
    expect((await save({ ...list, name: 'Renamed' }, [], [], '')).status).toBe(422)
  })

  it('are followed by lines, whose drafts change with them, and cannot go while they are', async () => {
    const list = await create()
    const { lineId } = await readyLine(ask)
    const { body: line } = await ask('GET', `/lines/${lineId}`)
    const restriction = { dimension: 'placement', mode: 'exclude', values: list.values, list: list.id }
    await follow(lineId, restriction)
    expect((await ask('GET', '/lists')).body.lists.find((one: { id: number }) => one.id === list.id).usedBy).toEqual([
      { line: lineId, name: line.draft.name }
    ])
    await save(list, [P[9]])
    const { draft } = await Line.findByPk(lineId, { rejectOnEmpty: true })
    expect(draft.targeting.restrictions.at(-1)).toEqual({ ...restriction, values: [...P.slice(1, 4), P[9]] })
    expect(await AuditEntry.count({ where: { action: 'follow', object: 'line', objectId: lineId } })).toBe(1)
    expect((await save({ ...list, version: 2 }, [], [...P.slice(1, 4), P[9]])).body.title).toContain('cannot become empty')
    const refused = await ask('DELETE', `/lists/${list.id}`)
    expect([refused.status, refused.body.title]).toEqual([409, expect.stringContaining(line.draft.name) as string])
    expect((await ask('DELETE', `/lists/${(await create()).id}`)).status).toBe(204)
  })

  it('of an advertiser that a user does not see are not there for him', async () => {
    const { body } = await ask('POST', '/lists', { advertiserId: 3, list: { name: 'Own', kind: 'places', values: ['DE'], group: null } })
    const reader = await server.as(READER)
    const seen = (await reader('GET', '/lists')).body.lists.map((one: { id: number }) => one.id)
    expect([seen.length > 0, seen.includes(body.id)]).toEqual([true, false])
    expect((await reader('DELETE', `/lists/${body.id}`)).status).toBe(403)
  })

  it.each<[string, object, string]>([
    ['that is not there', { dimension: 'placement', mode: 'include', values: ['a.example: page head'], list: 99_999 }, 'no such list'],
    ['of another kind', { dimension: 'property', mode: 'include', values: ['a.example'] }, 'holds placements'],
    ['that is empty', { dimension: 'placement', mode: 'include', values: ['a.example: page head'] }, 'is empty']
  ])('%s cannot be followed, and the field is named', async (what, restriction, message) => {
    const { lineId } = await readyLine(ask)
    const { id } = await create('placements', what === 'that is empty' ? [] : [P[1]])
    const before = (await ask('GET', `/lines/${lineId}`)).body.draft.targeting.restrictions.length as number
    expect((await follow(lineId, { list: id, ...restriction })).body.issues).toEqual([
      { field: `targeting.restrictions[${before}].list`, message: expect.stringContaining(message) as string }
    ])
    expect((await ask('GET', `/lines/${lineId}`)).body.draft.targeting.restrictions).toHaveLength(before)
  })

  it('give a line their values as they are now, whatever it was sent with', async () => {
    const list = await create()
    const { lineId } = await readyLine(ask)
    expect(
      (
        await follow(lineId, { dimension: 'placement', mode: 'exclude', values: [P[77]], list: list.id })
      ).body.draft.targeting.restrictions.at(-1).values
    ).toEqual(list.values)
  })

  it('that a line of somebody else’s advertiser follows are changed by who sees it only', async () => {
    const list = await create()
    const { lineId } = await readyLine(ask)
    await follow(lineId, { dimension: 'placement', mode: 'exclude', values: list.values, list: list.id })
    const narrow = await server.as(await narrowTrader(lineId))
    expect((await narrow('PUT', `/lists/${list.id}`, { version: list.version, rename: null, add: [P[9]], remove: [] })).status).toBe(403)
    expect((await narrow('DELETE', `/lists/${list.id}`)).status).toBe(403)
    const seen = (await narrow('GET', '/lists')).body.lists.find((one: { id: number }) => one.id === list.id)
    expect([seen.values, seen.usedBy]).toEqual([P.slice(1, 4), []])
    expect((await Line.findByPk(lineId, { rejectOnEmpty: true })).draft.targeting.restrictions.at(-1)?.values).toEqual(list.values)
  })
})

describe('the deal office', () => {
  const SEED = 7
  const open = BRANCHES.find((branch) => !refusedBranches(SEED, 3).includes(branch.name))?.name as string
  const facts: AskFacts = { placements: [1, 2, 3], opportunitiesADay: 40_000, halfMicros: 2_000_000, videoKinds: ['skippable'] }
  const asked = (over: Partial<PlacedAsk> = {}): PlacedAsk => ({
    publisher: 3,
    format: 'display',
    kind: 'fixed',
    priceMicros: 2_000_000,
    volume: 10_000,
    about: open,
    videoKind: null,
    note: '',
    ...over
  })

  it.each<[string, Partial<PlacedAsk>, Partial<AskFacts>, string, string]>([
    ['a fair price', {}, {}, 'granted', 'price'],
    ['a low price', { priceMicros: 1_500_000 }, {}, 'countered', 'price'],
    ['far too low a price', { priceMicros: 1_000_000, volume: 20_000 }, {}, 'refused', 'price'],
    ['a floor, for less', { kind: 'floor', priceMicros: 1_340_000 }, {}, 'granted', 'price'],
    ['more than half the day', { volume: 30_000 }, {}, 'countered', 'volume'],
    ['too little money', { volume: 100, priceMicros: 2_000_000 }, {}, 'refused', 'least spend'],
    ['a branch it does not take', { about: refusedBranches(SEED, 3)[0] }, {}, 'refused', 'category'],
    ['a kind of ad it does not show', { format: 'video', videoKind: 'rewarded' }, {}, 'refused', 'kind of ad'],
    ['slots it does not have', {}, { placements: [], opportunitiesADay: 0 }, 'refused', 'inventory'],
    ['hardly any slots', {}, { opportunitiesADay: 150 }, 'refused', 'volume']
  ])('answers %s by its rule', (_, over, known, state, rule) => {
    expect(decide(asked(over), { ...facts, ...known }, SEED)).toMatchObject({ state, rule })
  })

  it('offers what it would grant', () => {
    for (let priceMicros = 1_250_000; priceMicros < 2_400_000; priceMicros += 50_000) {
      const first = decide(asked({ priceMicros, volume: 25_000 }), facts, SEED)
      if (first.state !== 'countered') continue
      expect(decide(asked({ priceMicros: first.priceMicros, volume: first.volume }), facts, SEED).state).toBe('granted')
    }
    expect(leastSpendOf(SEED, 3)).toBeGreaterThan(0)
  })

  it('answers after so many working hours, never at night or on a weekend', () => {
    const friday = 64 * 24 - 3 * 24 + 16
    for (let publisher = 0; publisher < 20; publisher++) {
      for (const from of [friday, 60 * 24, 61 * 24 + 20]) {
        const answered = answeredAt(SEED, publisher, from)
        expect(Array.from({ length: answered - from }, (_, n) => from + n).filter((one) => isWorkingHour(one, OFFICES))).toHaveLength(
          hoursToAnswer(SEED, publisher)
        )
        expect(isWorkingHour(answered - 1, OFFICES)).toBe(true)
      }
    }
  })
})

describe('deals', () => {
  it('are asked for, answered as the clock moves, and bought by a line; a counter is taken; an ended one stops preflight', async () => {
    const { body: all } = await ask('GET', '/deals')
    expect(all.deals).toHaveLength(12)
    const { name: publisher } = all.publishers.find((one: { formats: string[] }) => one.formats.includes('display'))
    const { seed } = server.deps.configuration.world
    const position = positionsOf(server.deps.catalogue.inventory).publisher.get(publisher) as number
    const about = BRANCHES.find((branch) => !refusedBranches(seed, position).includes(branch.name))?.name
    const request = (priceMicros: number, over: object = {}) =>
      ask('POST', '/deals/asks', {
        publisher,
        format: 'display',
        kind: 'fixed',
        priceMicros,
        volume: 1000,
        about,
        videoKind: null,
        note: 'A test',
        ...over
      })
    expect((await request(0)).body.issues[0].field).toBe('priceMicros')
    expect((await request(9_000_000, { format: 'video' })).body.issues[0].message).toContain('what kind of ad')
    const { body: made } = await request(90_000_000)
    expect(made).toMatchObject({ state: 'asked', answer: null })
    const row = await DealRequest.findByPk(made.id, { rejectOnEmpty: true })
    // A small market has small publishers: what the office is told is made large enough to grant, and to offer another price.
    const facts = { ...row.facts, opportunitiesADay: 80_000, halfMicros: 80_000_000 }
    const tell = (id: number) =>
      server.deps.sequelize.query('UPDATE deal_request SET facts = ? WHERE id = ?', { replacements: [JSON.stringify(facts), id] })
    await tell(made.id)
    const { body: low } = await request(60_000_000)
    await tell(low.id)
    await collectAnswers(server.deps, row.askedHour + 1)
    expect((await ask('GET', '/deals')).body.asks.find((one: { id: number }) => one.id === made.id).state).toBe('asked')
    await collectAnswers(server.deps, row.askedHour + 24 * 7)
    const after = (await ask('GET', '/deals')).body
    const answer = after.asks.find((one: { id: number }) => one.id === made.id)
    const counter = after.asks.find((one: { id: number }) => one.id === low.id)
    expect([answer.state, answer.rule, counter.state, counter.rule]).toEqual(['granted', 'price', 'countered', 'price'])
    expect((await ask('POST', `/deals/asks/${low.id}/take`)).body.state).toBe('granted')
    expect((await ask('POST', `/deals/asks/${low.id}/take`)).status).toBe(409)
    const { lineId } = await readyLine(ask, { buys: { open: false, deals: [answer.dealId] }, format: 'display' } as never)
    const { campaignId } = await Line.findByPk(lineId, { rejectOnEmpty: true })
    const parts = (
      await ask('POST', '/forecast', {
        page: 'page-deal',
        number: 1,
        campaignId,
        lineId,
        line: lineDraft({
          buys: { open: false, deals: [answer.dealId] },
          price: { model: 'CPM', bidMicros: 99_000_000, maxMicros: null }
        } as never)
      })
    ).body
    expect(parts.find((one: { part: string }) => one.part === 'figures').figures.day.matched.value).toBeGreaterThan(0)
    const usedBy = async (as: Ask) =>
      (await as('GET', '/deals')).body.deals
        .find((deal: { id: number }) => deal.id === answer.dealId)
        .usedBy.map((use: { line: number }) => use.line)
    expect([await usedBy(ask), await usedBy(await server.as(await narrowTrader(lineId)))]).toEqual([[lineId], []])
    const stops = async () =>
      (await ask('GET', `/lines/${lineId}/live-plan`)).body.findings.filter((finding: { field: string }) => finding.field === 'buys')
    expect(await stops()).toEqual([])
    await server.deps.sequelize.query('UPDATE granted_deal SET until_hour = 1 WHERE id = ?', { replacements: [answer.dealId] })
    expect(await stops()).toMatchObject([{ severity: 'stops', field: 'buys', message: expect.stringContaining('has ended') as string }])
    expect((await ask('GET', '/deals')).body.deals.find((deal: { id: number }) => deal.id === answer.dealId).isExpired).toBe(true)
  })

  it('are offered of every format but pops, taken once, counted beside those that stand, and bought by a line', async () => {
    const offers = async (as: Ask = ask) => (await as('GET', '/deals/offers')).body.offers as OfferedDealView[]
    const all = await offers()
    expect(new Set(all.map(({ format }) => format))).toEqual(new Set(['display', 'video', 'native', 'audio']))
    expect(all.some(({ name }) => name.endsWith('connected TV'))).toBe(true)
    expect(new Set(all.map(({ code }) => code)).size).toBe(all.length)
    const { inventory } = server.deps.catalogue
    for (const { publisher, properties } of all) {
      const own = inventory.properties.filter(
        (property) => inventory.publishers[property.publisher].name === publisher && !property.anonymous
      )
      expect(own.map(({ name }) => name)).toEqual(expect.arrayContaining(properties))
    }
    expect((await ask('POST', '/deals/offers/take', { offer: 'OF-1' })).body.issues[0].field).toBe('offer')
    expect((await ask('POST', '/deals/offers/take', {})).body.issues[0].message).toBe('Which offer?')
    const audio = all.find(({ format, dealId }) => format === 'audio' && dealId === null) as OfferedDealView
    const answers = await Promise.all([1, 2, 3].map(() => ask('POST', '/deals/offers/take', { offer: audio.code })))
    expect(answers.map(({ status }) => status).sort()).toEqual([200, 409, 409])
    const deal = answers.find(({ status }) => status === 200)?.body as DealView
    expect(deal).toMatchObject({ name: audio.name, priceMicros: audio.priceMicros, format: 'audio', isExpired: false })
    expect((await offers()).find(({ code }) => code === audio.code)?.dealId).toBe(deal.id)
    const { body: counted } = await ask('POST', '/market/survey', {
      page: 'offers',
      sentence: { formats: ['audio'], targeting: { restrictions: [] }, hours: null },
      by: ['deal'],
      without: null,
      bidMicros: 1_000_000
    })
    const rows = counted.groups[0].rows as { key: number; code: string; label: string; opportunitiesADay: number }[]
    const ofOne = rows.filter(({ label }) => label === audio.name)
    expect(ofOne.map(({ code }) => code).sort()).toEqual([String(deal.id), audio.code].sort())
    expect(ofOne[0].opportunitiesADay).toBe(ofOne[1].opportunitiesADay)
    const { lineId } = await readyLine(ask, { buys: { open: false, deals: [deal.id] }, format: 'audio' } as never)
    expect((await ask('GET', '/deals')).body.deals.find(({ id }: DealView) => id === deal.id).usedBy).toMatchObject([{ line: lineId }])
    // Once it has ended it can be taken again.
    await server.deps.sequelize.query('UPDATE granted_deal SET until_hour = 1 WHERE id = ?', { replacements: [deal.id] })
    expect((await ask('POST', '/deals/offers/take', { offer: audio.code })).status).toBe(200)
  })
})
