import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import FieldRow from '@/parts/FieldRow.vue'
import BidLadder from '@/parts/BidLadder.vue'
import ForecastPanel from '@/parts/ForecastPanel.vue'
import HourGrid from '@/parts/HourGrid.vue'
import MoneyField from '@/parts/MoneyField.vue'
import StaleEditNote from '@/views/line/StaleEditNote.vue'
import ConfirmLive from '@/views/line/ConfirmLive.vue'
import { fieldName } from '@/views/line/field-names'
import { ApiError, isAbort } from '@/api/client'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'
import { LADDER, SIEVE, draftOf, fakeNetwork, figuresOf, periodOf, settle, viewOf, type Request } from './support'

// There is no canvas here; a browser test looks at the charts themselves.
vi.mock('@/theme/charts', () => ({
  COLOURS: {},
  Chart: class {
    chartArea = { left: 0, right: 300, top: 0, bottom: 100 }
    destroy() {}
  }
}))

let requests: Request[]
beforeEach(() => {
  setActivePinia(createPinia())
  requests = fakeNetwork()
})

describe('a money field', () => {
  const field = (modelValue: number | null) => mount(MoneyField, { props: { id: 'bid', modelValue, unit: 'CPM' } })

  it('shows what it was given, and what was typed until it is left', async () => {
    const bid = field(2_400_000)
    const input = bid.get('input')
    expect(input.element.value).toBe('2.40')
    await input.setValue('2,4')
    expect(bid.emitted('update:modelValue')?.at(-1)).toEqual([2_400_000])
    expect(input.element.value).toBe('2,4')
    await input.trigger('blur')
    expect(input.element.value).toBe('2.40')
  })

  it('hands on a negative amount for the schema to refuse, and says what cannot be read', async () => {
    const bid = field(null)
    await bid.get('input').setValue('-2')
    expect(bid.emitted('update:modelValue')?.at(-1)).toEqual([-2_000_000])
    await bid.get('input').setValue('1.200,5.0')
    expect(bid.emitted('problem')?.at(-1)?.[0]).toContain('cannot be read')
    expect(bid.emitted('update:modelValue')).toHaveLength(1)
    await bid.get('input').setValue('')
    expect(bid.emitted('problem')?.at(-1)).toEqual([null])
    expect(bid.emitted('update:modelValue')?.at(-1)).toEqual([null])
  })

  it('follows its value from outside without disturbing what is being typed', async () => {
    const bid = field(1_000_000)
    await bid.get('input').setValue('1.0')
    await bid.setProps({ modelValue: 1_000_000 })
    expect(bid.get('input').element.value).toBe('1.0')
    await bid.setProps({ modelValue: 3_500_000 })
    expect(bid.get('input').element.value).toBe('3.50')
  })
})

describe('a field row', () => {
  it('labels its control, and shows the problem in place of the hint', async () => {
    const row = mount(FieldRow, { props: { label: 'Base bid', for: 'bid', hint: 'CPM' } })
    expect(row.get('label').attributes('for')).toBe('bid')
    expect(row.text()).toContain('CPM')
    await row.setProps({ problem: 'The bid must be more than 0.' })
    expect(row.get('[role=alert]').text()).toBe('The bid must be more than 0.')
    expect(row.find('.FieldRow-hint').exists()).toBe(false)
  })
})

