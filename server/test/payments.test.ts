import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { LedgerView, PaymentView } from '@tin-harbor/core/contract'
import { chargedMicros } from '@tin-harbor/core/money'
import { startOfLocalDay, zoneIndex } from '@tin-harbor/core/time'
import { makeWorld } from '@tin-harbor/core/market'
import { auditSpend } from '../src/money/audit.js'
import { lockMarket } from '../src/going-live/publications.js'
import { balance as balanceOf } from '../src/money/ledger.js'
import { makeCharges } from '../src/money/charges.js'
import { LedgerEntry } from '../src/money/ledger-model.js'
import { Payment } from '../src/money/payment-model.js'
import { KNOWN_CARDS, TRANSFER_HOURS, noticeSign } from '../src/standins/payments.js'
import { AuditEntry } from '../src/team/audit-model.js'
import { Organisation } from '../src/team/user-model.js'
import { ADMIN, READER, TRADER, testServer, type Answer, type Ask, type TestServer } from './support/server.js'

let server: TestServer
let admin: Ask
beforeAll(async () => {
  server = await testServer('payments')
  admin = await server.as(ADMIN)
})
afterAll(() => server.close())

const [PAYS, REFUSES, LATE, TWICE] = KNOWN_CARDS.map(({ number }) => number)
let nth = 0
const token = () => `confirmation-${++nth}`
const card = (number: string, micros = 50_000_000, name = token()): Promise<Answer<PaymentView & { issues: { field: string }[] }>> =>
  admin('POST', '/ledger/top-ups', { token: name, amountMicros: micros, method: 'card', number })
