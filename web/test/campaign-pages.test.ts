import { flushPromises, mount } from '@vue/test-utils'
import { ElInputNumber, ElSelect } from 'element-plus'
import { type Router } from 'vue-router'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent } from 'vue'
import type { CampaignView, ManifestLine, PlacementResult, Results } from '@tin-harbor/core/contract'
import type { Sieve } from '@tin-harbor/core/forecast'
import DayField from '@/parts/DayField.vue'
import RunMenu from '@/parts/RunMenu.vue'
import SieveTable from '@/parts/SieveTable.vue'
import CampaignForm from '@/views/campaigns/CampaignForm.vue'
import CampaignPage from '@/views/campaigns/CampaignPage.vue'
import CampaignCompany from '@/views/campaigns/CampaignCompany.vue'
import ManifestList from '@/views/campaigns/ManifestList.vue'
import LineResults from '@/views/line/LineResults.vue'
import SignInView from '@/views/sign-in/SignInView.vue'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'
import { SIEVE, settle, viewOf, type Request, traderAt } from './support'

vi.mock('@/theme/charts', () => ({
  COLOURS: {},
  Chart: class {
    static register() {}
    destroy() {}
    update() {}
  }
}))

let requests: Request[]
let router: Router
beforeEach(() => {
  ;({ requests, router } = traderAt({
    market: '/market',
    campaigns: '/campaigns',
    'new-campaign': '/campaigns/new',
    campaign: '/campaigns/:campaignId',
    'edit-campaign': '/campaigns/:campaignId/edit',
    line: '/lines/:lineId',
    results: '/lines/:lineId/results',
    trace: '/lines/:lineId/trace'
  }))
})
const asked = (method: string, path: string) => requests.filter((request) => request.method === method && request.path.startsWith(path))
const campaign = (over: Partial<CampaignView> = {}): CampaignView =>
  ({
    id: 3,
    code: 'C-3',
    advertiserId: 1,
    name: 'Spring',
    goal: 'visits',
    flight: { startDate: '2026-03-02', endDate: '2026-03-31' },
    budget: { totalMicros: 40_000_000, dailyMicros: null },
    caps: [],
    version: 5,
    ...over
  }) as CampaignView
const line = (id: number, over: Partial<ManifestLine> = {}): ManifestLine => ({
  id,
  code: `L-${id}`,
  campaignId: 3,
  name: `Line ${id}`,
  state: 'live',
  waits: false,
  tags: [],
  template: false,
  format: 'display',
  staged: false,
  startDate: '2026-03-02',
  endDate: '2026-03-31',
  spentMicros: 500_000,
  plannedMicros: 10_000_000,
  dueMicros: 1_000_000,
  possible: null,
  ...over
})
async function withManifest(lines: ManifestLine[] = [], campaigns = [campaign()]) {
  const loading = useManifest().load()
  await asked('GET', '/manifest')[0].reply({
    body: {
      advertisers: [
        { id: 1, name: 'Inkwell', zone: 'Europe/Lisbon' },
        { id: 2, name: 'Brightmile', zone: 'Europe/Lisbon' }
      ],
      campaigns,
      lines
    }
  })
  await loading
  requests.length = 0
}
const alerts = (view: ReturnType<typeof mount>) =>
  view
    .findAll('[role=alert]')
    .map((alert) => alert.text())
    .filter(Boolean)

