import { parentPort, workerData } from 'node:worker_threads'
import { makeWorld, peopleBytes, type WorldSize } from '@tin-harbor/core/market'
import { buildTape, tapeHead } from '@tin-harbor/core/tape'
import type { FromTape, ToTape } from './messages.js'

/** Makes the world once, then tapes as they are asked for. */
const size = workerData as WorldSize
const port = parentPort
if (!port) throw new Error('This file is started as a worker.')
const say = (message: FromTape) => port.postMessage(message)

let began = performance.now()
const people = new SharedArrayBuffer(peopleBytes(size.people))
const world = makeWorld(size, people)
say({ kind: 'world', people, milliseconds: performance.now() - began })

port.on('message', ({ lastDay }: ToTape) => {
  began = performance.now()
  const tape = buildTape(world, lastDay, (done, of) => say({ kind: 'progress', done, of }))
  say({ kind: 'tape', tape: { head: tapeHead(tape), buffers: tape.buffers }, milliseconds: performance.now() - began })
})
