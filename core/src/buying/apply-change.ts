import { leavingOut, withoutHours, type Change } from '../forecast/index.js'
import type { LineDraft } from './line.js'
import { restrictionWords } from './words.js'

/** A draft with changes made to it; the same that the forecast measured. */
export function withChanges(draft: LineDraft, changes: readonly Change[]): LineDraft {
  return changes.reduce(withChange, draft)
}

function withChange(draft: LineDraft, change: Change): LineDraft {
  switch (change.kind) {
    // A line with an aim has no bid but the most that it may bid.
    case 'bid':
      return draft.price.aim
        ? { ...draft, price: { ...draft.price, maxMicros: change.micros } }
        : {
            ...draft,
            price: {
              ...draft.price,
              bidMicros: change.micros,
              maxMicros: draft.price.maxMicros === null ? null : Math.max(draft.price.maxMicros, change.micros)
            }
          }
    case 'maximum':
      return { ...draft, price: { ...draft.price, maxMicros: change.micros } }
    case 'daily budget':
      return { ...draft, budget: { ...draft.budget, dailyMicros: change.micros } }
    case 'cap':
      return {
        ...draft,
        caps: draft.caps.flatMap((cap, n) => (n !== change.cap ? [cap] : change.times === null ? [] : [{ ...cap, times: change.times }]))
      }
    case 'gap':
      return { ...draft, gapMinutes: change.minutes }
    case 'hours':
      return { ...draft, hours: null }
    case 'hours out':
      return { ...draft, hours: withoutHours(draft.hours, change.hours) }
    case 'follow':
      return { ...draft, price: { ...draft.price, follow: true, maxMicros: draft.price.maxMicros ?? draft.price.bidMicros } }
    case 'pacing':
      return { ...draft, pacing: change.pacing }
    case 'restriction':
      return { ...draft, targeting: { restrictions: draft.targeting.restrictions.filter((_, place) => place !== change.place) } }
    case 'left out':
      return { ...draft, targeting: leavingOut(draft.targeting, change.dimension, change.values) }
  }
}

/** A line with an aim has no bid but the most that it may bid. */
function bidOrder({ price: { aim, bidMicros, maxMicros } }: LineDraft, micros: number, amount: (micros: number) => string): string {
  const now = (aim ? maxMicros : bidMicros) ?? 0
  return `${micros < now ? 'lower' : 'raise'} the ${aim ? 'maximum' : 'bid'} to ${amount(micros)}`
}

const PACING_SAID = { even: 'evenly', traffic: 'with the traffic', fast: 'as fast as it can' } as const

/** "1:00 to 4:00 and 23:00 to 24:00", from hours in rising order. */
function hoursSaid(hours: readonly number[]): string {
  const runs: [number, number][] = []
  for (const hour of hours) {
    const last = runs[runs.length - 1]
    if (last && last[1] === hour) last[1] = hour + 1
    else runs.push([hour, hour + 1])
  }
  return runs.map(([from, to]) => `${from}:00 to ${to}:00`).join(' and ')
}

function leftOutSaid({ dimension, values }: Extract<Change, { kind: 'left out' }>): string {
  if (dimension === 'size') return `leave out the ${values.length === 1 ? 'slot' : 'slots'} ${values.join(', ')}`
  return values.length === 1
    ? `leave out placement ${values[0]}`
    : `leave out the ${values.length} placements that are dearest for what they bring`
}

/** What changes do, as an order: "raise the bid to 3.97", "follow the market and cap at 2 in 24 hours". */
export function changeWords(draft: LineDraft, changes: readonly Change[]): string {
  return changes.map((change) => wordsOf(draft, change)).join(' and ')
}

function wordsOf(draft: LineDraft, change: Change): string {
  const amount = (micros: number) => (micros / 1e6).toFixed(micros % 10_000 === 0 ? 2 : 3)
  switch (change.kind) {
    case 'bid':
      return bidOrder(draft, change.micros, amount)
    case 'maximum':
      return `raise the maximum to ${amount(change.micros)}`
    case 'daily budget':
      return `raise the daily budget to ${amount(change.micros)}`
    case 'cap': {
      const cap = draft.caps[change.cap]
      return change.times === null
        ? `drop the cap of ${cap?.times} in ${cap?.hours} hours`
        : `cap at ${change.times} in ${cap?.hours} hours`
    }
    case 'gap':
      return change.minutes === null ? 'drop the gap between two showings' : `keep ${change.minutes} minutes between two showings`
    case 'hours':
      return 'open all hours'
    case 'hours out':
      return `shut it from ${hoursSaid(change.hours)}`
    case 'left out':
      return leftOutSaid(change)
    case 'follow':
      return 'follow the market'
    case 'pacing':
      return `pace it ${PACING_SAID[change.pacing]}`
    case 'restriction': {
      const restriction = draft.targeting.restrictions[change.place]
      return restriction ? `lift ${restriction.dimension}: ${restrictionWords(restriction)}` : 'lift a restriction'
    }
  }
}
