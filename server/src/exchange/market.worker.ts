import { workerData } from 'node:worker_threads'
import { openWorld, type MarketDay } from '@tin-harbor/core/market'
import { CancelledError } from '@tin-harbor/core/forecast'
import { HOURS_PER_DAY, dayOfHour } from '@tin-harbor/core/time'
import { DaysAhead } from './days-ahead.js'
import { Exchange, openLog, readLogs, type HourFacts } from '@tin-harbor/core/exchange'
import type { StoredLog } from '../delivery/stored.js'
import type { MarketWork } from './messages.js'
import type { SharedWorld } from '../threads/shared-world.js'
import { ownThreads, serve } from '../threads/serve.js'
import { factsFrom } from '../delivery/stored.js'

/** Runs the market an hour at a time; the state it keeps between hours is thrown away by the next `open`. */
const { size, people, given } = workerData as SharedWorld

const world = openWorld(size, people, given)
const ahead = new DaysAhead(ownThreads, { size, people, given })
/** How soon a wait for a day notices that nobody wants it. */
const LOOK_UP_MS = 40
/** The day that is sold now; the exchange reads it when it comes to it. */
let today: { day: number; made: MarketDay } | null = null
let exchange: Exchange | null = null

/** Hours of the log, opened one after the other. A damaged hour is named and refused. */
function* opened(logs: readonly StoredLog[]) {
  for (const { hour, n, crc, data } of logs) {
    try {
      yield { hour, log: openLog(data, n, crc) }
    } catch (error) {
      throw new Error(`Hour ${hour} of the delivery log is damaged: ${(error as Error).message}`, { cause: error })
    }
  }
}

function dayOf(_: unknown, day: number): MarketDay {
  if (today?.day !== day) throw new Error(`Day ${day} was not made.`)
  return today.made
}

type HourAsked = MarketWork['requests']['hour']['asks']

/** The exchange that an hour was asked of; after anything went wrong it must be opened anew. */
async function hourOf({ target, told, money }: HourAsked, cancelled: () => boolean): Promise<HourFacts | null> {
  if (!exchange) return null
  const day = dayOfHour(exchange.hour)
  if (today?.day !== day) {
    // Its memory may be the next day's already.
    today = null
    today = { day, made: await orCancelled(ahead.get(day, Math.ceil(target / HOURS_PER_DAY)), cancelled) }
  }
  const facts = exchange.runHour(cancelled, told, money)
  if (!facts) throw new CancelledError()
  return facts
}

/** Waits for a day, but not longer than somebody wants it. */
async function orCancelled(made: Promise<MarketDay>, cancelled: () => boolean): Promise<MarketDay> {
  let looking: ReturnType<typeof setInterval> | undefined
  const given = new Promise<never>((_, reject) => {
    looking = setInterval(() => cancelled() && reject(new CancelledError()), LOOK_UP_MS)
  })
  try {
    return await Promise.race([made, given])
  } finally {
    clearInterval(looking)
  }
}

serve<MarketWork>(
  {
    open: ({ publication, opening: { hour, lines, campaigns, logs, told } }) => {
      exchange = null
      exchange = new Exchange(
        world,
        publication,
        {
          hour,
          // Each hour is told what there is to spend.
          balanceMicros: 0,
          lines: new Map(lines.map(([line, { facts, ...rest }]) => [line, facts ? { ...rest, facts: factsFrom(facts) } : rest])),
          campaigns: new Map(campaigns),
          told,
          ...readLogs(world, publication, hour, opened(logs))
        },
        dayOf
      )
    },
    hour: async (asked, { cancelled }) => {
      try {
        return await hourOf(asked, cancelled)
      } catch (error) {
        exchange = null
        throw error
      }
    }
  },
  {}
)