describe('signing in', () => {
  async function open(query: Record<string, string> = {}) {
    await router.push({ path: '/campaigns', query })
    const view = mount(SignInView, { global: { plugins: [router] } })
    // A field of the library takes its id once it is mounted.
    await flushPromises()
    await view.get('#email').setValue('ines@wharfside.example')
    await view.get('#password').setValue('wrong')
    await view.get('form').trigger('submit')
    return view
  }

  it('says what is wrong, and lets in where somebody wanted to go', async () => {
    const view = await open({ to: '/lines/7' })
    await asked('POST', '/session')[0].reply({
      status: 401,
      body: { code: 'wrong-password', title: 'E-mail and password do not go together.' }
    })
    await flushPromises()
    expect(alerts(view)).toEqual(['E-mail and password do not go together.'])
    await view.get('form').trigger('submit')
    await asked('POST', '/session')[1].reply({})
    await asked('GET', '/me')[0].reply({ body: { name: 'Inês', email: 'ines@wharfside.example', role: 'trader' } })
    await flushPromises()
    expect([router.currentRoute.value.path, alerts(view)]).toEqual(['/lines/7', []])
  })

  it.each(['//elsewhere.example', 'https://elsewhere.example', ''])('never leads to another site: %s', async (to) => {
    await open({ to })
    await asked('POST', '/session')[0].reply({})
    await asked('GET', '/me')[0].reply({ body: { name: 'Inês', email: 'ines@wharfside.example', role: 'trader' } })
    await flushPromises()
    expect(router.currentRoute.value.path).toBe('/market')
  })
})

