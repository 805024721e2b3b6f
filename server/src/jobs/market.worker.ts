import { parentPort, workerData } from 'node:worker_threads'
import { openWorld } from '@tin-harbor/core/market'
import { Exchange, ExposureBook, openLog } from '@tin-harbor/core/exchange'
import type { FromMarket, SharedWorld, StoredLog, ToMarket } from './messages.js'

/** Runs the market an hour at a time; the state it keeps between hours is thrown away by the next `open`. */
const { size, people } = workerData as SharedWorld
const port = parentPort
if (!port) throw new Error('This file is started as a worker.')
const say = (message: FromMarket) => port.postMessage(message)

const world = openWorld(size, people)
let exchange: Exchange | null = null

/** Who saw what in the last 30 days, from the log. A damaged hour is named and refused. */
function exposuresOf(logs: readonly StoredLog[]): ExposureBook {
  const book = new ExposureBook()
  for (const { hour, n, crc, data } of logs) {
    try {
      const log = openLog(data, n, crc)
      for (let i = 0; i < log.count; i++) book.add(log.line[i], log.person[i], hour * 60 + log.minute[i])
    } catch (error) {
      throw new Error(`Hour ${hour} of the delivery log is damaged: ${(error as Error).message}`, { cause: error })
    }
  }
  return book
}

function handle(message: ToMarket): FromMarket {
  if (message.kind === 'open') {
    const { hour, balanceMicros, lines, campaigns, logs } = message.opening
    exchange = new Exchange(world, message.publication, { hour, balanceMicros, lines: new Map(lines), campaigns: new Map(campaigns), exposures: exposuresOf(logs) })
    return { kind: 'opened' }
  }
  if (!exchange) throw new Error('The market was not opened.')
  const word = new Int32Array(message.cancel)
  const facts = exchange.runHour(() => Atomics.load(word, 0) === 1)
  if (facts) return { kind: 'facts', facts }
  exchange = null
  return { kind: 'stopped' }
}

port.on('message', (message: ToMarket) => {
  try {
    say(handle(message))
  } catch (error) {
    exchange = null
    say({ kind: 'failed', message: error instanceof Error ? error.message : String(error) })
  }
})
