import type { CampaignDraft, LineDraft, Role } from '@tin-harbor/core/buying'
import type { Scene } from './pictures.js'

/** What a demo begins with and what a team did in it. Nothing here is a result: those come from running the exchange. */
export interface Scenario {
  users: readonly DemoUser[]
  moneyInMicros: number
  /** The market hour at which history begins. */
  from: number
  campaigns: readonly DemoCampaign[]
  /** What the team did besides, in the order of the hours. */
  deeds: readonly Deed[]
  /** Creatives of an advertiser beside those that every demo has, each checked by its schema. */
  creatives: Readonly<Record<string, readonly object[]>>
}

export interface DemoUser {
  name: string
  email: string
  role: Role
  sees: 'all' | readonly string[]
}

export interface DemoCampaign {
  advertiser: string
  draft: CampaignDraft
  lines: readonly DemoLine[]
}

export interface DemoLine {
  draft: LineDraft
  /** Pictures that are drawn for it. */
  scene?: Scene
  sizes?: readonly string[]
  /** Creatives made of parts, by name. */
  made?: readonly string[]
  /** Market hour at which it is put live; null for one that stays a draft. */
  liveFrom: number | null
  /** Whether the reviewer takes its time over it: the others were cleared long ago. */
  isLookedAt?: boolean
  tags?: readonly string[]
  template?: boolean
  /** A saved list that it follows, by name. */
  follows?: { list: string; mode: 'include' | 'exclude' }
}

/** Something that somebody did at an hour, to lines by name. */
export type Deed = { hour: number; by: string } & (
  | { does: 'leave out what is dearer'; line: string }
  | { does: 'end'; line: string }
  | { does: 'edit'; line: string; change: (draft: LineDraft) => LineDraft }
  | { does: 'slip'; name: string; items: readonly { line: string; fields: readonly string[] }[] }
)

export const DEMO_PASSWORD = 'harbor-lights'

export const ADVERTISERS = [
  { name: 'Nightjar Telescopes', domain: 'nightjar.example', zone: 'Europe/Lisbon' },
  { name: 'Ostler Cargo Bikes', domain: 'ostler.example', zone: 'Europe/Amsterdam' },
  { name: 'Inkwell Kana', domain: 'inkwell.example', zone: 'Europe/Lisbon' }
] as const

/** Monday 2 March 2026, 08:00 in Lisbon: a demo begins. */
export const DEMO_HOUR = 60 * 24 + 8

export const euros = (amount: number) => Math.round(amount * 1_000_000)
export const include = (dimension: LineDraft['targeting']['restrictions'][number]['dimension'], ...values: string[]) => ({
  dimension,
  mode: 'include' as const,
  values
})

/** A line that wants only what makes it different. */
export function line(over: Pick<LineDraft, 'name' | 'flight' | 'landing'> & Partial<LineDraft>): LineDraft {
  return {
    format: 'display',
    zone: 'Europe/Lisbon',
    targeting: { restrictions: [] },
    price: { model: 'CPM', bidMicros: null, maxMicros: null },
    budget: { dailyMicros: null, totalMicros: null },
    pacing: 'even',
    caps: [],
    onceCleared: 'start',
    ...over
  }
}