describe('a campaign', () => {
  async function open(path: string, reply?: { status?: number; body: unknown }) {
    await router.push(path)
    const view = mount(CampaignForm, { global: { plugins: [router] } })
    await settle()
    if (reply) await asked('GET', '/campaigns/3')[0].reply(reply)
    await flushPromises()
    return view
  }
  const choose = (view: ReturnType<typeof mount>, label: string, value: unknown) =>
    view
      .findAllComponents(ElSelect)
      .find((select) => select.props('ariaLabel') === label)
      ?.vm.$emit('update:modelValue', value)

  it('that is new needs an advertiser, then what its schema needs; what was typed stays', async () => {
    await withManifest()
    const view = await open('/campaigns/new')
    await view.get('#campaign-name').setValue('Autumn')
    await view.get('form').trigger('submit')
    expect(alerts(view)).toEqual(['Choose the advertiser it is for.'])
    choose(view, 'Advertiser', 2)
    await view.get('form').trigger('submit')
    await flushPromises()
    expect(alerts(view)).toContain('Choose a goal.')
    expect(alerts(view).length).toBeGreaterThan(1)
    const sent = requests.filter(({ method }) => method !== 'GET')
    expect([(view.get('#campaign-name').element as HTMLInputElement).value, sent]).toEqual(['Autumn', []])
    choose(view, 'Goal', 'visits')
    view.findAllComponents(DayField)[0].vm.$emit('update:modelValue', '2026-03-05')
    await view.get('form').trigger('submit')
    const [{ path, body }] = asked('POST', '/advertisers')
    expect([path, body]).toMatchObject([
      '/advertisers/2/campaigns',
      { name: 'Autumn', goal: 'visits', flight: { startDate: '2026-03-05', endDate: null } }
    ])
    await asked('POST', '/advertisers')[0].reply({ body: campaign({ id: 9 }) })
    await asked('GET', '/manifest')[0].reply({ body: { advertisers: [], campaigns: [], lines: [] } })
    await flushPromises()
    expect(router.currentRoute.value.path).toBe('/campaigns/9')
  })

  it('that is changed has no form before it is read: what was typed then would be written over, and saved as a new one', async () => {
    await withManifest([line(7)])
    const view = await open('/campaigns/3/edit')
    expect([view.find('form').exists(), view.text()]).toEqual([false, 'Reading the campaign …'])
    await asked('GET', '/campaigns/3')[0].reply({
      status: 503,
      body: { code: 'not-ready', title: 'The database is away; try again in a moment.' }
    })
    await flushPromises()
    expect([view.find('form').exists(), alerts(view)]).toEqual([false, ['The database is away; try again in a moment.']])
    expect(asked('POST', '/')).toEqual([])
  })

  it('that is changed is sent with the version that was seen, and says what the server refuses at its field', async () => {
    await withManifest([line(7)])
    const view = await open('/campaigns/3/edit', { body: { campaign: campaign({ caps: [{ times: 2, hours: 24 }] }), pace: {} } })
    expect(view.text()).toContain('Lines of this campaign are live')
    expect((view.get('#campaign-name').element as HTMLInputElement).value).toBe('Spring')
    view.findAllComponents(DayField)[1].vm.$emit('update:modelValue', '2026-02-01')
    await view.get('form').trigger('submit')
    await flushPromises()
    expect([alerts(view).length, asked('PUT', '/campaigns')]).toEqual([1, []])
    view.findAllComponents(DayField)[1].vm.$emit('update:modelValue', '2026-03-04')
    await view.get('form').trigger('submit')
    expect(asked('PUT', '/campaigns/3')[0].body).toMatchObject({
      version: 5,
      campaign: { flight: { endDate: '2026-03-04' }, caps: [{ times: 2, hours: 24 }] }
    })
    await asked('PUT', '/campaigns/3')[0].reply({
      status: 422,
      body: { code: 'invalid', title: 'No.', issues: [{ field: 'flight.endDate', message: 'The line "Line 7" ends later.' }] }
    })
    await flushPromises()
    expect(alerts(view)).toEqual(['The line "Line 7" ends later.'])
  })

  it('that cannot be had says so', async () => {
    const view = await open('/campaigns/3/edit', { status: 404, body: { code: 'unknown', title: 'There is no such campaign.' } })
    expect(alerts(view)).toEqual(['There is no such campaign.'])
  })

  it('tells its pace and lines, and makes a line that begins today', async () => {
    await withManifest([line(7), line(8, { state: 'cleared', waits: true, spentMicros: 0, dueMicros: null })])
    await router.push('/campaigns/3')
    const view = mount(CampaignPage, { global: { plugins: [router], stubs: { PaceChart: true, TodayChart: true } } })
    await settle()
    await asked('GET', '/campaigns/3')[0].reply({
      body: {
        campaign: campaign({ flight: { startDate: '2026-02-01', endDate: '2026-03-31' } }),
        pace: {
          days: [{ date: '2026-03-01', spendMicros: 5e5, plannedMicros: 1e6, wins: 700, clicks: 9 }],
          spentMicros: 500_000,
          dueMicros: 1_000_000,
          plannedMicros: 10_000_000,
          words: 'it is behind'
        }
      }
    })
    await asked('GET', '/campaigns/3/today')[0].reply({ body: { today: null } })
    await flushPromises()
    expect(view.get('[data-test=pace]').text()).toMatch(/Spent €0\.50\s*of the €1\.00\s*due by now: it is behind\./)
    expect(view.findAll('tbody tr').map((row) => row.findAll('th, td').map((cell) => cell.text()))).toEqual([
      ['Line 7 L-7', 'live', '2 Mar to 31 Mar', '€0.50', '50 %', 'results trace'],
      ['Line 8 L-8', 'cleared, waits for release', '2 Mar to 31 Mar', '€0.00', '–', '']
    ])
    expect(view.text()).toContain('700 impressions and 9 clicks in all.')
    await view.get('.StartFrom').trigger('submit')
    expect(asked('POST', '/campaigns/3/lines')[0].body).toMatchObject({
      name: 'Line 3',
      zone: 'Europe/Lisbon',
      flight: { startDate: '2026-03-02', endDate: '2026-03-31' },
      price: { bidMicros: null }
    })
    await asked('POST', '/campaigns/3/lines')[0].reply({ status: 403, body: { code: 'not-allowed', title: 'Readers make no lines.' } })
    await flushPromises()
    expect(alerts(view)).toEqual(['Readers make no lines.'])
  })
})