describe('the forecast panel', () => {
  const panel = (over: object = {}) =>
    mount(ForecastPanel, {
      props: {
        figures: figuresOf(4000),
        was: null,
        ladder: null,
        sieve: null,
        breakdowns: null,
        advised: null,
        together: null,
        draft: draftOf(),
        isAsking: false,
        error: null,
        waitsFor: null,
        disabled: false,
        ...over
      }
    })

  it('says what a figure was, and only when it moved', () => {
    expect(panel().text()).not.toContain('was')
    const moved = panel({ was: figuresOf(4300) })
    expect(moved.text()).toContain('was 4,300')
    expect(panel({ was: figuresOf(4000.02) }).text()).not.toContain('was')
  })

  it.each([
    [{ figures: figuresOf(0) }, 'Nothing in the recorded days matches'],
    [{ figures: figuresOf(0), sieve: { ...SIEVE, emptiedBy: 0 } }, 'places leaves nothing'],
    [{ draft: draftOf({ price: { model: 'CPM', bidMicros: null, maxMicros: null } }) }, 'Type a bid'],
    [{ figures: figuresOf(4, { tapeWins: 12, tooFew: true }) }, 'Only 12 such impressions'],
    [{ figures: figuresOf(400, { day: { ...periodOf(400), eligible: { value: 240, low: 240, high: 240 } } }) }, 'under the floor of 70 %'],
    [
      { figures: figuresOf(400, { binding: { kind: 'limit', whose: 'campaign', period: 'day', what: 'money' } }) },
      'The campaign’s day binds, not the bid'
    ],
    [{ figures: figuresOf(400, { binding: { kind: 'cap' } }) }, 'The cap binds, not the bid'],
    [{}, 'first on 50 % of what matches, second on 20 %']
  ])('remarks on %o', (over, words) => {
    expect(panel(over).text()).toContain(words)
  })

  it('says that figures are from before, that an answer failed, and that the recorded days are being read', async () => {
    const old = panel({ waitsFor: 'These figures are from before.' })
    expect(old.find('.is-old').exists()).toBe(true)
    expect(old.find('.ForecastPanel-remark').exists()).toBe(false)
    const failed = panel({ error: 'The forecast failed.' })
    await failed.get('[role=alert] button').trigger('click')
    expect(failed.emitted('retry')).toHaveLength(1)
    const market = useMarket()
    market.onEvent({ kind: 'tape', ready: false, firstDay: null, share: 0.4 })
    expect(panel().text()).toContain('being read, 40 %')
  })

  it('gives each figure its range, and offers changes that are worth something', async () => {
    const change = { kind: 'bid' as const, micros: 3_000_000 }
    const gains = { gain: 900, low: 620, high: 1180, wins: 900 }
    const shown = panel({
      advised: {
        advice: [{ changes: [change], ...gains, spendMicros: 2_000_000, spends: true, takesMore: false, eachMicros: 2200 }],
        possible: 0.817
      }
    })
    expect(shown.get('[data-test=forecast]').text()).toContain('3,600 – 4,400')
    expect(shown.get('[data-test=remark]').text()).toContain(
      'raise the bid to 3.00, for 900 (620 to 1,180) more wins a day, €2.00 more spent; one costs'
    )
    expect(shown.get('[data-test=possible]').text()).toMatch(/82 %/)
    await shown.get('[data-test=advice] button').trigger('click')
    expect(shown.emitted('change')).toEqual([[[change]]])
    expect(
      panel({
        advised: {
          advice: [{ changes: [change], ...gains, spendMicros: 0, spends: false, takesMore: false, eachMicros: null }],
          possible: null
        },
        disabled: true
      })
        .find('[data-test=advice] button')
        .exists()
    ).toBe(false)
  })

  it('says what one may cost at least where next to none may come', () => {
    const figures = figuresOf(4000)
    const conversions = { value: 0.4, low: 0.0001, high: 1.2 }
    const flight = { ...figures.flight, conversions }
    const text = panel({ figures: { ...figures, flight }, measure: 'conversions' })
      .get('[data-test=forecast-flight]')
      .text()
    expect(text).toMatch(/for one conversion€10\.00€3\.33 or more$/)
  })

  it('says what one more costs for more money, and that nothing helps where it costs too much', () => {
    const more = (eachMicros: number) => ({
      changes: [{ kind: 'daily budget' as const, micros: 9_000_000 }],
      gain: 100,
      low: 60,
      high: 140,
      wins: 100,
      spendMicros: 100 * eachMicros,
      spends: false,
      takesMore: true,
      eachMicros
    })
    const now = figuresOf(4000).day.spend.value / 4000
    const fair = panel({ advised: { advice: [more(now * 1.1)], possible: 1 } })
    expect(fair.get('[data-test=remark]').text()).toContain('raise the daily budget to 9.00')
    expect(fair.get('[data-test=advice]').text()).toMatch(/For more money.*one more costs €.*now/)
    const poor = panel({ advised: { advice: [more(now * 6)], possible: 1 } })
    expect(poor.get('[data-test=remark]').text()).toContain('No change that was tried buys a twentieth more')
    expect(poor.get('[data-test=advice]').text()).toContain('raise the daily budget')
  })

  it('lifts a restriction by its place in the draft', async () => {
    const draft = draftOf({
      targeting: {
        restrictions: [
          { dimension: 'device', mode: 'include', values: ['phone'] },
          { dimension: 'where', mode: 'include', values: ['PT'] }
        ]
      }
    })
    const shown = panel({ sieve: SIEVE, draft })
    expect(shown.get('[data-test=sieve]').text()).toContain('places Portugal')
    await shown.get('[data-test=sieve] tbody button').trigger('click')
    expect(shown.emitted('change')).toEqual([[[{ kind: 'restriction', place: 1 }]]])
  })

  it('breaks the wins down by what is chosen, and by day of the flight', async () => {
    const row = (value: number, wins: number) => ({ value, matched: wins * 2, wins, spendMicros: wins * 1000 })
    const by = Object.fromEntries(
      ['hour of week', 'country', 'region', 'device', 'category', 'source', 'deal', 'placement'].map((name) => [
        name,
        [row(0, 30), row(1, 20)]
      ])
    )
    const taken = [
      { line: 1020, wins: 24_390 },
      { line: 1003, wins: 12 }
    ]
    const shown = panel({ breakdowns: { days: [{ wins: 5, spendMicros: 6_000_000 }], by, taken } })
    expect(shown.get('[data-test=taken]').text()).toBe('L-1020 takes 24.4k of these a day for more, L-1003 12.')
    expect(
      panel({ breakdowns: { days: [], by, taken: [] } })
        .find('[data-test=taken]')
        .exists()
    ).toBe(false)
    expect(shown.get('[data-test=breakdown]').text()).toContain('Portugal')
    await shown.get('[data-test=breakdown] select').setValue('device')
    expect(shown.get('[data-test=breakdown]').text()).toContain('Phones')
    await shown.get('[data-test=breakdown] select').setValue('day')
    expect(shown.get('[data-test=breakdown]').text()).toContain('2 Mar')
  })

  it('tells people in pairs when the tape was played twice, and the words of a flight', () => {
    const twice = panel({ figures: figuresOf(100, { flight: { ...figuresOf(100).flight, days: 40, replayedDays: 28 } }) })
    expect(twice.text()).toContain('40 days of the flight; people of the first 28')
    expect(twice.findAll('.FrequencyBars > div').map((bar) => bar.get('span').text())).toEqual(['1–2', '3–4', '5–6', '7–8', '9+'])
    expect(panel().findAll('.FrequencyBars > div')).toHaveLength(10)
    expect(panel({ figures: figuresOf(1, { flight: { ...figuresOf(1).flight, open: true, replayedDays: 28 } }) }).text()).toContain(
      'Next 28 days of an open flight'
    )
  })
})

