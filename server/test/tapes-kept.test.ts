import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { TENTH, makeDay, makeGiven, makeWorld, opportunityColumns } from '@tin-harbor/core/market'
import { hashColumns } from '@tin-harbor/core/random'
import { buildTape, openTape, tapeHash } from '@tin-harbor/core/tape'
import { DaysAhead } from '../src/exchange/days-ahead.js'
import { TapeBuilder } from '../src/tape/tape-builder.js'
import { droppedShared } from '../src/threads/shared-memory.js'
import type { SharedTape } from '../src/threads/shared-world.js'
import { Threads } from '../src/threads/threads.js'

const SIZE = { ...TENTH, people: 15_000 }
const threads = new Threads()
const world = makeWorld(SIZE)

describe('a tape in its file', () => {
  const folder = mkdtempSync(join(tmpdir(), 'tapes-'))
  afterAll(() => rmSync(folder, { recursive: true }))
  const file = () => join(folder, readdirSync(folder).filter((name) => name.endsWith('.tape'))[0])
  async function start(lastDay: number): Promise<{ how: string; tape: SharedTape; refused: string[] }> {
    const builder = new TapeBuilder(threads, SIZE, makeGiven(SIZE.seed), folder)
    const refused: string[] = []
    builder.on('refused', (reason: string) => refused.push(reason))
    const made = new Promise<{ how: string; tape: SharedTape }>((resolve) =>
      builder.once('tape', (tape: SharedTape, _: number, how: string) => resolve({ how, tape: tape }))
    )
    builder.build(lastDay)
    const result = await made
    await builder.ready
    // Written after it was handed out: the thread answers the next request only then.
    const settled = new Promise((resolve) => builder.once('tape', resolve))
    builder.build(lastDay + 40)
    await settled
    builder.build(lastDay)
    await new Promise((resolve) => builder.once('tape', resolve))
    await new Promise((resolve) => setTimeout(resolve, 200))
    await builder.close()
    return { ...result, refused }
  }

  it('is built once, opened the next time, and grows by a day', async () => {
    expect((await start(59)).how).toBe('built')
    const again = await start(59)
    expect([again.how, again.refused]).toEqual(['opened', []])
    const later = await start(60)
    expect(later.how).toBe('a day added')
    expect(tapeHash(openTape(later.tape.buffer))).toBe(tapeHash(buildTape(world, 60)))
  })

  it('is refused with a reason when it is damaged, and built anew', async () => {
    const bytes = readFileSync(file())
    bytes[bytes.length - 1000] ^= 8
    writeFileSync(file(), bytes)
    const made = await start(60)
    expect(made.how).toBe('built')
    expect(made.refused[0]).toMatch(/column \w+ is damaged/)
    expect(tapeHash(openTape(made.tape.buffer))).toBe(tapeHash(buildTape(world, 60)))
  })
})

describe('shared memory', () => {
  it('of days that were sold holds the next ones, and they are the days that core makes', async () => {
    const tapes = new TapeBuilder(threads, SIZE, makeGiven(SIZE.seed))
    await tapes.ready
    const days = new DaysAhead(threads, tapes.world)
    const sizes = new Set<number>()
    for (let day = 60; day < 68; day++) {
      const { rows, hourStart } = await days.get(day, 68)
      // Memory is cut to its first day, and no two days are alike.
      sizes.add(rows.key.buffer.byteLength)
      if (day % 3 > 0) continue
      const plain = makeDay(world, day)
      expect(hourStart).toEqual(plain.hourStart)
      expect(hashColumns(opportunityColumns(rows))).toBe(hashColumns(opportunityColumns(plain.rows)))
    }
    // The day that is sold, those that are made, and now and then a larger one.
    expect(sizes.size).toBeLessThanOrEqual(5)
    await tapes.close()
  })

  it('that a thread let go of is collected once it is worth it', async () => {
    const held = new WeakRef(new SharedArrayBuffer(64))
    // What is held by a weak reference lives until the turn of the loop ends.
    await new Promise(setImmediate)
    droppedShared(1000)
    await new Promise((resolve) => setTimeout(resolve, 30))
    expect(held.deref()).toBeDefined()
    await new Promise(setImmediate)
    droppedShared(2e8)
    await new Promise((resolve) => setTimeout(resolve, 30))
    expect(held.deref()).toBeUndefined()
  })
})
