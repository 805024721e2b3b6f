import { plainAds, type LineDraft } from '../buying/index.js'

/** Fields whose absence says the same as the value. */
const SAYS_NOTHING = new Set<unknown>([null, undefined, false])

/** Leaves out what says no more than its absence, so that two drafts that mean the same are equal. */
export function plainLine(draft: LineDraft): LineDraft {
  const { model, bidMicros, maxMicros, adjustments, repeatDiscount, steps, aim, follow } = draft.price
  const { dailyMicros, totalMicros, ...longer } = draft.budget
  const kept = <T extends object>(fields: T) =>
    Object.fromEntries(
      Object.entries(fields).filter(([, value]) => !SAYS_NOTHING.has(value) && value !== 0 && !(Array.isArray(value) && value.length === 0))
    ) as T
  const {
    name,
    format,
    zone,
    targeting,
    flight,
    pacing,
    caps,
    landing,
    landings,
    onceCleared,
    rotation,
    hours,
    gapMinutes,
    buys,
    viewSeconds
  } = draft
  const ads = plainAds(draft.ads)
  return {
    name,
    format,
    zone,
    targeting: {
      restrictions: targeting.restrictions.map(({ dimension, mode, values, exact, list, group }) => ({
        dimension,
        mode,
        values,
        ...(exact ? { exact } : {}),
        ...(list === undefined ? {} : { list }),
        ...(group ? { group } : {})
      }))
    },
    price: { model, bidMicros, maxMicros, ...kept({ adjustments, repeatDiscount, steps, aim, follow }) },
    ...kept({ hours }),
    flight: { startDate: flight.startDate, endDate: flight.endDate, ...kept({ startHour: flight.startHour, endHour: flight.endHour }) },
    budget: { dailyMicros, totalMicros, ...kept(longer) },
    pacing,
    ...(viewSeconds == null ? {} : { viewSeconds }),
    ...(rotation && rotation !== 'weight' ? { rotation } : {}),
    ...kept({ ads }),
    caps: caps.map(({ times, hours: window }) => ({ times, hours: window })),
    ...kept({ gapMinutes }),
    ...(buys && !(buys.open && buys.deals.length === 0) ? { buys: { open: buys.open, deals: buys.deals } } : {}),
    landing,
    ...kept({ landings: landings?.map(({ countries, devices, link }) => ({ countries, devices, link })) }),
    onceCleared
  }
}
