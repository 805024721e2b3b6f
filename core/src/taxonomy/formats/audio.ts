import { shape, slot, type FormatEntry } from './format.js'

export const AUDIO = {
  shapes: {
    'audio spot': shape(['phone', 'tablet', 'desktop', 'TV'], 7200, 0.0005, 1.6, 0.8, ['first spot', 'middle spot', 'last spot'])
  },
  models: ['CPM', 'view'],
  usualModel: 'CPM',
  watched: { usualSeconds: 30, reachesEnd: () => 0.94, isFilm: false },
  slots: {
    show: [
      slot('audio spot', 1, { video: 'pre-roll' }),
      slot('audio spot', 0.85, { video: 'mid-roll' }),
      slot('audio spot', 0.4, { video: 'post-roll' })
    ]
  },
  onDevices: { phone: 11.5, tablet: 20, desktop: 8.5, TV: 7 },
  carriedBy: { Tidewater: 8, Northgate: 14, Pennant: 4, Hatchway: 24, Sluice: 2, Graven: 10 },
  kinds: {
    music: { price: 5500, viewable: 0.88, clicks: 0.0005, stays: 0.71 },
    podcast: { price: 9800, viewable: 0.88, clicks: 0.0005, stays: 0.71 }
  },
  kindOf: (_, property) => (property.show === 'podcast' ? 'podcast' : 'music'),
  converts: { purchase: 1.5, booking: 1.2, trial: 1.4 },
  lifts: 0.14
} as const satisfies FormatEntry
