import { learnedRate, type LearnedParts } from '../exchange/index.js'
import { SOURCES } from '../market/index.js'
import { MINUTES_PER_DAY, MINUTES_PER_WEEK, offsetMinutes, zoneIndex } from '../time/index.js'
import { tapeEnd, type Tape } from '../tape/index.js'
import type { ForecastQuestion } from './question.js'

/** Chance of an event in millionths as a line has learned it, from the trade's average. */
export type LearnedChance = (average: number, path: number, type: number, minute: number) => number

/** What a line has learned of what it pays for: the same as of what it aims at, or of another event. */
export const paidParts = ({ history }: Pick<ForecastQuestion, 'history'>) => history?.paid ?? history?.learned ?? null

/** What a question's line has learned of an event, by its parts; null where it has learned nothing. */
export function learnedChance(known: LearnedParts | null, { zone }: ForecastQuestion, tape: Tape): LearnedChance | null {
  if (!known) return null
  const { line, ...parts } = known
  const [placement, device, hour] = [new Map(parts.placement), new Map(parts.device), new Map(parts.hour)]
  const offset = offsetMinutes(zoneIndex(zone), tapeEnd(tape) - 12)
  return (average, path, type, minute) => {
    const localHour = Math.floor(((minute + offset + MINUTES_PER_WEEK) % MINUTES_PER_DAY) / 60)
    const rate = learnedRate({ line, placement, device, hour }, average, Math.floor(path / SOURCES.length), type, localHour)
    return Math.min(1e6, Math.floor(rate))
  }
}
