import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { FairQueue } from '../src/forecasts/fair-queue.js'
import { severalAtOnce } from '../src/database/several-at-once.js'

const job = (person: string, n: number) => ({ person, n })

describe('those who wait', () => {
  it('take turns by person, each in the order in which they came', () => {
    const queue = new FairQueue<ReturnType<typeof job>>()
    for (const [person, n] of [
      ['a', 1],
      ['a', 2],
      ['a', 3],
      ['b', 1],
      ['c', 1],
      ['b', 2]
    ] as const)
      queue.push(job(person, n))
    const order = Array.from({ length: 6 }, () => queue.take()).map((one) => `${one?.person}${one?.n}`)
    expect(order).toEqual(['a1', 'b1', 'c1', 'a2', 'b2', 'a3'])
    expect([queue.size, queue.take()]).toEqual([0, undefined])
  })

  it('put back are next, and the one who has most is known', () => {
    const queue = new FairQueue<ReturnType<typeof job>>()
    for (let n = 0; n < 5; n++) queue.push(job('many', n))
    queue.push(job('one', 0))
    queue.putBack(job('one', 9))
    expect(queue.take()).toEqual(job('one', 9))
    expect(queue.heaviest()).toEqual({ person: 'many', jobs: 5 })
    expect(queue.takeOldestOf('many')).toEqual(job('many', 0))
    expect(
      queue
        .takeOut(({ n }) => n % 2 === 0)
        .map(({ n }) => n)
        .sort()
    ).toEqual([0, 2, 4])
    expect(queue.size).toBe(2)
  })

  it('come out once each, and nobody is passed over for longer than all others have a turn', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.constantFrom('a', 'b', 'c', 'd'), fc.boolean()), { maxLength: 60 }), (steps) => {
        const queue = new FairQueue<ReturnType<typeof job>>()
        const out: ReturnType<typeof job>[] = []
        let n = 0
        for (const [person, takes] of steps) {
          queue.push(job(person, n++))
          if (takes) out.push(queue.take() as ReturnType<typeof job>)
        }
        for (let next = queue.take(); next; next = queue.take()) out.push(next)
        expect(out).toHaveLength(n)
        for (const person of ['a', 'b', 'c', 'd']) {
          const own = out.filter((one) => one.person === person).map((one) => one.n)
          expect(own).toEqual([...own].sort((x, y) => x - y))
        }
      })
    )
  })
})

describe('several pieces of work at once', () => {
  it('answer in their order, some at a time, and begin nothing after a failure', async () => {
    let under = 0
    let most = 0
    const work = async (n: number) => {
      most = Math.max(most, ++under)
      await new Promise((resolve) => setTimeout(resolve, (7 * n) % 5))
      under--
      return n * 2
    }
    expect(await severalAtOnce([1, 2, 3, 4, 5, 6, 7, 8, 9], work)).toEqual([2, 4, 6, 8, 10, 12, 14, 16, 18])
    expect(most).toBe(4)
    const begun: number[] = []
    await expect(
      severalAtOnce([0, 1, 2, 3, 4, 5, 6, 7, 8], async (n) => {
        begun.push(n)
        await new Promise((resolve) => setTimeout(resolve, n === 0 ? 1 : 20))
        if (n === 0) throw new Error('the first fails')
      })
    ).rejects.toThrow('the first fails')
    await new Promise((resolve) => setTimeout(resolve, 40))
    expect(begun).toEqual([0, 1, 2, 3])
  })
})
