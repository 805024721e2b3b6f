import { parentPort, workerData } from 'node:worker_threads'
import { makeDay, openWorld } from '@tin-harbor/core/market'
import type { SharedDay, SharedWorld } from './messages.js'

/** Makes market days as they are asked for. */
const { size, people } = workerData as SharedWorld
const port = parentPort
if (!port) throw new Error('This file is started as a worker.')
const world = openWorld(size, people)

port.on('message', (day: number) => {
  const { rows, hourStart } = makeDay(world, day, true)
  port.postMessage({ day, count: rows.count, buffer: rows.key.buffer as SharedArrayBuffer, hourStart } satisfies SharedDay)
})
