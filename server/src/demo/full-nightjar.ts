import { DESKTOP_SIZES, PHONE_SIZES, dayOf, daily, cpm, perDay, display, placed } from './full-parts.js'
import { euros, include, line, type DemoCampaign, type DemoLine } from './scenario.js'

const WINTER = { startDate: '2026-02-02', endDate: '2026-03-29' }
const SKY = 'https://nightjar.example/winter'

const SKIES: readonly DemoLine[] = [
  {
    liveFrom: dayOf(2),
    scene: 'night sky',
    sizes: DESKTOP_SIZES,
    tags: ['winter', 'core'],
    draft: line({
      name: 'Display, desktop, DE AT',
      flight: WINTER,
      landing: SKY,
      price: cpm(1.2, 1.6),
      budget: daily(22),
      caps: perDay(3),
      targeting: display(['DE', 'AT'], 'desktop', DESKTOP_SIZES)
    })
  },
  {
    liveFrom: dayOf(2),
    scene: 'night sky',
    sizes: PHONE_SIZES,
    tags: ['winter', 'core'],
    draft: line({
      name: 'Display, phones, DE AT',
      flight: WINTER,
      landing: SKY,
      price: cpm(0.68),
      budget: daily(14),
      caps: perDay(2),
      targeting: display(['DE', 'AT'], 'phone', PHONE_SIZES)
    })
  },
  {
    liveFrom: dayOf(4),
    made: ['Winter sky, native'],
    tags: ['winter'],
    draft: line({
      name: 'Native, phones, DE, by the click',
      format: 'native',
      flight: { startDate: '2026-02-04', endDate: '2026-03-29' },
      landing: SKY,
      price: { model: 'CPC', bidMicros: euros(0.22), maxMicros: euros(0.4) },
      budget: daily(8),
      caps: perDay(2),
      targeting: placed(['DE'], 'phone')
    })
  },
  {
    // Just over the lowest floor: it hardly spends, and its page says why.
    liveFrom: dayOf(9),
    scene: 'night sky',
    sizes: ['300x600'],
    draft: line({
      name: 'Display, desktop, CH, for a song',
      flight: { startDate: '2026-02-09', endDate: '2026-03-29' },
      landing: SKY,
      price: cpm(0.06),
      budget: daily(6),
      targeting: display(['CH'], 'desktop', ['300x600'])
    })
  },
  {
    // Dearer than its money needs: the same is won for much less.
    liveFrom: dayOf(9),
    scene: 'night sky',
    sizes: ['300x250'],
    draft: line({
      name: 'Display, desktop, FR, dear',
      flight: { startDate: '2026-02-09', endDate: '2026-03-29' },
      landing: SKY,
      price: cpm(7.5),
      budget: daily(5),
      targeting: display(['FR'], 'desktop', ['300x250'])
    })
  },
  {
    liveFrom: dayOf(16),
    scene: 'night sky',
    sizes: ['300x250', '728x90'],
    tags: ['deal'],
    draft: line({
      name: 'Display, by deal 303, DE',
      flight: { startDate: '2026-02-16', endDate: '2026-03-29' },
      landing: SKY,
      price: cpm(0.6),
      budget: daily(6),
      targeting: { restrictions: [include('where', 'DE'), include('size', '300x250', '728x90')] },
      buys: { open: false, deals: [303] }
    })
  },
  {
    liveFrom: null,
    template: true,
    scene: 'night sky',
    sizes: DESKTOP_SIZES,
    draft: line({
      name: 'Display, desktop, a country',
      flight: WINTER,
      landing: SKY,
      price: cpm(1),
      budget: daily(10),
      caps: perDay(3),
      targeting: display(['PL'], 'desktop', DESKTOP_SIZES)
    })
  }
]

const FILMS: readonly DemoLine[] = [
  {
    liveFrom: dayOf(9),
    made: ['Winter sky, 30 s'],
    draft: line({
      name: 'Video, desktop, DE, by the view',
      format: 'video',
      flight: { startDate: '2026-02-09', endDate: '2026-03-15' },
      landing: SKY,
      price: { model: 'view', bidMicros: 9000, maxMicros: null },
      budget: daily(10),
      caps: [{ times: 3, hours: 168 }],
      targeting: placed(['DE'], 'desktop')
    })
  },
  {
    liveFrom: dayOf(9),
    made: ['Winter sky, 30 s'],
    tags: ['deal'],
    draft: line({
      name: 'Television, DE AT, deal and open market',
      format: 'video',
      flight: { startDate: '2026-02-09', endDate: '2026-03-15' },
      landing: SKY,
      price: cpm(9, 12),
      budget: daily(9),
      caps: [{ times: 4, hours: 168 }],
      targeting: placed(['DE', 'AT'], 'TV'),
      buys: { open: true, deals: [304] }
    })
  },
  {
    liveFrom: dayOf(9),
    made: ['Winter sky, spoken'],
    draft: line({
      name: 'Audio, DE, on the way',
      format: 'audio',
      flight: { startDate: '2026-02-09', endDate: '2026-03-15' },
      landing: SKY,
      price: cpm(4.2),
      budget: daily(5),
      caps: perDay(1),
      targeting: placed(['DE'])
    })
  }
]

/** What the team made for Nightjar Telescopes. */
export const NIGHTJAR: readonly DemoCampaign[] = [
  {
    advertiser: 'Nightjar Telescopes',
    draft: {
      name: 'Clear winter skies',
      goal: 'revenue',
      flight: WINTER,
      budget: { totalMicros: euros(3000), dailyMicros: euros(60) },
      target: { measure: 'ROAS', value: 1300 },
      note: 'Telescopes are sold online in Germany, Austria, Switzerland and France. The offer ends with March.'
    },
    lines: SKIES
  },
  {
    advertiser: 'Nightjar Telescopes',
    draft: {
      name: 'The sky, moving',
      goal: 'views',
      flight: { startDate: '2026-02-09', endDate: '2026-03-15' },
      budget: { totalMicros: euros(800), dailyMicros: euros(25) },
      target: { measure: 'cost per view', value: 9000 }
    },
    lines: FILMS
  }
]
