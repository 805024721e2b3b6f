import { parentPort, workerData } from 'node:worker_threads'
import { makeInventory, makeProfiles, publishMeasures } from '@tin-harbor/core/market'
import { openTape, type Tape } from '@tin-harbor/core/tape'
import { CancelledError, answer, companyOf, forLive, forecastMarket, nothingKept, sieve, survey } from '@tin-harbor/core/forecast'
import { makeBenchmarks } from '@tin-harbor/core/response'
import type { FromForecast, SharedWorld, ToForecast } from './messages.js'
import { droppedShared } from './shared-memory.js'

/** Answers questions from the tape it was last given. It needs no people but those on the tape. */
const { size } = workerData as SharedWorld
const port = parentPort
if (!port) throw new Error('This file is started as a worker.')
const say = (message: FromForecast) => port.postMessage(message)

const inventory = makeInventory(size.seed)
const market = forecastMarket(
  { inventory, profiles: makeProfiles(size.seed), measures: publishMeasures(size.seed, inventory) },
  makeBenchmarks(inventory)
)
let tape: Tape | null = null
/** What the last question leaves for the next: most differ in a bid or a cap alone. */
const kept = nothingKept()

function take(message: Exclude<ToForecast, { kind: 'tape' }>): void {
  const word = new Int32Array(message.cancel)
  const cancelled = () => Atomics.load(word, 0) === 1
  if (!tape) throw new Error('There is no tape yet.')
  if (cancelled()) throw new CancelledError()
  const { job } = message
  if (message.kind === 'survey') {
    say({ kind: 'survey', job, survey: survey(message.question, message.zone, tape, market, cancelled) })
    return
  }
  if (message.kind === 'company') {
    say({ kind: 'company', job, company: companyOf(message.lines, message.totalMicros, message.measure, tape, market, cancelled) })
    return
  }
  if (message.kind === 'sieve') {
    say({ kind: 'sieve', job, sieve: sieve(message.question, tape, market, cancelled) })
    return
  }
  if (message.kind === 'live') {
    say({ kind: 'live', job, live: forLive(message.question, message.follow, tape, market, cancelled) })
    return
  }
  let began = performance.now()
  for (const part of answer(message.question, message.measure, tape, market, cancelled, kept)) {
    if (cancelled()) throw new CancelledError()
    say({ kind: 'part', job, part, milliseconds: performance.now() - began })
    if (!message.whole) break
    began = performance.now()
  }
  say({ kind: 'done', job, whole: message.whole })
}

port.on('message', (message: ToForecast) => {
  if (message.kind === 'tape') {
    const old = tape
    tape = openTape(message.tape.buffer)
    Object.assign(kept, nothingKept())
    if (old) droppedShared(old.buffer.byteLength)
    return
  }
  try {
    take(message)
  } catch (error) {
    if (error instanceof CancelledError) say({ kind: 'cancelled', job: message.job })
    else say({ kind: 'failed', job: message.job, message: error instanceof Error ? error.message : String(error) })
  }
})
