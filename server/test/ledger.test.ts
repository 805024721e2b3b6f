import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { LedgerView } from '@tin-harbor/core/contract'
import { makeWorld } from '@tin-harbor/core/market'
import { LedgerEntry } from '../src/money/ledger-model.js'
import { auditSpend } from '../src/money/audit.js'
import { User, UserAdvertiser } from '../src/team/user-model.js'
import { ADMIN, TRADER, testServer, type Ask, type TestServer } from './support/server.js'

let server: TestServer
let admin: Ask
beforeAll(async () => {
  server = await testServer('ledger')
  admin = await server.as(ADMIN)
})
afterAll(() => server.close())

const ledger = async (month = '') => (await admin('GET', `/ledger${month && `?month=${month}`}`)).body as LedgerView
const set = (entry: LedgerEntry, amountMicros: number) =>
  server.deps.sequelize.transaction((transaction) => entry.update({ amountMicros }, { transaction }))
const audited = () => auditSpend(server.deps.sequelize, makeWorld(server.deps.configuration.world))

describe('the ledger', () => {
  it('of a month adds up to what the top of every page says, month after month, and says how long that lasts', async () => {
    const now = await ledger()
    expect(now.months[0]).toBe('2026-03')
    expect(now.month).toBe('2026-03')
    expect(now.closingMicros).toBe(now.balanceMicros)
    expect(now.balanceMicros).toBe((await admin('GET', '/market')).body.funds.balanceMicros)
    expect(now.lastDayMicros).toBeGreaterThan(0)
    expect(now.lastsUntil).toBe(60 * 24 + 8 + Math.floor((now.balanceMicros * 24) / now.lastDayMicros))
    let carried = 0
    for (const month of [...now.months].reverse()) {
      const told = await ledger(month)
      expect(told.openingMicros).toBe(carried)
      expect(told.rows.reduce((sum, { amountMicros }) => sum + amountMicros, told.openingMicros)).toBe(told.closingMicros)
      carried = told.closingMicros
    }
    expect(carried).toBe(now.balanceMicros)
    const first = await ledger(now.months.at(-1))
    expect(first.rows[0]).toMatchObject({ kind: 'top-up', advertiser: null, note: 'Bank transfer' })
    expect(first.rows.some(({ kind, advertiser }) => kind === 'spend' && advertiser === 'Nightjar Telescopes')).toBe(true)
  })

  it('has months that were, and no others', async () => {
    for (const [month, words] of [
      ['2026-3', 'A month is written as 2026-03.'],
      ['2026-13', 'A month is written as 2026-03.'],
      ['2026-04', 'The ledger is from 2026-0'],
      ['2020-01', 'The ledger is from 2026-0']
    ]) {
      const answer = await admin('GET', `/ledger?month=${month}`)
      expect(answer.status, month).toBe(422)
      expect(answer.body.issues[0]).toMatchObject({ field: 'month', message: expect.stringContaining(words) })
    }
  })

  it('is read by finance and admins; who sees some advertisers reads what the others spent without their names', async () => {
    expect((await (await server.as(TRADER))('GET', '/ledger')).status).toBe(403)
    const model = await User.findOne({ where: { email: TRADER }, rejectOnEmpty: true })
    const { organisationId, passwordHash } = model
    const finance = { organisationId, passwordHash, name: 'Finance', email: 'finance@wharfside.example', role: 'finance' as const }
    await server.deps.sequelize.transaction(async (transaction) => {
      const { id: userId } = await User.create({ ...finance, allAdvertisers: false }, { transaction })
      await UserAdvertiser.create({ userId, advertiserId: 3 }, { transaction })
    })
    const own = (await (await server.as('finance@wharfside.example'))('GET', '/ledger')).body as LedgerView
    const whole = await ledger()
    expect(own.closingMicros).toBe(whole.closingMicros)
    expect(own.rows.filter(({ kind }) => kind === 'spend').map(({ advertiser }) => advertiser)).not.toContain('Nightjar Telescopes')
    expect(own.outMicros).toBe(whole.outMicros)
  })
})

describe('an audit', () => {
  it('finds log, roll-ups and ledger alike to the micro; a micro that one of them lost is named with its hour', async () => {
    const good = await audited()
    expect(good).toMatchObject({ differences: [], overdrawn: [], payments: [] })
    expect(good.hours).toBeGreaterThan(24)
    expect(good.spentMicros).toBe(-(await LedgerEntry.sum('amountMicros', { where: { kind: 'spend' } })))
    const entry = await LedgerEntry.findOne({ where: { kind: 'spend' }, rejectOnEmpty: true })
    const { hour, advertiserId, amountMicros } = entry
    await set(entry, amountMicros + 1)
    expect((await audited()).differences).toEqual([
      { hour, advertiser: advertiserId, logMicros: -amountMicros, rollUpMicros: -amountMicros, ledgerMicros: -amountMicros - 1 }
    ])
    await set(entry, amountMicros)
    const topUp = await LedgerEntry.findOne({ where: { kind: 'top-up' }, rejectOnEmpty: true })
    const { amountMicros: whole, organisationId } = topUp
    await set(topUp, 1)
    expect((await audited()).overdrawn).toEqual([organisationId])
    await set(topUp, whole)
    expect(await audited()).toEqual(good)
  })
})
