import fc from 'fast-check'
import { afterEach, describe, expect, it } from 'vitest'
import { CancelWord } from '../src/threads/cancel-word.js'
import { Thread } from '../src/threads/thread.js'
import { Threads } from '../src/threads/threads.js'

interface OddWork {
  requests: {
    add: { asks: { a: number; b: number }; tells: never; answers: number }
    later: { asks: { milliseconds: number }; tells: number; answers: number }
    throw: { asks: { told: boolean }; tells: never; answers: never }
    reject: { asks: null; tells: never; answers: never }
    untilCancelled: { asks: null; tells: never; answers: never }
    exit: { asks: { code: number }; tells: never; answers: never }
    throwLater: { asks: null; tells: never; answers: never }
    rejectLater: { asks: null; tells: never; answers: never }
    function: { asks: null; tells: never; answers: unknown }
  }
  notices: { greeting: number; bad: null }
}

const FILE = new URL('./support/odd.worker.mjs', import.meta.url)
const deaths: string[] = []
const threads = new Threads((name, error) => deaths.push(`${name}: ${(error as Error).message}`))
const open: Thread<OddWork>[] = []

function odd(isKept = false): Thread<OddWork> {
  const thread = new Thread<OddWork>('odd', { file: FILE, data: null, isKept, greet: () => [{ kind: 'greeting', body: 7 }] }, threads)
  open.push(thread)
  return thread
}
const outcome = (asked: Promise<unknown>) =>
  asked.then(
    (answer) => answer,
    (error: Error) => error.name
  )

afterEach(async () => {
  await Promise.all(open.splice(0).map((thread) => thread.close()))
  deaths.length = 0
})

