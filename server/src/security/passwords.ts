import { hash, verify } from '@node-rs/argon2'

/** Argon2id with the parameters RFC 9106 gives for memory-constrained hosts, reduced to 19 MiB as OWASP advises. */
const OPTIONS = { memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const

export function hashPassword(password: string): Promise<string> {
  return hash(password, OPTIONS)
}

/** A hash nobody's password has: an unknown user takes as long to refuse as a known one. */
let nobody: Promise<string> | undefined

/** Whether the password fits; with a null hash it never does, and takes as long. */
export async function passwordFits(passwordHash: string | null, password: string): Promise<boolean> {
  nobody ??= hashPassword('nobody signs in with this')
  const fits = await verify(passwordHash ?? (await nobody), password)
  return fits && passwordHash !== null
}
