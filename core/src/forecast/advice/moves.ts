import { POSTAL_COUNTRY } from '../../places/index.js'
import { PERSON_WORDS, SOURCES, placementCode, postalOf } from '../../market/index.js'
import { SHAPES } from '../../taxonomy/index.js'
import type { Restriction } from '../../targeting/index.js'
import { isLimit, type Binding } from '../binding.js'
import { baseAt, bidsOf, chargesOf, expectedOf } from '../play.js'
import { ratesOf, type ForecastQuestion } from '../question.js'
import type { Sieve } from '../sieve.js'
import { localMinuteOfWeek } from '../timeline.js'
import type { Workings } from '../workings.js'
import type { Change, LeftOut } from './change.js'
import type { GoalMeasure } from './measure.js'

/** Restrictions that are tried: those that keep out most alone. */
const MOST_LIFTED = 3
/** Demand that must be left for the plan when something is left out. */
const ENOUGH = 1.15
/** What is left out buys so much less for its money than the mean. */
const LOSES = 0.8
/** Rows of a day in the sample under which a part says too little to be left out. */
const LEAST_ROWS = 15
/** Most values that a change leaves out: a trader reads them. */
const MOST_LEFT_OUT = 40
const HOURS = 24

/** Changes of caps, both ways; of the gap too. */
export function capMoves({ caps, gapMinutes }: ForecastQuestion): Change[] {
  const moves = caps.flatMap(({ times }, cap): Change[] => [
    ...(times > 1 ? [{ kind: 'cap', cap, times: times - 1 } as const] : []),
    ...(times > 3 ? [{ kind: 'cap', cap, times: Math.floor(times / 2) } as const] : []),
    { kind: 'cap', cap, times: times + 1 },
    { kind: 'cap', cap, times: times * 2 },
    { kind: 'cap', cap, times: null }
  ])
  if (gapMinutes > 0)
    moves.push(
      { kind: 'gap', minutes: null },
      { kind: 'gap', minutes: Math.ceil(gapMinutes / 2) },
      { kind: 'gap', minutes: gapMinutes * 2 }
    )
  return moves
}

/** Where people are is what the trader wants; robots and pops that a browser holds back are what nobody does. */
const mayBeLifted = ({ dimension, mode }: Restriction) => dimension !== 'where' && !(dimension === 'unwanted' && mode === 'exclude')

/** Restrictions lifted and hours opened, for a line that finds too little. */
export function lifts({ hours }: ForecastQuestion, sieve: Sieve): Change[] {
  const lifted = sieve.steps.flatMap((step, place) =>
    typeof step.restriction !== 'string' && step.lifted > 0 && mayBeLifted(step.restriction) ? [{ place, lifted: step.lifted }] : []
  )
  return [
    ...(hours?.perMille.some((m) => m === 0) ? [{ kind: 'hours' } as const] : []),
    ...lifted
      .sort((a, b) => b.lifted - a.lifted)
      .slice(0, MOST_LIFTED)
      .map(({ place }): Change => ({ kind: 'restriction', place }))
  ]
}

/** How a line's money flows otherwise: with the traffic, or following the market's prices. */
export function paceMoves({ follow, aim, pacing, price }: ForecastQuestion, binding: Binding): Change[] {
  const moves: Change[] = []
  // The market is followed on prices by the thousand alone.
  if (isLimit(binding) && !follow && !aim && price.model === 'CPM') moves.push({ kind: 'follow' })
  if ((isLimit(binding) || binding.kind === 'pace') && pacing === 'even') moves.push({ kind: 'pacing', pacing: 'traffic' })
  if (isLimit(binding) && pacing === 'traffic') moves.push({ kind: 'pacing', pacing: 'even' })
  return moves
}

interface Part {
  rows: number
  spend: number
  worth: number
}

/**
 * What loses, where money binds: the slots, placements and hours of the day at which the goal is dearest, as many as the plan can do
 * without.
 * @param planMicros of a day
 */
