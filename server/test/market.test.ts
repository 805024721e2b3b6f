import { QueryTypes } from 'sequelize'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openLog } from '@tin-harbor/core/exchange'
import { makeWorld } from '@tin-harbor/core/market'
import { commitHour, HourOvertakenError } from '../src/exchange/commit-hour.js'
import { rebuildRollups } from '../src/exchange/rebuild.js'
import { balance } from '../src/money/ledger.js'
import { publicationRules, readMarket } from '../src/going-live/publications.js'
import { AuditEntry } from '../src/team/audit-model.js'
import { READER, TRADER, newToken, readyLine, testServer, type Ask, type TestServer } from './support/server.js'

let server: TestServer
let ask: Ask

beforeAll(async () => {
  server = await testServer('market')
  ask = await server.as(TRADER)
})
afterAll(() => server.close())

const rows = <T extends object>(sql: string) => server.deps.sequelize.query<T>(sql, { type: QueryTypes.SELECT })

async function run(hours: number): Promise<void> {
  expect((await ask('POST', '/market/run', { hours })).status).toBe(204)
  await server.deps.runner.idle()
}

describe('running the market', () => {
  it('moves the clock, spends from the balance, and every total follows from the log', async () => {
    const before = (await ask('GET', '/market')).body
    await run(24)
    const after = (await ask('GET', '/market')).body
    expect(after.hour).toBe(before.hour + 24)
    expect(after.funds.balanceMicros).toBeLessThan(before.funds.balanceMicros)
    expect(after.run).toMatchObject({ running: false, trouble: null })

    const logs = await rows<{ hour: number; n: number; crc: number; data: Buffer }>(
      'SELECT hour, n, crc32 AS crc, data FROM delivery_hour ORDER BY hour'
    )
    let spend = 0
    for (const { hour, n, crc, data } of logs) {
      const log = openLog(new Uint8Array(data), n, crc)
      const stored = await rows<{ wins: number; micros: number }>(
        `SELECT SUM(wins) AS wins, SUM(spend_micros) AS micros FROM line_hour WHERE hour = ${hour}`
      )
      const micros = log.media.reduce((sum, one) => sum + one, 0) + log.data.reduce((sum, one) => sum + one, 0)
      expect([Number(stored[0].wins ?? 0), Number(stored[0].micros ?? 0)]).toEqual([n, micros])
      spend += micros
    }
    const [ledger] = await rows<{ micros: number }>("SELECT SUM(amount_micros) AS micros FROM ledger_entry WHERE kind = 'spend'")
    expect(-Number(ledger.micros)).toBe(spend)
    const [days] = await rows<{ micros: number }>('SELECT SUM(spend_micros) AS micros FROM line_day')
    expect(Number(days.micros)).toBe(spend)
    const [won] = await rows<{ n: number }>("SELECT SUM(n) AS n FROM outcome_hour WHERE outcome = 'won'")
    expect(Number(won.n)).toBe(logs.reduce((sum, log) => sum + log.n, 0))
  })

  it('stops at a whole hour, and can be started again', async () => {
    const { hour } = await readMarket()
    await ask('POST', '/market/run', { hours: 2000 })
    expect((await ask('POST', '/market/run', { hours: 1 })).body.title).toContain('running already')
    await new Promise((resolve) => setTimeout(resolve, 250))
    await ask('DELETE', '/market/run')
    const state = await readMarket()
    expect(state.hour).toBeLessThan(hour + 2000)
    expect(state.targetHour).toBeNull()
    const [last] = await rows<{ hour: number }>('SELECT MAX(hour) AS hour FROM delivery_hour')
    expect(last.hour).toBe(state.hour - 1)
    await run(1)
    expect((await readMarket()).hour).toBe(state.hour + 1)
  })

  it('is refused to readers and without hours', async () => {
    const rui = await server.as(READER)
    expect((await rui('POST', '/market/run', { hours: 1 })).status).toBe(403)
    expect((await ask('POST', '/market/run', { hours: 0 })).body.issues[0].field).toBe('hours')
    expect((await ask('POST', '/market/run', { hours: 1e6 })).status).toBe(422)
  })

  it('keeps an hour once: one that was overtaken leaves nothing', async () => {
    const state = await readMarket()
    const rules = await publicationRules(state.publicationId)
    const facts = {
      hour: state.hour - 1,
      publication: rules.publication,
      opportunities: 0,
      log: new Uint8Array(),
      wins: 0,
      crc: 0,
      hourTotals: [],
      placementTotals: [],
      outcomes: [],
      shorts: [],
      spendMicros: 0,
      lineStates: [],
      told: [],
      events: new Uint8Array(),
      eventCount: 0,
      eventsCrc: 0
    }
    const nothing = { hits: [], input: { events: [], conversions: [] } }
    const sum = await balance(server.deps.sequelize, 1)
    await expect(commitHour(server.deps.sequelize, rules, facts, nothing)).rejects.toThrow(HourOvertakenError)
    await expect(
      commitHour(server.deps.sequelize, { ...rules, publication: rules.publication + 1000 }, { ...facts, hour: state.hour }, nothing)
    ).rejects.toThrow(HourOvertakenError)
    expect((await readMarket()).hour).toBe(state.hour)
    expect(await balance(server.deps.sequelize, 1)).toBe(sum)
  })

  it('tells pages how it goes', async () => {
    const cookie = await server.nobody('POST', '/session', { email: TRADER, password: 'harbor-lights' })
    const stream = await fetch(`${server.address}/api/events`, {
      headers: { cookie: (cookie.headers.get('set-cookie') ?? '').split(';')[0] }
    })
    const reader = (stream.body as ReadableStream<Uint8Array>).getReader()
    await run(2)
    let text = ''
    for (let n = 0; n < 20 && !/"running":true/.test(text); n++) text += new TextDecoder().decode((await reader.read()).value)
    expect(text).toContain('"kind":"market"')
    await reader.cancel()
  })
})

