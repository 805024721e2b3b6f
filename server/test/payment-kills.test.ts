import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { createConnection } from 'mariadb'
import { afterAll, describe, expect, it } from 'vitest'
import { copyTemplate, dropSchema, startTestServer } from '../../scripts/test-server.mjs'
import { KNOWN_CARDS } from '../src/standins/payments.js'
import { TEMPLATE, TEMPLATE_PEOPLE } from './support/template.js'
import { ADMIN } from './support/server.js'

const SCHEMA = 'test_payment_kills'
const KILLS = 3
/** Cards that pay at once, late, and twice told. */
const CARDS = KNOWN_CARDS.filter(({ fares }) => fares !== 'refuses').map(({ number }) => number)

describe('payments, the server killed in between', () => {
  const base = process.env.TEST_DATABASE_URL ?? ''
  const url = new URL(base)
  url.pathname = `/${SCHEMA}`
  afterAll(() => dropSchema(base, SCHEMA))

  it('are paid once each, whatever was clicked and sent again, and are booked as they were paid', { timeout: 240_000 }, async () => {
    const tapes = await copyTemplate(base, TEMPLATE, SCHEMA)
    const start = () => startTestServer(url.href, String(TEMPLATE_PEOPLE), { fresh: false, tapes })
    let server = await start()
    let cookie = ''
    const call = async (path: string, body: object): Promise<Response | null> =>
      fetch(`${server.address}/api${path}`, {
        method: 'POST',
        headers: { origin: server.address, 'content-type': 'application/json', cookie },
        body: JSON.stringify(body),
        signal: AbortSignal.timeout(8_000)
      }).catch(() => null)
    const signIn = async () => {
      const answer = await call('/session', { email: ADMIN, password: 'harbor-lights' })
      cookie = (answer?.headers.get('set-cookie') ?? '').split(';')[0]
    }
    await signIn()
    let made = 0
    const open = new Set<string>()
    const answered = new Map<string, number>()
    /** Asks for a payment until it is answered, as somebody who clicks again does. */
    const pay = async (name: string) => {
      const body = { token: name, amountMicros: 10_000_000, method: 'card', number: CARDS[Number(name.split('-')[1]) % CARDS.length] }
      const answer = await call('/ledger/top-ups', body)
      if (answer?.status !== 200) return
      const { id } = (await answer.json()) as { id: number }
      expect(answered.get(name) ?? id).toBe(id)
      answered.set(name, id)
      open.delete(name)
    }
    for (let kill = 0; kill < KILLS; kill++) {
      for (let n = 0; n < 6; n++) open.add(`killed-${made++}-pay`)
      const paying = [...open].flatMap((name) => [pay(name), pay(name)])
      await new Promise((resolve) => setTimeout(resolve, 15 + 23 * kill))
      process.kill(server.pid, 'SIGKILL')
      await Promise.all(paying)
      server = await start()
      if (kill === 0) await signIn()
    }
    while (open.size > 0) await Promise.all([...open].map(pay))
    const connection = await createConnection({
      host: url.hostname,
      port: Number(url.port),
      user: url.username,
      password: url.password,
      database: SCHEMA,
      bigIntAsNumber: true
    })
    try {
      type Row = { id: number; reference: string; state: string; booked: number; times: number }
      const read = (): Promise<Row[]> =>
        connection.query(
          `SELECT p.id, p.reference, p.state, COALESCE(SUM(l.amount_micros), 0) AS booked, COUNT(l.id) AS times
           FROM payment p LEFT JOIN ledger_entry l ON l.payment_id = p.id GROUP BY p.id, p.reference, p.state`
        )
      let rows = await read()
      for (const began = Date.now(); rows.some(({ state }) => state === 'asked') && Date.now() - began < 30_000;) {
        await new Promise((resolve) => setTimeout(resolve, 200))
        rows = await read()
      }
      await server.stop()
      // What the service says that it moved, by its own book.
      const book = new Map<string, string>()
      for (const line of readFileSync(join(tapes, 'library', 'payments', 'book.jsonl'), 'utf8')
        .split('\n')
        .filter(Boolean)) {
        const { reference, state } = JSON.parse(line) as { reference: string; state: string }
        book.set(reference, state)
      }
      expect(rows).toHaveLength(made)
      expect(new Set(answered.values()).size).toBe(made)
      for (const { reference, state, booked, times } of rows) {
        const moved = book.get(reference) === 'accepted'
        expect([reference, state, Number(booked), Number(times)]).toEqual(
          moved ? [reference, 'accepted', 10_000_000, 1] : [reference, 'given up', 0, 0]
        )
      }
      expect([...book.values()].filter((state) => state === 'accepted').length).toBe(
        rows.filter(({ state }) => state === 'accepted').length
      )
      expect(rows.some(({ state }) => state === 'accepted')).toBe(true)
    } finally {
      await connection.end()
    }
  })
})
