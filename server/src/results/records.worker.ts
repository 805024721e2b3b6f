import { workerData } from 'node:worker_threads'
import { HourWins, becameOf, catalogueOf, offeredAt, openEvents, openLog, seek, verdictsOn } from '@tin-harbor/core/exchange'
import { PERSON_WORDS, makeDay, openWorld, type MarketDay } from '@tin-harbor/core/market'
import { pivot, shopVisits, type ReportHour } from '@tin-harbor/core/results'
import { HOURS_PER_DAY, dayOfHour } from '@tin-harbor/core/time'
import type { StoredLog } from '../delivery/stored.js'
import type { OpportunityAsked, OpportunityFound, RecordsWork } from './messages.js'
import type { SharedWorld } from '../threads/shared-world.js'
import { serve } from '../threads/serve.js'
import { factsFrom } from '../delivery/stored.js'
import { ToldError } from '../threads/thread-errors.js'

/** Reads the delivery log and the market's past: results never block a run, which has threads of its own. */
const { size, people, given } = workerData as SharedWorld

const world = openWorld(size, people, given)
/** The last day that was looked into. */
let past: { day: number; made: MarketDay } | null = null

function opened({ hour, n, crc, data, eventCount, eventCrc, events }: StoredLog): ReportHour {
  try {
    return { hour, log: openLog(data, n, crc), events: openEvents(events, eventCount, eventCrc) }
  } catch (error) {
    throw new ToldError(`Hour ${hour} of the delivery log is damaged: ${(error as Error).message}`, { cause: error })
  }
}

function opportunityOf({ hour, nth, seek: sought, logs, lines, seen, known }: OpportunityAsked): {
  count: number
  found: OpportunityFound | null
} {
  const day = dayOfHour(hour)
  if (past?.day !== day) past = { day, made: makeDay(world, day) }
  const { rows, hourStart } = past.made
  const from = hourStart[hour % HOURS_PER_DAY]
  const to = hourStart[(hour % HOURS_PER_DAY) + 1]
  const count = to - from
  const wins = new HourWins(opened(logs[0]).log)
  const line = sought && lines.find((one) => one.line === sought.line)
  const learned = new Map(known.map(([number, { facts, ...rest }]) => [number, { ...rest, facts: factsFrom(facts) }]))
  const one = sought && line ? seek(world, line, { rows, after: from + nth, to, hour }, sought.sought, wins, learned) : from + nth
  if (one < from || one >= to) return { count, found: null }
  const bought = wins.of(rows, one)
  const shown = lines.filter((row) => seen.includes(row.line) || row.line === bought?.line)
  const verdicts = verdictsOn(world, shown, { rows, i: one, hour }, learned)
  const winner = verdicts.find((verdict) => verdict.line === bought?.line) ?? null
  return {
    count,
    found: {
      nth: one - from,
      offered: offeredAt(world, rows, one),
      device: rows.device[one],
      page: rows.page[one],
      state: rows.state[one],
      words: [...world.persons.words.slice(rows.person[one] * PERSON_WORDS, rows.person[one] * PERSON_WORDS + 3)],
      bought,
      verdicts: verdicts
        .filter((verdict) => seen.includes(verdict.line))
        .map((verdict) => ({ ...verdict, became: becameOf(verdict, winner, rows.key[one]) }))
    }
  }
}

serve<RecordsWork>(
  {
    report: ({ question, logs, zone }) => {
      const { inventory, profiles, measures } = catalogueOf(world)
      return pivot(question, logs.map(opened), world.persons.words, { inventory, profiles, measures, zone })
    },
    shops: ({ question, logs }) => shopVisits(question, logs.map(opened), world.persons.words, world.seed),
    opportunity: opportunityOf
  },
  {}
)
