import { createHmac, randomBytes } from 'node:crypto'
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { parseInput, yup } from '@tin-harbor/core/input'
import { bodyOf } from './body.js'
import { Book, paySchema, type Asked, type PaymentWord } from './payment-book.js'

/** Cards that the stand-in knows, and how each fares. */
export const KNOWN_CARDS = [
  { number: '9200000000000017', fares: 'pays' },
  { number: '9200000000000025', fares: 'refuses' },
  { number: '9200000000000033', fares: 'answers late' },
  { number: '9200000000000041', fares: 'answers twice' }
] as const
type Fares = (typeof KNOWN_CARDS)[number]['fares']

/** Market hours that a transfer takes. */
export const TRANSFER_HOURS = 48
/** How late a late answer is. */
const LATE_MS = 2_500

export interface PaymentService {
  address: string
  /** With which it signs what it tells of its own accord. */
  key: string
  /** Where it tells that something is known of a payment. */
  tells: (address: string) => void
  /** All that it moved, for those who compare: micros in, less what went back. */
  moved: () => number
  close: () => Promise<void>
}

/** What a notice is signed with: HMAC-SHA256 over the reference and its number, in hex. */
export const noticeSign = (key: string, reference: string, nth: number) =>
  createHmac('sha256', key).update(`${reference} ${nth}`).digest('hex')

/**
 * The stand-in for a payment service: HTTP on loopback. What it was asked and what it said is in a file of its own, written through before
 * it answers, so that it remembers when whoever asked does not.
 *
 * `PUT /payments/REF`: asks for one; asked again under the same reference it says what it said. `GET /payments/REF?hour=H`: what is known,
 * 404 where it was never asked. `DELETE /payments/REF`: it is not to be taken any more; answered with what is true then.
 * `POST /cards`: a name for a card, for later charges.
 */
export async function startPayments(file: string): Promise<PaymentService> {
  const book = new Book(file)
  const key = randomBytes(32).toString('hex')
  let home: string | null = null
  let told = 0
  const tell = async (reference: string, times: number) => {
    for (let n = 0; n < times; n++) {
      const nth = ++told
      if (home === null) return
      await fetch(home, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ reference, nth, sign: noticeSign(key, reference, nth) })
      }).catch(() => undefined)
    }
  }
  const timers = new Set<ReturnType<typeof setTimeout>>()
  const later = (work: () => void) => {
    const timer = setTimeout(() => {
      timers.delete(timer)
      work()
    }, LATE_MS)
    timers.add(timer)
  }
  const till = new Till(book, later, (reference, times) => void tell(reference, times))

  async function serve(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const say = (status: number, body: object) =>
      response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body))
    const url = new URL(request.url ?? '/', 'http://payments')
    const word = ({ state, says }: PaymentWord) => say(state === 'waits' ? 202 : 200, { state, says })
    if (request.method === 'POST' && url.pathname === '/cards') {
      const { number } = parseInput(yup.object({ number: yup.string().required() }).noUnknown(), await bodyOf(request))
      const place = placeOf(number)
      if (place < 0) return void say(422, { says: 'No bank knows this card.' })
      return void say(200, { card: `card-${place}`, last4: KNOWN_CARDS[place].number.slice(-4) })
    }
    const reference = /^\/payments\/([\w-]{8,40})$/.exec(url.pathname)?.[1]
    if (reference === undefined) return void say(404, { says: 'Nothing is paid here.' })
    if (request.method === 'PUT') {
      const asked = parseInput(paySchema, await bodyOf(request))
      const said = till.ask(reference, asked)
      // Whoever asks has gone by then, or not.
      if (said.state === 'waits' && asked.method === 'card') return later(() => void word(book.of(reference) ?? said))
      return void word(said)
    }
    if (request.method === 'DELETE') {
      const known = book.of(reference)
      const isOver = known !== undefined && known.state !== 'waits'
      return void word(isOver ? known : book.keep(reference, null, { state: 'cancelled', says: 'It was called off.' }))
    }
    const known = till.look(reference, Number(url.searchParams.get('hour') ?? 0))
    return void (known ? word(known) : say(404, { says: 'This was never asked.' }))
  }

  const server: Server = createServer((request, response) => {
    serve(request, response).catch((error: unknown) => response.writeHead(422).end(JSON.stringify({ says: (error as Error).message })))
  })
  await new Promise<void>((resolve, reject) => server.once('error', reject).listen(0, '127.0.0.1', resolve))
  return {
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    key,
    tells: (address) => (home = address),
    moved: () => book.moved(),
    close: () =>
      new Promise<void>((resolve) => {
        for (const timer of timers) clearTimeout(timer)
        server.closeAllConnections()
        server.close(() => {
          book.close()
          resolve()
        })
      })
  }
}

