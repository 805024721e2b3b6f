import { parentPort, workerData } from 'node:worker_threads'
import { openWorld, type MarketDay } from '@tin-harbor/core/market'
import { HOURS_PER_DAY, dayOfHour } from '@tin-harbor/core/time'
import { DaysAhead } from './days-ahead.js'
import { Exchange, openLog, readLogs } from '@tin-harbor/core/exchange'
import type { FromMarket, SharedWorld, StoredLog, ToMarket } from './messages.js'
import { factsFrom } from './stored-facts.js'

/** Runs the market an hour at a time; the state it keeps between hours is thrown away by the next `open`. */
const { size, people } = workerData as SharedWorld
const port = parentPort
if (!port) throw new Error('This file is started as a worker.')
const say = (message: FromMarket) => port.postMessage(message)

const world = openWorld(size, people)
const ahead = new DaysAhead({ size, people })
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

async function handle(message: ToMarket): Promise<FromMarket> {
  if (message.kind === 'open') {
    const { hour, balanceMicros, lines, campaigns, logs } = message.opening
    exchange = new Exchange(
      world,
      message.publication,
      {
        hour,
        balanceMicros,
        lines: new Map(lines.map(([line, { facts, ...rest }]) => [line, facts ? { ...rest, facts: factsFrom(facts) } : rest])),
        campaigns: new Map(campaigns),
        ...readLogs(world, message.publication, hour, opened(logs))
      },
      dayOf
    )
    return { kind: 'opened' }
  }
  if (!exchange) throw new Error('The market was not opened.')
  const word = new Int32Array(message.cancel)
  const day = dayOfHour(exchange.hour)
  if (today?.day !== day) {
    // Its memory may be the next day's already.
    today = null
    const made = await orCancelled(ahead.get(day, Math.ceil(message.target / HOURS_PER_DAY)), word)
    if (!made) return giveUp()
    today = { day, made }
  }
  if (!exchange) throw new Error('The market was not opened.')
  const facts = exchange.runHour(() => Atomics.load(word, 0) === 1)
  if (facts) return { kind: 'facts', facts }
  return giveUp()
}

function giveUp(): FromMarket {
  exchange = null
  return { kind: 'stopped' }
}

/** Waits for a day, but not longer than somebody wants it. */
async function orCancelled(made: Promise<MarketDay>, word: Int32Array): Promise<MarketDay | null> {
  let looking: ReturnType<typeof setInterval> | undefined
  const cancelled = new Promise<null>((resolve) => {
    looking = setInterval(() => Atomics.load(word, 0) === 1 && resolve(null), 40)
  })
  try {
    return await Promise.race([made, cancelled])
  } finally {
    clearInterval(looking)
  }
}

port.on('message', (message: ToMarket) => {
  handle(message).then(say, (error: unknown) => {
    exchange = null
    say({ kind: 'failed', message: error instanceof Error ? error.message : String(error) })
  })
})
