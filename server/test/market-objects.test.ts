import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { QueryTypes, type Transaction } from 'sequelize'
import { InputError, lineSchema, parseInput, type LineDraft } from '@tin-harbor/core/buying'
import { CREATIVE_KINDS, FORMAT_OF_KIND, fittingShapes } from '@tin-harbor/core/creative'
import { FULL, codeAt, makeWorld } from '@tin-harbor/core/market'
import { REQUESTS } from '@tin-harbor/core/response'
import { buildTape, worldBounds } from '@tin-harbor/core/tape'
import { shapesOf } from '@tin-harbor/core/taxonomy'
import { PAYS } from '../src/demo/market-objects.js'
import { Offer } from '../src/advertisers/offer-model.js'
import { Tracker } from '../src/advertisers/tracker-model.js'
import { MadeCreative } from '../src/creatives/made-creative-model.js'
import { GrantedDeal } from '../src/deals/deal-model.js'
import { MarketState } from '../src/exchange/market-model.js'
import { connect } from '../src/database/connection.js'
import { run as renameKept } from '../src/database/migrations/0015-known-names.js'
import { SavedList } from '../src/lists/list-model.js'
import { createCreative, createDeal, createList, createOffer, createTracker } from '../src/demo/checked-objects.js'
import { TapeExposures } from '../src/forecasts/exposures.js'
import { startServer } from '../src/server.js'
import { testServer, type TestServer } from './support/server.js'

let server: TestServer
beforeAll(async () => {
  server = await testServer('objects')
})
afterAll(() => server.close())

describe('what was kept by positions in the inventory', () => {
  it('goes by what everybody calls it once it is converted, and is left alone the second time', async () => {
    const { inventory } = server.deps.catalogue
    const database = connect(server.url, { unlimited: true })
    const [line] = await database.query<{ id: number; draft: string }>('SELECT id, draft FROM line LIMIT 1', { type: QueryTypes.SELECT })
    const draft = JSON.parse(line.draft) as LineDraft
    const old = {
      ...draft,
      targeting: { restrictions: [...draft.targeting.restrictions, { dimension: 'placement', mode: 'exclude', values: ['4', '5'] }] },
      price: { ...draft.price, adjustments: [{ dimension: 'property', value: '3', perMille: 1200, ownMicros: null }] }
    }
    const write = (sql: string, values: string[]) => database.query(sql, { replacements: values })
    const [listId] = await write("INSERT INTO saved_list (organisation_id, name, kind, contents) VALUES (1, 'Old', 'properties', ?)", [
      JSON.stringify({ values: ['7', '999999'], group: null })
    ])
    await write(`UPDATE line SET draft = ? WHERE id = ${line.id}`, [JSON.stringify(old)])
    await write("INSERT INTO audit_entry (user_id, at, action, object, object_id, became) VALUES (1, 1, 'leave out', 'line', 424242, ?)", [
      '[9]'
    ])
    const read = async () => {
      const [{ draft: now }] = await database.query<{ draft: string }>(`SELECT draft FROM line WHERE id = ${line.id}`, {
        type: QueryTypes.SELECT
      })
      const [{ became }] = await database.query<{ became: string }>('SELECT became FROM audit_entry WHERE object_id = 424242', {
        type: QueryTypes.SELECT
      })
      const list = await SavedList.findByPk(listId as unknown as number, { rejectOnEmpty: true })
      return { draft: JSON.parse(now) as LineDraft, became: JSON.parse(became) as unknown, list: list.contents.values }
    }
    await renameKept(database)
    const once = await read()
    expect(once.draft.targeting.restrictions.at(-1)?.values).toEqual([codeAt(inventory, 'placement', 4), codeAt(inventory, 'placement', 5)])
    expect(once.draft.price.adjustments?.[0].value).toBe(codeAt(inventory, 'property', 3))
    expect([once.became, once.list]).toEqual([[codeAt(inventory, 'placement', 9)], [codeAt(inventory, 'property', 7), '999999']])
    expect(parseInput(lineSchema, once.draft).name).toBe(draft.name)
    await renameKept(database)
    expect(await read()).toEqual(once)
    await write(`UPDATE line SET draft = ? WHERE id = ${line.id}`, [line.draft])
    await write('DELETE FROM saved_list WHERE id = ?', [String(listId)])
    await database.close()
  })
})

/** What an input is refused for, by field; nothing of it stays. */
async function refusal(make: (transaction: Transaction) => Promise<unknown>): Promise<string> {
  try {
    await server.deps.sequelize.transaction(make)
  } catch (error) {
    const { issues } = error as InputError
    return issues.map(({ field, message }) => `${field}: ${message}`).join(' ')
  }
  return 'accepted'
}

