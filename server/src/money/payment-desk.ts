import { timingSafeEqual } from 'node:crypto'
import type { Sequelize, Transaction } from 'sequelize'
import type { Logger } from 'pino'
import type { EntryKind, PaymentState } from '@tin-harbor/core/money'
import { dateOfDay } from '@tin-harbor/core/time'
import { retrying } from '../database/connection.js'
import { lockMarket, readMarket } from '../going-live/publications.js'
import type { PaymentWord } from '../standins/payment-book.js'
import { now } from '../security/sessions.js'
import { noticeSign, type PaymentService } from '../standins/payments.js'
import { Organisation } from '../team/user-model.js'
import { makeCharges } from './charges.js'
import { LedgerEntry } from './ledger-model.js'
import { Payment } from './payment-model.js'

/** Longest that an answer is waited for: what comes later is told, or asked for. */
const ANSWERED_WITHIN_MS = 1_500
/** How long a payment by card may be on its way, before it is said that it never got there. */
const UNDER_WAY_SECONDS = 10
/** Between two looks at what is not settled. */
const LOOK_MS = 5_000

/** What is sent with a payment and kept by nobody. */
export interface CardShown {
  number?: string
}

const STATE_OF: Readonly<Record<PaymentWord['state'], PaymentState>> = {
  waits: 'asked',
  accepted: 'accepted',
  refused: 'refused',
  cancelled: 'given up'
}
const ENTRY_OF = { card: 'top-up', transfer: 'top-up', charge: 'charge', refund: 'refund' } as const satisfies Record<string, EntryKind>

/**
 * Moves money by the payment service. A payment is noted before it is asked for, under a reference that the service takes once; whatever
 * it says, and however often, is booked once: the note goes from `asked` to its last word in the transaction that books it. What it
 * tells of its own accord is a reason to ask it, and is believed in nothing else.
 */
export class PaymentDesk {
  /** Payments that are being asked for. */
  private readonly inFlight = new Map<number, Promise<void>>()
  private looking: ReturnType<typeof setInterval> | undefined
  private settling: Promise<void> = Promise.resolve()
  /** Whether it could not be asked the last time. */
  isAway = false

  constructor(
    private readonly sequelize: Sequelize,
    readonly service: PaymentService,
    private readonly log: Logger,
    /** Told when something was booked. */
    readonly onBooked: () => void
  ) {}

  /** Asks for a payment that is noted; settles when it is answered, or when the answer takes too long. */
  async pay(payment: Payment, shown: CardShown = {}): Promise<void> {
    const paid = this.payNow(payment, shown).finally(() => this.inFlight.delete(payment.id))
    this.inFlight.set(payment.id, paid)
    await paid
  }

  /** Settles when one that is being asked for is answered, or its answer takes too long. */
  async answered(id: number): Promise<void> {
    await this.inFlight.get(id)
  }

  private async payNow(payment: Payment, shown: CardShown): Promise<void> {
    try {
      await this.apply(payment.id, await this.put(payment, shown))
      this.isAway = false
    } catch (error) {
      this.log.warn({ err: error, payment: payment.id }, 'the payment service did not answer')
    }
  }

  /** A name for a card, for later charges. @returns what is wrong where the service does not take it */
  async nameCard(number: string): Promise<{ card: string; last4: string } | string> {
    const response = await this.fetch('POST', '/cards', { number })
    const said = (await response.json()) as { card: string; last4: string; says: string }
    return response.status === 200 ? said : said.says
  }

  /** Brings all that is not settled up to what the service says by an hour, and makes the charges that are due. One after the other. */
  settle(): Promise<void> {
    const settled = this.settling.then(() => this.settleNow())
    this.settling = settled.catch(() => undefined)
    return settled
  }

  private async settleNow(): Promise<void> {
    const { hour } = await readMarket()
    await makeCharges(this.sequelize, hour)
    for (const payment of await Payment.findAll({ where: { state: 'asked' }, order: [['id', 'ASC']] })) {
      if (this.inFlight.has(payment.id)) continue
      try {
        await this.apply(payment.id, await this.ask(payment, hour))
        this.isAway = false
      } catch (error) {
        if (!this.isAway) this.log.warn({ err: error }, 'the payment service is away')
        this.isAway = true
        return
      }
    }
  }

