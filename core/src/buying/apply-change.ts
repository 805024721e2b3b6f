import type { Change } from '../forecast/index.js'
import type { LineDraft } from './line.js'
import { restrictionWords } from './words.js'

/** A draft with one change of a holdback made to it; the same change that the forecast measured. */
export function withChange(draft: LineDraft, change: Change): LineDraft {
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
      return { ...draft, gapMinutes: null }
    case 'hours':
      return { ...draft, hours: null }
    case 'follow':
      return { ...draft, price: { ...draft.price, follow: true, maxMicros: draft.price.maxMicros ?? draft.price.bidMicros } }
    case 'pacing':
      return { ...draft, pacing: change.pacing }
    case 'restriction':
      return { ...draft, targeting: { restrictions: draft.targeting.restrictions.filter((_, place) => place !== change.place) } }
  }
}

/** A line with an aim has no bid but the most that it may bid. */
function bidOrder({ price: { aim, bidMicros, maxMicros } }: LineDraft, micros: number, amount: (micros: number) => string): string {
  const now = (aim ? maxMicros : bidMicros) ?? 0
  return `${micros < now ? 'lower' : 'raise'} the ${aim ? 'maximum' : 'bid'} to ${amount(micros)}`
}

const PACING_SAID = { even: 'evenly', traffic: 'with the traffic', fast: 'as fast as it can' } as const

/** What a change does, as an order: "raise the bid to 3.97". */
export function changeWords(draft: LineDraft, change: Change): string {
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
      return 'drop the gap between two showings'
    case 'hours':
      return 'open all hours'
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
