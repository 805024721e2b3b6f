import type { MainFigures, PlanLimit } from '../forecast/index.js'
import { euros } from './long.js'

const PERIOD = { day: 'day', week: 'week', month: 'month', total: 'total' } as const

/** A limit by name: "the campaign's day", "the line's total of impressions". */
function limitWords({ whose, period, what }: Omit<PlanLimit, 'kind'>): string {
  return `the ${whose}’s ${PERIOD[period]}${what === 'impressions' ? ' of impressions' : ''}`
}

/** What of main figures the sentence about what binds reads. */
type Told = Pick<MainFigures, 'binding' | 'demandMicros' | 'ranks'>

const share = ({ value }: { value: number }) => `${Math.round(100 * value)} %`

/** What binds, in the sentence that every page uses. */
export function bindingSentence({ binding, demandMicros, ranks }: Told): string {
  if (binding.kind === 'limit') {
    const limit = limitWords(binding).replace(/^t/, 'T')
    return `${limit} binds, not the bid: without it this bid would spend ${euros(Math.round(demandMicros / 10_000) * 10_000)} a day.`
  }
  const first = `it is first on ${share(ranks.first)} of what matches`
  return {
    pace: `Even pacing holds it back in its best hours: ${first}, and not all of its money is spent.`,
    cap: `The cap binds, not the bid: ${first}, but people have seen it often enough.`,
    bid: `The bid binds, not the budget: ${first}, second on ${share(ranks.second)}.`,
    supply: `It buys nearly all there is: ${first}.`
  }[binding.kind]
}