describe('the delivery log', () => {
  it('is the source of truth: the roll-ups made anew from it are those that were kept', async () => {
    const all = async () => [
      await rows('SELECT * FROM line_hour ORDER BY line_id, hour, ad_id, device'),
      await rows('SELECT * FROM line_day ORDER BY line_id, day, placement, ad_id')
    ]
    const before = await all()
    expect(before[0].length).toBeGreaterThan(20)
    await server.deps.sequelize.query('UPDATE line_hour SET wins = wins + 1')
    const world = makeWorld(server.deps.configuration.world)
    const [{ n }] = await rows<{ n: number }>('SELECT COUNT(*) AS n FROM delivery_hour')
    expect(await rebuildRollups(server.deps.sequelize, world)).toBe(Number(n))
    expect(await all()).toEqual(before)
  })

  it('an hour that was damaged is named and refused, and nothing is changed', async () => {
    const [{ hour }] = await rows<{ hour: number }>('SELECT hour FROM delivery_hour WHERE n > 0 ORDER BY hour LIMIT 1')
    const sum = async () => (await rows<{ wins: number }>('SELECT SUM(wins) AS wins FROM line_hour'))[0].wins
    const before = await sum()
    await server.deps.sequelize.query(`UPDATE delivery_hour SET crc32 = crc32 ^ 1 WHERE hour = ${hour}`)
    await expect(rebuildRollups(server.deps.sequelize, makeWorld(server.deps.configuration.world))).rejects.toThrow(
      `Hour ${hour} of the delivery log is damaged`
    )
    expect(await sum()).toBe(before)
    await server.deps.sequelize.query(`UPDATE delivery_hour SET crc32 = crc32 ^ 1 WHERE hour = ${hour}`)
  })
})

describe('what is put live while the market runs', () => {
  it('takes effect at an hour boundary, and the run goes on', async () => {
    const { lineId, version } = await readyLine(
      ask,
      { flight: { startDate: '2026-03-02', endDate: null } },
      { flight: { startDate: '2026-03-02', endDate: null } }
    )
    const { hour } = await readMarket()
    await ask('POST', '/market/run', { hours: 72 })
    const live = await ask('POST', `/lines/${lineId}/live`, { version, token: newToken() })
    await server.deps.runner.idle()
    expect((await readMarket()).hour).toBe(hour + 72)
    const served = await rows<{ first: number; hours: number }>(
      `SELECT MIN(hour) AS first, COUNT(DISTINCT hour) AS hours FROM line_hour WHERE line_id = ${lineId}`
    )
    expect(served[0].first).toBeGreaterThanOrEqual(live.body.fromHour)
    expect(served[0].hours).toBeGreaterThan(10)
    const logged = await rows<{ n: number }>('SELECT COUNT(*) AS n FROM delivery_hour')
    expect(logged[0].n).toBe((await readMarket()).hour - 46 * 24)
  })
})