describe('the manifest', () => {
  it('draws each line’s flight and spend, and tells a slow one in words too', async () => {
    await withManifest([
      line(7),
      line(8, { spentMicros: 990_000, possible: 0.754 }),
      line(9, { state: 'draft', plannedMicros: null, dueMicros: null, spentMicros: 0, endDate: null }),
      line(10, { state: 'cleared', waits: true })
    ])
    await router.push('/lines/8')
    const view = mount(ManifestList, { global: { plugins: [router] } })
    const lines = view.findAll('.ManifestList-line')
    expect(lines.map((one) => one.get('em').text())).toEqual(['slow', 'gets 75 %', 'draft', 'waits'])
    expect(lines.map((one) => one.attributes('title'))).toEqual([
      'Line 7: live, spent 50 % of what was due',
      'Line 8: live, spent 99 % of what was due; gets 75 % of what its money could buy',
      'Line 9: draft',
      'Line 10: cleared, spent 50 % of what was due'
    ])
    expect(lines.map((one) => one.classes('is-here'))).toEqual([false, true, false, false])
    const [flight, filled, behind] = lines[0].findAll('rect').map((rect) => Number(rect.attributes('width')))
    expect(filled / flight).toBeCloseTo(0.05, 6)
    expect(behind / flight).toBeCloseTo(0.05, 6)
    expect(lines[2].findAll('rect').map((rect) => Number(rect.attributes('width')))[1]).toBe(0)
  })
})

describe('a crowd', () => {
  it('of lines is folded but for the campaign that is looked at; found lines are shown, and folding is by hand too', async () => {
    const many = Array.from({ length: 31 }, (_, n) =>
      line(100 + n, { name: `A test of the evening hours, number ${n}`, spentMicros: 990_000 })
    )
    await withManifest([...many, line(7)])
    await router.push('/campaigns')
    const view = mount(ManifestList, { global: { plugins: [router] } })
    expect([view.classes('is-dense'), view.findAll('.ManifestList-line').length]).toEqual([true, 0])
    expect(view.get('.ManifestList-head em').text()).toBe('32, 1 slow')
    await view.get('.ManifestList-head button').trigger('click')
    const names = view.findAll('.ManifestList-name span').map((name) => name.text())
    expect([names.length, new Set(names).size]).toEqual([32, 32])
    await view.get('.ManifestList-head button').trigger('click')
    expect(view.findAll('.ManifestList-line')).toHaveLength(0)
    await view.get('[data-test=manifest-search]').setValue('number 17')
    expect(view.findAll('.ManifestList-line')).toHaveLength(1)
  })

  it('of pairs that match the same tells those that share most, and the rest when asked', async () => {
    const lineOf = (n: number) => ({
      line: n,
      version: 1,
      name: `Line ${n}`,
      ownMicros: null,
      buysNow: 1,
      advisedMicros: 0,
      buysAdvised: 1,
      points: [{ dailyMicros: 0, spendMicros: 0, wins: 0, value: 0 }]
    })
    const numbers = [1, 2, 3, 4]
    const overlaps = numbers.flatMap((first) =>
      numbers.filter((second) => second >= first).map((second) => ({ first, second, opportunitiesADay: first * second * 100, people: 50 }))
    )
    const view = mount(CampaignCompany, { props: { campaignId: 3, disabled: true } })
    await asked('GET', '/campaigns/3/company')[0].reply({
      body: { company: { totalMicros: 1e6, among: 62, measure: 'wins', overlaps, lines: numbers.map(lineOf) } }
    })
    await flushPromises()
    expect(view.get('[data-test=among]').text()).toContain('The 4 lines with most money of its 62')
    const pairs = () => view.findAll('.CampaignCompany-pair').map((pair) => pair.text().slice(0, 24))
    expect([pairs().length, pairs()[0]]).toEqual([4, '“Line 3” and “Line 4” bo'])
    expect(view.get('[data-test=all-pairs]').text()).toBe('and 2 more pairs')
    await view.get('[data-test=all-pairs]').trigger('click')
    expect(pairs()).toHaveLength(6)
  })
})

