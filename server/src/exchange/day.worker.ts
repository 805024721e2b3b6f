import { workerData } from 'node:worker_threads'
import { makeDay, openWorld } from '@tin-harbor/core/market'
import type { DayWork } from './messages.js'
import type { SharedWorld } from '../threads/shared-world.js'
import { serve } from '../threads/serve.js'
import { droppedShared } from '../threads/shared-memory.js'

/** Makes market days as they are asked for. */
const { size, people, given } = workerData as SharedWorld
const world = openWorld(size, people, given)

/** Days differ by some per cent: memory that held one can mostly hold another. */
const SLACK = 1.1

serve<DayWork>(
  {
    day: ({ day, memory }) => {
      const { rows, hourStart } = makeDay(world, day, (bytes) => {
        if (memory && memory.byteLength >= bytes) return memory
        if (memory) droppedShared(memory.byteLength)
        return new SharedArrayBuffer(Math.ceil(bytes * SLACK))
      })
      return { day, count: rows.count, buffer: rows.key.buffer as SharedArrayBuffer, hourStart }
    }
  },
  {}
)
