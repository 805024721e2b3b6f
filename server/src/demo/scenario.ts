import type { CampaignDraft, LineDraft } from '@tin-harbor/core/buying'
import type { Scene } from './pictures.js'

/** Who and what the demo begins with. Nothing here is a result: those come from running the exchange. */
export const DEMO_PASSWORD = 'harbor-lights'

export const USERS = [
  { name: 'Rui Alves', email: 'rui@wharfside.example', role: 'reader', sees: ['Nightjar Telescopes', 'Ostler Cargo Bikes'] },
  { name: 'Inês Duarte', email: 'ines@wharfside.example', role: 'trader', sees: 'all' },
  { name: 'Marta Seixas', email: 'marta@wharfside.example', role: 'admin', sees: 'all' }
] as const

export const ADVERTISERS = [
  { name: 'Nightjar Telescopes', domain: 'nightjar.example', zone: 'Europe/Lisbon' },
  { name: 'Ostler Cargo Bikes', domain: 'ostler.example', zone: 'Europe/Amsterdam' },
  { name: 'Inkwell Kana', domain: 'inkwell.example', zone: 'Europe/Lisbon' }
] as const

export interface DemoLine {
  draft: LineDraft
  scene: Scene
  sizes: readonly string[]
}

function line(
  over: Pick<LineDraft, 'name' | 'flight' | 'landing'> & Partial<LineDraft>,
  where: string[],
  device: string,
  sizes: string[]
): LineDraft {
  return {
    format: 'display',
    zone: 'Europe/Lisbon',
    price: { model: 'CPM', bidMicros: null, maxMicros: null },
    budget: { dailyMicros: null, totalMicros: null },
    pacing: 'even',
    caps: [],
    onceCleared: 'start',
    ...over,
    targeting: {
      restrictions: [
        { dimension: 'where', mode: 'include', values: where },
        { dimension: 'device', mode: 'include', values: [device] },
        { dimension: 'size', mode: 'include', values: sizes }
      ]
    }
  }
}

const euros = (amount: number) => Math.round(amount * 1_000_000)
const WINTER = { startDate: '2026-02-16', endDate: '2026-03-29' }

export const LIVE_CAMPAIGN: { advertiser: string; draft: CampaignDraft; lines: DemoLine[] } = {
  advertiser: 'Nightjar Telescopes',
  draft: { name: 'Clear winter skies', goal: 'visits', flight: WINTER, budget: { totalMicros: euros(1800), dailyMicros: euros(45) } },
  lines: [
    {
      scene: 'night sky',
      sizes: ['300x250', '728x90', '300x600'],
      draft: line(
        {
          name: 'Display, desktop, DE AT',
          flight: WINTER,
          landing: 'https://nightjar.example/winter',
          price: { model: 'CPM', bidMicros: euros(1.2), maxMicros: euros(1.6) },
          budget: { dailyMicros: euros(25), totalMicros: null },
          caps: [{ times: 3, hours: 24 }]
        },
        ['DE', 'AT'],
        'desktop',
        ['300x250', '728x90', '300x600']
      )
    },
    {
      scene: 'night sky',
      sizes: ['320x50', '300x250', '320x100'],
      draft: line(
        {
          name: 'Display, phones, DE AT',
          flight: WINTER,
          landing: 'https://nightjar.example/winter',
          price: { model: 'CPM', bidMicros: euros(0.68), maxMicros: null },
          budget: { dailyMicros: euros(20), totalMicros: null },
          caps: [{ times: 2, hours: 24 }]
        },
        ['DE', 'AT'],
        'phone',
        ['320x50', '300x250', '320x100']
      )
    }
  ]
}

export const DRAFT_CAMPAIGN: typeof LIVE_CAMPAIGN = {
  advertiser: 'Ostler Cargo Bikes',
  draft: {
    name: 'Spring test rides',
    goal: 'conversions',
    flight: { startDate: '2026-03-02', endDate: '2026-03-31' },
    budget: { totalMicros: euros(900), dailyMicros: euros(40) }
  },
  lines: [
    {
      scene: 'cargo bike',
      sizes: ['300x250', '970x250'],
      draft: line(
        {
          name: 'Display, desktop, NL',
          zone: 'Europe/Amsterdam',
          flight: { startDate: '2026-03-03', endDate: '2026-03-31' },
          landing: 'https://ostler.example/test-ride',
          price: { model: 'CPM', bidMicros: euros(1.1), maxMicros: null },
          budget: { dailyMicros: euros(30), totalMicros: null },
          caps: [{ times: 3, hours: 24 }]
        },
        ['NL'],
        'desktop',
        ['300x250', '970x250']
      )
    }
  ]
}

export const MONEY_IN = euros(5200)
/** Monday 16 February 2026, 00:00 UTC: history begins. */
export const HISTORY_FROM = 46 * 24
/** Monday 2 March 2026, 08:00 in Lisbon: the demo begins. */
export const DEMO_HOUR = 60 * 24 + 8
