import { RATE_KINDS, knownRate, type KnownRate, type RateKind } from '../response/index.js'
import { lately, learn, type Learned, type LineFacts, type Sold } from './learning.js'
import type { LineRules } from './rules.js'
import { learnedEvent, paidEvent } from './running.js'

/** Opportunities that passed a line's price tests on a whole UTC day, but for those that another of ours bought. */
export interface PassedDay {
  /** Market day. */
  day: number
  count: number
}

/** What bids are made by, as it is sent: pairs in place of maps. */
export type LearnedParts = Pick<Learned, 'event' | 'events' | 'line'> &
  Readonly<Record<'ad' | 'placement' | 'device' | 'hour', readonly (readonly [number, number])[]>>

/** What a line's own results say of it. */
export interface OwnHistory {
  rates: Record<RateKind, KnownRate>
  /** Of what it pays for or aims at; null where bids follow no rate. */
  learned: LearnedParts | null
  /** Of what it pays for, where it aims at something else; null for any other line. */
  paid: LearnedParts | null
  /** Whole days at the terms in force, newest last; none where bids follow something else each hour. */
  passed: readonly PassedDay[]
}

/** Days of which the level is read, where nothing but the market moves bids; one where what is learned does. */
const LEVEL_DAYS = 7
const LEARNED_LEVEL_DAYS = 1

/**
 * Reads a line's results by the functions that the exchange bids with.
 * @param today day of the line's calendar
 * @param terms what its bids follow
 * @param passed whole UTC days at those terms
 */
export function ownHistory(
  terms: Pick<LineRules, 'price' | 'aim'> & { follow: boolean },
  facts: LineFacts,
  { today, sold, passed }: { today: number; sold: Sold; passed: readonly PassedDay[] }
): OwnHistory {
  const event = learnedEvent(terms)
  const learned = event ? learn(facts, event, today, sold) : null
  const paying = paidEvent(terms.price)
  const paid = paying !== null && paying !== event ? learn(facts, paying, today, sold) : null
  const days = [...passed].sort((a, b) => a.day - b.day)
  return {
    rates: Object.fromEntries(
      RATE_KINDS.map((kind) => [kind, knownRate(kind, lately(facts, kind, today, sold.rates))])
    ) as OwnHistory['rates'],
    learned: learned && partsOf(learned),
    paid: paid && partsOf(paid),
    passed: terms.follow || terms.aim ? [] : days.slice(learned ? -LEARNED_LEVEL_DAYS : -LEVEL_DAYS)
  }
}

const partsOf = ({ event, events, line, ad, placement, device, hour }: Learned): LearnedParts => ({
  event,
  events,
  line,
  ad: [...ad],
  placement: [...placement],
  device: [...device],
  hour: [...hour]
})
