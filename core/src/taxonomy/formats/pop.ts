import { shape, slot, type FormatEntry } from './format.js'

export const POP = {
  shapes: {
    'whole page': shape(['phone', 'tablet', 'desktop'], 1300, 0.02, 1.3, 1.2, ['new page']),
    'redirect visit': shape(['phone', 'tablet', 'desktop'], 3000, 0.02, 1.4, 0.8, ['redirected visit'])
  },
  models: ['CPM', 'visit'],
  usualModel: 'visit',
  arrives: true,
  slots: {
    anonymous: [
      slot('whole page', 1),
      slot('whole page', 0.9),
      slot('whole page', 0.7),
      slot('redirect visit', 0.8),
      slot('redirect visit', 0.4)
    ]
  },
  onDevices: { phone: 10.5, tablet: 8, desktop: 9.5 },
  carriedBy: { Tidewater: 4, Pennant: 14, Hatchway: 6, Sluice: 34 },
  kinds: {
    pop: { price: 820, viewable: 0.72, clicks: 0.02, stays: 0.055 },
    redirect: { price: 2050, viewable: 0.75, clicks: 0.02, stays: 0.055 }
  },
  kindOf: (name) => (name === 'redirect visit' ? 'redirect' : 'pop'),
  // Who is sent by a pop did not ask for anything, and pays for nothing.
  converts: { purchase: 0.0115, booking: 0.006, trial: 0.064 },
  lifts: 0.06
} as const satisfies FormatEntry
