import { randomUUID } from 'node:crypto'
import type { Sequelize, Transaction } from 'sequelize'
import type { PaymentView } from '@tin-harbor/core/contract'
import { plainMoney, type TopUp } from '@tin-harbor/core/money'
import { localDayOf, zoneIndex } from '@tin-harbor/core/time'
import { retrying } from '../database/connection.js'
import type { Deps } from '../deps.js'
import { lockMarket } from '../going-live/publications.js'
import { IdempotentAnswer } from '../http/answer-model.js'
import { conflict, invalidField, unknownObject } from '../http/errors.js'
import { once } from '../http/once.js'
import { now, type Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { Organisation, User } from '../team/user-model.js'
import { balance } from './ledger.js'
import { LedgerEntry } from './ledger-model.js'
import { Payment } from './payment-model.js'

/** Payments that are told at once, the last first. */
const MOST_TOLD = 30

export async function findPayment(id: number): Promise<Payment> {
  const payment = await Payment.findByPk(id)
  if (!payment) throw unknownObject('payment')
  return payment
}

/** Notes a payment with the answer that its confirmation is given, in one transaction. @returns its number, and whether it is new */
async function noteOnce(
  sequelize: Sequelize,
  actor: Actor,
  { token, route }: { token: string; route: string },
  note: (hour: number, transaction: Transaction) => Promise<Payment>
): Promise<{ id: number; isNew: boolean }> {
  let isNew = false
  const { id } = await once(actor, token, route, () =>
    retrying(() =>
      sequelize.transaction(async (transaction) => {
        const { hour } = await lockMarket(transaction)
        const payment = await note(hour, transaction)
        const answer = { id: payment.id }
        await IdempotentAnswer.create({ userId: actor.id, token, route, answer, at: now() }, { transaction })
        isNew = true
        return answer
      })
    )
  )
  return { id, isNew }
}

/** Asks to be paid in; asked again under the same token it is the same payment. Settles when the service answered, or takes too long. */
export async function topUp({ sequelize, payments }: Deps, actor: Actor, token: string, asked: TopUp): Promise<PaymentView> {
  const { amountMicros, method, number } = asked
  const last4 = method === 'card' ? (number ?? '').replace(/[ -]/g, '').slice(-4) : null
  const { id, isNew } = await noteOnce(sequelize, actor, { token, route: 'top-up' }, async (hour, transaction) => {
    const { organisationId } = actor
    const note = { organisationId, reference: randomUUID(), kind: method, amountMicros, state: 'asked' as const, last4 }
    const payment = await Payment.create({ ...note, askedHour: hour, askedAt: now(), askedBy: actor.id }, { transaction })
    await audit(
      actor,
      'top up',
      { kind: 'payment', id: payment.id, advertiserId: null },
      null,
      { amountMicros, method, last4 },
      transaction
    )
    return payment
  })
  if (isNew) await payments.pay(await findPayment(id), { number })
  else await payments.answered(id)
  return (await paymentViews([await findPayment(id)]))[0]
}

/** Gives some of a payment back to its payer. It is booked when it is asked for, so that no line spends it meanwhile. */
export async function refund(
  { sequelize, payments }: Deps,
  actor: Actor,
  paymentId: number,
  { token, amountMicros }: { token: string; amountMicros: number }
): Promise<PaymentView> {
  const { id, isNew } = await noteOnce(sequelize, actor, { token, route: `refund ${paymentId}` }, async (hour, transaction) => {
    const paid = await Payment.findByPk(paymentId, { transaction, lock: transaction.LOCK.UPDATE, rejectOnEmpty: true })
    if (paid.kind === 'refund' || paid.state !== 'accepted') throw conflict('Nothing was paid in by this, so that nothing can go back.')
    const left = paid.amountMicros - ((await refundedOf([paymentId], transaction)).get(paymentId) ?? 0)
    if (amountMicros > left) throw invalidField('amountMicros', `Of this payment ${plainMoney(left)} can go back.`)
    const { organisationId } = actor
    const there = await balance(sequelize, organisationId, transaction)
    if (amountMicros > there) throw invalidField('amountMicros', `The balance is ${plainMoney(there)}; more cannot go back.`)
    const note = { organisationId, reference: randomUUID(), kind: 'refund' as const, amountMicros, state: 'asked' as const }
    const payment = await Payment.create(
      { ...note, refundOf: paymentId, last4: paid.last4, askedHour: hour, askedAt: now(), askedBy: actor.id },
      { transaction }
    )
    const to = paid.last4 === null ? 'by bank transfer' : `to the card ending in ${paid.last4}`
    const entry = { organisationId, kind: 'refund' as const, hour, advertiserId: null, amountMicros: -amountMicros, note: to }
    await LedgerEntry.create({ ...entry, madeBy: actor.id, paymentId: payment.id }, { transaction })
    await audit(
      actor,
      'refund',
      { kind: 'payment', id: payment.id, advertiserId: null },
      null,
      { amountMicros, of: paymentId },
      transaction
    )
    return payment
  })
  if (isNew) {
    payments.onBooked()
    await payments.pay(await findPayment(id))
  } else await payments.answered(id)
  return (await paymentViews([await findPayment(id)]))[0]
}

/** What of payments went back, or is going, by their numbers. */
async function refundedOf(paymentId: readonly number[], transaction?: Transaction): Promise<Map<number, number>> {
  const back = await Payment.findAll({ where: { refundOf: [...paymentId], state: ['asked', 'accepted'] }, transaction })
  const sums = new Map<number, number>()
  for (const { refundOf, amountMicros } of back) sums.set(refundOf ?? 0, (sums.get(refundOf ?? 0) ?? 0) + amountMicros)
  return sums
}

/** Agrees that the spend of each day is charged to a card on the day after, from today's on. */
export async function agreeCharge(
  { sequelize, payments }: Deps,
  actor: Actor,
  { number, mostMicros }: { number: string; mostMicros: number }
): Promise<void> {
  const named = await payments.nameCard(number).catch(() => {
    throw conflict('The payment service is away; nothing was agreed. Try again in a moment.')
  })
  if (typeof named === 'string') throw invalidField('number', named)
  await sequelize.transaction(async (transaction) => {
    const { hour } = await lockMarket(transaction)
    const organisation = await Organisation.findByPk(actor.organisationId, { transaction, rejectOnEmpty: true })
    const was = agreed(organisation)
    await organisation.update(
      {
        chargeCard: named.card,
        chargeLast4: named.last4,
        chargeMostMicros: mostMicros,
        // One that is agreed on anew goes on where the one before stood.
        chargeFromDay: organisation.chargeFromDay ?? localDayOf(zoneIndex(organisation.zone), hour)
      },
      { transaction }
    )
    await audit(actor, 'agree to charges', about(organisation), was, agreed(organisation), transaction)
  })
}

/** Ends the agreement: days that are over were charged, no later one is. */
export async function endCharge({ sequelize }: Deps, actor: Actor): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    await lockMarket(transaction)
    const organisation = await Organisation.findByPk(actor.organisationId, { transaction, rejectOnEmpty: true })
    const was = agreed(organisation)
    await organisation.update({ chargeCard: null, chargeLast4: null, chargeMostMicros: null, chargeFromDay: null }, { transaction })
    await audit(actor, 'end charges', about(organisation), was, null, transaction)
  })
}