describe('running further', () => {
  async function open() {
    await withManifest(
      [],
      [
        campaign(),
        campaign({ id: 4, name: 'Past', flight: { startDate: '2026-01-01', endDate: '2026-01-31' } }),
        campaign({ id: 5, name: 'Open', flight: { startDate: '2026-01-01', endDate: null } })
      ]
    )
    const popover = defineComponent({
      props: { visible: { type: Boolean } },
      emits: ['update:visible'],
      template: '<div><slot name="reference" /><slot /></div>'
    })
    const view = mount(RunMenu, { global: { plugins: [router], stubs: { ElPopover: popover } } })
    view.getComponent(popover).vm.$emit('update:visible', true)
    await settle()
    return view
  }
  const bodies = () => asked('POST', '/market/run').map((request) => request.body as unknown)

  it('goes to a moment ahead, never to one that is past', async () => {
    const view = await open()
    const day = view.getComponent(DayField)
    expect(day.props('modelValue')).toBe('2026-03-09')
    day.vm.$emit('update:modelValue', '2026-03-01')
    await settle()
    expect([view.text().includes('The clock is past that moment.'), view.get('[data-test=run-to]').attributes('disabled')]).toEqual([
      true,
      ''
    ])
    day.vm.$emit('update:modelValue', '2028-03-01')
    await settle()
    expect(view.text()).toContain('A run takes at most a year.')
    day.vm.$emit('update:modelValue', '2026-03-03')
    view.getComponent(ElSelect).vm.$emit('update:modelValue', 6)
    await settle()
    await view.get('[data-test=run-to]').trigger('click')
    expect(bodies()).toEqual([{ to: 61 * 24 + 6 }])
  })

  it('goes to the end of flights that are ahead, and plays a week', async () => {
    const view = await open()
    const ends = view.findAll('li button')
    expect(ends.map((end) => end.text())).toEqual(['Spring, to 31 Mar'])
    await ends[0].trigger('click')
    view.getComponent(ElInputNumber).vm.$emit('update:modelValue', 0.5)
    await settle()
    await view.get('[data-test=play]').trigger('click')
    // The clock goes forward in Lisbon before the last day ends.
    expect(bodies()).toEqual([{ to: 90 * 24 - 1 }, { to: 1450 + 168, secondsAnHour: 0.5 }])
  })
})

describe('a day', () => {
  it.each([
    ['2 Mar', '2026-03-02'],
    ['14 april', '2026-04-14'],
    ['5 May 2027', '2027-05-05'],
    ['2026-03-09', '2026-03-09']
  ])('typed as %s is that of the market’s year', async (typed, date) => {
    useMarket().run = { ...useMarket().run, hour: 1450 }
    const view = mount(DayField, { props: { id: 'day', modelValue: null }, attachTo: document.body })
    await view.get('input').setValue(typed)
    await view.get('input').trigger('keydown', { key: 'Enter', code: 'Enter' })
    await settle()
    expect(view.emitted('update:modelValue')?.at(-1)).toEqual([date])
    view.unmount()
  })
})