describe('the bid ladder', () => {
  it('has a mark that keys move by steps somebody would type, and says what each bid wins', async () => {
    const ladder = mount(BidLadder, { props: { ladder: LADDER, bidMicros: 2_000_000, step: 1000, disabled: false } })
    const mark = ladder.get('[role=slider]')
    expect(mark.attributes('aria-valuetext')).toBe('2.00: 180 wins a day')
    await mark.trigger('keydown', { key: 'ArrowRight' })
    await mark.trigger('keydown', { key: 'PageDown' })
    expect(ladder.emitted('bid')).toEqual([
      [2_100_000, true],
      [1_500_000, true]
    ])
    expect(ladder.text()).toContain('wins 9 in 10')
    const still = mount(BidLadder, { props: { ladder: LADDER, bidMicros: 2_000_000, step: 1000, disabled: true } })
    await still.get('[role=slider]').trigger('keydown', { key: 'ArrowRight' })
    expect(still.emitted('bid')).toBeUndefined()
  })
})

describe('the hours of the week', () => {
  it('are painted by dragging, toggled by key and by day, and are nothing when all are open', async () => {
    const grid = mount(HourGrid, { props: { hours: null, disabled: false } })
    await grid.get('[data-hour="3"]').trigger('pointerdown')
    await grid.get('[data-hour="4"]').trigger('pointerover')
    await grid.get('table').trigger('pointerup')
    const [[painted]] = grid.emitted('update:hours') as [{ clock: string; perMille: number[] }][]
    expect(painted.clock).toBe('viewer')
    expect(painted.perMille.flatMap((perMille, hour) => (perMille === 0 ? [hour] : []))).toEqual([3, 4])
    await grid.setProps({ hours: painted as never })
    expect(grid.text()).toContain('166 of 168 hours are open')
    await grid.get('th button').trigger('click')
    expect(grid.emitted('update:hours')?.[1]).toEqual([null])
    await grid.get('[data-hour="0"]').trigger('keydown', { key: 'ArrowDown' })
    await grid.get('table').trigger('keydown', { key: ' ' })
    expect(
      (grid.emitted('update:hours')?.[2] as [{ perMille: number[] }])[0].perMille.flatMap((perMille, hour) =>
        perMille === 0 ? [hour] : []
      )
    ).toEqual([3, 4, 27])
    await grid.get('.HourGrid-words button').trigger('click')
    expect(grid.emitted('update:hours')?.at(-1)).toEqual([null])
  })
})