describe('results', () => {
  it('add up by placement; what is left out gets nothing more, and edits not yet live stay so', async () => {
    const before = (await ask('GET', '/lines/1001/results')).body
    expect(before.rows.reduce((sum: number, row: { spendMicros: number }) => sum + row.spendMicros, 0)).toBe(before.total.spendMicros)
    const out = before.rows.slice(0, 2).map((row: { placement: string }) => row.placement) as string[]
    const line = (await ask('GET', '/lines/1001')).body
    await ask('PUT', '/lines/1001', { version: line.version, line: { ...line.draft, name: 'Renamed, not live' } })
    const view = (await ask('POST', '/lines/1001/left-out', { placements: out, out: true })).body
    expect(view.inForce.draft.name).toBe(line.draft.name)
    expect(view.inForce.changes.map((change: { field: string }) => change.field)).toEqual(['name'])
    await run(24)
    const after = (await ask('GET', '/lines/1001/results')).body
    const impressions = (results: typeof before, placement: string) =>
      results.rows.find((row: { placement: string }) => row.placement === placement).impressions as number
    for (const placement of out) {
      expect(impressions(after, placement)).toBe(impressions(before, placement))
      expect(after.rows.find((row: { placement: string }) => row.placement === placement).leftOut).toBe(true)
    }
    expect(after.total.impressions).toBeGreaterThan(before.total.impressions)
    await ask('POST', '/lines/1001/left-out', { placements: out, out: false })
    await run(24)
    const again = (await ask('GET', '/lines/1001/results')).body
    expect(out.some((placement) => impressions(again, placement) > impressions(after, placement))).toBe(true)
  })

  it('are told by what the line is judged by; a price of its own is bid at a placement from the next hour', async () => {
    const { events, rows: places, total } = (await ask('GET', '/lines/1001/results')).body
    expect(events[0]).toBe('visits')
    expect(total.brought[0].count).toBe(
      places.reduce((sum: number, row: { brought: { count: number }[] }) => sum + row.brought[0].count, 0)
    )
    expect(total.brought[0].costMicros).toBeCloseTo(total.spendMicros / total.brought[0].count, 6)
    expect(total.brought[0].costRange.low).toBeLessThan(total.brought[0].costMicros)
    const [first, second] = places.filter((row: { leftOut: boolean }) => !row.leftOut)
    const own = (placements: string[], ownMicros: number | null) => ask('POST', '/lines/1001/own-price', { placements, ownMicros })
    expect((await own(['nowhere.example: page head'], 1_000_000)).body.issues[0].message).toContain('nowhere.example: page head')
    expect((await own([first.placement], 1.5)).body.issues[0].field).toBe('ownMicros')
    // A price under every floor buys nothing there, and all else goes on.
    const view = (await own([first.placement, first.placement], 1000)).body
    expect(view.inForce.draft.price.adjustments).toEqual([
      { dimension: 'placement', value: first.placement, perMille: null, ownMicros: 1000 }
    ])
    await run(12)
    const after = (await ask('GET', '/lines/1001/results')).body.rows
    const rowOf = (placement: string) => after.find((row: { placement: string }) => row.placement === placement)
    expect([rowOf(first.placement).impressions, rowOf(first.placement).ownMicros]).toEqual([first.impressions, 1000])
    expect(rowOf(second.placement).impressions).toBeGreaterThan(second.impressions)
    expect((await own([first.placement], null)).body.inForce.draft.price.adjustments).toEqual([])
    const { action, became } = (await AuditEntry.findAll({ where: { object: 'line', objectId: 1001 }, order: [['id', 'DESC']] }))[1]
    expect([action, became]).toEqual(['own price', { placements: [first.placement, first.placement], ownMicros: 1000 }])
  })

  it('of what a sentence is of add up to all, and lines of one name are told apart', async () => {
    const bought = async (restrictions: object[], by = 'device') =>
      (
        await ask('POST', '/market/bought', {
          by,
          from: '2026-02-16',
          to: '2026-03-15',
          sentence: { formats: [], targeting: { restrictions }, hours: null }
        })
      ).body
    const shown = (report: { total: { wins: number } }) => report.total.wins
    const all = await bought([])
    expect(all.total.wins).toBe((await ask('GET', '/reports?by=device&from=2026-02-16&to=2026-03-15')).body.total.wins)
    const germany = await bought([{ dimension: 'where', mode: 'include', values: ['DE'] }])
    const elsewhere = await bought([{ dimension: 'where', mode: 'exclude', values: ['DE'] }])
    expect([shown(germany) > 0, shown(elsewhere) > 0, shown(germany) + shown(elsewhere)]).toEqual([true, true, shown(all)])
    const byCountry = await bought([], 'country')
    expect(byCountry.rows.find((row: { label: string }) => row.label === 'Germany').wins).toBe(shown(germany))
    const { campaignId, draft } = (await ask('GET', '/lines/1001')).body
    await ask('POST', `/campaigns/${campaignId}/lines`, draft)
    const names = (await ask('GET', '/reports?by=line&from=2026-02-16&to=2026-03-15')).body.rows.map((row: { label: string }) => row.label)
    expect(names).toContain(`${draft.name}, L-1001`)
  })

  it('can be asked for a period, and say what is wrong with one', async () => {
    const day = (await ask('GET', '/lines/1001/results?from=2026-02-17&to=2026-02-17')).body
    const all = (await ask('GET', '/lines/1001/results')).body
    expect(day.total.impressions).toBeGreaterThan(0)
    expect(day.total.impressions).toBeLessThan(all.total.impressions)
    expect(day.days).toHaveLength(1)
    expect((await ask('GET', '/lines/1001/results?from=soon')).body.issues[0].field).toBe('from')
  })

  it('show the campaign against its plan', async () => {
    const { pace } = (await ask('GET', '/campaigns/1')).body
    expect(pace.days[0].date).toBe('2026-02-16')
    expect(pace.days.reduce((sum: number, day: { spendMicros: number }) => sum + day.spendMicros, 0)).toBe(pace.spentMicros)
    expect(pace.dueMicros).toBeGreaterThan(0)
  })
})
