import { parentPort, workerData } from 'node:worker_threads'
import { catalogueOf, offeredAt, openEvents, openLog, verdictsOn } from '@tin-harbor/core/exchange'
import { makeDay, openWorld, type MarketDay } from '@tin-harbor/core/market'
import { pivot, shopVisits, type ReportHour } from '@tin-harbor/core/results'
import { HOURS_PER_DAY, dayOfHour } from '@tin-harbor/core/time'
import type { FromRecords, SharedWorld, StoredLog, ToRecords } from './messages.js'
import { factsFrom } from './stored-facts.js'

/** Reads the delivery log and the market's past: results never block a run, which has threads of its own. */
const { size, people } = workerData as SharedWorld
const port = parentPort
if (!port) throw new Error('This file is started as a worker.')
const say = (message: FromRecords) => port.postMessage(message)

const world = openWorld(size, people)
/** The last day that was looked into. */
let past: { day: number; made: MarketDay } | null = null

function opened({ hour, n, crc, data, eventCount, eventCrc, events }: StoredLog): ReportHour {
  try {
    return { hour, log: openLog(data, n, crc), events: openEvents(events, eventCount, eventCrc) }
  } catch (error) {
    throw new Error(`Hour ${hour} of the delivery log is damaged: ${(error as Error).message}`, { cause: error })
  }
}

function take(message: ToRecords): FromRecords {
  const { job } = message
  if (message.kind === 'report') {
    const { inventory, profiles, measures } = catalogueOf(world)
    return { kind: 'report', job, ...pivot(message.question, message.logs.map(opened), world.persons.words, { inventory, profiles, measures, zone: message.zone }) }
  }
  if (message.kind === 'shops') return { kind: 'shops', job, visits: shopVisits(message.question, message.logs.map(opened), world.persons.words, world.seed) }
  const day = dayOfHour(message.hour)
  if (past?.day !== day) past = { day, made: makeDay(world, day) }
  const { rows, hourStart } = past.made
  const from = hourStart[message.hour % HOURS_PER_DAY]
  const count = hourStart[(message.hour % HOURS_PER_DAY) + 1] - from
  const at = from + (count > 0 ? message.nth % count : 0)
  return { kind: 'opportunity', job, count, offered: offeredAt(world, rows, at), device: rows.device[at], page: rows.page[at], state: rows.state[at], words: [...world.persons.words.slice(rows.person[at] * 4, rows.person[at] * 4 + 3)], 
    verdicts: verdictsOn(world, message.publication, rows, at, message.hour, new Map(message.known.map(([line, { facts, correction }]) => [line, { facts: factsFrom(facts), correction }])))
  }
}

port.on('message', (message: ToRecords) => {
  try {
    say(take(message))
  } catch (error) {
    say({ kind: 'failed', job: message.job, message: error instanceof Error ? error.message : String(error) })
  }
})
