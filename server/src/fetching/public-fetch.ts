import http from 'node:http'
import https from 'node:https'
import type { IncomingMessage } from 'node:http'
import { useAgent as agentFor } from 'request-filtering-agent'
import type { Answered } from '../standins/answered.js'
import { standIn } from '../standins/outside.js'

/** What is taken of an address outside. */
export interface Taking {
  /** Content types. */
  types: RegExp
  mostBytes: number
  /** Of all of it, redirects included. */
  seconds: number
}

export interface Fetched {
  /** Where it ended. */
  address: string
  type: string
  body: Buffer
  /** Addresses that it was led through, the first one first. */
  hops: string[]
}

/** Why something was not fetched, in a sentence. */
export class NotFetched extends Error {}

const MOST_REDIRECTS = 5
const REDIRECTS = new Set([301, 302, 303, 307, 308])

/** An address as it may be asked for. @param from the one that it is relative to */
function readAddress(address: string, from?: URL): URL {
  let url: URL
  try {
    url = new URL(address, from)
  } catch {
    throw new NotFetched(`“${address.slice(0, 80)}” is no web address.`)
  }
  if (url.protocol !== 'https:' && url.protocol !== 'http:') throw new NotFetched('Only http and https are fetched.')
  if (url.username !== '' || url.password !== '') throw new NotFetched('An address with a name or a password in it is not fetched.')
  return url
}

/**
 * Fetches what lies at a public address: none of our own network, however it is spelled, asked at the connection and again at each
 * redirect; of the demo's hosts the stand-ins answer.
 * @throws NotFetched
 */
export async function fetchPublic(address: string, taking: Taking): Promise<Fetched> {
  const signal = AbortSignal.timeout(taking.seconds * 1000)
  const hops: string[] = []
  let url = readAddress(address)
  for (;;) {
    hops.push(url.href)
    const answer = (await standIn(url)) ?? (await ask(url, taking, signal))
    if (!REDIRECTS.has(answer.status)) return { ...checked(answer, taking), address: url.href, hops }
    if (hops.length > MOST_REDIRECTS) throw new NotFetched(`It is led on more than ${MOST_REDIRECTS} times.`)
    if (!answer.location) throw new NotFetched('It leads on, but not where to.')
    url = readAddress(answer.location, url)
    if (hops.includes(url.href)) throw new NotFetched(`It is led in a circle, back to ${url.host}.`)
  }
}

function checked({ status, type, body }: Answered, { types, mostBytes }: Taking): { type: string; body: Buffer } {
  if (status !== 200) throw new NotFetched(`It answers ${status}.`)
  if (!types.test(type)) throw new NotFetched(`It is ${type || 'of no type'}, which is not what is looked for.`)
  if (body.length > mostBytes) throw tooLarge(mostBytes)
  return { type, body }
}
const tooLarge = (most: number) => new NotFetched(`It has more than ${Math.round(most / 1024)} kB.`)

function ask(url: URL, { mostBytes }: Taking, signal: AbortSignal): Promise<Answered> {
  return new Promise((resolve, reject) => {
    const fail = (error: NodeJS.ErrnoException) => reject(new NotFetched(wordsOf(error, signal)))
    const { get } = url.protocol === 'https:' ? https : http
    const request = get(url, { agent: agentFor(url.href), signal, headers: { 'user-agent': 'TinHarbor/1', accept: '*/*' } }, (answer) =>
      read(answer, mostBytes).then(resolve, fail)
    )
    request.on('error', fail)
  })
}

async function read(answer: IncomingMessage, mostBytes: number): Promise<Answered> {
  const { statusCode = 0, headers } = answer
  const parts: Buffer[] = []
  let bytes = 0
  for await (const part of answer as AsyncIterable<Buffer>) {
    bytes += part.length
    if (bytes > mostBytes) {
      answer.destroy()
      throw tooLarge(mostBytes)
    }
    parts.push(part)
  }
  const type = (headers['content-type'] ?? '').split(';')[0].trim().toLowerCase()
  return { status: statusCode, type, body: Buffer.concat(parts), location: headers.location }
}

/** What stood in the way, without telling what our network looks like. */
function wordsOf(error: NodeJS.ErrnoException, signal: AbortSignal): string {
  if (error instanceof NotFetched) return error.message
  if (signal.aborted) return 'It did not answer in time.'
  if (/private|reserved|not allowed|blocked|filter/i.test(error.message)) return 'It is no public address.'
  return 'It does not answer.'
}
