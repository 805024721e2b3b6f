import { shape, slot, type FormatEntry } from './format.js'

export const VIDEO = {
  shapes: {
    'small player': shape(['desktop', 'tablet', 'phone'], 5200, 0.0036, 1.05, 0.5, ['beside the text']),
    'medium player': shape(['phone', 'tablet', 'desktop', 'console'], 7000, 0.0048, 1.2, 0.65, ['in the text', 'in the feed']),
    'large player': shape(['desktop', 'tablet', 'TV', 'console', 'set-top box'], 8200, 0.004, 1.3, 0.75, ['full width'])
  },
  models: ['CPM', 'view'],
  usualModel: 'CPM',
  watched: {
    usualSeconds: 20,
    reachesEnd: ({ television, rewarded, skippable }) => (television ? 0.955 : rewarded ? 0.88 : skippable ? 0.3 : 0.82),
    isFilm: true
  },
  slots: {
    site: [
      slot('small player', 0.15, { video: 'outstream' }),
      slot('medium player', 0.25, { video: 'pre-roll' }),
      slot('large player', 0.12, { video: 'mid-roll' })
    ],
    app: [slot('medium player', 0.25, { video: 'outstream' })],
    game: [slot('medium player', 0.8, { video: 'mid-roll', rewarded: true })],
    'social feed': [slot('medium player', 0.9, { video: 'outstream' })],
    channel: [
      slot('large player', 1, { video: 'pre-roll' }),
      slot('large player', 1, { video: 'mid-roll' }),
      slot('large player', 0.6, { video: 'mid-roll' }),
      slot('large player', 0.35, { video: 'post-roll' }),
      slot('medium player', 0.3, { video: 'pre-roll' })
    ]
  },
  onDevices: { phone: 11, tablet: 13, desktop: 11, TV: 93, console: 75, 'set-top box': 100 },
  carriedBy: { Tidewater: 18, Northgate: 26, Pennant: 8, Hatchway: 14, Sluice: 4, Graven: 18 },
  kinds: {
    'web and app video': { price: 4200, viewable: 0.67, clicks: 0.0047, stays: 0.71 },
    television: { price: 13_000, viewable: 0.97, clicks: 0, stays: 0.71 }
  },
  kindOf: (_, property) => (property.class === 'channel' ? 'television' : 'web and app video'),
  // Few click on a film, but they know what they come for.
  converts: { purchase: 4.15, booking: 2.7, trial: 2.2 },
  lifts: 0.22,
  liftsOnTelevision: 0.28
} as const satisfies FormatEntry