const ledger = async () => (await admin<LedgerView>('GET', '/ledger')).body
const balance = async () => (await ledger()).balanceMicros
const entriesOf = (paymentId: number) => LedgerEntry.findAll({ where: { paymentId }, order: [['id', 'ASC']] })
const until = async (is: () => Promise<boolean>) => {
  for (const began = Date.now(); !(await is());) {
    if (Date.now() - began > 15_000) throw new Error('It did not come to that in 15 s.')
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
}
const stateOf = async (id: number) => (await Payment.findByPk(id, { rejectOnEmpty: true })).state
async function run(hours: number) {
  expect((await admin('POST', '/market/run', { hours })).status).toBe(204)
  await server.deps.runner.idle()
}

describe('money that is paid in', () => {
  it('is on the balance once, whatever is clicked and however the service answers', async () => {
    const before = await balance()
    const name = token()
    const answers = await Promise.all(Array.from({ length: 6 }, () => card(PAYS, 50_000_000, name)))
    expect(new Set(answers.map(({ status, body }) => `${status} ${body.id}`)).size).toBe(1)
    expect((await card(PAYS, 50_000_000, name)).body).toMatchObject({ state: 'accepted', last4: '0017', amountMicros: 50_000_000 })
    expect(await balance()).toBe(before + 50_000_000)
    // One that answers, and then tells twice.
    const twice = (await card(TWICE, 20_000_000)).body
    await server.deps.payments.settle()
    await new Promise((resolve) => setTimeout(resolve, 200))
    expect(await entriesOf(twice.id)).toHaveLength(1)
    expect(await balance()).toBe(before + 70_000_000)
    expect((await ledger()).rows.filter(({ kind }) => kind === 'top-up').at(-1)).toMatchObject({ note: 'Card ending in 0041' })
  })

  it('is not where the bank refuses, and can be tried again', async () => {
    const before = await balance()
    const refused = await card(REFUSES)
    expect(refused).toMatchObject({ status: 200, body: { state: 'refused', says: 'The bank refused: not enough on the account.' } })
    expect(await balance()).toBe(before)
    expect((await card(PAYS)).body.state).toBe('accepted')
    expect(await balance()).toBe(before + 50_000_000)
  })

  it('comes when a late answer does, and meanwhile is said to be under way', async () => {
    const before = await balance()
    const late = await card(LATE)
    expect(late.body.state).toBe('asked')
    expect(await balance()).toBe(before)
    expect((await ledger()).payments.find(({ id }) => id === late.body.id)).toMatchObject({ state: 'asked', canGoBackMicros: 0 })
    await until(async () => (await stateOf(late.body.id)) === 'accepted')
    expect(await balance()).toBe(before + 50_000_000)
  })

  it('by transfer arrives two market days later, in the hour in which it does', async () => {
    const before = await balance()
    const sent = (await admin('POST', '/ledger/top-ups', { token: token(), amountMicros: 40_000_000, method: 'transfer' })).body
    expect(sent).toMatchObject({ state: 'asked', kind: 'transfer' })
    const sentAt = sent.askedHour as number
    await run(TRANSFER_HOURS - 1)
    expect(await stateOf(sent.id)).toBe('asked')
    await run(2)
    expect(await entriesOf(sent.id)).toMatchObject([{ hour: sentAt + TRANSFER_HOURS, amountMicros: 40_000_000, note: 'Bank transfer' }])
    const spent = -(await LedgerEntry.sum('amountMicros', { where: { kind: 'spend' } }))
    const paid = await LedgerEntry.sum('amountMicros', { where: { kind: ['top-up', 'charge', 'refund'] } })
    expect(await balance()).toBe(paid - spent)
    expect(await balance()).toBeLessThan(before + 40_000_000)
  })

  it('is believed of nobody but the service: what is told is a reason to ask it', async () => {
    const before = await balance()
    const late = (await card(LATE)).body
    const { reference } = await Payment.findByPk(late.id, { rejectOnEmpty: true })
    const { key } = server.deps.payments.service
    const tell = (body: object) => server.nobody('POST', '/payments/notices', body, { origin: 'http://elsewhere.example' })
    expect((await tell({ reference, nth: 1, sign: 'a'.repeat(64) })).status).toBe(403)
    expect((await tell({ reference, nth: 1, sign: 'short' })).status).toBe(403)
    expect((await tell({ reference, nth: 'x', sign: '' })).status).toBe(422)
    // Signed, but before the bank has said anything; and of a payment that nobody asked for.
    for (const named of [reference, 'nobody-asked'])
      expect((await tell({ reference: named, nth: 9, sign: noticeSign(key, named, 9) })).status).toBe(204)
    expect(await stateOf(late.id)).toBe('asked')
    expect(await balance()).toBe(before)
    await until(async () => (await stateOf(late.id)) === 'accepted')
    // An older notice that comes after a newer one.
    for (const n of [3, 2, 1]) expect((await tell({ reference, nth: n, sign: noticeSign(key, reference, n) })).status).toBe(204)
    expect(await entriesOf(late.id)).toHaveLength(1)
  })

  it('is asked for properly, by those who may', async () => {
    for (const [body, field] of [
      [{ amountMicros: 50_000_000, method: 'card' }, 'number'],
      [{ amountMicros: 50_000_000, method: 'card', number: '9200 0000 0000 0018' }, 'number'],
      [{ amountMicros: 9_990_000, method: 'transfer' }, 'amountMicros'],
      [{ amountMicros: 50_000_001, method: 'transfer' }, 'amountMicros'],
      [{ amountMicros: 1e15, method: 'transfer' }, 'amountMicros'],
      [{ amountMicros: 50_000_000, method: 'shells' }, 'method']
    ] as const) {
      const answer = await admin('POST', '/ledger/top-ups', { token: token(), ...body })
      expect(answer.status).toBe(422)
      expect(answer.body.issues.map((issue: { field: string }) => issue.field)).toContain(field)
    }
    for (const email of [TRADER, READER]) {
      const ask = await server.as(email)
      expect((await ask('POST', '/ledger/top-ups', { token: token(), amountMicros: 50_000_000, method: 'transfer' })).status).toBe(403)
    }
    expect((await card('9200000000000116', 50_000_000)).body).toMatchObject({ state: 'refused', says: 'No bank knows this card.' })
    expect(JSON.stringify(await Payment.findAll({ raw: true }))).not.toContain(PAYS)
    expect(JSON.stringify(await AuditEntry.findAll({ where: { object: 'payment' } }))).not.toContain(PAYS)
  })
})

describe('what was not settled when everything stopped', () => {
  const noted = (kind: 'card' | 'refund' | 'charge', more: object = {}) =>
    server.deps.sequelize.transaction((transaction) =>
      Payment.create(
        {
          organisationId: 1,
          reference: `stopped-${++nth}-0000`,
          kind,
          amountMicros: 30_000_000,
          state: 'asked',
          askedHour: 1448,
          askedAt: 1,
          askedBy: null,
          ...more
        },
        { transaction }
      )
    )
  const put = (reference: string, body: object) =>
    fetch(`${server.deps.payments.service.address}/payments/${reference}`, { method: 'PUT', body: JSON.stringify(body) })

  it('is booked once where the service took it, and given up for good where it never got there', async () => {
    const before = await balance()
    const [taken, lost] = [await noted('card'), await noted('card')]
    const asked = { method: 'card', amountMicros: 30_000_000, currency: 'EUR', number: PAYS }
    await put(taken.reference, asked)
    await Promise.all(Array.from({ length: 5 }, () => server.deps.payments.settle()))
    expect([await stateOf(taken.id), await stateOf(lost.id)]).toEqual(['accepted', 'given up'])
    // What was under way comes after all: the service was told, and does not take it.
    await put(lost.reference, asked)
    await server.deps.payments.settle()
    expect(await balance()).toBe(before + 30_000_000)
    expect(await entriesOf(lost.id)).toHaveLength(0)
    expect((await ledger()).payments.find(({ id }) => id === lost.id)?.says).toContain('nothing was paid')
  })
})

describe('money that goes back', () => {
  it('is off the balance at once, never more than was paid, than is there, or twice', async () => {
    const paid = (await card(PAYS, 30_000_000)).body
    const before = await balance()
    const refund = (amountMicros: number, name = token()) => admin('POST', `/payments/${paid.id}/refunds`, { token: name, amountMicros })
    expect((await refund(30_010_000)).body.issues[0].message).toBe('Of this payment 30.00 can go back.')
    const name = token()
    const back = await Promise.all(Array.from({ length: 4 }, () => refund(20_000_000, name)))
    expect(new Set(back.map(({ body }) => body.id)).size).toBe(1)
    expect(back[0].body).toMatchObject({ kind: 'refund', state: 'accepted', refundOf: paid.id })
    expect(await balance()).toBe(before - 20_000_000)
    // Two at once that together are more than is left.
    const both = await Promise.all([refund(10_000_000), refund(10_000_000)])
    expect(both.map(({ status }) => status).sort()).toEqual([200, 422])
    expect(await balance()).toBe(before - 30_000_000)
    expect((await admin('POST', `/payments/${back[0].body.id}/refunds`, { token: token(), amountMicros: 10_000 })).status).toBe(409)
    expect((await admin('POST', '/payments/99999/refunds', { token: token(), amountMicros: 10_000 })).status).toBe(404)
  })

  it('comes back where it could not be paid out, as an entry of its own', async () => {
    const paid = (await card(PAYS, 30_000_000)).body
    const before = await balance()
    // The service knows nothing of what it is to give back.
    await server.deps.sequelize.transaction((transaction) =>
      Payment.update({ reference: 'forgotten-0001' }, { where: { id: paid.id }, transaction })
    )
    const back = (await admin('POST', `/payments/${paid.id}/refunds`, { token: token(), amountMicros: 10_000_000 })).body
    expect(back).toMatchObject({ state: 'refused', says: 'There is not so much of that payment to give back.' })
    expect((await entriesOf(back.id)).map(({ amountMicros }) => amountMicros)).toEqual([-10_000_000, 10_000_000])
    expect(await balance()).toBe(before)
    await server.deps.sequelize.transaction((transaction) => Payment.update({ state: 'refused' }, { where: { id: paid.id }, transaction }))
  })
})

describe('the charge of a day', () => {
  it('is asked for once on the day after, for what was spent, at most what was agreed, over the end of a month too', async () => {
    expect((await admin('PUT', '/ledger/charge', { number: '9200 0000 0000 0116', mostMicros: 50_000_000 })).status).toBe(422)
    const agreed = await admin<LedgerView>('PUT', '/ledger/charge', { number: PAYS, mostMicros: 50_000_000 })
    expect(agreed.body.charge).toEqual({ last4: '0017', mostMicros: 50_000_000 })
    const { zone } = await Organisation.findByPk(1, { rejectOnEmpty: true })
    const start = (day: number) => startOfLocalDay(zoneIndex(zone), day)
    const { chargeFromDay: today } = await Organisation.findByPk(1, { rejectOnEmpty: true })
    await run(24)
    await server.deps.payments.settle()
    const charges = () => Payment.findAll({ where: { kind: 'charge' }, order: [['id', 'ASC']] })
    const spend = -(await LedgerEntry.sum('amountMicros', {
      where: {
        kind: 'spend',
        hour: Array.from({ length: 25 }, (_, n) => start(today as number) + n).filter((hour) => hour < start((today as number) + 1))
      }
    }))
    expect(await charges()).toMatchObject([{ ofDay: today, amountMicros: Math.ceil(spend / 10_000) * 10_000, state: 'accepted' }])
    expect(spend).toBeGreaterThan(0)
    // The clock moves over a month's end at a stroke; only days with spend are charged, each up to what was agreed.
    const far = (today as number) + 40
    await server.deps.sequelize.transaction(async (transaction) => {
      const entry = { organisationId: 1, kind: 'spend' as const, advertiserId: 1, note: '', madeBy: null }
      await LedgerEntry.create({ ...entry, hour: start((today as number) + 30), amountMicros: -3_999 }, { transaction })
      await LedgerEntry.create({ ...entry, hour: start((today as number) + 31), amountMicros: -80_000_000 }, { transaction })
    })
    await Promise.all([1, 2, 3].map(() => makeCharges(server.deps.sequelize, start(far))))
    const later = (await charges()).filter(({ ofDay }) => (ofDay ?? 0) >= (today as number) + 30)
    expect(later.map(({ ofDay, amountMicros }) => [(ofDay ?? 0) - (today as number), amountMicros])).toEqual([
      [30, 10_000],
      [31, 50_000_000]
    ])
    await server.deps.payments.settle()
    for (const { id } of later) expect(await entriesOf(id)).toHaveLength(1)
    await server.deps.sequelize.transaction((transaction) =>
      LedgerEntry.destroy({ where: { kind: 'spend', hour: [start((today as number) + 30), start((today as number) + 31)] }, transaction })
    )
    expect((await admin<LedgerView>('DELETE', '/ledger/charge')).body.charge).toBeNull()
    await makeCharges(server.deps.sequelize, start(far + 10))
    expect((await charges()).filter(({ ofDay }) => (ofDay ?? 0) >= far)).toHaveLength(0)
  })
})

describe('terms of an advertiser', () => {
  const terms = (id: number, body: object) => admin<LedgerView & { issues: { field: string }[] }>('PUT', `/advertisers/${id}/money`, body)
  const own = async (id: number) => (await ledger()).advertisers.find((one) => one.id === id) as LedgerView['advertisers'][number]

  it('stop its lines at its limit before they overspend, say so, and let them go on when it is raised', async () => {
    const [{ id: line }] = (await admin('GET', '/manifest')).body.lines.filter(({ state }: { state: string }) => state === 'live')
    const { nowMicros, version } = await own(1)
    const limitMicros = Math.ceil((nowMicros + 60_000) / 10_000) * 10_000
    expect((await terms(1, { version, limitMicros, marginPpm: 0 })).status).toBe(200)
    await run(8)
    const after = await own(1)
    expect(after.nowMicros).toBeLessThanOrEqual(limitMicros)
    expect(limitMicros - after.nowMicros).toBeLessThan(4_000)
    const serving = async () => (await admin('GET', `/lines/${line}`)).body.serving as string
    const why = 'the limit of its advertiser for this month is used up'
    const { campaignId } = (await admin('GET', `/lines/${line}`)).body
    const pace = async () => (await admin('GET', `/campaigns/${campaignId}`)).body.pace.words as string
    expect([await serving(), await pace()]).toEqual([`does not serve: ${why}`, expect.stringContaining(`; ${why}`)])
    expect((await terms(1, { version: after.version, limitMicros: null, marginPpm: 0 })).status).toBe(200)
    expect(await serving()).toBe('goes on with the next market hour: there is money again')
    expect(await pace()).not.toContain(why)
    await run(1)
    expect((await own(1)).nowMicros).toBeGreaterThan(limitMicros)
    expect(await serving()).toMatch(/^serving/)
  })

  it('keep what we paid and what its client is charged apart, each hour under the margin of that hour', async () => {
    const { version } = await own(1)
    const before = await own(1)
    expect((await terms(1, { version, limitMicros: null, marginPpm: 125_000 })).status).toBe(200)
    await run(3)
    const then = await own(1)
    const cost = then.costMicros - before.costMicros
    expect(cost).toBeGreaterThan(0)
    expect(then.chargedMicros - before.chargedMicros).toBe(chargedMicros([{ costMicros: cost, ppm: 125_000 }]))
    expect((await ledger()).advertisers.find(({ id }) => id === 1)?.marginPpm).toBe(125_000)
    for (const [body, field] of [
      [{ limitMicros: null, marginPpm: 1_000_100 }, 'marginPpm'],
      [{ limitMicros: null, marginPpm: -100 }, 'marginPpm'],
      [{ limitMicros: null, marginPpm: 50 }, 'marginPpm'],
      [{ limitMicros: 5, marginPpm: 0 }, 'limitMicros']
    ] as const)
      expect((await terms(1, { version: version + 1, ...body })).body.issues[0].field).toBe(field)
    expect((await terms(1, { version, limitMicros: null, marginPpm: 0 })).status).toBe(409)
  })
})

describe('money that goes while an hour is run', () => {
  it('takes the hour with it: it is run again with what is left, and the balance is never below nothing', async () => {
    const { sequelize, runner } = server.deps
    expect((await admin('POST', '/market/run', { hours: 5 })).status).toBe(204)
    const taken = await sequelize.transaction(async (transaction) => {
      const { hour } = await lockMarket(transaction)
      const amountMicros = 30_000 - (await balanceOf(sequelize, 1, transaction))
      const entry = { organisationId: 1, kind: 'refund' as const, hour, advertiserId: null, amountMicros, note: 'taken', madeBy: null }
      return LedgerEntry.create(entry, { transaction })
    })
    await runner.idle()
    const left = await balance()
    expect(left).toBeGreaterThanOrEqual(0)
    expect(left).toBeLessThan(30_000)
    expect((await ledger()).isLow).toBe(true)
    const [{ id: line }] = (await admin('GET', '/manifest')).body.lines.filter(({ state }: { state: string }) => state === 'live')
    expect((await admin('GET', `/lines/${line}`)).body.serving).toContain('the balance is used up')
    // Money back: it goes on.
    await sequelize.transaction((transaction) =>
      LedgerEntry.create(
        {
          organisationId: 1,
          kind: 'refund',
          hour: taken.hour,
          advertiserId: null,
          amountMicros: -taken.amountMicros,
          note: 'back',
          madeBy: null
        },
        { transaction }
      )
    )
    const back = await balance()
    await run(12)
    expect(await balance()).toBeLessThan(back)
    expect((await admin('GET', `/lines/${line}`)).body.serving).not.toContain('used up')
  })
})

describe('at the end of all that', () => {
  it('the ledger holds what the service moved, and entries, log and roll-ups agree', async () => {
    await until(async () => (await Payment.count({ where: { state: 'asked' } })) === 0)
    const booked = await LedgerEntry.findAll({ where: { kind: ['top-up', 'charge', 'refund'] } })
    const sum = booked.reduce((total, { paymentId, amountMicros }) => (paymentId === null ? total : total + amountMicros), 0)
    // The service was made to forget one payment, of which it moved 30.00.
    expect(sum).toBe(server.deps.payments.service.moved())
    const { payments } = await auditSpend(server.deps.sequelize, makeWorld(server.deps.configuration.world))
    // The one whose reference was changed stands as refused here, and was paid.
    expect(payments).toHaveLength(1)
    expect(payments[0].state).toBe('refused')
  })
})
