import { closeSync, existsSync, fstatSync, mkdirSync, openSync, readSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { workerData } from 'node:worker_threads'
import { openWorld, type World } from '@tin-harbor/core/market'
import { TAPE_DAYS, TapeFileError, addDay, buildTape, openTapeFile, type Tape, type TapeHead } from '@tin-harbor/core/tape'
import type { TapeThread, TapeWork } from './messages.js'
import { serve } from '../threads/serve.js'
import { droppedShared } from '../threads/shared-memory.js'

/** Makes tapes as they are asked for: from the file, from the day before, or from the seed. */
const { size, people, given, folder } = workerData as TapeThread
type Told = TapeWork['requests']['build']['tells']
type Tell = (told: Told) => void

/** Days that are added one by one; more are built whole, which is then quicker. */
const MOST_ADDED = 5
const path = folder === null ? null : join(folder, `${size.seed}-${size.people}-${size.sample}.tape`)
let current: Tape | null = null
let onPeople: (world: World) => void = () => undefined
/** The world, once its people are filled in. */
const peopled = new Promise<World>((resolve) => (onPeople = resolve))

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
function readFile(tell: Tell): Tape | null {
  if (path === null || !existsSync(path)) return null
  try {
    const file = openSync(path, 'r')
    try {
      const buffer = new SharedArrayBuffer(fstatSync(file).size)
      const bytes = new Uint8Array(buffer)
      for (let filled = 0; filled < bytes.length;) {
        const n = readSync(file, bytes, filled, bytes.length - filled, filled)
        if (n === 0) break
        filled += n
      }
      return openTapeFile(buffer, size)
    } finally {
      closeSync(file)
    }
  } catch (error) {
    tell({ kind: 'refused', reason: error instanceof TapeFileError ? error.message : String(error) })
    return null
  }
}

/** Written beside and moved into place, so that a reader never meets half a file. */
function writeFile(tape: Tape, tell: Tell): void {
  if (path === null || folder === null) return
  try {
    mkdirSync(folder, { recursive: true })
    writeFileSync(`${path}.part`, new Uint8Array(tape.buffer))
    renameSync(`${path}.part`, path)
  } catch (error) {
    tell({ kind: 'refused', reason: `The tape could not be kept: ${error instanceof Error ? error.message : String(error)}` })
  }
}

async function make(lastDay: number, tell: Tell): Promise<void> {
  const began = performance.now()
  const old = current ?? readFile(tell)
  const missing = old ? lastDay - lastDayOf(old) : Infinity
  const hand = (tape: Tape, how: Extract<Told, { kind: 'tape' }>['how']) => {
    if (current && current !== tape) droppedShared(current.buffer.byteLength)
    current = tape
    tell({ kind: 'tape', tape: { head: headOf(tape), buffer: tape.buffer }, milliseconds: performance.now() - began, how })
  }
  if (old && missing === 0) return hand(old, 'opened')
  const world = await peopled
  const progress = (done: number, total: number) => tell({ kind: 'progress', done, of: total })
  let tape = old
  if (tape && missing > 0 && missing <= MOST_ADDED) while (lastDayOf(tape) < lastDay) tape = addDay(world, tape, progress)
  const added = tape !== null && lastDayOf(tape) === lastDay
  if (!tape || !added) tape = buildTape(world, lastDay, progress)
  hand(tape, added ? 'a day added' : 'built')
  writeFile(tape, tell)
}

serve<TapeWork>({ build: ({ lastDay }, { tell }) => make(lastDay, tell) }, { people: () => onPeople(openWorld(size, people, given)) })