describe('results of a line', () => {
  const brought = (count: number, spendMicros: number, over: Partial<PlacementResult['brought'][number]> = {}) => ({
    count,
    rate: count / 4000,
    range: { low: count / 5000, high: count / 3000 },
    costMicros: count > 0 ? spendMicros / count : null,
    costRange: { low: spendMicros / (count + 10), high: count > 10 ? spendMicros / (count - 10) : null },
    ...over
  })
  const placement = (id: number, over: Partial<PlacementResult> = {}, visits = 20): PlacementResult => {
    const spendMicros = over.spendMicros ?? 2_000_000
    return {
      placement: `p${id}`,
      property: `Property ${id}`,
      position: 'top',
      size: '300x250',
      impressions: 4000,
      viewable: 2400,
      brought: [brought(visits, spendMicros), brought(2 * visits, spendMicros)],
      spendMicros,
      cpmMicros: 500_000,
      leftOut: false,
      ownMicros: null,
      ...over
    }
  }
  const results = (rows: PlacementResult[]): Results => ({
    events: ['visits', 'clicks'],
    from: null,
    to: null,
    hours: 48,
    rows,
    days: [
      { date: '2026-03-01', impressions: 1, spendMicros: 1 },
      { date: '2026-03-02', impressions: 1, spendMicros: 1 }
    ],
    total: { ...placement(0), impressions: rows.reduce((sum, row) => sum + row.impressions, 0), viewable: 3000 }
  })
  async function open(rows: PlacementResult[], query: Record<string, string> = {}) {
    await router.push({ path: '/lines/7/results', query })
    const view = mount(LineResults, { global: { plugins: [router], stubs: { TodayChart: true } } })
    await settle()
    await answer(rows)
    return view
  }
  async function answer(rows: PlacementResult[]) {
    await asked('GET', '/lines/7/results')
      .at(-1)
      ?.reply({ body: results(rows) })
    await requests
      .filter((request) => request.path === '/lines/7')
      .at(-1)
      ?.reply({ body: viewOf() })
    await asked('GET', '/lines/7/today')
      .at(-1)
      ?.reply({ body: { today: null } })
    await flushPromises()
  }
  const query = () => router.currentRoute.value.query
  const tick = (view: Awaited<ReturnType<typeof open>>, id: number, init: object = {}) =>
    view.get<HTMLInputElement>(`input[aria-label="Choose Property ${id}, top"]`).trigger('click', init).then(flushPromises)

  it('say what it is judged by, choose placements in the address, and leave them out', async () => {
    const view = await open([placement(1), placement(2, { spendMicros: 6_000_000 }), placement(3, { leftOut: true })], { chosen: 'p1~x' })
    expect(view.get('.LineResults-sentence').text()).toMatch(/20 visits at €0\.10 \(€0\.07 to €0\.20\) and 40 clicks at €0\.05/)
    expect(view.get('.LineResults-sentence').text()).toContain('The 1 placement chosen took €1.00 a day.')
    await tick(view, 2)
    expect(query().chosen).toBe('p1~p2')
    expect(view.get('.LineResults-sentence').text()).toContain('took €4.00 a day.')
    await view.get('[data-test=leave-out]').trigger('click')
    expect(asked('POST', '/lines/7/left-out')[0].body).toEqual({ placements: ['p1', 'p2'], out: true })
    await asked('POST', '/lines/7/left-out')[0].reply({ body: viewOf() })
    await answer([placement(1, { leftOut: true }), placement(2, { leftOut: true })])
    expect([query().chosen, view.find('[data-test=leave-out]').exists()]).toEqual([undefined, false])
    await tick(view, 1)
    await view.get('[data-test=take-in]').trigger('click')
    expect(asked('POST', '/lines/7/left-out')[1].body).toEqual({ placements: ['p1'], out: false })
  })

  it('choose several in a row with Shift, all that match, and bid for them apart', async () => {
    const view = await open([1, 2, 3, 4, 5].map((id) => placement(id, { spendMicros: 10_000_000 - id * 1e6 })))
    await tick(view, 2)
    await tick(view, 4, { shiftKey: true })
    expect(query().chosen).toBe('p2~p3~p4')
    await view.get('#own-price').setValue('1.40')
    await view.get('[data-test=own-price]').trigger('submit')
    expect(asked('POST', '/lines/7/own-price')[0].body).toEqual({ placements: ['p2', 'p3', 'p4'], ownMicros: 1_400_000 })
    await asked('POST', '/lines/7/own-price')[0].reply({ body: viewOf() })
    // One visit costs €0.10 on the line; of these one is surely dearer, one surely cheaper, and one cannot be told yet.
    await answer([
      placement(1, { spendMicros: 40_000_000 }, 100),
      placement(2, { spendMicros: 2_000_000, ownMicros: 1_400_000 }, 100),
      placement(3, {}, 20)
    ])
    const names = () => view.findAll('tbody th b').map((name) => name.text())
    for (const [stand, shown] of [
      ['dearer', ['Property 1']],
      ['cheaper', ['Property 2']],
      ['not told', ['Property 3']]
    ] as const) {
      await view.get('[data-test=stand]').setValue(stand)
      await flushPromises()
      expect([stand, names()]).toEqual([stand, shown])
    }
    await view.get('[data-test=stand]').setValue('')
    await view.get('#results-over').setValue('0.05')
    await flushPromises()
    expect(names()).toEqual(['Property 1', 'Property 3'])
    await view.get('[data-test=choose-all]').trigger('click')
    await flushPromises()
    expect(query()).toMatchObject({ chosen: 'p1~p3', over: '50000' })
  })

  it('go on a list, an old one or a new one', async () => {
    const view = await open([placement(1)], { chosen: 'p1' })
    await asked('GET', '/lists')[0].reply({
      body: {
        lists: [
          { id: 5, name: 'Good', kind: 'placements', values: [], version: 2 },
          { id: 6, name: 'Sites', kind: 'properties', values: [], version: 2 }
        ]
      }
    })
    await flushPromises()
    expect(view.findAll('[data-test=put-on] option').map((one) => one.text())).toEqual(['a list', 'a new list …', 'Good'])
    await view.get('[data-test=put-on]').setValue('5')
    expect(asked('PUT', '/lists/5')[0].body).toEqual({ version: 2, rename: null, add: ['p1'], remove: [] })
    await asked('PUT', '/lists/5')[0].reply({ body: { id: 5, name: 'Good', values: ['p1'], merged: false } })
    await flushPromises()
    expect(view.get('.PutOnList').text()).toContain('“Good” holds 1 now.')
    await view.get('[data-test=put-on]').setValue('new')
    await flushPromises()
    await view.get('[data-test=list-name]').setValue('Losers')
    await view.get('.PutOnList form').trigger('submit')
    expect(asked('POST', '/lists')[0].body).toEqual({
      advertiserId: null,
      list: { name: 'Losers', kind: 'placements', values: ['p1'], group: null }
    })
  })

  it('say what is too little to tell, and that nothing was bought', async () => {
    const view = await open([placement(1), placement(2, { impressions: 40, viewable: 20 }, 0)])
    expect(view.findAll('.is-faint').length).toBeGreaterThan(0)
    expect([view.text().includes('too little shown'), view.text().includes('none yet')]).toEqual([true, true])
    requests.length = 0
    const none = await open([])
    expect(none.text()).toContain('Nothing was bought yet.')
  })

  it('stay when a later answer fails, and say why', async () => {
    const view = await open([placement(1)], { chosen: 'p1' })
    await view.get('[data-test=leave-out]').trigger('click')
    await asked('POST', '/lines/7/left-out')[0].reply({ status: 409, body: { code: 'conflict', title: 'The line has ended.' } })
    await flushPromises()
    expect([alerts(view), view.text().includes('Property 1')]).toEqual([['The line has ended.'], true])
  })

  it('of a reader cannot be acted on', async () => {
    useSession().user = { id: 1, formats: null, name: 'Rui', email: 'r@x.example', role: 'reader' }
    const view = await open([placement(1)], { chosen: 'p1' })
    expect([view.find('[data-test=leave-out]').exists(), view.get('tbody input').attributes('disabled')]).toEqual([false, ''])
  })
})

describe('the sieve', () => {
  it('says what each restriction leaves and costs, and what lifting it brings', async () => {
    const view = mount(SieveTable, { props: { sieve: SIEVE, disabled: false } })
    expect(view.findAll('tbody tr').map((row) => row.findAll('td').map((cell) => cell.text()))).toEqual([
      ['9,000', '0.80', ''],
      ['4,000', '0.90', '+700'],
      ['3,000', '0.95', 'none']
    ])
    await view.get('[aria-label^="Lift places"]').trigger('click')
    expect(view.emitted('lift')).toEqual([[SIEVE.steps[0]]])
    const empty: Sieve = { ...SIEVE, emptiedBy: 1, steps: [SIEVE.steps[0], { ...SIEVE.steps[1], left: 0 }] }
    const last = mount(SieveTable, { props: { sieve: empty, disabled: true } })
    expect([last.findAll('tr').at(-1)?.text().includes('leaves nothing'), last.find('tbody button').exists()]).toEqual([true, false])
  })
})
