import { createHash, randomBytes } from 'node:crypto'

/** Of what is kept in place of a secret: it is random, so that a plain hash says nothing of it. */
export const digestOf = (secret: string): string => createHash('sha256').update(secret).digest('hex')

/** A secret of 256 bits, told once, and what is kept of it. @param prefix says what it is for to whoever finds it */
export function newSecret(prefix = ''): { secret: string; digest: string } {
  const secret = `${prefix}${randomBytes(32).toString('base64url')}`
  return { secret, digest: digestOf(secret) }
}
