import { workerData } from 'node:worker_threads'
import { publishMeasures } from '@tin-harbor/core/market'
import { openTape, type Tape } from '@tin-harbor/core/tape'
import {
  CancelledError,
  OwnLines,
  answer,
  companyOf,
  forLive,
  forecastMarket,
  nothingKept,
  survey,
  takerOf
} from '@tin-harbor/core/forecast'
import { makeBenchmarks } from '@tin-harbor/core/response'
import type { ForecastWork } from './messages.js'
import type { SharedWorld } from '../threads/shared-world.js'
import { serve } from '../threads/serve.js'
import { droppedShared } from '../threads/shared-memory.js'

/** Answers questions from the tape it was last given. It needs no people but those on the tape. */
const { size, given } = workerData as SharedWorld

const market = forecastMarket({ ...given, measures: publishMeasures(size.seed, given.inventory) }, makeBenchmarks(given.inventory))
let tape: Tape | null = null
/** What the last question leaves for the next: most differ in a bid or a cap alone. */
const kept = nothingKept()

const onTape = () => {
  if (!tape) throw new Error('There is no tape yet.')
  return tape
}

serve<ForecastWork>(
  {
    survey: ({ question, zone }, { cancelled }) => survey(question, zone, onTape(), market, cancelled),
    company: ({ lines, totalMicros, measure }, { cancelled }) => companyOf(lines, totalMicros, measure, onTape(), market, cancelled),
    taker: (live, { cancelled }) => takerOf(live, onTape(), market, cancelled),
    live: (question, { cancelled }) => forLive(question, onTape(), market, cancelled),
    ask: ({ question, measure, whole }, { cancelled, tell }) => {
      let began = performance.now()
      for (const part of answer(question, measure, onTape(), market, cancelled, kept)) {
        if (cancelled()) throw new CancelledError()
        tell({ part, milliseconds: performance.now() - began })
        if (!whole) break
        began = performance.now()
      }
    }
  },
  {
    tape: ({ buffer }) => {
      const old = tape
      tape = openTape(buffer)
      market.own = null
      Object.assign(kept, nothingKept())
      if (old) droppedShared(old.buffer.byteLength)
    },
    own: (takers) => {
      market.own = tape && takers.length > 0 ? new OwnLines(tape, takers) : null
      Object.assign(kept, nothingKept())
    }
  }
)