const agreed = ({ chargeLast4, chargeMostMicros }: Organisation) =>
  chargeLast4 === null ? null : { last4: chargeLast4, mostMicros: chargeMostMicros }
const about = ({ id }: Organisation) => ({ kind: 'organisation' as const, id, advertiserId: null })

export async function saveLowDays({ sequelize }: Deps, actor: Actor, lowDays: number): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const organisation = await Organisation.findByPk(actor.organisationId, { transaction, rejectOnEmpty: true })
    const was = organisation.lowDays
    await organisation.update({ lowDays }, { transaction })
    await audit(actor, 'save', about(organisation), { lowDays: was }, { lowDays }, transaction)
  })
}

/** The last payments of an organisation, and all that wait. */
export async function lastPayments(organisationId: number): Promise<PaymentView[]> {
  const last = await Payment.findAll({ where: { organisationId }, order: [['id', 'DESC']], limit: MOST_TOLD })
  const waiting = await Payment.findAll({ where: { organisationId, state: 'asked' }, order: [['id', 'DESC']] })
  return paymentViews([...last, ...waiting.filter(({ id }) => !last.some((one) => one.id === id))])
}

async function paymentViews(payments: readonly Payment[]): Promise<PaymentView[]> {
  const names = new Map(
    (await User.findAll({ where: { id: payments.flatMap(({ askedBy }) => askedBy ?? []) } })).map(({ id, name }) => [id, name])
  )
  const back = await refundedOf(payments.map(({ id }) => id))
  return payments.map(({ id, kind, amountMicros, state, says, last4, askedHour, askedBy, settledHour, refundOf }) => ({
    id,
    kind,
    amountMicros,
    state,
    says,
    last4,
    askedHour,
    settledHour,
    askedBy: askedBy === null ? null : (names.get(askedBy) ?? null),
    refundOf,
    canGoBackMicros: kind !== 'refund' && state === 'accepted' ? amountMicros - (back.get(id) ?? 0) : 0
  }))
}
