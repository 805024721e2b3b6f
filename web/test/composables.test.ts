import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'
import { createApp, defineComponent, h } from 'vue'
import { useForecast } from '@/composables/use-forecast'
import { useLineDraft } from '@/composables/use-line-draft'
import { useAddress } from '@/composables/use-address'
import { useMarketTick } from '@/composables/use-market-tick'
import { useMarket } from '@/stores/market'
import fc from 'fast-check'
import { axisOf } from '@/composables/axis'
import { shortName } from '@/composables/short-name'
import { about, cpm, marketTime, money, perCent, shortDate } from '@/composables/formats'
import { LADDER, SIEVE, draftOf, fakeNetwork, figuresOf, inScope, settle, viewOf, type Request } from './support'

let requests: Request[]
beforeEach(() => {
  vi.useFakeTimers()
  requests = fakeNetwork()
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

const pass = async (milliseconds: number) => {
  await vi.advanceTimersByTimeAsync(milliseconds)
  await settle()
}

describe('following a draft with forecasts', () => {
  const lines = async (request: Request, ...parts: object[]) => {
    await request.reply({
      body: parts.map((one) => `${JSON.stringify({ number: request.body.number, milliseconds: 5, ...one })}\n`).join('')
    })
    await pass(1)
  }
  const answer = (request: Request, wins: number) => lines(request, { part: 'figures', figures: figuresOf(wins) })

  it('asks once for a burst of edits, with what was typed last', async () => {
    const { result } = inScope(useForecast)
    for (const bid of [1, 2, 3]) result.ask(3, 7, draftOf({ price: { model: 'CPM', bidMicros: bid * 1_000_000, maxMicros: null } }))
    await pass(100)
    expect(requests).toHaveLength(1)
    expect(requests[0].body.line.price.bidMicros).toBe(3_000_000)
    expect(result.isAsking.value).toBe(true)
    await answer(requests[0], 30)
    expect(result.figures.value?.day.wins.value).toBe(30)
    expect(result.isAsking.value).toBe(false)
  })

  it('never lets an older answer replace a newer one', async () => {
    const { result } = inScope(useForecast)
    result.ask(3, 7, draftOf())
    await pass(100)
    result.ask(3, 7, draftOf())
    await pass(100)
    expect(requests.map((request) => request.wasAborted)).toEqual([true, false])
    await answer(requests[1], 20)
    await answer(requests[0], 10)
    expect(result.figures.value?.day.wins.value).toBe(20)
  })

  it('keeps the figures before the last edit, and says what went wrong without losing them', async () => {
    const { result } = inScope(useForecast)
    result.ask(3, 7, draftOf())
    await pass(100)
    await answer(requests[0], 10)
    result.ask(3, 7, draftOf())
    await pass(100)
    await answer(requests[1], 12)
    expect(result.was.value?.day.wins.value).toBe(10)
    result.ask(3, 7, draftOf())
    await pass(100)
    await requests[2].reply({ status: 503, body: { code: 'not-ready', title: 'The tape is being built.' } })
    expect(result.error.value).toBe('The tape is being built.')
    expect(result.figures.value?.day.wins.value).toBe(12)
    result.ask(3, 7, draftOf())
    await pass(100)
    await requests[3].reply({ status: 409, body: { code: 'superseded', title: 'newer' } })
    await answer(requests[3], 1)
    expect(result.error.value).toBe('The tape is being built.')
  })

  it('takes the parts of an answer as they come, and offers no changes of an older one', async () => {
    const { result } = inScope(useForecast)
    result.ask(3, 7, draftOf())
    await pass(100)
    expect(requests[0].path).toBe('/forecast')
    const advice = { changes: [{ kind: 'bid' as const, micros: 3_000_000 }], gain: 10, wins: 10, spendMicros: 20, spends: false }
    await lines(
      requests[0],
      { part: 'figures', figures: figuresOf(10) },
      { part: 'ladder', ladder: LADDER },
      { part: 'sieve', sieve: SIEVE },
      { part: 'advice', measure: 'wins', advice: [advice], possible: 0.8 }
    )
    expect(result.ladder.value?.rungs).toHaveLength(4)
    expect(result.sieve.value?.all).toBe(9000)
    expect(result.advised.value).toMatchObject({ advice: [{ wins: 10 }], possible: 0.8 })
    result.ask(3, 7, draftOf())
    expect(result.advised.value).toBeNull()
    await pass(100)
    await lines(
      requests[1],
      { part: 'figures', figures: figuresOf(12) },
      { part: 'error', code: 'forecast-failed', message: 'The forecast failed twice.' }
    )
    expect(result.figures.value?.day.wins.value).toBe(12)
    expect(result.error.value).toBe('The forecast failed twice.')
  })

  it('gives up its question when the page is left', async () => {
    const { result, scope } = inScope(useForecast)
    result.ask(3, 7, draftOf())
    await pass(100)
    scope.stop()
    expect(requests[0].wasAborted).toBe(true)
  })
})

describe('a draft that saves as it is typed', () => {
  async function opened(view = viewOf()) {
    const saved = vi.fn()
    const { result, scope } = inScope(() => useLineDraft(saved))
    const loading = result.load(7)
    await requests[0].reply({ body: view })
    await loading
    requests.length = 0
    return { edit: result, saved, scope, draft: () => result.draft.value as NonNullable<typeof result.draft.value> }
  }

  it('saves once typing rests, with the version it knows', async () => {
    const { edit, draft, saved } = await opened()
    draft().name = 'A'
    edit.edited()
    draft().name = 'AB'
    expect(edit.edited()).toBe(true)
    expect(edit.saving.value).toBe('waiting')
    await pass(600)
    expect(requests).toHaveLength(1)
    expect(requests[0].body).toMatchObject({ version: 1, line: { name: 'AB' } })
    await requests[0].reply({ body: viewOf(draftOf({ name: 'AB' }), { version: 2 }) })
    expect(edit.saving.value).toBe('saved')
    expect(edit.line.value?.version).toBe(2)
    expect(saved).toHaveBeenCalledOnce()
  })

  it('tries again by itself while the server or its database is away, and nobody has to type once more', async () => {
    const { edit, draft, saved } = await opened()
    draft().name = 'B'
    edit.edited()
    await pass(600)
    await requests[0].reply({ status: 503, body: { code: 'not-ready', title: 'The database is away; try again in a moment.' } })
    expect([edit.saving.value, edit.isValid.value, requests.length]).toEqual(['away', true, 1])
    await pass(3100)
    await requests[1].reply({ status: 503, body: { code: 'not-ready', title: 'The database is away; try again in a moment.' } })
    await pass(3100)
    expect(requests[2].body).toMatchObject({ version: 1, line: { name: 'B' } })
    await requests[2].reply({ body: viewOf(draftOf({ name: 'B' }), { version: 2 }) })
    expect([edit.saving.value, saved.mock.calls.length]).toEqual(['saved', 1])
    await pass(10_000)
    expect(requests).toHaveLength(3)
  })

  it('keeps what is wrong in the form, says why at the field, and sends nothing', async () => {
    const { edit, draft } = await opened()
    draft().price.bidMicros = -1_000_000
    expect(edit.edited()).toBe(false)
    await pass(2000)
    expect(requests).toHaveLength(0)
    expect(edit.problems.value['price.bidMicros']).toBe('The bid must be more than 0.')
    expect(edit.saving.value).toBe('refused')
    draft().price.bidMicros = 1_000_000
    expect(edit.edited()).toBe(true)
    await pass(600)
    expect(requests).toHaveLength(1)
  })

  it('an amount that cannot be read stops the save as well', async () => {
    const { edit } = await opened()
    edit.unreadable.value = { 'price.bidMicros': 'cannot be read' }
    expect(edit.edited()).toBe(false)
    expect(edit.isValid.value).toBe(false)
    await edit.save()
    expect(requests).toHaveLength(0)
  })

  it('edits made while a save is on its way go with the next one', async () => {
    const { edit, draft } = await opened()
    draft().name = 'First'
    edit.edited()
    await pass(600)
    draft().name = 'Second'
    edit.edited()
    await requests[0].reply({ body: viewOf(draftOf({ name: 'First' }), { version: 2 }) })
    expect(draft().name).toBe('Second')
    await pass(600)
    expect(requests[1].body).toMatchObject({ version: 2, line: { name: 'Second' } })
  })

  it('undoes edits one by one, and saves what it went back to', async () => {
    const { edit, draft } = await opened()
    for (const name of ['A', 'B', 'C']) {
      draft().name = name
      edit.edited()
    }
    edit.undo()
    expect(draft().name).toBe('B')
    edit.undo()
    edit.undo()
    expect(draft().name).toBe('Display, phones, PT')
    expect(edit.undoStack.value).toHaveLength(0)
    edit.undo()
    expect(draft().name).toBe('Display, phones, PT')
  })

  const theirs = draftOf({ name: 'Theirs' })
  const stale = {
    status: 409,
    body: {
      code: 'stale',
      title: 'changed',
      current: { version: 5, draft: theirs, changes: [{ field: 'name', before: 'Mine', after: 'Theirs' }] }
    }
  }

  async function outrun() {
    const page = await opened()
    page.draft().name = 'Mine'
    page.edit.edited()
    await pass(600)
    await requests[0].reply(stale)
    requests.length = 0
    return page
  }

  it('when somebody was faster, keeps both and asks: mine over theirs', async () => {
    const { edit, draft } = await outrun()
    expect(edit.stale.value?.changes[0].after).toBe('Theirs')
    expect(draft().name).toBe('Mine')
    draft().landing = 'https://kana.example'
    edit.edited()
    await pass(600)
    expect(requests).toHaveLength(0)
    const settling = edit.settle(true)
    await settle()
    await requests[0].reply({ body: viewOf(theirs, { version: 5 }) })
    await pass(10)
    expect(requests[1].body).toMatchObject({ version: 5, line: { name: 'Mine', landing: 'https://kana.example' } })
    await requests[1].reply({ body: viewOf(draftOf({ name: 'Mine' }), { version: 6 }) })
    await settling
    expect(edit.stale.value).toBeNull()
  })

  it('when somebody was faster, keeps both and asks: theirs, mine by undo', async () => {
    const { edit, draft } = await outrun()
    const settling = edit.settle(false)
    await settle()
    await requests[0].reply({ body: viewOf(theirs, { version: 5 }) })
    await settling
    expect(draft().name).toBe('Theirs')
    expect(edit.undoStack.value.at(-1)?.name).toBe('Mine')
  })

  it('news of the line never hides that somebody else changed it', async () => {
    const { edit, draft } = await opened()
    draft().name = 'Mine'
    edit.edited()
    edit.refresh(viewOf(theirs, { version: 5, state: 'live' }))
    expect(edit.line.value).toMatchObject({ version: 1, state: 'live' })
    expect(draft().name).toBe('Mine')
    await pass(600)
    expect(requests[0].body.version).toBe(1)
  })

  it('news of the line is taken whole when nothing was typed, and its version when only its state moved', async () => {
    const { edit, draft } = await opened()
    edit.refresh(viewOf(draftOf(), { version: 2, state: 'live' }))
    expect(edit.line.value?.version).toBe(2)
    edit.refresh(viewOf(theirs, { version: 3 }))
    expect(draft().name).toBe('Theirs')
    expect(edit.line.value?.version).toBe(3)
  })

  it('a save that is still waiting goes out when the page is left', async () => {
    const { edit, draft, scope } = await opened()
    draft().name = 'Late'
    edit.edited()
    scope.stop()
    await settle()
    expect(requests[0].body.line.name).toBe('Late')
  })

  it('says when the line cannot be had', async () => {
    const { result } = inScope(() => useLineDraft(() => undefined))
    const loading = result.load(9)
    await requests[0].reply({ status: 404, body: { code: 'unknown', title: 'There is no line with this number.' } })
    await loading
    expect(result.loadError.value?.message).toBe('There is no line with this number.')
  })
})

describe('a database that is away', () => {
  it('is told, and everything is looked at anew when it is back', async () => {
    const look = vi.fn()
    const { result: market } = inScope(() => {
      useMarketTick(look)
      return useMarket()
    })
    market.onEvent({ kind: 'database', away: true })
    await settle()
    expect([market.databaseAway, look.mock.calls.length]).toEqual([true, 0])
    market.onEvent({ kind: 'database', away: false })
    await settle()
    expect([market.databaseAway, look.mock.calls.length]).toEqual([false, 1])
  })
})

describe('looking at a market that moves', () => {
  it('looks now and then during a run, and once more when it stands', async () => {
    const look = vi.fn()
    const { result: market, scope } = inScope(() => {
      useMarketTick(look)
      return useMarket()
    })
    const clockAt = (hour: number, running: boolean) =>
      market.onEvent({
        kind: 'market',
        running,
        hour,
        fromHour: 0,
        targetHour: 99,
        wins: 0,
        spendMicros: 0,
        trouble: null,
        playing: false,
        funds: { balanceMicros: 0, lastsUntil: null, isLow: true }
      })
    for (let hour = 1; hour <= 20; hour++) {
      clockAt(hour, true)
      await pass(100)
    }
    expect(look).toHaveBeenCalledTimes(1)
    clockAt(20, false)
    await pass(10)
    expect(look).toHaveBeenCalledTimes(2)
    clockAt(21, true)
    await settle()
    scope.stop()
    await pass(5000)
    expect(look).toHaveBeenCalledTimes(2)
  })
})

describe('the address', () => {
  it('takes changes made at once together', async () => {
    vi.useRealTimers()
    const router = createRouter({ history: createMemoryHistory(), routes: [{ path: '/', component: { render: () => null } }] })
    let address = null as ReturnType<typeof useAddress> | null
    const app = createApp(
      defineComponent({
        setup() {
          address = useAddress()
          return () => h('i')
        }
      })
    ).use(router)
    await router.push('/?kept=1')
    app.mount(document.createElement('div'))
    address?.set('sort', 'people.up')
    address?.set('named', 'app')
    await Promise.resolve()
    address?.set('grade', 'B')
    await vi.waitFor(() => expect(router.currentRoute.value.query).toEqual({ kept: '1', sort: 'people.up', named: 'app', grade: 'B' }))
    const named = address?.part('named')
    expect(named?.value).toBe('app')
    if (named) named.value = ''
    await vi.waitFor(() => expect(router.currentRoute.value.query).toEqual({ kept: '1', sort: 'people.up', grade: 'B' }))
    app.unmount()
  })
})

describe('figures in words', () => {
  it.each([
    [0, '0'],
    [7, '7'],
    [99.4, '99'],
    [1234, '1,230'],
    [9940, '9,940'],
    [9960, '10k'],
    [24_400, '24.4k'],
    [123_456, '123k'],
    [999_600, '1.0M'],
    [2_440_000, '2.4M']
  ])('about %d is %s', (value, words) => {
    expect(about(value)).toBe(words)
  })
  it('money, prices, shares and dates', () => {
    expect(money(2_459_200_000)).toContain('2,459.20')
    expect([cpm(1_746_000), cpm(64_000), cpm(0)]).toEqual(['1.75', '0.064', '0.00'])
    expect(perCent(0.0027, 2)).toBe('0.27 %')
    expect(shortDate('2026-03-02')).toBe('2 Mar')
    expect(marketTime(60 * 24 + 8)).toBe('Mon 2 Mar, 08:00')
    expect(marketTime(88 * 24)).toBe('Mon 30 Mar, 01:00')
  })
})

describe('a long name', () => {
  it('keeps its beginning and its end, and never grows', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 120 }), fc.integer({ min: 8, max: 40 }), (name, most) => {
        const short = shortName(name, most)
        expect(short.length).toBeLessThanOrEqual(Math.max(most, 8))
        if (name.length <= most) expect(short).toBe(name)
        else expect([name.startsWith(short.split(' … ')[0]), name.endsWith(short.split(' … ').at(-1) ?? '')]).toEqual([true, true])
      })
    )
    const tests = Array.from({ length: 60 }, (_, n) => shortName(`A test of the evening hours, number ${n}`, 24))
    expect(new Set(tests).size).toBe(60)
  })
})

describe('the axis of the manifest', () => {
  it('holds every flight, and the clock even when nothing is planned', () => {
    const axis = axisOf(
      [
        { startDate: '2026-02-16', endDate: '2026-03-29' },
        { startDate: '2026-03-01', endDate: null }
      ],
      60
    )
    expect(axis.at(46)).toBe(0)
    expect(axis.at(88)).toBe(1)
    expect(axis.at(60)).toBeCloseTo(14 / 42)
    expect(axis.ticks.map((tick) => tick.label)[0]).toBe('16 Feb')
    const bare = axisOf([], 60)
    expect(bare.at(60)).toBeCloseTo(0.5)
  })
})
