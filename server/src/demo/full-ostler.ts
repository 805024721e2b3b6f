import { PHONE_SIZES, dayOf, daily, cpm, perDay, display, placed } from './full-parts.js'
import { DEMO_HOUR, euros, line, type DemoCampaign, type DemoLine } from './scenario.js'

/** Evenings of every day, by the viewer's clock. */
const EVENINGS = { clock: 'viewer' as const, perMille: Array.from({ length: 168 }, (_, n) => (n % 24 >= 18 && n % 24 < 23 ? 1000 : 0)) }
const RIDES_LINK = 'https://ostler.example/test-ride'
const RIDES_FLIGHT = { startDate: '2026-02-09', endDate: '2026-03-31' }
const RIDES: readonly DemoLine[] = [
  {
    liveFrom: dayOf(9),
    scene: 'cargo bike',
    sizes: ['300x250', '970x250'],
    tags: ['spring'],
    draft: line({
      name: 'Display, desktop, NL',
      zone: 'Europe/Amsterdam',
      flight: RIDES_FLIGHT,
      landing: RIDES_LINK,
      price: cpm(1.1),
      budget: daily(14),
      caps: perDay(3),
      targeting: display(['NL'], 'desktop', ['300x250', '970x250'])
    })
  },
  {
    liveFrom: dayOf(9),
    scene: 'cargo bike',
    sizes: PHONE_SIZES,
    tags: ['spring'],
    follows: { list: 'Never again', mode: 'exclude' },
    draft: line({
      name: 'Display, phones, NL',
      zone: 'Europe/Amsterdam',
      flight: RIDES_FLIGHT,
      landing: RIDES_LINK,
      price: cpm(0.7),
      budget: daily(10),
      caps: perDay(2),
      targeting: display(['NL'], 'phone', PHONE_SIZES)
    })
  },
  {
    // Behind for a good reason: evenings alone, near two shops.
    liveFrom: dayOf(16),
    scene: 'cargo bike',
    sizes: PHONE_SIZES,
    tags: ['spring', 'shops'],
    draft: line({
      name: 'Display, phones, near the shops',
      zone: 'Europe/Amsterdam',
      flight: { startDate: '2026-02-16', endDate: '2026-03-31' },
      landing: RIDES_LINK,
      price: cpm(1.4),
      budget: daily(9),
      hours: EVENINGS,
      caps: perDay(3),
      targeting: display(['near:52.37,4.89,30', 'near:52.09,5.12,20'], 'phone', PHONE_SIZES)
    })
  },
  {
    liveFrom: dayOf(12),
    made: ['A box on wheels, native'],
    tags: ['spring'],
    draft: line({
      name: 'Native, NL BE, towards test rides',
      format: 'native',
      zone: 'Europe/Amsterdam',
      flight: { startDate: '2026-02-12', endDate: '2026-03-31' },
      landing: RIDES_LINK,
      price: { model: 'CPM', bidMicros: euros(1.5), maxMicros: euros(5), aim: { event: 'conversion', micros: euros(45) } },
      budget: daily(9),
      caps: perDay(3),
      targeting: placed(['NL', 'BE'])
    })
  },
  {
    // Sent on a Friday: one of its ads was cleared, the other refused.
    liveFrom: dayOf(27, 9),
    isLookedAt: true,
    made: ['Saturday, native', 'Saddle up, native'],
    tags: ['spring'],
    draft: line({
      name: 'Native, desktop, DE, new words',
      format: 'native',
      zone: 'Europe/Amsterdam',
      flight: { startDate: '2026-02-27', endDate: '2026-03-31' },
      landing: RIDES_LINK,
      price: cpm(1.2),
      budget: daily(4),
      caps: perDay(3),
      targeting: placed(['DE'], 'desktop')
    })
  },
  {
    // Sent as the demo begins: it is being looked at.
    liveFrom: DEMO_HOUR,
    isLookedAt: true,
    made: ['Saturday, native', 'Dry, native'],
    tags: ['spring'],
    draft: line({
      name: 'Native, tablets, NL BE, new words',
      format: 'native',
      zone: 'Europe/Amsterdam',
      flight: { startDate: '2026-03-02', endDate: '2026-03-31' },
      landing: RIDES_LINK,
      price: cpm(1.1),
      budget: daily(4),
      caps: perDay(3),
      targeting: placed(['NL', 'BE'], 'tablet')
    })
  }
]

const SCHOOL: readonly DemoLine[] = [
  {
    liveFrom: dayOf(2),
    scene: 'cargo bike',
    sizes: ['300x250'],
    draft: line({
      name: 'Display, tablets, BE',
      zone: 'Europe/Amsterdam',
      flight: { startDate: '2026-02-02', endDate: '2026-03-08' },
      landing: RIDES_LINK,
      price: cpm(0.9),
      budget: daily(4),
      caps: perDay(2),
      targeting: display(['BE'], 'tablet', ['300x250'])
    })
  },
  {
    liveFrom: dayOf(2),
    made: ['Test ride, notification'],
    draft: line({
      name: 'Notifications, phones, NL',
      format: 'native',
      zone: 'Europe/Amsterdam',
      flight: { startDate: '2026-02-02', endDate: '2026-03-08' },
      landing: RIDES_LINK,
      price: cpm(1.1),
      budget: daily(4),
      caps: [{ times: 2, hours: 168 }],
      targeting: placed(['NL'], 'phone')
    })
  },
  {
    liveFrom: dayOf(2),
    scene: 'cargo bike',
    sizes: ['728x90'],
    draft: line({
      name: 'Display, desktop, BE',
      zone: 'Europe/Amsterdam',
      flight: { startDate: '2026-02-02', endDate: '2026-03-08' },
      landing: RIDES_LINK,
      price: cpm(0.8),
      budget: daily(4),
      targeting: display(['BE'], 'desktop', ['728x90'])
    })
  }
]

/** What the team made for Ostler Cargo Bikes. */
export const OSTLER: readonly DemoCampaign[] = [
  {
    advertiser: 'Ostler Cargo Bikes',
    draft: {
      name: 'Spring test rides',
      goal: 'conversions',
      flight: RIDES_FLIGHT,
      budget: { totalMicros: euros(2000), dailyMicros: euros(42) },
      target: { measure: 'CPA', value: euros(40) },
      note: 'A test ride is booked online; the shops in Amsterdam and Utrecht count visits too.'
    },
    lines: RIDES
  },
  {
    advertiser: 'Ostler Cargo Bikes',
    draft: {
      name: 'The school run',
      goal: 'reach',
      flight: { startDate: '2026-02-02', endDate: '2026-03-08' },
      budget: { totalMicros: euros(400), dailyMicros: null },
      caps: [{ times: 6, hours: 168 }]
    },
    lines: SCHOOL
  }
]
