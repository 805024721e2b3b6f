import type { Request } from 'express'
import { AppError } from '../errors.js'

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
  if (!/^application\/json\b/i.test(req.headers['content-type'] ?? '')) throw problem(415, 'not-json', 'The request must be JSON, and say so.')
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(Buffer.concat(chunks)))
  } catch {
    throw problem(400, 'not-json', 'The request is not valid JSON.')
  }
}
