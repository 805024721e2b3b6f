import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto'

/** What is shown: a banner of the library, or a tag that somebody gave us. */
export interface Shown {
  kind: 'file' | 'creative'
  id: number
}

const LASTS_MS = 3_600_000
/** One for each start: an address that was given out before it is asked for anew. */
const key = randomBytes(32)

const sign = (text: string) => createHmac('sha256', key).update(text).digest('base64url')

/** A name for what is shown, for an hour, that nobody can guess and that says nothing of who asked. */
export function sandboxToken({ kind, id }: Shown, now = Date.now()): { token: string; until: number } {
  const until = now + LASTS_MS
  // Two who look at the same thing count what it tries apart.
  const text = Buffer.from(JSON.stringify([kind, id, until, randomBytes(6).toString('base64url')])).toString('base64url')
  return { token: `${text}.${sign(text)}`, until }
}

/** What a token names; null where it is not one of ours, or is over. */
export function shownBy(token: string, now = Date.now()): Shown | null {
  const [text, signature, ...more] = token.split('.')
  if (!text || !signature || more.length > 0) return null
  const [is, should] = [Buffer.from(signature), Buffer.from(sign(text))]
  if (is.length !== should.length || !timingSafeEqual(is, should)) return null
  const [kind, id, until] = JSON.parse(Buffer.from(text, 'base64url').toString('utf8')) as [Shown['kind'], number, number]
  return until > now ? { kind, id } : null
}
