import { GROUPS } from '../tape/index.js'
import { MINUTES_PER_DAY } from '../time/index.js'
import { dearestOf, type Play } from './play.js'
import { grown, sumOf, type GroupTotals, type Replay } from './totals.js'

/** What the last days say of a forecast's level: what passed the price tests against what the tape has of it. */
export interface Level {
  factor: number
  /** Opportunities of the tape that passed, by group, in the market. */
  byGroup: Float64Array
  /** Relative sd of the factor from the draws of what was counted. */
  sd: number
}

/** Opportunities that a level is believed to have had as forecast before any are known. */
const PRIOR = 100
/** Wins of a person come in clumps. */
const CLUMPING = 1.5

/**
 * The level at the bid of a play, from whole days of its line at unchanged terms; null where nothing is known.
 */
export function levelOf(play: Play): Level | null {
  const { question, tape, matched, base } = play
  const last = tape.firstDay + 14
  const days = (question.history?.passed ?? []).filter(({ day }) => day >= tape.firstDay && day < last)
  if (days.length === 0) return null
  const isCounted = new Uint8Array(14)
  for (const { day } of days) isCounted[day - tape.firstDay] = 1
  const byGroup = new Float64Array(GROUPS)
  const { people, starts, rows, need } = matched
  const { minute } = tape.rows
  const bidOn = dearestOf(matched)
  for (let p = 0; p < people.length; p++) {
    const group = tape.group[people[p]]
    for (let m = starts[p]; m < starts[p + 1]; m++)
      if (isCounted[Math.floor(minute[rows[m]] / MINUTES_PER_DAY)] === 1 && bidOn(m, base, 0) >= need[m]) byGroup[group]++
  }
  for (let g = 0; g < GROUPS; g++) byGroup[g] *= tape.sample
  const came = days.reduce((sum, { count }) => sum + count, 0)
  return { factor: (came + PRIOR) / (sumOf(byGroup) + PRIOR), byGroup, sd: Math.sqrt(CLUMPING * came) / (came + PRIOR) }
}

/** A level's factor without a group, what is left grown to the whole, against the factor with it. */
export function levelWithout({ byGroup }: Level, group: number): number {
  const all = sumOf(byGroup)
  return (all + PRIOR) / (((all - byGroup[group]) * GROUPS) / (GROUPS - 1) + PRIOR)
}

/**
 * A replay at a level. Totals by group are moved so that a group left out takes with it what it brings to the level: what the tape has too
 * much of is divided out again.
 */
export function atLevel(replay: Replay, level: Level | null): Replay {
  if (!level) return replay
  const { factor, byGroup: seen } = level
  const all = sumOf(seen)
  const moved = (totals: Float64Array) => {
    const sum = sumOf(totals)
    if (totals.length !== GROUPS) return totals.map((total) => total * factor)
    return totals.map((total, g) => factor * (total - (sum * (seen[g] - all / GROUPS)) / (all + PRIOR)))
  }
  const { byGroup } = replay
  return {
    ...grown(replay, factor),
    byGroup: Object.fromEntries(Object.entries(byGroup).map(([name, totals]) => [name, moved(totals)])) as unknown as GroupTotals
  }
}