describe('a stale edit', () => {
  it('names each field with both values and offers both ways', async () => {
    const note = mount(StaleEditNote, {
      props: { stale: { version: 3, draft: viewOf().draft, changes: [{ field: 'price.bidMicros', before: '2.00', after: '1.50' }] } }
    })
    expect(note.text()).toContain('Bid: you have 2.00, saved is 1.50')
    for (const button of note.findAll('button')) await button.trigger('click')
    expect(note.emitted('settle')).toEqual([[false], [true]])
  })
  it('fields have the names the form uses', () => {
    expect(
      ['price.bidMicros', 'targeting.where', 'targeting.placement.exclude', 'targeting.size.include', 'caps.0.times', 'odd'].map(fieldName)
    ).toEqual(['Bid', 'Places', 'Placement, left out', 'Size', 'Cap', 'The line'])
  })
})

describe('the confirmation', () => {
  const plan = {
    findings: [],
    campaigns: 1,
    lines: 1,
    ads: 2,
    mostADayMicros: 4_000_000,
    mostInAllMicros: 120_000_000,
    changes: [],
    isLive: false,
    answeredBy: null,
    waits: false
  }
  async function opened(answer: object) {
    const dialog = mount(ConfirmLive, { props: { line: viewOf() }, attachTo: document.body })
    await settle()
    await requests[0].reply({ body: answer })
    await settle()
    return dialog
  }
  const text = () => document.querySelector('.el-dialog')?.textContent ?? ''

  it('counts what will exist, money included, and puts live once with one token', async () => {
    const dialog = await opened(plan)
    expect(text()).toContain('1 campaign, 1 line, 2 ads will exist; nothing else changes.')
    expect(text()).toContain('€4.00 a day and €120.00 in all')
    document.querySelector<HTMLElement>('[data-test=confirm-live]')?.click()
    await settle()
    expect(requests[1]).toMatchObject({ method: 'POST', path: '/lines/7/live', body: { version: 1 } })
    await requests[1].reply({ status: 503, body: { code: 'not-ready', title: 'The database is away.' } })
    document.querySelector<HTMLElement>('[data-test=confirm-live]')?.click()
    await settle()
    expect(requests[2].body.token).toBe(requests[1].body.token)
    await requests[2].reply({ body: { line: 7, state: 'live', fromHour: 1 } })
    expect(dialog.emitted('live')).toHaveLength(1)
    dialog.unmount()
  })

  it('stops for what is missing and offers no way round it', async () => {
    const dialog = await opened({
      ...plan,
      findings: [
        { severity: 'stops', field: 'targeting.where', message: 'Choose at least one country.' },
        { severity: 'warns', field: 'caps', message: 'No cap.' }
      ]
    })
    expect(text()).toContain('Places. Choose at least one country.')
    expect(text()).toContain('No cap.')
    expect(document.querySelector('[data-test=confirm-live]')).toBeNull()
    dialog.unmount()
  })

  it('offers what one click does about a finding, and counts again once that is saved', async () => {
    const fix = { words: 'Cap it at 3 a day', set: [{ path: 'caps', value: [{ times: 3, hours: 24 }] }], adds: [] }
    const dialog = await opened({ ...plan, findings: [{ severity: 'warns', field: 'caps', message: 'No cap.', fix }] })
    document.querySelector<HTMLElement>('.ConfirmLive [data-test=fix]')?.click()
    await settle()
    expect(dialog.emitted('fix')).toMatchObject([[{ field: 'caps', fix: { words: 'Cap it at 3 a day' } }]])
    // Nothing goes live, and nothing is mended twice, while the line is being saved.
    expect(document.querySelector('[data-test=confirm-live]')?.classList.contains('is-loading')).toBe(true)
    expect(document.querySelector('.ConfirmLive [data-test=fix]')).toBeNull()
    await dialog.setProps({ line: viewOf(undefined, { version: 2 }) })
    await settle()
    expect(requests[1].path).toBe(requests[0].path)
    await requests[1].reply({ body: plan })
    await settle()
    expect(text()).not.toContain('No cap.')
    document.querySelector<HTMLElement>('[data-test=confirm-live]')?.click()
    await settle()
    expect(requests[2]).toMatchObject({ path: '/lines/7/live', body: { version: 2 } })
    dialog.unmount()
  })

  it('shows the edits of a line that is live already', async () => {
    const dialog = await opened({
      ...plan,
      campaigns: 0,
      lines: 0,
      ads: 0,
      isLive: true,
      changes: [{ field: 'price.bidMicros', before: '2.00', after: '1.50' }]
    })
    expect(text()).toContain('The line stays one line')
    expect(text()).toMatch(/Bid: 2\.00\s*→\s*1\.50/)
    dialog.unmount()
  })
})

