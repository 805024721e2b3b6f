/**
 * A question to the forecast that asks for nothing in particular: a display line by the thousand, open for a week.
 * @param {any} core @param {any} over
 */
export const blankQuestion = (core, over) => ({
  targeting: { restrictions: [] },
  shapes: [],
  price: { model: 'CPM', bidMicros: 1_500_000, maxMicros: null },
  hours: null,
  caps: [],
  gapMinutes: 0,
  campaignCaps: [],
  buys: core.OPEN_MARKET,
  dataMicros: 0,
  pacing: 'even',
  limits: core.NO_LIMITS,
  spent: core.NOTHING_SPENT,
  campaignLimits: core.NO_LIMITS,
  campaignSpent: core.NOTHING_SPENT,
  sharers: [],
  zone: 'UTC',
  startHour: 1440,
  endHour: 1440 + 168,
  nowHour: 1440,
  exposures: { person: [], minute: [] },
  ...over
})
