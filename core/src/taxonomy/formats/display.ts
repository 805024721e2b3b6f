import { shape, slot, type FormatEntry } from './format.js'

/** Slots in CSS pixels, the shapes of the IAB fixed-size portfolio that this market sells. */
export const SIZES = {
  '300x250': shape(['phone', 'tablet', 'desktop'], 900, 0.0021, 1, 1.25, ['article middle', 'article foot', 'side column']),
  '728x90': shape(['tablet', 'desktop'], 850, 0.0015, 1.02, 1.2, ['page head', 'page foot']),
  '320x50': shape(['phone'], 620, 0.0026, 1.05, 1.25, ['sticky foot', 'list, third']),
  '300x600': shape(['desktop'], 1500, 0.0026, 1, 0.8, ['side column, tall']),
  '160x600': shape(['desktop'], 820, 0.0012, 1.04, 0.8, ['left edge']),
  '970x250': shape(['desktop'], 1700, 0.0029, 1.04, 0.7, ['page head, wide']),
  '320x100': shape(['phone'], 800, 0.0028, 1.03, 0.9, ['article head', 'list, fifth']),
  '336x280': shape(['tablet', 'desktop'], 1050, 0.0024, 0.95, 0.8, ['gallery, third', 'article middle'])
}

export const DISPLAY = {
  shapes: {
    ...SIZES,
    'interstitial, upright': shape(['phone', 'tablet'], 1900, 0.0045, 1.2, 0.35, ['between screens', 'on opening']),
    'interstitial, wide': shape(['tablet', 'console', 'phone'], 1700, 0.004, 1.2, 0.35, ['between levels'])
  },
  models: ['CPM', 'CPC'],
  usualModel: 'CPM',
  slots: {
    site: [
      slot('300x250', 1),
      slot('728x90', 0.5),
      slot('320x50', 0.5),
      slot('300x600', 0.35),
      slot('160x600', 0.3),
      slot('970x250', 0.3),
      slot('320x100', 0.3),
      slot('336x280', 0.3),
      slot('interstitial, upright', 0.15)
    ],
    app: [slot('320x50', 1), slot('300x250', 0.6), slot('320x100', 0.4), slot('728x90', 0.25), slot('interstitial, upright', 0.5)],
    game: [slot('320x50', 1), slot('interstitial, upright', 0.9), slot('interstitial, wide', 0.35)],
    'social feed': [slot('300x250', 0.3, { turn: 1 })],
    'mail inbox': [slot('728x90', 0.6), slot('300x250', 0.6), slot('160x600', 0.4)],
    newsletter: [slot('300x250', 1), slot('728x90', 0.5)]
  },
  onDevices: { phone: 48, tablet: 44, desktop: 55, console: 25 },
  carriedBy: { Tidewater: 30, Northgate: 20, Pennant: 18, Hatchway: 16, Sluice: 14, Graven: 7 },
  kinds: { display: { price: 610, viewable: 0.55, clicks: 0.0028, stays: 0.71 } },
  kindOf: () => 'display',
  converts: { purchase: 1, booking: 1, trial: 1 },
  lifts: 0.08
} as const satisfies FormatEntry
