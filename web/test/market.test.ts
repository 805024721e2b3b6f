import { flushPromises, mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { createMemoryHistory, createRouter } from 'vue-router'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { EVERYTHING } from '@tin-harbor/core/buying'
import type { DealsView as Deals, ListView, OfferedDealView, SurveyRowView } from '@tin-harbor/core/contract'
import type { Sentence, SurveyBy } from '@tin-harbor/core/forecast'
import CapFields from '@/parts/CapFields.vue'
import LimitFields from '@/parts/LimitFields.vue'
import MatesTable from '@/parts/MatesTable.vue'
import BuysField from '@/views/line/fields/BuysField.vue'
import DealsView from '@/views/market/DealsView.vue'
import StartLine from '@/views/market/StartLine.vue'
import ListsView from '@/views/market/ListsView.vue'
import PhraseChooser from '@/parts/PhraseChooser.vue'
import SentenceBar from '@/views/market/SentenceBar.vue'
import WeekMap from '@/views/market/WeekMap.vue'
import { phraseFor, restrictedTo } from '@/views/market/restrict'
import { useSurvey } from '@/composables/use-survey'
import ShopVisits from '@/views/reports/ShopVisits.vue'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'
import { draftOf, fakeNetwork, inScope, settle, type Request, surveyOf, surveyRow } from './support'

vi.mock('@/theme/charts', () => ({
  COLOURS: {},
  Chart: class {
    static register() {}
    destroy() {}
  }
}))

let requests: Request[]
beforeEach(() => {
  setActivePinia(createPinia())
  requests = fakeNetwork()
  useSession().user = { id: 1, formats: null, name: 'Inês', email: 'i@x.example', role: 'trader' }
})
const asked = (path: string) => requests.filter((request) => request.path.startsWith(path))

const include = (dimension: 'where' | 'device' | 'grade', values: string[]) => ({ dimension, mode: 'include' as const, values })

describe('rows as phrases', () => {
  it.each<[SurveyBy, SurveyRowView[], string, string[]]>([
    ['property', [surveyRow(4, 'A'), surveyRow(9, 'B')], 'property', ['p4.example', 'p9.example']],
    ['country', [surveyRow(3, 'Germany')], 'where', ['DE']],
    ['device', [surveyRow(0, 'phone')], 'device', ['phone']],
    ['category', [surveyRow(5, 'anything')], 'category', []]
  ])('of %s become values of a restriction', (by, rows, dimension, values) => {
    const [restriction] = restrictedTo(EVERYTHING, by, rows, 'include').targeting.restrictions
    expect(restriction?.dimension).toBe(dimension)
    if (values.length > 0) expect(restriction?.values).toEqual(values)
  })

  it('of formats are formats; of deals none; what is left out is added to what was', () => {
    expect(restrictedTo(EVERYTHING, 'format', [surveyRow(1, 'native')], 'include').formats).toEqual(['native'])
    expect([phraseFor('deal'), restrictedTo(EVERYTHING, 'deal', [surveyRow(1, 'x')], 'include')]).toEqual([null, EVERYTHING])
    const once = restrictedTo(EVERYTHING, 'property', [surveyRow(4, 'A')], 'exclude')
    expect(restrictedTo(once, 'property', [surveyRow(5, 'B')], 'exclude').targeting.restrictions).toEqual([
      { dimension: 'property', mode: 'exclude', values: ['p4.example', 'p5.example'] }
    ])
  })
})

describe('a survey', () => {
  it('that is older never takes the place of a newer one', async () => {
    const { result } = inScope(() => useSurvey('test'))
    const question = { sentence: EVERYTHING, by: [], without: null, bidMicros: 0 }
    void result.ask(question)
    void result.ask({ ...question, bidMicros: 7 })
    expect(requests[0].wasAborted).toBe(true)
    await requests[1].reply({ body: surveyOf([]) })
    expect([result.survey.value?.total.opportunitiesADay, result.error.value]).toEqual([5000, null])
    void result.ask(question)
    await requests[2].reply({ status: 503, body: { code: 'not-ready', title: 'The tape is being built.' } })
    expect(result.error.value).toBe('The tape is being built.')
  })
})

describe('the sentence', () => {
  const sentence: Sentence = {
    formats: ['native'],
    targeting: { restrictions: [include('device', ['phone']), include('where', ['ES'])] },
    hours: null
  }

  it('has a button a phrase, marks the one that empties it, and offers what it does not say yet', async () => {
    const bar = mount(SentenceBar, { props: { sentence, emptiedBy: 'where' } })
    expect(bar.findAll('.SentenceBar-phrase').map((phrase) => phrase.text())).toEqual(['Native', 'on phones', 'in Spain'])
    expect(bar.get('[data-phrase=where]').classes()).toContain('is-empty')
    await bar.get('[data-phrase=more]').trigger('click')
    const offered = bar.findAll('[data-add]').map((item) => item.attributes('data-add'))
    expect(offered).toContain('category')
    expect(offered).not.toContain('device')
  })

  it('opens a chooser whose values are counted without the phrase itself, and changes by click and key', async () => {
    const chooser = mount(PhraseChooser, { props: { sentence, of: 'device' }, attachTo: document.body })
    await settle()
    expect(requests[0].body).toMatchObject({ by: ['device'], without: 'device', sentence })
    await requests[0].reply({
      body: surveyOf([['device', [surveyRow(2, 'desktop', 700), surveyRow(0, 'phone', 900), surveyRow(-1, 'unknown', 5)]]])
    })
    await flushPromises()
    expect(
      chooser
        .findAll('[role=option]')
        .map((option) => option.text())
        .slice(0, 3)
    ).toEqual(['✓phonesonly this9001.00', 'desktopsonly this7001.00', 'tabletsonly thisnone'])
    await chooser.findAll('[role=option]')[1].trigger('click')
    const last = () => (chooser.emitted('change') as [Sentence][]).at(-1)?.[0].targeting.restrictions[0].values
    expect(last()).toEqual(['phone', 'desktop'])
    const search = chooser.get('input[type=search]')
    await search.setValue('desk')
    await search.trigger('keydown', { key: 'Enter', shiftKey: true })
    expect(last()).toEqual(['desktop'])
    await search.setValue('nothing like it')
    expect(chooser.text()).toContain('Nothing is called that.')
    await chooser.get('[data-test=drop]').trigger('click')
    expect((chooser.emitted('change') as [Sentence][]).at(-1)?.[0].targeting.restrictions).toEqual([include('where', ['ES'])])
    await search.trigger('keydown', { key: 'Escape' })
    expect(chooser.emitted('close')).toHaveLength(1)
    chooser.unmount()
  })

  it('counts again what the server gave up for an older question, and says what it cannot count', async () => {
    const chooser = mount(PhraseChooser, { props: { sentence, of: 'device' } })
    const other = mount(PhraseChooser, { props: { sentence, of: 'age' } })
    // Parts of a page ask under names of their own: none gives up what another asked.
    expect(new Set(requests.map(({ body }) => (body as { page: string }).page)).size).toBe(2)
    await requests[0].reply({ status: 409, body: { code: 'superseded', title: 'Newer.' } })
    await requests[2].reply({ body: surveyOf([['device', [surveyRow(0, 'phone', 900)]]]) })
    await flushPromises()
    expect([chooser.find('[role=alert]').exists(), chooser.findAll('[role=option]')[0].text()]).toEqual([false, '✓phonesonly this9001.00'])
    for (const n of [1, 3, 4]) await requests[n].reply({ status: 409, body: { code: 'superseded', title: 'Newer.' } })
    await flushPromises()
    expect(other.get('[role=alert]').text()).toContain('Newer.')
    await other.get('[role=alert] button').trigger('click')
    expect(requests).toHaveLength(6)
  })

  it('counts once for the rest of the sentence, whatever of its own is chosen, and not anew when it is opened again', async () => {
    const body = surveyOf([['device', [surveyRow(0, 'phone', 900), surveyRow(1, 'tablet', 90)]]])
    const chooser = mount(PhraseChooser, { props: { sentence, of: 'device' } })
    await requests[0].reply({ body })
    const device = (...values: string[]): Sentence => ({
      ...sentence,
      targeting: { restrictions: [include('where', ['ES']), include('device', values)] }
    })
    await chooser.setProps({ sentence: device('tablet') })
    chooser.unmount()
    const again = mount(PhraseChooser, { props: { sentence: device('tablet', 'phone'), of: 'device' } })
    await flushPromises()
    expect([
      requests.length,
      again
        .findAll('[role=option] b')
        .map((one) => one.text())
        .slice(0, 2)
    ]).toEqual([1, ['900', '90']])
    // Something else of the sentence changes what is counted, and what was counted before is taken back without being asked for.
    await again.setProps({ sentence: { ...device('tablet'), formats: ['video'] } })
    expect([requests.length, again.find('#phrase-values').classes()]).toEqual([2, ['is-waiting']])
    await again.setProps({ sentence: device('tablet') })
    await requests[1].reply({ body: surveyOf([['device', [surveyRow(0, 'phone', 1)]]]) })
    expect([requests[1].wasAborted, again.get('[role=option] b').text(), again.find('#phrase-values').classes()]).toEqual([true, '900', []])
  })

  it('fills countries in by groups, leaves values out, and a grade takes in the better ones', async () => {
    const where = mount(PhraseChooser, { props: { sentence, of: 'where' } })
    await where
      .findAll('.PhraseChooser-groups button')
      .find((button) => button.text() === 'Iberia')
      ?.trigger('click')
    expect((where.emitted('change') as [Sentence][])[0][0].targeting.restrictions[1].values).toEqual(['ES', 'PT'])
    await requests.at(-1)?.reply({
      body: surveyOf([
        ['country', [surveyRow(1, 'Spain')]],
        ['region', []]
      ])
    })
    await flushPromises()
    await where.get('.PhraseChooser-foot input[type=checkbox]').trigger('change')
    expect((where.emitted('change') as [Sentence][]).at(-1)?.[0].targeting.restrictions[1].mode).toBe('exclude')
    const grade = mount(PhraseChooser, {
      props: { sentence: { ...EVERYTHING, targeting: { restrictions: [include('grade', ['B'])] } }, of: 'grade' }
    })
    await requests.at(-1)?.reply({ body: surveyOf([['grade', [surveyRow(0, 'A'), surveyRow(1, 'B'), surveyRow(2, 'C')]]]) })
    await flushPromises()
    expect(grade.findAll('[role=option]').map((option) => option.attributes('aria-selected'))).toEqual([
      'true',
      'true',
      'false',
      'false',
      'false'
    ])
  })
})

describe('a sentence that wants some values and leaves others of the same out', () => {
  const both: Sentence = {
    ...EVERYTHING,
    targeting: {
      restrictions: [
        include('where', ['ES', 'PT']),
        { dimension: 'where', mode: 'exclude', values: ['ES-MD'] },
        include('device', ['phone'])
      ]
    }
  }
  const spoken = (bar: ReturnType<typeof mount>) =>
    (bar.emitted('change') as [Sentence][]).at(-1)?.[0].targeting.restrictions.map(({ mode, values }) => [mode, ...values].join(' '))

  it('has a chooser for each, which changes its own', async () => {
    const bar = mount(SentenceBar, { props: { sentence: both, emptiedBy: null } })
    await bar.findAll('[data-phrase=where]')[1].trigger('click')
    expect(bar.findAll('[data-phrase=where]').map((phrase) => phrase.attributes('aria-expanded'))).toEqual(['false', 'true'])
    await requests[0].reply({
      body: surveyOf([
        ['country', [surveyRow(1, 'Spain')]],
        ['region', []]
      ])
    })
    await flushPromises()
    expect(bar.find('.PhraseChooser-foot input').exists()).toBe(false)
    await bar
      .findAll('.PhraseChooser-groups button')
      .find((button) => button.text() === 'Low Countries')
      ?.trigger('click')
    expect(spoken(bar)).toEqual(['include ES PT', 'exclude ES-MD NL BE', 'include phone'])
  })

  it('closes the chooser of the one that goes, and leaves the other', async () => {
    const bar = mount(SentenceBar, { props: { sentence: both, emptiedBy: null } })
    await bar.findAll('[data-phrase=where]')[0].trigger('click')
    await bar.get('[data-test=drop]').trigger('click')
    expect([spoken(bar), bar.find('.PhraseChooser').exists()]).toEqual([['exclude ES-MD', 'include phone'], false])
  })

  it('drops a phrase without a chooser of its own mode only', async () => {
    const sentence: Sentence = {
      ...EVERYTHING,
      targeting: {
        restrictions: [
          { dimension: 'address range', mode: 'include', values: ['10.0.0.0/24', '10.0.1.0/24'] },
          { dimension: 'address range', mode: 'exclude', values: ['10.0.1.0/24'] }
        ]
      }
    }
    const bar = mount(SentenceBar, { props: { sentence, emptiedBy: null } })
    await bar.findAll('[data-phrase="address range"]')[1].trigger('click')
    expect(spoken(bar)).toEqual(['include 10.0.0.0/24 10.0.1.0/24'])
  })
})

describe('hours of the week', () => {
  it('tells hours in words for those who do not see shades', () => {
    expect(
      mount(WeekMap, { props: { week: surveyOf([]).week } })
        .get('.visually-hidden')
        .text()
    ).toContain('In the mean hour, Mon: 10 opportunities')
  })
})

describe('lists', () => {
  const list = (over: Partial<ListView> = {}): ListView => ({
    id: 4,
    advertiserId: null,
    name: 'Never again',
    kind: 'placements',
    values: ['1', '2'],
    names: ['A, top', 'B, side'],
    group: null,
    version: 3,
    usedBy: [{ line: 7, name: 'A line' }],
    ...over
  })
  async function open(lists = [list()]) {
    const router = createRouter({
      history: createMemoryHistory(),
      routes: [
        { path: '/market/lists', name: 'lists', component: ListsView },
        { path: '/market', name: 'market', component: { template: '<i />' } },
        { path: '/deals', name: 'deals', component: { template: '<i />' } },
        { path: '/lines/:lineId', name: 'line', component: { template: '<i />' } }
      ]
    })
    await router.push('/market/lists?list=4')
    const view = mount(ListsView, { global: { plugins: [router] } })
    await settle()
    await asked('/lists')[0].reply({ body: { lists } })
    await flushPromises()
    return view
  }

  it('read a paste, name what is not taken, and add the rest with the version that was seen', async () => {
    const view = await open()
    expect(view.text()).toContain('A, top')
    expect(view.text()).toContain('A line')
    await view.get('[data-test=paste]').setValue('1\n3\nx')
    await view.get('[data-test=read]').trigger('click')
    await asked('/lists/read')[0].reply({
      body: {
        values: ['3'],
        entries: 3,
        problems: [
          { line: 1, text: '1', message: 'The list has it already.' },
          { line: 3, text: 'x', message: 'A placement is a whole number.' }
        ]
      }
    })
    await flushPromises()
    expect(view.findAll('[data-test=problems] li').map((one) => one.text())).toEqual([
      'line 1: 1 The list has it already.',
      'line 3: x A placement is a whole number.'
    ])
    await view.get('[data-test=add]').trigger('click')
    const save = requests.find((request) => request.method === 'PUT')
    expect(save?.body).toEqual({ version: 3, rename: null, add: ['3'], remove: [] })
    await save?.reply({ body: { ...list({ values: ['1', '2', '3', '9'] }), merged: true } })
    await flushPromises()
    expect(view.text()).toContain('together with what somebody else changed meanwhile: it holds 4 now.')
  })

  it('whose name somebody else changed too keep what was typed, and save when asked again', async () => {
    const view = await open()
    const name = () => view.get('.ListPage-name input').element as HTMLInputElement
    await view.get('.ListPage-name input').setValue('Not again')
    await view.get('[data-test=save]').trigger('click')
    const saves = () => requests.filter((request) => request.method === 'PUT')
    expect(saves()[0].body.rename).toEqual({ from: 'Never again', to: 'Not again' })
    await saves()[0].reply({
      status: 409,
      body: { code: 'stale', title: 'The list was changed in the meantime; your edit was not saved.' }
    })
    await asked('/lists')[2].reply({ body: { lists: [list({ name: 'Hardly again', version: 4 })] } })
    await flushPromises()
    expect(view.get('[role=alert]').text()).toContain('Somebody called it “Hardly again” meanwhile.')
    expect(name().value).toBe('Not again')
    await view.get('[data-test=save]').trigger('click')
    expect(saves()[1].path).toBe('/lists/4')
    expect(saves()[1].body).toEqual({ version: 4, rename: { from: 'Hardly again', to: 'Not again' }, add: [], remove: [] })
  })

  it('of restrictions say what they are', async () => {
    const group = { restrictions: [{ dimension: 'device' as const, mode: 'include' as const, values: ['phone'] }] }
    expect((await open([list({ kind: 'group', values: [], names: [], group })])).text()).toContain('Anything on phones.')
  })

  it('are saved as CSV, a value with a comma quoted', async () => {
    let saved: Blob | null = null
    vi.stubGlobal(
      'URL',
      Object.assign(URL, { createObjectURL: (blob: Blob) => ((saved = blob), 'blob:x'), revokeObjectURL: () => undefined })
    )
    const view = await open([list({ kind: 'keywords', values: ['moon, full', '=1+1'], names: [] })])
    await view
      .findAll('.ListPage-name button')
      .find((button) => button.text() === 'CSV')
      ?.trigger('click')
    await vi.waitFor(() => expect(saved).not.toBeNull())
    expect(await (saved as unknown as Blob).text()).toBe(`"moon, full"\r\n'=1+1\r\n`)
  })

  it('say what went wrong, and a group has no paste', async () => {
    const view = await open()
    await view
      .findAll('.ListPage-name button')
      .find((button) => button.text() === 'Delete')
      ?.trigger('click')
    await asked('/lists/4')[0].reply({
      status: 409,
      body: { code: 'conflict', title: 'It is followed by "A line"; copy its values there first.' }
    })
    await flushPromises()
    expect(view.get('[role=alert]').text()).toContain('followed by "A line"')
    expect((await open([list({ kind: 'group', values: [], names: [], usedBy: [] })])).find('[data-test=paste]').exists()).toBe(false)
  })
})

describe('deals', () => {
  const deals: Deals = {
    deals: [
      {
        id: 313,
        name: 'Gannet House, display',
        publisher: 'Gannet House',
        kind: 'fixed',
        priceMicros: 1_400_000,
        placements: 8,
        format: 'display',
        volume: 3000,
        leastSpendMicros: null,
        untilHour: 10,
        isExpired: true,
        usedBy: []
      },
      {
        id: 314,
        name: 'Whin Pages, audio',
        publisher: 'Whin Pages',
        kind: 'floor',
        priceMicros: 2_000_000,
        placements: 3,
        format: 'audio',
        volume: null,
        leastSpendMicros: null,
        untilHour: null,
        isExpired: false,
        usedBy: []
      }
    ],
    asks: [
      {
        id: 2,
        publisher: 'Rowan House',
        format: 'display',
        kind: 'floor',
        priceMicros: 600_000,
        volume: 20_000,
        about: 'travel',
        note: '',
        askedHour: 1448,
        state: 'countered',
        answeredHour: 1450,
        dealId: null,
        rule: 'volume',
        answer: 'We promise half.',
        offered: { priceMicros: 600_000, volume: 10_200 }
      }
    ],
    publishers: [{ name: 'Rowan House', formats: ['display'] }]
  }
  const offer = (code: string, name: string, over: Partial<OfferedDealView>): OfferedDealView => ({
    code,
    name,
    publisher: name.split(',')[0],
    format: 'display',
    kind: 'fixed',
    priceMicros: 1_400_000,
    placements: 2,
    properties: ['Birch Daily'],
    volume: 50_000,
    leastSpendMicros: 20_000_000,
    days: 30,
    dealId: null,
    ...over
  })
  const offers = [
    offer('OF-1001', 'Gannet House, display, 300x250', { dealId: 313 }),
    offer('OF-1002', 'Rowan House, audio, all slots', {
      format: 'audio',
      kind: 'floor',
      priceMicros: 3_000_000,
      properties: ['Lantern Radio']
    }),
    offer('OF-1003', 'Gannet House, video, connected TV', { format: 'video', priceMicros: 9_000_000 })
  ]
  async function open() {
    const router = createRouter({
      history: createMemoryHistory(),
      routes: [
        { path: '/', name: 'deals', component: DealsView },
        { path: '/m', name: 'market', component: { template: '<i />' } },
        { path: '/l', name: 'lists', component: { template: '<i />' } },
        { path: '/lines/:lineId', name: 'line', component: { template: '<i />' } }
      ]
    })
    await router.push('/')
    useMarket().run = {
      running: false,
      hour: 1450,
      fromHour: 1450,
      targetHour: 1450,
      wins: 0,
      spendMicros: 0,
      trouble: null,
      playing: false
    }
    const view = mount(DealsView, { global: { plugins: [router] } })
    await settle()
    await asked('/deals')[0].reply({ body: deals })
    await asked('/deals/offers')[0].reply({ body: { offers } })
    await flushPromises()
    return view
  }

  it('that are offered are searched by name, property, format and price, and taken', async () => {
    const view = await open()
    const shown = () => view.findAll('[data-test=offers] tbody th').map((head) => head.get('b').text())
    expect([shown().length, view.get('.OfferedDeals').text()]).toEqual([3, expect.stringContaining('deal 313')])
    await view.get('[data-test=offers-named]').setValue('rowan lantern')
    await flushPromises()
    expect(shown()).toEqual(['Rowan House, audio, all slots'])
    await view.get('[data-test=offers-named]').setValue('')
    await view.get('[data-test=offers-format]').setValue('video')
    await flushPromises()
    expect(shown()).toEqual(['Gannet House, video, connected TV'])
    await view.get('[data-test=offers-format]').setValue('')
    await view.get('#offers-most').setValue('1.50')
    await flushPromises()
    expect([shown(), view.text().includes('1 of 3')]).toEqual([['Gannet House, display, 300x250'], true])
    await view.get('#offers-most').setValue('')
    await flushPromises()
    await view.get('[aria-label="Take Rowan House, audio, all slots"]').trigger('click')
    const take = asked('/deals/offers/take')[0]
    expect(take.body).toEqual({ offer: 'OF-1002' })
    await take.reply({ body: { ...deals.deals[0], id: 340 } })
    await flushPromises()
    expect(asked('/deals/offers')).toHaveLength(3)
  })

  it('that stand become lines that buy by them alone', async () => {
    const view = await open()
    expect(view.find('[aria-label="Start a line on Gannet House, display"]').exists()).toBe(false)
    await view.get('[aria-label="Start a line on Whin Pages, audio"]').trigger('click')
    expect(view.getComponent(StartLine).props()).toMatchObject({
      sentence: { formats: ['audio'] },
      deals: [314],
      priceMicros: 2_000_000
    })
  })

  it('say which rule decided, that one has ended, and take what was offered', async () => {
    const view = await open()
    expect(view.get('[data-test=deals]').text()).toContain('ended')
    expect(view.get('[data-test=asks]').text()).toContain('offers another, by the rule on volume: “We promise half.”')
    await view.get('[data-test=take]').trigger('click')
    expect(asked('/deals/asks/2/take')).toHaveLength(1)
  })

  it('are asked for with what was typed; what is missing is said, and nothing typed is lost', async () => {
    const view = await open()
    await view.get('[data-test=ask-publisher]').setValue('Rowan House')
    expect((view.get('[data-test=ask-format]').element as HTMLSelectElement).value).toBe('display')
    await view.get('form').trigger('submit')
    const said = () => view.findAll('[role=alert]').map((alert) => alert.text())
    expect([asked('/deals/asks'), said().sort()]).toEqual([[], ['A deal needs a price.', 'What is advertised?']])
    await view.get('#ask-price').setValue('1.20')
    await view.get('[data-test=ask-about]').setValue('travel')
    await view.get('form').trigger('submit')
    expect(asked('/deals/asks')[0].body).toMatchObject({
      publisher: 'Rowan House',
      format: 'display',
      priceMicros: 1_200_000,
      volume: 20_000,
      about: 'travel',
      videoKind: null
    })
    await asked('/deals/asks')[0].reply({
      status: 422,
      body: { code: 'invalid', title: 'No.', issues: [{ field: 'publisher', message: 'Nobody sells that here.' }] }
    })
    await flushPromises()
    expect([said(), (view.get('#ask-price').element as HTMLInputElement).value]).toEqual([['Nobody sells that here.'], '1.20'])
  })

  it('of a line are those of its format, and the open market is left when only deals are wanted', async () => {
    const router = createRouter({
      history: createMemoryHistory(),
      routes: [{ path: '/', name: 'deals', component: { template: '<i />' } }]
    })
    const field = mount(BuysField, {
      props: { draft: draftOf({ buys: { open: true, deals: [313] } }), disabled: false },
      global: { plugins: [router] }
    })
    await settle()
    await asked('/deals')[0].reply({ body: deals })
    await flushPromises()
    expect(field.text()).toContain('313 Gannet House')
    await field.get('input[type=checkbox]').setValue(false)
    expect(field.emitted('change')?.[0]).toEqual([{ open: false, deals: [313] }])
    const pops = mount(BuysField, { props: { draft: draftOf({ format: 'pop' }), disabled: false }, global: { plugins: [router] } })
    expect(pops.text()).not.toContain('no deal')
    await settle()
    await asked('/deals')[1].reply({ body: deals })
    await flushPromises()
    expect(pops.text()).toContain('There is no deal for pop yet')
  })
})

describe('limits and caps', () => {
  it('are edited each in its field, and what is wrong is said below them', async () => {
    const fields = mount(LimitFields, {
      props: {
        id: 'x',
        budget: { dailyMicros: 7_000_000, totalMicros: null, weeklyImpressions: 900 },
        problems: { 'budget.weeklyMicros': 'The weekly budget must be more than 0.' }
      }
    })
    await flushPromises()
    expect((fields.get('#x-daily').element as HTMLInputElement).value).toBe('7.00')
    expect(fields.get('[role=alert]').text()).toBe('The weekly budget must be more than 0.')
    await fields.get('#x-monthly').setValue('250')
    expect(fields.emitted('change')).toEqual([['monthlyMicros', 250_000_000]])
  })

  it('caps are added, changed and taken away without touching what was given', async () => {
    const caps = [{ times: 3, hours: 24 }]
    const fields = mount(CapFields, { props: { caps } })
    await fields.get('[data-test=add-cap]').trigger('click')
    await fields
      .findAll('button')
      .find((button) => button.text() === '✕')
      ?.trigger('click')
    expect(fields.emitted('change')).toEqual([
      [
        [
          { times: 3, hours: 24 },
          { times: 3, hours: 24 }
        ]
      ],
      [[]]
    ])
    expect(caps).toEqual([{ times: 3, hours: 24 }])
  })
})

describe('what lines win together', () => {
  it('says for each what is kept of what it would win alone', () => {
    const table = mount(MatesTable, {
      props: {
        together: {
          every: 1,
          lines: [
            { line: null, alone: { wins: 1000, spendMicros: 1e6 }, together: { wins: 250, spendMicros: 3e5 } },
            { line: 9, alone: { wins: 0, spendMicros: 0 }, together: { wins: 0, spendMicros: 0 } }
          ]
        }
      }
    })
    expect(table.findAll('tbody tr').map((one) => one.text())).toEqual(['this line1,00025025 %€0.30', 'line 900–€0.00'])
  })
})

describe('shop visits', () => {
  const props = { campaign: 1, line: null, from: '2026-02-16', to: '2026-03-01', hour: 1450 }
  const visits = (ratio: object | null) => ({
    visits: {
      shops: ['Nightjar Berlin'],
      panel: 2000,
      exposed: 900,
      exposedDays: 6000,
      exposedVisits: 40,
      otherDays: 20_000,
      otherVisits: 120,
      expectedVisits: 36,
      ratio
    }
  })

  it('are told with their range, and with a word where it tells nothing', async () => {
    const view = mount(ShopVisits, { props })
    await asked('/campaigns/1/shop-visits')[0].reply({ body: visits({ value: 1.111, low: 0.8, high: 1.5 }) })
    await flushPromises()
    expect(view.text()).toContain(
      'they came 40 times; others of their age would have come 36.0 times: 11 % more (90 % range: 20 % fewer to 50 % more; too few to say whether the ads bring them)'
    )
    await view.setProps({ line: 7 })
    expect(asked('/campaigns/1/shop-visits')[1].path).toContain('line=7')
    await asked('/campaigns/1/shop-visits')[1].reply({ body: visits(null) })
    await flushPromises()
    expect(view.text()).toContain('Nothing to compare yet')
  })

  it('are no part of a report of an advertiser without shops', async () => {
    const view = mount(ShopVisits, { props })
    await asked('/campaigns/1/shop-visits')[0].reply({ body: { visits: null } })
    await flushPromises()
    expect(view.text()).toBe('')
  })
})
