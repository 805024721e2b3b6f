import type { LineDraft } from '../../src/buying/index.js'
import type { Restriction } from '../../src/targeting/index.js'

export const include = (dimension: Restriction['dimension'], ...values: string[]): Restriction => ({ dimension, mode: 'include', values })
/** A line that passes preflight beside its ads. */
export const draftOf = (over: Partial<LineDraft> = {}): LineDraft => ({
  name: 'Display, phones, PT',
  format: 'display',
  zone: 'Europe/Lisbon',
  targeting: { restrictions: [include('where', 'PT'), include('device', 'phone')] },
  price: { model: 'CPM', bidMicros: 2_000_000, maxMicros: null },
  flight: { startDate: '2026-03-02', endDate: '2026-03-31' },
  budget: { dailyMicros: 4_000_000, totalMicros: null },
  pacing: 'even',
  caps: [{ times: 3, hours: 24 }],
  landing: 'https://kana.example',
  onceCleared: 'wait',
  ...over
})