export function leaveOuts(work: Workings, planMicros: number, measure: GoalMeasure): Change[] {
  const { question, play, matched, tape, market } = work
  const { people, starts, rows, need } = matched
  const rates = ratesOf(question)
  const [bidOn, chargeFor] = [bidsOf(matched), chargesOf(play)]
  const expected = { views: 0, visits: 0, conversions: 0 }
  const byPlacement = new Map<number, Part>()
  const byHour = Array.from({ length: HOURS }, (): Part => ({ rows: 0, spend: 0, worth: 0 }))
  const every = Math.max(1, Math.ceil(rows.length / 60_000))
  for (let p = 0; p < people.length; p++) {
    if (people[p] % every !== 0) continue
    const country = POSTAL_COUNTRY[postalOf(tape.words[people[p] * PERSON_WORDS])]
    for (let m = starts[p]; m < starts[p + 1]; m++) {
      const minute = localMinuteOfWeek(tape, tape.rows.minute[rows[m]], work.offset)
      const base = baseAt(play, m, minute, 0)
      const bid = bidOn(m, base, 0)
      if (bid <= 0 || bid < need[m]) continue
      const spend = chargeFor(m, bid, base, 0) + question.dataMicros
      expectedOf(play, rates, rows[m], country, expected)
      const worth = measure === 'wins' || measure === 'reach' ? 1 : expected[measure] / 1e6
      const placement = Math.floor(tape.rows.path[rows[m]] / SOURCES.length)
      let part = byPlacement.get(placement)
      if (!part) byPlacement.set(placement, (part = { rows: 0, spend: 0, worth: 0 }))
      for (const one of [part, byHour[Math.floor(minute / 60) % HOURS]]) {
        one.rows++
        one.spend += spend
        one.worth += worth
      }
    }
  }
  const bySize = new Map<number, Part>()
  for (const [placement, part] of byPlacement) {
    const { shape } = market.inventory.placements[placement]
    const whole = bySize.get(shape) ?? { rows: 0, spend: 0, worth: 0 }
    bySize.set(shape, { rows: whole.rows + part.rows, spend: whole.spend + part.spend, worth: whole.worth + part.worth })
  }
  const spare = 1 - (planMicros * ENOUGH) / Math.max(1, work.demandMicros)
  const leaves = (dimension: LeftOut, parts: Map<number, Part>, name: (value: number) => string): Change[] => {
    const losing = worst([...parts], spare, parts.size - 1)
    return losing.length > 0 ? [{ kind: 'left out', dimension, values: losing.map(name) }] : []
  }
  const moves = [
    ...leaves('size', bySize, (shape) => SHAPES[shape]),
    ...leaves('placement', byPlacement, (placement) => placementCode(market.inventory, market.inventory.placements[placement]))
  ]
  const isOwnClock = !question.hours || question.hours.clock === 'line'
  const hours = isOwnClock ? worst([...byHour.entries()], spare, HOURS / 2).sort((a, b) => a - b) : []
  return hours.length > 0 ? [...moves, { kind: 'hours out', hours }] : moves
}

/** Parts that bring least for their money, the dearest first, while what is left is enough. @param spare share that may go */
function worst(parts: readonly (readonly [number, Part])[], spare: number, most: number): number[] {
  const sum = (pick: (part: Part) => number) => parts.reduce((all, [, part]) => all + pick(part), 0)
  const [spend, worth] = [sum((part) => part.spend), sum((part) => part.worth)]
  if (spend <= 0 || worth <= 0) return []
  const ratio = ({ spend: cost, worth: brings }: Part) => (brings / cost) * (spend / worth)
  let gone = 0
  const out: number[] = []
  for (const [value, part] of parts
    .filter(([, one]) => one.rows >= LEAST_ROWS && one.spend > 0 && ratio(one) < LOSES)
    .sort((a, b) => ratio(a[1]) - ratio(b[1]))) {
    if (out.length >= Math.min(most, MOST_LEFT_OUT) || gone + part.spend > spare * spend) continue
    gone += part.spend
    out.push(value)
  }
  return out
}
