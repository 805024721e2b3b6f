import { closeSync, mkdtempSync, openSync, readSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { inProject } from '../project.mjs'
import { quantile, report, round } from './measure.mjs'

const ROUNDS = 5

/** World and tape at full scale: making, opening from a file, and a day more. */
export async function benchTape() {
  const { FULL, makeWorld } = await import(inProject('core/dist/market/index.js'))
  const { addDay, buildTape, openTapeFile } = await import(inProject('core/dist/tape/index.js'))
  /** @type {Record<string, number[]>} */
  const times = { world: [], build: [], open: [], add: [] }
  const timed = (/** @type {string} */ name, /** @type {() => any} */ task) => {
    const began = performance.now()
    const result = task()
    times[name].push(performance.now() - began)
    return result
  }
  const folder = mkdtempSync(join(tmpdir(), 'tape-bench-'))
  let tape
  for (let n = 0; n < ROUNDS; n++) {
    const world = timed('world', () => makeWorld(FULL))
    tape = timed('build', () => buildTape(world, 59))
    writeFileSync(join(folder, 'a.tape'), new Uint8Array(tape.buffer))
    timed('add', () => addDay(world, tape))
    timed('open', () => {
      const file = openSync(join(folder, 'a.tape'), 'r')
      const buffer = new SharedArrayBuffer(tape.buffer.byteLength)
      const bytes = new Uint8Array(buffer)
      for (let filled = 0; filled < bytes.length;) filled += readSync(file, bytes, filled, bytes.length - filled, filled)
      closeSync(file)
      return openTapeFile(buffer, world)
    })
  }
  rmSync(folder, { recursive: true })
  const median = (/** @type {string} */ name) => round(quantile(times[name], 0.5))
  report('tape', {
    rows: tape.rowCount,
    people: tape.peopleCount,
    worldMs: median('world'),
    buildMs: median('build'),
    openMs: median('open'),
    addDayMs: median('add'),
    fileMb: round(tape.buffer.byteLength / 1e6)
  })
}