describe('a thread', () => {
  it('answers many requests at once, tells meanwhile, and is greeted before anything else', async () => {
    const thread = odd()
    const told: number[] = []
    const asked = [
      thread.request('later', { milliseconds: 20 }, { onTold: (n) => told.push(n) }),
      thread.request('add', { a: 1, b: 2 }),
      thread.request('later', { milliseconds: 1 })
    ]
    expect(await Promise.all(asked)).toEqual([7, 3, 7])
    expect(told).toEqual([20])
    thread.notify('greeting', 1)
    expect(await thread.request('later', { milliseconds: 0 })).toBe(8)
  })

  it('hands on errors with their stacks and causes, and what whoever asked may be told', async () => {
    const thread = odd()
    await expect(thread.request('throw', { told: true })).rejects.toMatchObject({
      name: 'RequestFailedError',
      told: 'It went wrong.',
      cause: { message: 'It went wrong.', stack: expect.stringContaining('odd.worker'), cause: { name: 'RangeError', message: 'Too far.' } }
    })
    await expect(thread.request('throw', { told: false })).rejects.toMatchObject({ told: null })
    await expect(thread.request('reject', null)).rejects.toMatchObject({ cause: { name: 'TypeError' } })
    // What cannot be sent is an error of the request, not of the thread.
    await expect(thread.request('function', null)).rejects.toMatchObject({ name: 'RequestFailedError' })
    expect(await thread.request('add', { a: 2, b: 2 })).toBe(4)
    expect(deaths).toEqual([])
  })

  it('stops when nobody waits, and does not begin what was given up', async () => {
    const thread = odd()
    const word = new CancelWord()
    const asked = outcome(thread.request('untilCancelled', null, { cancel: word }))
    const behind = new CancelWord()
    const second = outcome(thread.request('add', { a: 1, b: 1 }, { cancel: behind }))
    behind.set()
    setTimeout(() => word.set(), 30)
    expect(await Promise.all([asked, second])).toEqual(['GivenUpError', 'GivenUpError'])
    expect(await outcome(thread.request('add', { a: 1, b: 1 }, { cancel: word }))).toBe('GivenUpError')
  })

  it.each([
    ['a quiet end', (thread: Thread<OddWork>) => thread.request('exit', { code: 0 })],
    ['an end with a code', (thread: Thread<OddWork>) => thread.request('exit', { code: 3 })],
    ['an error outside of any request', (thread: Thread<OddWork>) => thread.request('throwLater', null)],
    ['a rejection that nobody hears', (thread: Thread<OddWork>) => thread.request('rejectLater', null)]
  ])('that dies by %s rejects what waits, asks again what may be, and is there for the next', async (_, die) => {
    const thread = odd()
    const others = [
      outcome(thread.request('later', { milliseconds: 5000 })),
      outcome(thread.request('add', { a: 1, b: 2 })),
      outcome(thread.request('later', { milliseconds: 60 }, { tries: 2 }))
    ]
    expect(await outcome(die(thread))).toBe('ThreadDiedError')
    expect(await Promise.all(others)).toEqual(['ThreadDiedError', 3, 7])
    expect(await thread.request('add', { a: 5, b: 5 })).toBe(10)
    expect(deaths).toHaveLength(1)
  })

  it('that is killed between requests, or by a notice, is there for the next', async () => {
    const thread = odd(true)
    await thread.request('add', { a: 0, b: 0 })
    const first = thread.running
    await first?.terminate()
    expect(thread.running).not.toBe(first)
    expect(await thread.request('later', { milliseconds: 0 })).toBe(7)
    thread.notify('bad', null)
    expect(await outcome(thread.request('add', { a: 1, b: 1 }, { tries: 2 }))).toBe(2)
    expect(deaths).toEqual(['odd: The odd thread ended with 1.', 'odd: A notice that cannot be heard.'])
  })

  it('that dies again and again stays away, and rejects at once', async () => {
    const thread = odd(true)
    const before = threads.counts().odd?.deaths ?? 0
    for (let n = 0; n < 4; n++) expect(await outcome(thread.request('exit', { code: 0 }))).toBe('ThreadDiedError')
    await expect(thread.request('add', { a: 1, b: 1 })).rejects.toMatchObject({
      name: 'ThreadAwayError',
      cause: { message: 'The odd thread ended with 0.' }
    })
    expect(thread.running).toBeNull()
    expect(threads.counts().odd).toEqual({ running: 0, deaths: before + 4 })
  })

  it('that is closed rejects what waits, counts no death and is not started again', async () => {
    const thread = odd(true)
    const asked = outcome(thread.request('later', { milliseconds: 5000 }, { tries: 3 }))
    await thread.close()
    expect([await asked, await outcome(thread.request('add', { a: 1, b: 1 }))]).toEqual(['ThreadDiedError', 'ThreadDiedError'])
    expect([thread.running, deaths]).toEqual([null, []])
  })

  it('settles every request whatever kills it, and whenever', async () => {
    const asks = fc.array(
      fc.record({
        kind: fc.constantFrom('add', 'later', 'exit', 'kill', 'throw', 'throwLater', 'cancelled'),
        tries: fc.integer({ min: 1, max: 3 }),
        pause: fc.integer({ min: 0, max: 6 })
      }),
      { minLength: 1, maxLength: 14 }
    )
    await fc.assert(
      fc.asyncProperty(asks, fc.boolean(), async (list, isKept) => {
        const thread = odd(isKept)
        const asked: Promise<unknown>[] = []
        for (const { kind, tries, pause } of list) {
          const word = new CancelWord()
          if (kind === 'add') asked.push(outcome(thread.request('add', { a: 20, b: 22 }, { tries })))
          else if (kind === 'later') asked.push(outcome(thread.request('later', { milliseconds: pause }, { tries })))
          else if (kind === 'throw') asked.push(outcome(thread.request('throw', { told: false }, { tries })))
          else if (kind === 'throwLater') asked.push(outcome(thread.request('throwLater', null)))
          else if (kind === 'exit') asked.push(outcome(thread.request('exit', { code: pause })))
          else if (kind === 'cancelled') {
            asked.push(outcome(thread.request('untilCancelled', null, { cancel: word, tries })))
            setTimeout(() => word.set(), pause)
          } else void thread.running?.terminate()
          await new Promise((resolve) => setTimeout(resolve, pause))
        }
        const known = [42, 7, 'ThreadDiedError', 'ThreadAwayError', 'RequestFailedError', 'GivenUpError']
        for (const one of await Promise.all(asked)) expect(known).toContain(one)
        await thread.close()
      }),
      { numRuns: 25 }
    )
  })
})
