import type { FieldChange } from '../buying/index.js'
import { euros } from './long.js'

/** What somebody may have done something to. */
export const TRAIL_KINDS = [
  'advertiser',
  'campaign',
  'line',
  'ad',
  'market',
  'list',
  'deal',
  'slip',
  'file',
  'creative',
  'mix',
  'feed',
  'plate',
  'offer',
  'tracker',
  'payment',
  'organisation',
  'user',
  'invitation',
  'token'
] as const
export type TrailKind = (typeof TRAIL_KINDS)[number]

/** What somebody did, by the action that is noted; `{kind}` is what they did it to. */
const DID: Readonly<Record<string, string>> = {
  create: 'made the {kind}',
  make: 'made the {kind}',
  add: 'added the {kind}',
  save: 'changed the {kind}',
  replace: 'replaced the {kind}',
  remove: 'took off the {kind}',
  delete: 'deleted the {kind}',
  copy: 'copied the {kind}',
  move: 'moved the {kind}',
  label: 'tagged the {kind}',
  follow: 'chose the list of the {kind}',
  release: 'released the {kind}',
  pause: 'paused the {kind}',
  resume: 'went on with the {kind}',
  end: 'ended the {kind}',
  'put live': 'put live the {kind}',
  'take back': 'took back the {kind}',
  'leave out': 'left placements out of the {kind}',
  'take in': 'took placements into the {kind} again',
  'own price': 'priced placements apart in the {kind}',
  show: 'showed the {kind} to a client',
  hide: 'took back what a client was shown of the {kind}',
  ask: 'asked for the {kind}',
  take: 'took the {kind}',
  answer: 'answered a refusal of the {kind}',
  run: 'ran the {kind}',
  'top up': 'asked for the {kind}',
  refund: 'gave back by the {kind}',
  'agree to charges': 'agreed to daily charges of the {kind}',
  'end charges': 'ended the daily charges of the {kind}',
  invite: 'sent the {kind}',
  'come in': 'came in as the {kind}',
  'end sessions': 'ended all sessions of the {kind}',
  'change password': 'changed the password of the {kind}',
  'set a forgotten password anew': 'set anew the forgotten password of the {kind}'
}

/** What was done, as people say it. */
export const didWords = (action: string, kind: string): string => (DID[action] ?? `${action}: the {kind}`).replace('{kind}', kind)

const FIELDS: Readonly<Record<string, string>> = {
  limitMicros: 'limit a month',
  marginPpm: 'margin',
  lowDays: 'warned under days',
  last4: 'card ending in',
  mostMicros: 'at most a day',
  amountMicros: 'amount',
  of: 'of payment',
  role: 'role',
  active: 'is here',
  allAdvertisers: 'sees all advertisers',
  linkTail: 'link tail'
}
const fieldWords = (field: string) =>
  field
    .split('.')
    .map(
      (part) =>
        FIELDS[part] ?? part.replace(/Micros$|Id$/, '').replace(/([a-z])([A-Z])/g, (_, a: string, b: string) => `${a} ${b.toLowerCase()}`)
    )
    .join(', ')

/** Parts of a list that are written out. */
const MOST_PARTS = 8
/** Fields of something new that are told: what has more is told by its name alone. */
const MOST_NEW = 8
/** Longest that one value is. */
const MOST_LETTERS = 160

function words(field: string, value: unknown): string {
  if (value === null || value === undefined || value === '') return 'none'
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (typeof value === 'number') {
    if (field.endsWith('Micros')) return euros(value)
    return field.endsWith('Ppm') ? `${value / 10_000} %` : String(value)
  }
  if (Array.isArray(value)) {
    const plain = value.every((one) => typeof one !== 'object')
    if (value.length === 0) return 'none'
    return plain && value.length <= MOST_PARTS ? value.join(', ') : `${value.length} ${value.length === 1 ? 'entry' : 'entries'}`
  }
  const text = typeof value === 'string' ? value : JSON.stringify(value)
  return text.length > MOST_LETTERS ? `${text.slice(0, MOST_LETTERS)}…` : text
}

/** Fields of an object by their paths, two levels deep. */
function leaves(value: unknown, path = '', depth = 0): [string, unknown][] {
  if (typeof value !== 'object' || value === null || Array.isArray(value) || depth === 2) return path === '' ? [] : [[path, value]]
  return Object.entries(value).flatMap(([name, part]) => leaves(part, path === '' ? name : `${path}.${name}`, depth + 1))
}

/** What differs between two notes of an object that is no line, field by field, as people read it. */
export function plainChanges(was: unknown, became: unknown): FieldChange[] {
  const [before, after] = [new Map(leaves(was)), new Map(leaves(became))]
  if (before.size === 0 && after.size > MOST_NEW) return []
  return [...new Set([...before.keys(), ...after.keys()])]
    .filter((field) => field !== 'version' && JSON.stringify(before.get(field)) !== JSON.stringify(after.get(field)))
    .map((field) => {
      const [old, next] = [words(field, before.get(field)), words(field, after.get(field))]
      return { field: fieldWords(field), before: old, after: old === next ? `${next}, changed` : next }
    })
    .filter(({ before: old, after: next }) => old !== 'none' || next !== 'none')
}
