import type { Tape } from '../tape/index.js'
import type { ForecastQuestion } from './question.js'

/** Exposures before a replay, by position of the person on the tape: minutes before it, negative, oldest first. */
export type ExposuresBefore = ReadonlyMap<number, readonly number[]>

export function exposuresBefore(question: ForecastQuestion, tape: Tape, startMinute: number): ExposuresBefore {
  const { person, minute } = question.exposures
  const found = new Map<number, number[]>()
  if (person.length === 0) return found
  const positions = new Map<number, number>()
  for (let n = 0; n < tape.peopleCount; n++) positions.set(tape.numbers[n], n)
  person.forEach((number, e) => {
    const n = positions.get(number)
    if (n !== undefined && minute[e] < startMinute) found.set(n, [...(found.get(n) ?? []), minute[e] - startMinute])
  })
  for (const minutes of found.values()) minutes.sort((a, b) => a - b)
  return found
}
