import type { Request } from 'express'
import { AppError } from './errors.js'

/** Longest that a body which is refused is read on, so that its sender gets to see why. */
const DRAIN_MS = 5_000
/** Bytes of it that are read on at most. */
const MOST_DRAINED = 64 * 1024 * 1024

/** Reads the rest of a body and throws it away: an answer sent before its end would be lost with the connection. */
export function drained(req: Request): Promise<void> {
  if (req.readableEnded || req.destroyed) return Promise.resolve()
  return new Promise((resolve) => {
    let bytes = 0
    const done = () => {
      clearTimeout(enough)
      req.off('data', count).off('end', done).off('close', done).off('error', done)
      resolve()
    }
    const count = (chunk: Buffer) => {
      bytes += chunk.length
      if (bytes > MOST_DRAINED) done()
    }
    const enough = setTimeout(done, DRAIN_MS)
    req.on('data', count).once('end', done).once('close', done).once('error', done)
    req.resume()
  })
}

/** Depth and number of values of any body: all of it is parsed before any of it can be looked at. */
const DEEPEST = 40
const MOST_VALUES = 150_000

const [QUOTE, BACKSLASH, COMMA] = [0x22, 0x5c, 0x2c]
const OPENS = new Set([0x5b, 0x7b])
const CLOSES = new Set([0x5d, 0x7d])

/** Why a text would take too long to parse, told from its bytes alone; null where it would not. */
function tooIntricate(bytes: Uint8Array): string | null {
  let depth = 0
  let values = 0
  for (let i = 0; i < bytes.length; i++) {
    const byte = bytes[i]
    if (byte === QUOTE) {
      for (i++; i < bytes.length && bytes[i] !== QUOTE; i++) if (bytes[i] === BACKSLASH) i++
    } else if (byte === COMMA) values++
    else if (OPENS.has(byte)) depth++
    else if (CLOSES.has(byte)) depth--
    if (depth > DEEPEST) return `The request goes deeper than ${DEEPEST} levels.`
    if (values > MOST_VALUES) return `The request has more than ${MOST_VALUES.toLocaleString('en')} values.`
  }
  return null
}

const problem = (status: number, code: string, message: string) => new AppError(status, code, message, [{ field: 'body', message }])
const tooMuch = (limit: number) => problem(413, 'too-large', `A request has at most ${Math.round(limit / 1024)} kB here.`)

/**
 * A JSON body of at most so many bytes; an empty one is no fields.
 * @throws what is wrong with it, before it is parsed where its size tells
 */
export async function readJson(req: Request, limit: number): Promise<unknown> {
  if (Number(req.headers['content-length'] ?? 0) > limit) {
    await drained(req)
    throw tooMuch(limit)
  }
  const chunks: Buffer[] = []
  let bytes = 0
  try {
    for await (const chunk of req.iterator({ destroyOnReturn: false }) as AsyncIterable<Buffer>) {
      bytes += chunk.length
      if (bytes > limit) break
      chunks.push(chunk)
    }
  } catch {
    throw problem(400, 'aborted', 'The request broke off.')
  }
  if (bytes > limit) {
    await drained(req)
    throw tooMuch(limit)
  }
  if (bytes === 0) return {}
  if (!/^application\/json\b/i.test(req.headers['content-type'] ?? ''))
    throw problem(415, 'not-json', 'The request must be JSON, and say so.')
  const whole = Buffer.concat(chunks)
  const intricate = tooIntricate(whole)
  if (intricate !== null) throw problem(413, 'too-intricate', intricate)
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(whole))
  } catch {
    throw problem(400, 'not-json', 'The request is not valid JSON.')
  }
}
