import { shape, slot, type FormatEntry } from './format.js'

export const NATIVE = {
  shapes: {
    'native card': shape(['phone', 'tablet', 'desktop'], 1650, 0.0075, 1.12, 0.95, ['feed, fourth', 'end of article']),
    'native row': shape(['phone', 'tablet', 'desktop'], 1250, 0.0058, 1.05, 0.95, ['list, second', 'list, ninth']),
    notification: shape(['phone', 'desktop'], 1000, 0.009, 1.25, 0.4, ['notification'])
  },
  models: ['CPM', 'CPC'],
  usualModel: 'CPM',
  slots: {
    site: [slot('native card', 0.4), slot('native row', 0.25), slot('notification', 0.12)],
    app: [slot('native row', 0.5), slot('notification', 0.35)],
    game: [slot('native card', 0.25, { turn: 1 })],
    'social feed': [slot('native card', 1), slot('native row', 0.8)],
    'mail inbox': [slot('native row', 1, { turn: -1 })],
    newsletter: [slot('native row', 0.5)]
  },
  onDevices: { phone: 19, tablet: 15, desktop: 16 },
  carriedBy: { Tidewater: 14, Northgate: 10, Pennant: 20, Hatchway: 18, Sluice: 12, Graven: 6 },
  kinds: { native: { price: 1000, viewable: 0.63, clicks: 0.0068, stays: 0.71 } },
  kindOf: () => 'native',
  converts: { purchase: 0.95, booking: 0.86, trial: 1 },
  lifts: 0.1
} as const satisfies FormatEntry