const placeOf = (number: string) => KNOWN_CARDS.findIndex((card) => card.number === number.replace(/[ -]/g, ''))
/** How a card fares, by its number or by the name it was given. */
const faresOf = ({ number, card }: Asked): Fares | undefined =>
  KNOWN_CARDS[number === undefined ? Number(/^card-(\d)$/.exec(card ?? '')?.[1] ?? -1) : placeOf(number)]?.fares

/** What is decided of what is asked. */
class Till {
  /** @param later does something when the bank has taken its time @param tell says so often that something is known of a payment */
  constructor(
    private readonly book: Book,
    private readonly later: (work: () => void) => void,
    private readonly tell: (reference: string, times: number) => void
  ) {
    // What was not decided when it was stopped.
    for (const { reference, asked } of book.waiting()) if (asked?.method === 'card') this.decideLater(reference)
  }

  ask(reference: string, asked: Asked): PaymentWord {
    const known = this.book.of(reference)
    if (known) return known
    if (asked.method === 'refund') return this.refund(reference, asked)
    if (asked.method === 'card') return this.payByCard(reference, asked, faresOf(asked))
    return this.book.keep(reference, asked, { state: 'waits', says: 'The transfer is under way.' })
  }

  /** What is known by a market hour: a transfer arrives when its hours are over. */
  look(reference: string, hour: number): PaymentWord | undefined {
    const known = this.book.of(reference)
    const { asked } = known ?? {}
    if (known?.state === 'waits' && asked?.method === 'transfer' && hour >= (asked.hour ?? 0) + TRANSFER_HOURS)
      return this.book.keep(reference, asked, { state: 'accepted', says: '' })
    return known
  }

  private decideLater(reference: string): void {
    this.later(() => {
      const known = this.book.of(reference)
      if (known?.state === 'waits') this.book.keep(reference, known.asked, { state: 'accepted', says: '' })
      this.tell(reference, 1)
    })
  }

  private payByCard(reference: string, asked: Asked, fares: Fares | undefined): PaymentWord {
    const { book } = this
    if (fares === undefined) return book.keep(reference, asked, { state: 'refused', says: 'No bank knows this card.' })
    if (fares === 'refuses') return book.keep(reference, asked, { state: 'refused', says: 'The bank refused: not enough on the account.' })
    if (fares === 'answers late') {
      this.decideLater(reference)
      return book.keep(reference, asked, { state: 'waits', says: 'The bank has not answered yet.' })
    }
    if (fares === 'answers twice') setImmediate(() => this.tell(reference, 2))
    return book.keep(reference, asked, { state: 'accepted', says: '' })
  }

  private refund(reference: string, asked: Asked): PaymentWord {
    const paid = this.book.of(asked.of ?? '')
    const back = this.book.refundedOf(asked.of ?? '')
    const left = paid?.state === 'accepted' && paid.asked ? paid.asked.amountMicros - back : 0
    return this.book.keep(
      reference,
      asked,
      asked.amountMicros <= left
        ? { state: 'accepted', says: '' }
        : { state: 'refused', says: 'There is not so much of that payment to give back.' }
    )
  }
}
