import { learnedRate } from '../exchange/index.js'
import { SOURCES } from '../market/index.js'
import { MINUTES_PER_DAY, MINUTES_PER_WEEK, offsetMinutes, zoneIndex } from '../time/index.js'
import { tapeEnd, type Tape } from '../tape/index.js'
import type { ForecastQuestion } from './question.js'

/** Chance of an event in millionths as a line has learned it, from the trade's average. */
export type LearnedChance = (average: number, path: number, type: number, minute: number) => number

/** What a question's line has learned of the event it pays for or aims at; null where it has learned nothing. */
export function learnedChance({ history, zone }: ForecastQuestion, tape: Tape): LearnedChance | null {
  if (!history?.learned) return null
  const { line, ...parts } = history.learned
  const [placement, device, hour] = [new Map(parts.placement), new Map(parts.device), new Map(parts.hour)]
  const offset = offsetMinutes(zoneIndex(zone), tapeEnd(tape) - 12)
  return (average, path, type, minute) => {
    const localHour = Math.floor(((minute + offset + MINUTES_PER_WEEK) % MINUTES_PER_DAY) / 60)
    const rate = learnedRate({ line, placement, device, hour }, average, Math.floor(path / SOURCES.length), type, localHour)
    return Math.min(1e6, Math.floor(rate))
  }
}
