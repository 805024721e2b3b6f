import { flushPromises, mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { createMemoryHistory, createRouter } from 'vue-router'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type {
  ForecastRecordRow,
  OpportunityTrace,
  ReportRowView,
  ReportView,
  TodayView,
  TraceView as Trace
} from '@tin-harbor/core/contract'
import { REPORT_MEASURES, wilson, type ReportMeasure } from '@tin-harbor/core/report'
import type { Judged } from '@tin-harbor/core/forecast'
import RunControls from '@/parts/RunControls.vue'
import ForecastRecord from '@/parts/ForecastRecord.vue'
import TodayChart from '@/parts/TodayChart.vue'
import ReportsView from '@/views/reports/ReportsView.vue'
import OneOpportunity from '@/views/reports/OneOpportunity.vue'
import TraceView from '@/views/reports/TraceView.vue'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'
import { fakeNetwork, painted, settle, viewOf, type Request } from './support'

/** What was last drawn. */
const drawn = vi.hoisted(() => ({ type: '', data: { labels: [] as string[], datasets: [] as { label: string; data: unknown[] }[] } }))
vi.mock('@/theme/charts', () => ({
  COLOURS: {},
  Chart: class {
    constructor(_: unknown, { type, data }: typeof drawn) {
      Object.assign(drawn, { type, data })
    }
    destroy() {}
  }
}))

let requests: Request[]
beforeEach(() => {
  setActivePinia(createPinia())
  requests = fakeNetwork()
})
const RUN = { running: false, hour: 1450, fromHour: 1450, targetHour: 1450, wins: 0, spendMicros: 0, trouble: null, playing: false }

describe('the run controls', () => {
  it('say that the market is played, what was bought, and stop it', async () => {
    useMarket().run = { ...RUN, running: true, playing: true, targetHour: 1500, wins: 1234, spendMicros: 5_600_000 }
    useSession().user = { id: 1, formats: null, name: 'Inês', email: 'i@x.example', role: 'trader' }
    const controls = mount(RunControls)
    expect(controls.text()).toContain('played: 1,234 bought')
    await controls.get('button').trigger('click')
    expect(requests.at(-1)).toMatchObject({ method: 'DELETE', path: '/market/run' })
  })

  it('run to an hour, an hour each so many seconds, and say why that did not start', async () => {
    const market = useMarket()
    market.run = RUN
    void market.startTo(1600, 2)
    expect(requests.at(-1)).toMatchObject({ method: 'POST', path: '/market/run', body: { to: 1600, secondsAnHour: 2 } })
    await requests.at(-1)?.reply({ status: 422, body: { title: 'The clock is past that moment already.', code: 'invalid', issues: [] } })
    await settle()
    expect(market.error).toContain('past that moment')
  })

  it('are not for readers', () => {
    useMarket().run = RUN
    useSession().user = { id: 1, formats: null, name: 'Rui', email: 'r@x.example', role: 'reader' }
    expect(mount(RunControls).findAll('button')).toHaveLength(0)
  })
})

describe('today by hour', () => {
  const hours = Array.from({ length: 24 }, (_, hour) => ({
    spendMicros: hour < 6 ? 200_000 : 0,
    matched: hour < 6 ? 400 : 0,
    wins: hour < 6 ? 100 : 0,
    viewable: hour < 6 ? 60 : 0,
    clicks: hour === 2 ? 3 : 0
  }))
  const today = (over: Partial<TodayView> = {}): TodayView => ({
    date: '2026-03-02',
    hour: 6,
    hours,
    yesterday: hours,
    plannedMicros: Array.from({ length: 25 }, (_, hour) => hour * 250_000),
    ...over
  })

  it('says what was spent of what is planned by now, shown and clicked', () => {
    const text = mount(TodayChart, { props: { today: today() } })
      .get('figcaption')
      .text()
    expect(text).toContain('€1.20 of €1.50 planned by now, 600 shown, 3 clicks')
    expect(
      mount(TodayChart, { props: { today: today({ plannedMicros: null }) } })
        .get('figcaption')
        .text()
    ).not.toContain('planned by now')
  })
})

describe('today by hour, other than spend', () => {
  const hours = Array.from({ length: 24 }, (_, hour) => ({
    spendMicros: 0,
    matched: hour === 3 ? 0 : 400,
    wins: hour === 3 ? 0 : 100,
    viewable: hour === 3 ? 0 : 60,
    clicks: hour === 2 ? 3 : 0
  }))
  const today: TodayView = {
    date: '2026-03-02',
    hour: 6,
    hours,
    yesterday: hours.map((one) => ({ ...one, clicks: 1 })),
    plannedMicros: null
  }
  async function choose(what: string) {
    const chart = mount(TodayChart, { props: { today }, attachTo: document.body })
    await chart.get(`input[value="${what}"]`).setValue()
    await painted()
    return chart
  }
  const data = (label: string, nth = 0) => drawn.data.datasets.filter((set) => set.label === label)[nth].data

  it('counts what was shown each hour, and no hour that is still to come', async () => {
    await choose('shown')
    expect(data('today')).toEqual([100, 100, 100, 0, 100, 100, ...new Array<null>(18).fill(null)])
    expect(data('yesterday')).toHaveLength(24)
  })

  it('draws rates with their 90 % range, nothing where nothing was shown, and says the day so far', async () => {
    const chart = await choose('click rate')
    expect(drawn.type).toBe('bar')
    const { low, high } = wilson(3, 100)
    expect(data('today').slice(1, 4)).toEqual([0, 3, null])
    expect(data('today', 1).slice(2, 4)).toEqual([[100 * low, 100 * high], null])
    expect(data('yesterday').slice(2, 4)).toEqual([1, null])
    const all = wilson(
      3,
      hours.reduce((sum, one) => sum + one.wins, 0)
    )
    expect(chart.get('figcaption').text()).toContain(
      `${((100 * 3) / 2300).toFixed(2)} % clicks of what was shown, ${(100 * all.low).toFixed(2)} % to ${(100 * all.high).toFixed(2)} % in 9 of 10`
    )
    await chart.get('input[value="win rate"]').setValue()
    await painted()
    expect(data('today')[0]).toBe(25)
    expect(chart.get('canvas').attributes('aria-label')).toContain('win rate, 25 % won of what it matched')
  })
})

describe('reports', () => {
  const row = (label: string, over: Partial<ReportRowView> = {}): ReportRowView => ({
    key: label.length,
    label,
    wins: 5000,
    people: 3000,
    frequency: 1.67,
    viewable: 3000,
    viewableShare: 0.6,
    views: 3000,
    reached: [0, 0, 0, 0],
    overlayClicks: 0,
    unmutes: 0,
    shares: 0,
    clicks: 25,
    clickRate: 0.005,
    clickRange: { low: 0.0035, high: 0.007 },
    visits: 25,
    stays: 11,
    pages: 18,
    conversions: 2,
    unpaid: 0,
    payMicros: 0,
    viewConversions: 1,
    assists: 0,
    valueMicros: 48_000_000,
    spendMicros: 6_000_000,
    chargedMicros: 6_000_000,
    dataMicros: 0,
    feeMicros: 700_000,
    cpmMicros: 1_200_000,
    costMicros: 3_000_000,
    viewCost: 2000,
    visitCost: 240_000,
    costRange: { low: 1_000_000, high: 9_000_000 },
    ...over
  })
  const view = (): ReportView => ({
    by: 'placement',
    from: '2026-02-16',
    to: '2026-03-01',
    windowHours: 720,
    campaign: null,
    line: null,
    rows: [row('Loan Word Index'), row('Tern', { wins: 40, costMicros: null, conversions: 0, costRange: { low: 2_000_000, high: null } })],
    total: row('in all', { wins: 5040 }),
    milliseconds: 12
  })
  async function open(path: string) {
    const router = createRouter({
      history: createMemoryHistory(),
      routes: [
        { path: '/reports', name: 'reports', component: ReportsView },
        { path: '/reports/forecasts', name: 'forecasts', component: ReportsView }
      ]
    })
    await router.push(path)
    useMarket().run = RUN
    const page = mount(ReportsView, { global: { plugins: [router] } })
    await flushPromises()
    return { page, router, asked: () => requests.filter((request) => request.path.startsWith('/reports')) }
  }

  it('asks what the address says, shows rows faint that say too little, and the total in words', async () => {
    const { page, asked } = await open('/reports?by=city&of=c4&from=2026-02-20&to=2026-02-28&within=24')
    expect(asked()[0].path).toBe('/reports?by=city&from=2026-02-20&to=2026-02-28&windowHours=24&campaign=4')
    await asked()[0].reply({ body: view() })
    await flushPromises()
    expect(page.get('.ReportsView-total').text()).toContain('5,040 shown to 3,000 people')
    expect(page.text()).toContain('too little shown')
    expect(page.text()).toContain('none yet')
    expect(page.find('.RateRange').attributes('aria-label')).toContain('0.50 % (0.35 % to 0.70 %)')
  })

  it('has each measure where it says that it stands: in the table, in the file', async () => {
    let saved: Blob | null = null
    vi.stubGlobal(
      'URL',
      Object.assign(URL, { createObjectURL: (blob: Blob) => ((saved = blob), 'blob:x'), revokeObjectURL: () => undefined })
    )
    const { page, asked } = await open('/reports?by=city')
    await asked()[0].reply({ body: view() })
    await flushPromises()
    const all: ReportMeasure[] = Object.values(REPORT_MEASURES)
    const heads = page.findAll('th').map((head) => head.text())
    const inTable = all.flatMap(({ table }) => (table ? [table.name] : []))
    // What clients are charged stands apart where there is a margin on what we paid, and nowhere else.
    expect(heads).toEqual(expect.arrayContaining(inTable.filter((name) => name !== 'client charged')))
    expect(heads).not.toContain('client charged')
    await page
      .findAll('button')
      .find((button) => button.text() === 'CSV')
      ?.trigger('click')
    await vi.waitFor(() => expect(saved).not.toBeNull())
    const [first] = (await (saved as unknown as Blob).text()).split('\r\n')
    for (const { name, isInFile = true } of all) expect([name, first.split(',').includes(name)]).toEqual([name, isInFile])
  })

  it('says what clients are charged beside what we paid, where there is a margin', async () => {
    const { page, asked } = await open('/reports?by=city')
    await asked()[0].reply({ body: { ...view(), total: row('in all', { chargedMicros: 6_750_000 }) } })
    await flushPromises()
    expect(page.text()).toContain('€6.00 that we paid (CPM 1.20), for which clients are charged €6.75')
    expect(page.findAll('th').map((head) => head.text())).toEqual(expect.arrayContaining(['our cost', 'client charged']))
  })

  it('a newer question gives up the older, and what went wrong can be tried again', async () => {
    const { page, router, asked } = await open('/reports')
    await router.push('/reports?by=age')
    await flushPromises()
    expect(asked()[0].wasAborted).toBe(true)
    await asked()[1].reply({
      status: 500,
      body: { title: 'Hour 1,400 of the delivery log is damaged: The checksum of a log row does not fit its data.', code: 'records-failed' }
    })
    await flushPromises()
    expect(page.get('[role=alert]').text()).toContain('is damaged')
    await page.get('[role=alert] button').trigger('click')
    expect(asked()).toHaveLength(3)
  })
})

describe('the trace', () => {
  const counts = {
    no_ad: 0,
    below_floor: 10,
    outbid: 190,
    no_money: 0,
    total_budget: 0,
    period_budget: 100,
    placement_limit: 0,
    paced_out: 400,
    capped: 50,
    gap: 0,
    outbid_after_discount: 0,
    won: 250,
    own_line: 0
  }
  const trace: Trace = {
    line: 7,
    from: 1200,
    to: 1368,
    offered: 100_000,
    hours: 168,
    tapeFirstDay: 46,
    sieve: [
      { name: 'in slots that its ads fit', left: 5000, low: 4980, high: 5020 },
      { name: 'where: Germany', left: 1000, low: 940, high: 1060 }
    ],
    matched: 1000,
    counts,
    short: [30, 20, 50, 60, 30, 10],
    stair: [
      { name: 'matched', left: 1000, lost: 0, outcomes: [], forecast: 1010 },
      { name: 'over rivals', left: 800, lost: 200, outcomes: ['outbid'], forecast: 790 },
      { name: 'let through by pacing', left: 300, lost: 500, outcomes: ['paced_out'], forecast: null },
      { name: 'not won by a line of yours', left: 250, lost: 0, outcomes: ['own_line'], forecast: 248 }
    ],
    losses: [
      { loss: 'budget', lost: 500, outcomes: ['period_budget', 'paced_out'] },
      { loss: 'bid', lost: 200, outcomes: ['outbid'] }
    ],
    binds: 'The line’s day binds, not the bid: without it this bid would spend €9.00 a day.',
    advice: [{ words: 'lower the bid to 0.93', wins: 62, spendMicros: -500_000, takesMore: false }],
    forecast: { wins: 248, low: 230, high: 270 }
  }
  async function open(path = '/reports/trace/7') {
    const router = createRouter({
      history: createMemoryHistory(),
      routes: [
        { path: '/reports', name: 'reports', component: { template: '<i />' } },
        { path: '/lines/:lineId', name: 'line', component: { template: '<i />' } },
        { path: '/reports/trace/:lineId', name: 'trace', component: TraceView }
      ]
    })
    await router.push(path)
    useMarket().run = RUN
    const view = mount(TraceView, { global: { plugins: [router] } })
    await settle()
    await requests.find((request) => request.path === '/lines/7')?.reply({ body: viewOf() })
    await flushPromises()
    return view
  }

  it('draws each step, the forecast beside it, and the change that helps most', async () => {
    const view = await open()
    await requests.find((request) => request.path.startsWith('/lines/7/trace'))?.reply({ body: trace })
    await flushPromises()
    expect(view.get('[data-test=remark]').text().replace(/\s+/g, ' ')).toContain(
      'its limits and their pace: 500. The line’s day binds, not the bid: without it this bid would spend €9.00 a day. What would help now: lower the bid to 0.93, 62 more wins a day for €0.50 less.'
    )
    const rows = view.findAll('.StairTable tbody tr').map((row) => row.text())
    expect(rows.some((row) => row.includes('where: Germany') && row.includes('4,000') && row.includes('940 – 1,060'))).toBe(true)
    expect(rows.some((row) => row.startsWith('over rivals') && row.includes('800') && row.includes('790'))).toBe(true)
    expect(view.get('.StairTable tr.is-most').text()).toContain('let through by pacing')
    expect(view.findAll('.TraceView-short li')).toHaveLength(6)
  })

  it('says why there is none, and tries again', async () => {
    const view = await open()
    const asked = () => requests.filter((request) => request.path.startsWith('/lines/7/trace'))
    await asked()[0].reply({ status: 409, body: { title: 'This line was never live: there is nothing to trace yet.', code: 'conflict' } })
    await flushPromises()
    expect(view.get('[role=alert]').text()).toContain('never live')
    await view.get('[role=alert] button').trigger('click')
    await settle()
    expect(asked()).toHaveLength(2)
  })
})

describe('one opportunity', () => {
  const verdict = (line: number, over: Partial<OpportunityTrace['verdicts'][number]>): OpportunityTrace['verdicts'][number] => ({
    line,
    name: `Line ${line}`,
    isOpen: true,
    failing: [],
    hasAd: true,
    steps: [
      { what: 'base bid', micros: 2400 },
      { what: 'adjusted x 0.5', micros: 1200 }
    ],
    bidMicros: 1200,
    needMicros: 500,
    verdict: 'could win',
    became: 'won',
    ...over
  })
  const found = (nth: number, over: Partial<OpportunityTrace> = {}): OpportunityTrace => ({
    hour: 1449,
    nth,
    count: 9000,
    key: 1,
    minute: 541,
    placement: 'loan.example: page head',
    property: 'Loan Word Index',
    position: 'page head',
    size: '728x90',
    source: 'Tidewater',
    device: 'desktop',
    browser: 'Lantern',
    country: 'Germany',
    category: 'money',
    connection: 'Wi-Fi',
    robot: false,
    floorMicros: 330,
    rivalMicros: 500,
    secondMicros: 0,
    isFirstPrice: true,
    verdicts: [verdict(7, {}), verdict(8, { verdict: 'does not match', became: null, failing: ['device: phones'] })],
    bought: { name: 'Line 7', priceMicros: 1200, mediaMicros: 1200, nth: 2, click: null },
    ...over
  })
  const asked = () => requests.filter((request) => request.path.startsWith('/opportunity'))
  async function open(query = '') {
    const router = createRouter({ history: createMemoryHistory(), routes: [{ path: '/trace', component: OneOpportunity }] })
    await router.push(`/trace${query}`)
    useMarket().run = RUN
    const view = mount(OneOpportunity, { props: { lineId: 7 }, global: { plugins: [router] } })
    await settle()
    return { view, router }
  }

  it('is looked for by what became of it, from the one that is shown on, and stays in the address', async () => {
    const { view, router } = await open()
    expect(asked()).toHaveLength(0)
    await view.get('[data-test=seek-won]').trigger('click')
    expect(asked()[0].path).toBe('/opportunity?hour=1449&after=-1&line=7&sought=won')
    await asked()[0].reply({ body: found(41) })
    const facts = view.get('.OneOpportunity-facts').text()
    expect(facts).toContain('number 42 of 9,000')
    expect(facts).toContain('Line 7 bought it at 1.20 and was charged €0.0012: the person’s 2nd sight of it in 30 days.')
    const rows = view.findAll('.OneOpportunity-verdicts tbody tr').map((row) => row.text())
    expect(rows[0]).toContain('won')
    expect(rows[0]).toContain('base bid 2.40 → adjusted x 0.5 1.20')
    expect(rows[1]).toContain('does not match: not device: phones')
    expect(router.currentRoute.value.query).toEqual({ hour: '1449', nth: '41' })
    // Of forty lines those that it could be for are shown, and the rest when asked.
    await view.get('[data-test=seek-won]').trigger('click')
    const crowd = Array.from({ length: 38 }, (_, n) =>
      verdict(100 + n, { verdict: 'does not match', became: null, failing: ['device: phones'] })
    )
    await asked()[1].reply({ body: found(41, { verdicts: [...crowd, verdict(8, { became: 'own line' }), verdict(7, {})] }) })
    const lines = () => view.findAll('.OneOpportunity-verdicts tbody tr').map((row) => row.get('td').text())
    expect(lines()).toEqual(['Line 7', 'Line 8'])
    expect(view.get('[data-test=all-verdicts]').text()).toBe('and 38 lines that it is not for')
    await view.get('[data-test=all-verdicts]').trigger('click')
    expect(lines()).toHaveLength(40)
    await view.get('[data-test=seek-stopped]').trigger('click')
    expect(asked()[2].path).toBe('/opportunity?hour=1449&after=41&line=7&sought=stopped')
    await asked()[2].reply({
      body: found(60, { bought: null, verdicts: [verdict(7, { became: 'stopped' }), verdict(8, { became: 'own line' })] })
    })
    expect(view.text()).toContain('None of your lines bought it.')
    expect(view.find('[data-test=all-verdicts]').exists()).toBe(false)
    expect(view.text()).toContain('could win: money, pace or caps stopped it')
    expect(view.text()).toContain('bought by another line of yours')
  })

  it('goes on in the next hour where this one has no more of them, and not past the clock', async () => {
    const { view } = await open('?hour=1447&nth=5')
    expect(asked()[0].path).toBe('/opportunity?hour=1447&nth=5')
    await asked()[0].reply({ body: found(5, { hour: 1447 }) })
    await view.get('[data-test=seek-outbid]').trigger('click')
    await asked()[1].reply({ status: 409, body: { title: 'There are no more of these in that hour.', code: 'conflict' } })
    await view.get('[role=alert] button').trigger('click')
    expect(asked()[2].path).toBe('/opportunity?hour=1448&after=-1&line=7&sought=outbid')
    await asked()[2].reply({ status: 409, body: { title: 'There are no more of these in that hour.', code: 'conflict' } })
    await view.get('[role=alert] button').trigger('click')
    await asked()[3].reply({ status: 409, body: { title: 'There are no more of these in that hour.', code: 'conflict' } })
    expect(view.find('[role=alert] button').exists()).toBe(false)
  })
})

describe('the record of forecasts', () => {
  const open = async (rows: ForecastRecordRow[], held: number) => {
    const router = createRouter({
      history: createMemoryHistory(),
      routes: [{ path: '/lines/:lineId', name: 'line', component: ReportsView }]
    })
    const record = mount(ForecastRecord, { props: { campaign: null, line: 7 }, global: { plugins: [router] } })
    await flushPromises()
    const asked = requests.find(({ path }) => path.startsWith('/forecast-record'))
    expect(asked?.path).toBe('/forecast-record?line=7')
    await asked?.reply({ body: { rows, ranges: rows.flatMap(({ figures }) => figures).length, held } })
    await flushPromises()
    return record
  }
  const ROW = { line: 7, name: 'Trials', revision: 3, from: 1440, to: 1700 }

  it('puts what was said beside what came, says what did not hold, and how many did', async () => {
    const figures: Judged[] = [
      { what: 'wins', said: { value: 700, low: 630, high: 770 }, came: 690, held: true },
      { what: 'spend', said: { value: 7e6, low: 6e6, high: 8e6 }, came: 9e6, held: false }
    ]
    const record = await open([{ ...ROW, by: 'day', figures }], 1)
    expect(record.get('.ForecastRecord-summary').text()).toBe('Of 2 ranges 50 % held what came; eight in ten should.')
    const cells = record.findAll('tbody td.is-number').map((cell) => cell.text())
    expect(cells[0]).toBe('690630 – 770')
    expect(cells[1]).toContain('not held')
    expect(cells[4]).toBe('–')
  })

  it('says that nothing has run its week yet, and what runs', async () => {
    const record = await open([{ ...ROW, by: null, figures: [] }], 0)
    expect(record.get('.ForecastRecord-summary').text()).toContain('No forecast has run its seven days unchanged yet')
    expect(record.get('tbody td').text()).toBe('changed or running: 11 days so far')
  })
})
