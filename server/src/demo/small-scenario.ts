import { euros, include, line, type DemoCampaign, type DemoUser, type Scenario } from './scenario.js'

/** Monday 16 February 2026, 00:00 UTC. */
const FROM = 46 * 24
const WINTER = { startDate: '2026-02-16', endDate: '2026-03-29' }

export const TEAM: readonly DemoUser[] = [
  { name: 'Rui Alves', email: 'rui@wharfside.example', role: 'reader', sees: ['Nightjar Telescopes', 'Ostler Cargo Bikes'] },
  { name: 'Inês Duarte', email: 'ines@wharfside.example', role: 'trader', sees: 'all' },
  { name: 'Marta Seixas', email: 'marta@wharfside.example', role: 'admin', sees: 'all' }
]

const LIVE: DemoCampaign = {
  advertiser: 'Nightjar Telescopes',
  draft: { name: 'Clear winter skies', goal: 'visits', flight: WINTER, budget: { totalMicros: euros(1800), dailyMicros: euros(45) } },
  lines: [
    {
      liveFrom: FROM,
      scene: 'night sky',
      sizes: ['300x250', '728x90', '300x600'],
      draft: line({
        name: 'Display, desktop, DE AT',
        flight: WINTER,
        landing: 'https://nightjar.example/winter',
        price: { model: 'CPM', bidMicros: euros(1.2), maxMicros: euros(1.6) },
        budget: { dailyMicros: euros(25), totalMicros: null },
        caps: [{ times: 3, hours: 24 }],
        targeting: {
          restrictions: [include('where', 'DE', 'AT'), include('device', 'desktop'), include('size', '300x250', '728x90', '300x600')]
        }
      })
    },
    {
      liveFrom: FROM,
      scene: 'night sky',
      sizes: ['320x50', '300x250', '320x100'],
      draft: line({
        name: 'Display, phones, DE AT',
        flight: WINTER,
        landing: 'https://nightjar.example/winter',
        price: { model: 'CPM', bidMicros: euros(0.68), maxMicros: null },
        budget: { dailyMicros: euros(20), totalMicros: null },
        caps: [{ times: 2, hours: 24 }],
        targeting: {
          restrictions: [include('where', 'DE', 'AT'), include('device', 'phone'), include('size', '320x50', '300x250', '320x100')]
        }
      })
    }
  ]
}

const DRAFT: DemoCampaign = {
  advertiser: 'Ostler Cargo Bikes',
  draft: {
    name: 'Spring test rides',
    goal: 'conversions',
    flight: { startDate: '2026-03-02', endDate: '2026-03-31' },
    budget: { totalMicros: euros(900), dailyMicros: euros(40) }
  },
  lines: [
    {
      liveFrom: null,
      scene: 'cargo bike',
      sizes: ['300x250', '970x250'],
      draft: line({
        name: 'Display, desktop, NL',
        zone: 'Europe/Amsterdam',
        flight: { startDate: '2026-03-03', endDate: '2026-03-31' },
        landing: 'https://ostler.example/test-ride',
        price: { model: 'CPM', bidMicros: euros(1.1), maxMicros: null },
        budget: { dailyMicros: euros(30), totalMicros: null },
        caps: [{ times: 3, hours: 24 }],
        targeting: { restrictions: [include('where', 'NL'), include('device', 'desktop'), include('size', '300x250', '970x250')] }
      })
    }
  ]
}

/** Two weeks of one campaign, and a draft: made in seconds, for tests. */
export const SMALL: Scenario = {
  users: TEAM,
  moneyInMicros: euros(5200),
  from: FROM,
  campaigns: [LIVE, DRAFT],
  deeds: [],
  creatives: {}
}
