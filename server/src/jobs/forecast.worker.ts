import { parentPort, workerData } from 'node:worker_threads'
import { openWorld, publishMeasures } from '@tin-harbor/core/market'
import { openTape, type Tape } from '@tin-harbor/core/tape'
import { CancelledError, forecast, propertyTable } from '@tin-harbor/core/forecast'
import type { FromForecast, SharedWorld, ToForecast } from './messages.js'

/** Answers questions from the tape it was last given. */
const { size, people } = workerData as SharedWorld
const port = parentPort
if (!port) throw new Error('This file is started as a worker.')
const say = (message: FromForecast) => port.postMessage(message)

const world = openWorld(size, people)
const measures = publishMeasures(world.seed, world.inventory)
let tape: Tape | null = null

function answer(message: Exclude<ToForecast, { kind: 'tape' }>): void {
  const word = new Int32Array(message.cancel)
  const cancelled = () => Atomics.load(word, 0) === 1
  if (!tape) throw new Error('There is no tape yet.')
  if (cancelled()) throw new CancelledError()
  if (message.kind === 'properties') {
    say({ kind: 'properties', job: message.job, rows: propertyTable(message.targeting, tape, world.inventory, measures) })
    return
  }
  const began = performance.now()
  const result = forecast(message.question, tape, world.inventory, cancelled)
  say({ kind: 'answer', job: message.job, forecast: result, milliseconds: performance.now() - began })
}

port.on('message', (message: ToForecast) => {
  if (message.kind === 'tape') {
    tape = openTape(message.tape.head, message.tape.buffers)
    return
  }
  try {
    answer(message)
  } catch (error) {
    if (error instanceof CancelledError) say({ kind: 'cancelled', job: message.job })
    else say({ kind: 'failed', job: message.job, message: error instanceof Error ? error.message : String(error) })
  }
})
