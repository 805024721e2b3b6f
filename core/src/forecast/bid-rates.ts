import { kindOf, paidEvent } from '../exchange/index.js'
import { repeatFactor, withMean, type KnownRate, type RateKind } from '../response/index.js'
import { SHAPE_FORMAT, ARRIVES } from '../taxonomy/index.js'
import { rateKnown, type ForecastQuestion } from './question.js'

/** What is known of a rate, among people who see the ads so often. */
export function rateAmong(question: ForecastQuestion, kind: RateKind, people: readonly number[], wins: number): KnownRate {
  const known = rateKnown(question, kind)
  const isClicked = kind !== 'view' && !ARRIVES[SHAPE_FORMAT[question.shapes[0] ?? 0]]
  return isClicked ? withMean(kind, known, repeatFactor(people, wins)) : known
}

/** The event whose rate a question's bids follow: what is aimed at, or paid for. */
export function followedEvent(question: ForecastQuestion): RateKind | null {
  // Whether a person is new is no rate of the line's.
  if (question.aim?.event === 'person') return null
  return question.aim ? kindOf(question.aim.event) : paidEvent(question.price)
}
