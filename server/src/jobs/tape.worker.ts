import { closeSync, existsSync, fstatSync, mkdirSync, openSync, readSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { parentPort, workerData } from 'node:worker_threads'
import { openWorld, type World } from '@tin-harbor/core/market'
import { TAPE_DAYS, TapeFileError, addDay, buildTape, openTapeFile, type Tape, type TapeHead } from '@tin-harbor/core/tape'
import type { FromTape, TapeThread, ToTape } from './messages.js'
import { droppedShared } from './shared-memory.js'

/** Makes tapes as they are asked for: from the file, from the day before, or from the seed. */
const { size, people, folder } = workerData as TapeThread
const port = parentPort
if (!port) throw new Error('This file is started as a worker.')
const say = (message: FromTape) => port.postMessage(message)

/** Days that are added one by one; more are built whole, which is then quicker. */
const MOST_ADDED = 5
const path = folder === null ? null : join(folder, `${size.seed}-${size.people}-${size.sample}.tape`)
let world: World | null = null
let current: Tape | null = null
let waiting: number | null = null

const lastDayOf = (tape: Pick<TapeHead, 'firstDay'>) => tape.firstDay + TAPE_DAYS - 1
const headOf = ({ seed, people: count, sample, firstDay, rowCount, peopleCount }: Tape): TapeHead => ({
  seed,
  people: count,
  sample,
  firstDay,
  rowCount,
  peopleCount
})

/** The tape that a start before left, when it is whole and of this world. */
function readFile(): Tape | null {
  if (path === null || !existsSync(path)) return null
  try {
    const file = openSync(path, 'r')
    try {
      const buffer = new SharedArrayBuffer(fstatSync(file).size)
      const bytes = new Uint8Array(buffer)
      for (let at = 0; at < bytes.length;) {
        const n = readSync(file, bytes, at, bytes.length - at, at)
        if (n === 0) break
        at += n
      }
      return openTapeFile(buffer, size)
    } finally {
      closeSync(file)
    }
  } catch (error) {
    say({ kind: 'refused', reason: error instanceof TapeFileError ? error.message : String(error) })
    return null
  }
}

/** Written beside and moved into place, so that a reader never meets half a file. */
function writeFile(tape: Tape): void {
  if (path === null || folder === null) return
  try {
    mkdirSync(folder, { recursive: true })
    writeFileSync(`${path}.part`, new Uint8Array(tape.buffer))
    renameSync(`${path}.part`, path)
  } catch (error) {
    say({ kind: 'refused', reason: `The tape could not be kept: ${error instanceof Error ? error.message : String(error)}` })
  }
}

function make(lastDay: number): void {
  const began = performance.now()
  const old = current ?? readFile()
  const missing = old ? lastDay - lastDayOf(old) : Infinity
  const tell = (tape: Tape, how: Extract<FromTape, { kind: 'tape' }>['how']) => {
    if (current && current !== tape) droppedShared(current.buffer.byteLength)
    current = tape
    say({ kind: 'tape', tape: { head: headOf(tape), buffer: tape.buffer }, milliseconds: performance.now() - began, how })
  }
  if (old && missing === 0) return tell(old, 'opened')
  if (!world) {
    waiting = lastDay
    return
  }
  const progress = (done: number, of: number) => say({ kind: 'progress', done, of })
  let tape = old
  if (tape && missing > 0 && missing <= MOST_ADDED) while (lastDayOf(tape) < lastDay) tape = addDay(world, tape, progress)
  const added = tape !== null && lastDayOf(tape) === lastDay
  if (!tape || !added) tape = buildTape(world, lastDay, progress)
  tell(tape, added ? 'a day added' : 'built')
  writeFile(tape)
}

port.on('message', (message: ToTape) => {
  if (message.kind === 'build') return make(message.lastDay)
  world = openWorld(size, people)
  if (waiting !== null) make(waiting)
  waiting = null
})
