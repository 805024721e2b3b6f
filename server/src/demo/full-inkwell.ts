import { dayOf, daily, cpm, perDay, display, placed } from './full-parts.js'
import { euros, line, type DemoCampaign, type DemoLine } from './scenario.js'

const TRIAL = 'https://inkwell.example/start'
const KANA: readonly DemoLine[] = [
  {
    liveFrom: dayOf(2),
    made: ['First kana, page', 'First kana, redirect'],
    draft: line({
      name: 'Pop, phones, US GB, by the visit',
      format: 'pop',
      flight: { startDate: '2026-02-02', endDate: null },
      landing: TRIAL,
      price: { model: 'visit', bidMicros: 2200, maxMicros: null },
      budget: daily(12),
      caps: [{ times: 1, hours: 24 }],
      targeting: placed(['US', 'GB'], 'phone')
    })
  },
  {
    liveFrom: dayOf(2),
    made: ['First kana, page'],
    draft: line({
      name: 'Pop, desktop, US',
      format: 'pop',
      flight: { startDate: '2026-02-02', endDate: null },
      landing: TRIAL,
      price: cpm(1.6),
      budget: daily(10),
      caps: [{ times: 1, hours: 24 }],
      targeting: placed(['US'], 'desktop')
    })
  },
  {
    liveFrom: dayOf(5),
    made: ['Ten minutes of kana, native'],
    tags: ['aim'],
    draft: line({
      name: 'Native, GB US, towards trials at 14',
      format: 'native',
      flight: { startDate: '2026-02-05', endDate: null },
      landing: TRIAL,
      price: { model: 'CPM', bidMicros: euros(1.2), maxMicros: euros(6), aim: { event: 'conversion', micros: euros(14) } },
      budget: daily(10),
      caps: perDay(2),
      targeting: placed(['GB', 'US'])
    })
  },
  {
    // Asks for more than the market gives.
    liveFrom: dayOf(5),
    scene: 'brush strokes',
    sizes: ['300x250', '320x100'],
    tags: ['aim'],
    draft: line({
      name: 'Display, phones, US, towards trials at 2',
      flight: { startDate: '2026-02-05', endDate: null },
      landing: TRIAL,
      price: { model: 'CPM', bidMicros: euros(0.8), maxMicros: euros(4), aim: { event: 'conversion', micros: euros(2) } },
      budget: daily(8),
      caps: perDay(2),
      targeting: display(['US'], 'phone', ['300x250', '320x100'])
    })
  },
  {
    liveFrom: null,
    scene: 'brush strokes',
    sizes: ['300x250'],
    draft: line({
      name: 'Display, desktop, CA',
      flight: { startDate: '2026-03-04', endDate: null },
      landing: TRIAL,
      price: cpm(1),
      budget: daily(8),
      caps: perDay(3),
      targeting: display(['CA'], 'desktop', ['300x250'])
    })
  }
]

const COMMUTE_FLIGHT = { startDate: '2026-02-16', endDate: '2026-03-04' }
const COMMUTE: readonly DemoLine[] = [
  {
    // Near its end.
    liveFrom: dayOf(16),
    made: ['Kana on the train, spoken'],
    draft: line({
      name: 'Audio, GB, music',
      format: 'audio',
      flight: COMMUTE_FLIGHT,
      landing: TRIAL,
      price: cpm(3.6),
      budget: daily(6),
      caps: perDay(2),
      targeting: placed(['GB'])
    })
  },
  {
    liveFrom: dayOf(16),
    made: ['One stroke, 15 s'],
    draft: line({
      name: 'Video, phones, US, by the view',
      format: 'video',
      flight: { ...COMMUTE_FLIGHT, endDate: '2026-03-22' },
      landing: TRIAL,
      price: { model: 'view', bidMicros: 7000, maxMicros: null },
      budget: daily(8),
      caps: [{ times: 3, hours: 168 }],
      targeting: placed(['US'], 'phone')
    })
  },
  {
    // A day old: it is learning.
    liveFrom: dayOf(29),
    made: ['One stroke, 15 s'],
    draft: line({
      name: 'Video, phones, GB, towards views',
      format: 'video',
      flight: { startDate: '2026-03-01', endDate: '2026-03-22' },
      landing: TRIAL,
      price: { model: 'CPM', bidMicros: euros(4), maxMicros: euros(8), aim: { event: 'view', micros: 9000 } },
      budget: daily(8),
      caps: [{ times: 3, hours: 168 }],
      targeting: placed(['GB'], 'phone')
    })
  }
]

/** What the team made for Inkwell Kana. */
export const INKWELL: readonly DemoCampaign[] = [
  {
    advertiser: 'Inkwell Kana',
    draft: {
      name: 'First kana',
      goal: 'conversions',
      flight: { startDate: '2026-02-02', endDate: null },
      budget: { totalMicros: null, dailyMicros: euros(40) },
      target: { measure: 'CPA', value: euros(12) }
    },
    lines: KANA
  },
  {
    advertiser: 'Inkwell Kana',
    draft: {
      name: 'Kana for the commute',
      goal: 'views',
      flight: { startDate: '2026-02-16', endDate: '2026-03-22' },
      budget: { totalMicros: euros(600), dailyMicros: euros(22) }
    },
    lines: COMMUTE
  }
]
