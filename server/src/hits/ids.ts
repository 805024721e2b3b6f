import { createHmac, timingSafeEqual } from 'node:crypto'

/**
 * What somebody tells something of: an impression of the market's log; a showing in a preview, or a test of a tracker, which count
 * nowhere.
 */
export type HitSubject =
  | { kind: 'impression'; hour: number; place: number }
  | { kind: 'preview'; ad: number; nonce: string }
  | { kind: 'test'; tracker: number; nonce: string }

/** What a page passes through to where a click leads: consent strings, by their macros. */
export type Passed = Partial<Record<'GDPR' | 'GDPR_CONSENT' | 'GPP', string>>

/** Where a click leads, by what was shown, the id of the click and what its page passes through; null where nothing was. */
export type Leads = (subject: HitSubject, id: string, passed: Passed) => Promise<string | null>

/** A secret that ids are signed with. */
export interface HitKey {
  id: number
  secret: Buffer
}

const MAC_BYTES = 12
const MOST_LETTERS = 120
const NONCE = /^[a-z0-9]{1,20}$/

/** A subject in letters: its kind, then its numbers to the base of 36. */
export function subjectText(subject: HitSubject): string {
  switch (subject.kind) {
    case 'impression':
      return `i${subject.hour.toString(36)}-${subject.place.toString(36)}`
    case 'preview':
      return `p${subject.ad.toString(36)}-${subject.nonce}`
    case 'test':
      return `t${subject.tracker.toString(36)}-${subject.nonce}`
  }
}

function subjectOf(text: string): HitSubject | null {
  const found = /^([ipt])([0-9a-z]{1,8})-([0-9a-z]{1,20})$/.exec(text)
  if (!found) return null
  const [, kind, first, second] = found
  const number = Number.parseInt(first, 36)
  if (kind === 'i') return { kind: 'impression', hour: number, place: Number.parseInt(second, 36) }
  if (!NONCE.test(second)) return null
  return kind === 'p' ? { kind: 'preview', ad: number, nonce: second } : { kind: 'test', tracker: number, nonce: second }
}

/** `KEY.SUBJECT.MAC`, of letters that an address takes as they are. */
function signed({ id, secret }: HitKey, text: string): string {
  const head = `${id.toString(36)}.${text}`
  return `${head}.${createHmac('sha256', secret).update(head).digest().subarray(0, MAC_BYTES).toString('base64url')}`
}

/** Signs and reads ids. The newest key signs; those before it are still read, so that what is under way counts when it comes. */
export class HitIds {
  private readonly keys: ReadonlyMap<number, HitKey>
  private readonly newest: HitKey

  /** @param keys at least one, the newest last */
  constructor(keys: readonly HitKey[]) {
    const newest = keys.at(-1)
    if (!newest) throw new Error('Ids are signed with a key, and there is none.')
    this.newest = newest
    this.keys = new Map(keys.map((key) => [key.id, key]))
  }

  sign(subject: HitSubject): string {
    return signed(this.newest, subjectText(subject))
  }

  /** What an id names; null where nobody of ours signed it, letter by letter. */
  read(id: string): HitSubject | null {
    const [keyText, text = ''] = id.split('.')
    const key = id.length > MOST_LETTERS ? undefined : this.keys.get(Number.parseInt(keyText, 36))
    if (!key) return null
    const [is, should] = [Buffer.from(id), Buffer.from(signed(key, text))]
    return is.length === should.length && timingSafeEqual(is, should) ? subjectOf(text) : null
  }
}