  /** Something is known of a payment, says whoever signs it. @returns whether the signature is the service's */
  async heard({ reference, nth, sign }: { reference: string; nth: number; sign: string }): Promise<boolean> {
    const [own, told] = [noticeSign(this.service.key, reference, nth), sign].map((text) => Buffer.from(text))
    if (own.length !== told.length || !timingSafeEqual(own, told)) return false
    await this.settle()
    return true
  }

  /** Looks now and then at what is not settled: a notice may be lost. */
  watch(): void {
    this.looking = setInterval(() => void this.settle().catch((err: unknown) => this.log.warn({ err }, 'payments wait')), LOOK_MS)
    this.looking.unref()
  }

  async close(): Promise<void> {
    clearInterval(this.looking)
    await this.settling
    await this.service.close()
  }

  /** What the service says of one that was asked for earlier. */
  private async ask(payment: Payment, hour: number): Promise<PaymentWord> {
    const response = await this.fetch('GET', `/payments/${payment.reference}?hour=${hour}`)
    if (response.status !== 404) return (await response.json()) as PaymentWord
    // It never got there. What needs no number is sent again; a card's number is known to nobody any more.
    if (payment.kind !== 'card') return this.put(payment, {})
    // Another server on this database may be asking at this moment.
    if (now() - payment.askedAt < UNDER_WAY_SECONDS) return { state: 'waits', says: '' }
    const said = (await (await this.fetch('DELETE', `/payments/${payment.reference}`)).json()) as PaymentWord
    return said.state === 'cancelled' ? { ...said, says: 'It never reached the payment service; nothing was paid.' } : said
  }

  private async put(payment: Payment, { number }: CardShown): Promise<PaymentWord> {
    const { kind, amountMicros, askedHour: hour, card, refundOf } = payment
    const { currency } = await Organisation.findByPk(payment.organisationId, { rejectOnEmpty: true })
    const paid = refundOf === null ? undefined : (await Payment.findByPk(refundOf, { rejectOnEmpty: true })).reference
    const method = kind === 'charge' ? 'card' : kind
    const asked = { method, amountMicros, currency, number, of: paid, ...(card ? { card } : {}), ...(kind === 'transfer' ? { hour } : {}) }
    return (await (await this.fetch('PUT', `/payments/${payment.reference}`, asked)).json()) as PaymentWord
  }

  private fetch(method: string, path: string, body?: object): Promise<Response> {
    return fetch(`${this.service.address}${path}`, {
      method,
      ...(body ? { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) } : {}),
      signal: AbortSignal.timeout(ANSWERED_WITHIN_MS)
    })
  }

  /** Keeps the service's word, the last one once: with it the ledger's entry is booked. */
  private async apply(id: number, { state: word, says }: PaymentWord): Promise<void> {
    if (!(word in STATE_OF)) throw new Error(`The payment service said "${String(word)}".`)
    const state = STATE_OF[word]
    const isBooked = await retrying(() =>
      this.sequelize.transaction(async (transaction) => {
        const { hour } = await lockMarket(transaction)
        const payment = await Payment.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE, rejectOnEmpty: true })
        if (payment.state !== 'asked') return false
        await payment.update({ state, says, settledHour: state === 'asked' ? null : hour }, { transaction })
        return book(payment, hour, transaction)
      })
    )
    if (isBooked) this.onBooked()
  }
}

/** A refund was booked when it was asked for; it comes back where it could not be paid out. */
async function book(payment: Payment, hour: number, transaction: Transaction): Promise<boolean> {
  const { kind, state, amountMicros, organisationId, askedBy, id: paymentId } = payment
  const isBack = kind === 'refund'
  if (state === 'asked' || isBack === (state === 'accepted')) return false
  await LedgerEntry.create(
    { organisationId, kind: ENTRY_OF[kind], hour, advertiserId: null, amountMicros, note: noteOf(payment), madeBy: askedBy, paymentId },
    { transaction }
  )
  return true
}

function noteOf({ kind, last4, says, ofDay }: Payment): string {
  if (kind === 'refund') return `came back: ${says}`
  if (kind === 'transfer') return 'Bank transfer'
  if (kind === 'charge') return `spend of ${dateOfDay(ofDay ?? 0)}, card ending in ${last4 ?? '?'}`
  return `Card ending in ${last4 ?? '?'}`
}