describe('stores', () => {
  it('the session knows what its user may do, and forgets at sign-out', async () => {
    const session = useSession()
    const loading = session.load()
    await requests[0].reply({ body: { name: 'Inês', email: 'ines@x.example', role: 'trader' } })
    await loading
    expect([session.may('live'), session.may('clock'), session.isSignedIn]).toEqual([true, true, true])
    const leaving = session.signOut()
    await requests[1].reply({})
    await leaving
    expect(session.isSignedIn).toBe(false)
    expect(session.may('read')).toBe(false)
  })

  it('the market follows events and says why a run did not start', async () => {
    const market = useMarket()
    market.onEvent({
      kind: 'market',
      running: true,
      hour: 1449,
      fromHour: 1448,
      targetHour: 1472,
      wins: 9,
      spendMicros: 5,
      trouble: null,
      playing: false,
      funds: { balanceMicros: 77, lastsUntil: null, isLow: false }
    })
    expect([market.run.hour, market.run.wins, market.funds?.balanceMicros]).toEqual([1449, 9, 77])
    const starting = market.start(24)
    await requests[0].reply({ status: 409, body: { code: 'conflict', title: 'The market is running already.' } })
    await starting
    expect(market.error).toBe('The market is running already.')
  })

  it('the manifest is read once more for all who ask while it is read, and keeps what it had when a later reading fails', async () => {
    const manifest = useManifest()
    const asked = [manifest.load(), manifest.load(), manifest.load()]
    const advertiserCalled = (name: string) => ({
      advertisers: [{ id: 1, name, domain: '', zone: 'UTC' }],
      campaigns: [],
      lines: [],
      possibleSince: 7
    })
    // News that what is being read knows already is none.
    const news = manifest.onPossible(7)
    expect(requests).toHaveLength(1)
    await requests[0].reply({ body: advertiserCalled('old') })
    await requests[1].reply({ body: advertiserCalled('new') })
    await Promise.all([...asked, news])
    expect(requests).toHaveLength(2)
    expect(manifest.advertiserOf(1)?.name).toBe('new')
    expect(manifest.isEmpty).toBe(true)
    const third = manifest.load()
    await requests[2].reply({
      status: 500,
      body: { code: 'unexpected', title: 'Something went wrong on our side.', detail: 'It is noted under 1.' }
    })
    await third
    expect(manifest.error).toBe('Something went wrong on our side. It is noted under 1.')
    expect(manifest.advertiserOf(1)?.name).toBe('new')
    void manifest.onPossible(8)
    await settle()
    expect(requests).toHaveLength(4)
  })
})

describe('the client', () => {
  it('tells an abandoned request from a failure, and a server that is away from one that answers nonsense', async () => {
    expect([
      isAbort(new DOMException('', 'AbortError')),
      isAbort(new ApiError(409, 'superseded', '')),
      isAbort(new ApiError(409, 'stale', ''))
    ]).toEqual([true, true, false])
    const manifest = useManifest()
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('Failed to fetch')))
    await manifest.load()
    expect(manifest.error).toContain('does not answer')
    vi.stubGlobal('fetch', () => Promise.resolve(new Response('<html>', { status: 502 })))
    await manifest.load()
    expect(manifest.error).toContain('not an answer')
  })
})