describe('what lines are made of', () => {
  it('is there from the start, every row checked', async () => {
    expect(await Offer.count()).toBe(3)
    expect(await Tracker.count()).toBe(4)
    expect(await SavedList.count()).toBe(4)
    const deals = await GrantedDeal.findAll()
    expect(new Set(deals.map((deal) => deal.kind))).toEqual(new Set(['fixed', 'floor']))
    const creatives = await MadeCreative.findAll()
    expect(new Set(creatives.map((creative) => creative.kind))).toEqual(new Set(CREATIVE_KINDS.filter((kind) => kind !== 'picture')))
    for (const { name, kind, parts } of creatives) {
      const shapes = fittingShapes({ name, kind, parts })
      expect(shapes.length).toBeGreaterThan(0)
      for (const shape of shapes) expect(shapesOf(FORMAT_OF_KIND[kind])).toContain(shape)
    }
  })

  it('is refused by the field that is wrong', async () => {
    const offer = {
      name: 'X',
      landings: [{ countries: ['PT', 'ZZ'], devices: [], link: 'nowhere' }],
      payouts: [],
      stock: -1,
      terms: { countries: [], devices: [], systems: [], connections: [], hours: null }
    }
    const said = await refusal((transaction) => createOffer(1, offer, transaction))
    expect(said).toContain('landings[0].countries[1]: Not a country code we know.')
    expect(said).toContain('landings[0].link')
    expect(said).toContain('stock')
    const tracker = { name: 'sale', kind: 'sale', subject: 'pigeons', reports: 'pigeon', clickHours: 0, viewHours: null, valueMicros: null }
    const wrong = await refusal((transaction) => createTracker(1, tracker, transaction))
    expect(wrong).toContain('clickHours: A window has at least an hour.')
    expect(wrong).toContain('kind: A tracker counts a purchase, a booking, a trial or a request.')
    expect(wrong).toContain('subject: Not a subject of the market.')
    expect(
      await refusal((transaction) =>
        createList(1, 1, { name: 'words', kind: 'keywords', values: ['telescope', 'zyzzyva'], group: null }, transaction)
      )
    ).toContain('zyzzyva')
    expect(await refusal((transaction) => createCreative(1, { name: 'n', kind: 'native', parts: { title: 'T' } }, transaction))).toContain(
      'parts.'
    )
    expect(
      await refusal((transaction) =>
        createCreative(
          1,
          {
            name: 'v',
            kind: 'video',
            parts: { file: 'https://x.example/a.mp4', seconds: 900, width: 1920, height: 1080, skipAfter: null, companion: null }
          },
          transaction
        )
      )
    ).toContain('at most 180 s')
    const [deal] = await GrantedDeal.findAll()
    const foreign = {
      name: 'odd',
      publisher: deal.publisher,
      kind: 'fixed',
      priceMicros: 2_000_000,
      placements: [...deal.placements, 0, 1, 2, 3],
      volume: null,
      leastSpendMicros: null
    }
    expect(await refusal((transaction) => createDeal(server.deps.catalogue, 1, foreign, transaction))).toContain(
      'Not placements of this publisher'
    )
    expect(await refusal((transaction) => createDeal(server.deps.catalogue, 1, { ...foreign, priceMicros: 1234 }, transaction))).toContain(
      'steps of 0.001'
    )
    expect([await Offer.count(), await Tracker.count(), await GrantedDeal.count()]).toEqual([3, 4, 12])
  })
})

describe('what people on the tape saw', () => {
  it('is read from the log as it grows, in order, of sampled people alone', async () => {
    const { sequelize, configuration } = server.deps
    const state = await MarketState.findByPk(1, { rejectOnEmpty: true })
    const step = new TapeExposures(sequelize, configuration.world)
    const first = await step.of(1001, state.hour - 30)
    const all = await step.of(1001, state.hour)
    expect(await new TapeExposures(sequelize, configuration.world).of(1001, state.hour)).toEqual(all)
    expect(all.person.length).toBeGreaterThan(first.person.length)
    expect([...all.minute].sort((a, b) => a - b)).toEqual(all.minute)
    expect(all.minute.every((minute) => minute < state.hour * 60)).toBe(true)
    expect((await step.of(4711, state.hour)).person).toEqual([])
  })
})

describe('a database of another market', () => {
  it('is refused with what to do about it', async () => {
    const { configuration } = server.deps
    const other = { ...configuration, world: { ...configuration.world, people: 30_000 } }
    await expect(startServer(other, () => undefined, server.deps.log)).rejects.toThrow('20000 people')
  })
})

// The last: it holds the thread for so long that idle connections may be ended.
describe('offers', () => {
  it('pay about 1.2 times what their events cost on display, so that who buys with care earns', () => {
    const world = makeWorld({ ...FULL, people: 24_000, sample: 3 })
    const bounds = new Map(worldBounds(world, buildTape(world, 59)).map(({ what, value }) => [what, value * 1e6]))
    const ratio = (event: string, paid: number) => paid / (bounds.get(`cost of ${event}, display, euro`) ?? NaN)
    for (const times of [
      ratio('a purchase', PAYS.purchase + REQUESTS * PAYS.catalogue),
      ratio('a test ride', PAYS['test ride']),
      ratio('a free trial', PAYS['sign-up'])
    ]) {
      expect(times).toBeGreaterThan(1.1)
      expect(times).toBeLessThan(1.35)
    }
  })
})
