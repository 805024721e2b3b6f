import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import FieldRow from '@/parts/FieldRow.vue'
import ForecastPanel from '@/parts/ForecastPanel.vue'
import MoneyField from '@/parts/MoneyField.vue'
import StaleEditNote from '@/views/line/StaleEditNote.vue'
import ConfirmLive from '@/views/line/ConfirmLive.vue'
import { fieldName } from '@/views/line/field-names'
import { ApiError, isAbort } from '@/api/client'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'
import { fakeNetwork, forecastOf, settle, viewOf, type Request } from './support'

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
  const panel = (over: object = {}) => mount(ForecastPanel, {
    props: { forecast: forecastOf(4000), was: null, isAsking: false, error: null, waitsFor: null, bidMicros: 2_000_000, ...over }
  })

  it('says what a figure was, and only when it moved', () => {
    expect(panel().text()).not.toContain('was')
    const moved = panel({ was: forecastOf(4300) })
    expect(moved.text()).toContain('was 4,300')
    expect(panel({ was: forecastOf(4000.2) }).text()).not.toContain('was')
  })

  it.each([
    [{ forecast: forecastOf(0, { day: { matched: 0, wins: 0, spendMicros: 0, cpmMicros: 0, reach: 0, frequency: 0 } }) }, 'Nothing on the tape matches'],
    [{ bidMicros: null }, 'Type a bid'],
    [{ forecast: forecastOf(4, { tapeWins: 12 }) }, 'Only 12 such impressions'],
    [{ forecast: forecastOf(400, { eligibleShare: 0.3 }) }, 'under the floor of 70 %'],
    [{ forecast: forecastOf(400, { budgetBinds: true }) }, 'The budget binds, not the bid'],
    [{}, 'first on 50 % of what matches, second on 20 %']
  ])('remarks on %o', (over, words) => {
    expect(panel(over).text()).toContain(words)
  })

  it('says that figures are from before, that an answer failed, and that the tape is being built', async () => {
    const old = panel({ waitsFor: 'These figures are from before.' })
    expect(old.find('.is-old').exists()).toBe(true)
    expect(old.find('.ForecastPanel-remark').exists()).toBe(false)
    const failed = panel({ error: 'The forecast failed.' })
    await failed.get('button').trigger('click')
    expect(failed.emitted('retry')).toHaveLength(1)
    const market = useMarket()
    market.onEvent({ kind: 'tape', ready: false, firstDay: null, share: 0.4 })
    expect(panel().text()).toContain('being built, 40 %')
  })

  it('tells people in pairs when the tape was played twice, and the words of a flight', () => {
    const twice = panel({ forecast: forecastOf(100, { flight: { ...forecastOf(100).flight, days: 40, replayedDays: 28 } }) })
    expect(twice.text()).toContain('40 days of the flight; people of the first 28')
    expect(twice.findAll('.ForecastPanel-bars > div').map((bar) => bar.get('span').text())).toEqual(['1–2', '3–4', '5–6', '7–8', '9+'])
    expect(panel().findAll('.ForecastPanel-bars > div')).toHaveLength(10)
    expect(panel({ forecast: forecastOf(1, { flight: { ...forecastOf(1).flight, open: true, replayedDays: 28 } }) }).text()).toContain('Next 28 days of an open flight')
  })
})

describe('a stale edit', () => {
  it('names each field with both values and offers both ways', async () => {
    const note = mount(StaleEditNote, { props: { stale: { version: 3, draft: viewOf().draft, changes: [{ field: 'price.bidMicros', before: '2.00', after: '1.50' }] } } })
    expect(note.text()).toContain('Bid: you have 2.00, saved is 1.50')
    for (const button of note.findAll('button')) await button.trigger('click')
    expect(note.emitted('settle')).toEqual([[false], [true]])
  })
  it('fields have the names the form uses', () => {
    expect(['price.bidMicros', 'targeting.where', 'targeting.placement.exclude', 'targeting.size.include', 'odd'].map(fieldName)).toEqual(['Bid', 'Where', 'Placements, left out', 'Sizes', 'odd'])
  })
})

describe('the confirmation', () => {
  const plan = { findings: [], campaigns: 1, lines: 1, ads: 2, mostADayMicros: 4_000_000, mostInAllMicros: 120_000_000, changes: [], isLive: false, waits: false }
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
    const dialog = await opened({ ...plan, findings: [{ severity: 'stops', field: 'targeting.where', message: 'Choose at least one country.' }, { severity: 'warns', field: 'caps', message: 'No cap.' }] })
    expect(text()).toContain('Where. Choose at least one country.')
    expect(text()).toContain('No cap.')
    expect(document.querySelector('[data-test=confirm-live]')).toBeNull()
    dialog.unmount()
  })

  it('shows the edits of a line that is live already', async () => {
    const dialog = await opened({ ...plan, campaigns: 0, lines: 0, ads: 0, isLive: true, changes: [{ field: 'price.bidMicros', before: '2.00', after: '1.50' }] })
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
    expect([session.may('live'), session.may('money'), session.isSignedIn]).toEqual([true, false, true])
    const leaving = session.signOut()
    await requests[1].reply({})
    await leaving
    expect(session.isSignedIn).toBe(false)
    expect(session.may('read')).toBe(false)
  })

  it('the market follows events and says why a run did not start', async () => {
    const market = useMarket()
    market.onEvent({ kind: 'market', running: true, hour: 1449, fromHour: 1448, targetHour: 1472, wins: 9, spendMicros: 5, trouble: null, balanceMicros: 77 })
    expect([market.run.hour, market.run.wins, market.balanceMicros]).toEqual([1449, 9, 77])
    const starting = market.start(24)
    await requests[0].reply({ status: 409, body: { code: 'conflict', title: 'The market is running already.' } })
    await starting
    expect(market.error).toBe('The market is running already.')
  })

  it('the manifest keeps the newest answer and what it had when a later one fails', async () => {
    const manifest = useManifest()
    const [first, second] = [manifest.load(), manifest.load()]
    const of = (name: string) => ({ advertisers: [{ id: 1, name, domain: '', zone: 'UTC' }], campaigns: [], lines: [] })
    await requests[1].reply({ body: of('new') })
    await requests[0].reply({ body: of('old') })
    await Promise.all([first, second])
    expect(manifest.advertiserOf(1)?.name).toBe('new')
    expect(manifest.isEmpty).toBe(true)
    const third = manifest.load()
    await requests[2].reply({ status: 500, body: { code: 'unexpected', title: 'Something went wrong on our side.', detail: 'It is noted under 1.' } })
    await third
    expect(manifest.error).toBe('Something went wrong on our side. It is noted under 1.')
    expect(manifest.advertiserOf(1)?.name).toBe('new')
  })
})

describe('the client', () => {
  it('tells an abandoned request from a failure, and a server that is away from one that answers nonsense', async () => {
    expect([isAbort(new DOMException('', 'AbortError')), isAbort(new ApiError(409, 'superseded', '')), isAbort(new ApiError(409, 'stale', ''))]).toEqual([true, true, false])
    const manifest = useManifest()
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('Failed to fetch')))
    await manifest.load()
    expect(manifest.error).toContain('does not answer')
    vi.stubGlobal('fetch', () => Promise.resolve(new Response('<html>', { status: 502 })))
    await manifest.load()
    expect(manifest.error).toContain('not an answer')
  })
})
