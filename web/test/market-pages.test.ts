import { flushPromises, mount } from '@vue/test-utils'
import { type Router } from 'vue-router'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { EVERYTHING, type LineDraft } from '@tin-harbor/core/buying'
import type { PropertyView } from '@tin-harbor/core/contract'
import type { Sentence, SurveyBy } from '@tin-harbor/core/forecast'
import ChosenRows from '@/views/market/ChosenRows.vue'
import CompareRows from '@/views/market/CompareRows.vue'
import MarketView from '@/views/market/MarketView.vue'
import PropertyPage from '@/views/market/PropertyPage.vue'
import StartLine from '@/views/market/StartLine.vue'
import ToLine, { type ToLineProps } from '@/views/market/ToLine.vue'
import { readBid, readSentence } from '@/views/market/read-sentence'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import { draftOf, settle, traffic, type Request, traderAt, surveyOf, surveyRow } from './support'

vi.mock('@/theme/charts', () => ({
  COLOURS: {},
  Chart: class {
    static register() {}
    destroy() {}
  }
}))

let requests: Request[]
let router: Router
beforeEach(() => {
  ;({ requests, router } = traderAt({
    market: '/market',
    lists: '/lists',
    deals: '/deals',
    property: '/market/properties/:property',
    line: '/lines/:lineId'
  }))
})
const asked = (path: string) => requests.filter((request) => request.path.startsWith(path))
/** Questions of one part of the page to the survey. */
const surveys = (part: string) => asked('/market/survey').filter((request) => (request.body as { page: string }).page.endsWith(`-${part}`))

const phones: Sentence = { ...EVERYTHING, targeting: { restrictions: [{ dimension: 'device', mode: 'include', values: ['phone'] }] } }
const GLOBAL = () => ({ plugins: [router], stubs: { MarketMap: true, teleport: true } })
const restrictionsOf = (sentence: Sentence) =>
  sentence.targeting.restrictions.map(({ dimension, mode, values }) => `${mode} ${dimension} ${values.join()}`)

describe('what an address says', () => {
  it.each([
    ['', null],
    [JSON.stringify(phones), null],
    ['{', 'The address holds no sentence that can be read.'],
    ['{"formats":["shoes"],"targeting":{"restrictions":[]},"hours":null}', 'Not a format we know.']
  ])('%s is read, or what is wrong of it is said', (said, spoilt) => {
    const read = readSentence(said)
    expect(read.spoilt === null).toBe(spoilt === null)
    if (spoilt) expect([read.spoilt?.includes(spoilt), read.sentence]).toEqual([true, EVERYTHING])
    else expect(read.sentence).toEqual(said ? phones : EVERYTHING)
  })

  it.each([
    ['', 1_000_000],
    ['1500000', 1_500_000],
    ['-3', 1_000_000],
    ['1.5', 1_000_000],
    ['x', 1_000_000]
  ])('the bid %s is of %i micros', (text, micros) => expect(readBid(text)).toBe(micros))
})

describe('the Market', () => {
  async function open(query: Record<string, string> = {}) {
    await router.push({ name: 'market', query })
    const view = mount(MarketView, { global: GLOBAL() })
    await settle()
    await asked('/offers')[0].reply({ body: { offers: [{ id: 3, name: 'Trial', advertiser: 'Inkwell', payoutMicros: 24_000_000 }] } })
    return view
  }
  const answered = async (
    query: Record<string, string> = {},
    rows = [surveyRow(4, 'Alder', 900), surveyRow(9, 'Birch', 1800)],
    by: SurveyBy = 'property'
  ) => {
    const view = await open(query)
    await surveys('rows')[0].reply({
      body: surveyOf([
        [by, rows],
        ['country', []],
        ['region', []]
      ])
    })
    await flushPromises()
    return view
  }
  const names = (view: ReturnType<typeof mount>) => view.findAll('.MarketTable-open').map((name) => name.text())

  it('counts what the address says, sorted and searched as it says', async () => {
    const view = await answered({ said: JSON.stringify(phones), sort: 'day.up', bid: '2500000' })
    expect(surveys('rows')[0].body).toMatchObject({ sentence: phones, by: ['property', 'country', 'region'], bidMicros: 2_500_000 })
    expect(names(view)).toEqual(['Alder', 'Birch'])
    await view.get('[data-test=named]').setValue('bir')
    await flushPromises()
    expect(names(view)).toEqual(['Birch'])
    expect(view.get('[data-test=figures]').text()).toContain('won by 2.50')
  })

  it('shows everything where the address is no sentence, and says so', async () => {
    const view = await answered({ said: '{"formats":3}' })
    expect(view.get('[role=alert]').text()).toContain('Everything is shown instead.')
    expect(surveys('rows')[0].body.sentence).toEqual(EVERYTHING)
  })

  it('says what empties the sentence and lifts it', async () => {
    const view = await open({ said: JSON.stringify(phones) })
    await surveys('rows')[0].reply({
      body: surveyOf(
        [
          ['property', []],
          ['country', []],
          ['region', []]
        ],
        { emptiedBy: 'device' }
      )
    })
    await flushPromises()
    expect(view.text()).toContain('“device” leaves nothing of what was left before.')
    await view.get('[data-test=lift]').trigger('click')
    await flushPromises()
    expect(router.currentRoute.value.query.said).toBeUndefined()
  })

  it('has no figures when it cannot count, says why, and counts when asked again', async () => {
    const view = await open()
    await surveys('rows')[0].reply({ status: 503, body: { code: 'not-ready', title: 'The tape is being built.' } })
    await flushPromises()
    expect([view.get('[role=alert]').text(), view.find('[data-test=figures]').exists()]).toEqual([
      'The tape is being built. Try again',
      false
    ])
    expect(view.text()).not.toContain('Nothing in the recorded days')
    await view
      .findAll('button')
      .find((button) => button.text() === 'Try again')
      ?.trigger('click')
    expect(surveys('rows')).toHaveLength(2)
  })

  it('asks what we had of the rows once these stand, and gives up what we had of those before', async () => {
    const view = await answered({ columns: 'day,own shown' })
    await view.get('[data-test=rows]').setValue('country')
    await flushPromises()
    const [ofProperties, none] = asked('/market/bought')
    expect([ofProperties.body, ofProperties.wasAborted, none]).toMatchObject([
      { by: 'property', sentence: { formats: [] } },
      true,
      undefined
    ])
    await surveys('rows')[1].reply({
      body: surveyOf([
        ['country', [surveyRow(4, 'France')]],
        ['region', []]
      ])
    })
    await flushPromises()
    const ofCountries = asked('/market/bought')[1]
    expect(ofCountries.body).toMatchObject({ by: 'country' })
    await ofCountries.reply({ body: { rows: [{ key: 4, wins: 77, clicks: 0, spendMicros: 0, conversions: 0 }] } })
    await flushPromises()
    expect(view.get('.MarketTable tbody').text()).toContain('77')
  })

  it('unfolds properties into their placements, the newest question alone', async () => {
    const view = await answered()
    await view.findAll('.MarketTable-fold')[0].trigger('click')
    await view.findAll('.MarketTable-fold')[1].trigger('click')
    const [first, second] = surveys('fold')
    expect([first.wasAborted, restrictionsOf(second.body.sentence as Sentence)]).toEqual([true, ['include property p4.example,p9.example']])
    await second.reply({
      body: surveyOf([
        ['placement', [surveyRow(31, 'top', 10, { property: 'p4.example' }), surveyRow(32, 'side', 20, { property: 'p9.example' })]]
      ])
    })
    await flushPromises()
    expect(
      view
        .findAll('tbody th')
        .map((head) => head.text())
        .filter((text) => /top|side/.test(text))
    ).toHaveLength(2)
  })

  it('chooses rows: only these, without them, compared, on a list; a line is started on them or on the whole sentence', async () => {
    const view = await answered({ said: JSON.stringify(phones) })
    await view.findAll('tbody input')[0].trigger('click')
    await view.findAll('tbody input')[1].trigger('click')
    await asked('/lists')[0].reply({
      body: {
        lists: [
          { id: 5, name: 'Good ones', kind: 'properties', values: [], version: 2 },
          { id: 6, name: 'Words', kind: 'keywords', values: [], version: 1 }
        ]
      }
    })
    await flushPromises()
    expect(view.findAll('[data-test=put-on] option').map((option) => option.text())).toEqual(['a list', 'a new list …', 'Good ones'])
    await view.get('[data-test=put-on]').setValue('5')
    expect(requests.find((request) => request.method === 'PUT')?.body).toEqual({
      version: 2,
      rename: null,
      add: ['p9.example', 'p4.example'],
      remove: []
    })
    await view.get('[data-test=start-line]').trigger('click')
    expect(restrictionsOf(view.getComponent(StartLine).props('sentence'))).toEqual([
      'include device phone',
      'include property p9.example,p4.example'
    ])
    view.getComponent(StartLine).vm.$emit('close')
    await view.get('[data-test=make-line]').trigger('click')
    expect(view.getComponent(StartLine).props('sentence')).toEqual(phones)
    view.getComponent(StartLine).vm.$emit('close')
    await view.get('[data-test=compare]').trigger('click')
    await flushPromises()
    expect(router.currentRoute.value.query.compare).toBe('9,4')
    await view
      .findAll('.MarketView-said button')
      .find((button) => button.text() === 'leave them out')
      ?.trigger('click')
    await flushPromises()
    expect(restrictionsOf(JSON.parse(router.currentRoute.value.query.said as string) as Sentence)).toEqual([
      'include device phone',
      'exclude property p9.example,p4.example'
    ])
  })

  it('chooses all that match, a row of them with Shift, and placements apart from properties', async () => {
    const view = await answered()
    await view.get('[data-test=choose-all]').trigger('click')
    expect(
      view
        .getComponent(ChosenRows)
        .props('rows')
        .map(({ key }) => key)
        .sort()
    ).toEqual([4, 9])
    await view.get('[data-test=named]').setValue('birch')
    // What a search hides stays chosen.
    expect(view.getComponent(ChosenRows).props('rows')).toHaveLength(2)
    await view.get('[data-test=named]').setValue('')
    await flushPromises()
    await view.findAll('.MarketTable-fold')[0].trigger('click')
    await surveys('fold')[0].reply({
      body: surveyOf([
        [
          'placement',
          [31, 32, 33].map((key) => surveyRow(key, `place ${key}`, key, { property: 'p9.example', code: `p9.example: ${key}` }))
        ]
      ])
    })
    await flushPromises()
    const ticks = () => view.findAll('tbody input')
    expect(ticks()).toHaveLength(5)
    await ticks()[1].trigger('click')
    await ticks()[3].trigger('click', { shiftKey: true })
    const chosen = view.getComponent(ChosenRows)
    expect([
      chosen.props('by'),
      chosen.props('all'),
      chosen
        .props('rows')
        .map(({ key }) => key)
        .sort()
    ]).toEqual(['placement', 3, [31, 32, 33]])
    await view.get('[data-test=into-line]').trigger('click')
    expect(view.getComponent(ToLine).props()).toMatchObject({
      dimension: 'placement',
      values: expect.arrayContaining(['p9.example: 31', 'p9.example: 33']) as string[],
      words: expect.stringContaining('place 32') as string
    })
    await view.get('[data-test=compare]').trigger('click')
    await flushPromises()
    expect(router.currentRoute.value.query).toMatchObject({ rows: 'placement', compare: '31,32,33' })
  })

  it('takes the sentence and the bid along to a property', async () => {
    const view = await answered({ said: JSON.stringify(phones), bid: '2500000' })
    await view.findAll('.MarketTable-open')[0].trigger('click')
    await flushPromises()
    expect(router.currentRoute.value.fullPath).toContain('/market/properties/p9.example')
    expect(router.currentRoute.value.query).toEqual({ said: JSON.stringify(phones), bid: '2500000' })
  })

  it('of a reader makes no lines', async () => {
    useSession().user = { id: 1, formats: null, name: 'Rui', email: 'r@x.example', role: 'reader' }
    const view = await answered()
    await view.findAll('tbody input')[0].trigger('click')
    expect([view.find('[data-test=make-line]').exists(), view.find('[data-test=start-line]').exists()]).toEqual([false, false])
  })
})

describe('a property', () => {
  const property = (over: Partial<PropertyView> = {}): PropertyView =>
    ({
      property: 'p9.example',
      name: 'Birch Daily',
      domain: 'birchdaily.example',
      class: 'site',
      category: 'news',
      home: 'Portugal',
      publisher: 'Birch House',
      anonymous: false,
      placements: [
        { placement: 'p31.example', position: 'top', size: '300x250', viewability: 0.6, bots: 0.02, grade: 'B' },
        { placement: 'p32.example', position: 'side', size: '300x250', viewability: 0.5, bots: 0.02, grade: 'C' }
      ],
      file: {
        address: 'birchdaily.example/ads.txt',
        found: true,
        records: 3,
        problems: [{ line: 2, text: 'what', message: 'is not a record.' }]
      },
      sellers: [
        { source: 'Tidewater', seller: 'pub-1', sellerName: 'Birch House', relation: 'DIRECT', authorised: true, line: 1, problem: null },
        {
          source: 'Sluice',
          seller: 'res-2',
          sellerName: null,
          relation: 'RESELLER',
          authorised: false,
          line: null,
          problem: 'The file does not name it.'
        }
      ],
      ...over
    }) as PropertyView
  async function open(
    query: Record<string, string>,
    shown: PropertyView | null = property(),
    counted = surveyOf([
      ['placement', [surveyRow(31, 'top', 10), surveyRow(32, 'side', 70)]],
      ['source', [surveyRow(0, 'Tidewater')]],
      ['country', []],
      ['device', []]
    ])
  ) {
    await router.push({ name: 'property', params: { property: 'p9.example' }, query })
    const view = mount(PropertyPage, { global: GLOBAL() })
    await settle()
    await asked('/market/property')[0].reply(
      shown ? { body: shown } : { status: 404, body: { code: 'unknown', title: 'There is no such property.' } }
    )
    await surveys('property')[0].reply({ body: counted })
    await flushPromises()
    return view
  }
  const went = () => restrictionsOf(JSON.parse(router.currentRoute.value.query.said as string) as Sentence)

  it('says why it is dear, of the format that most of its traffic is of', async () => {
    const view = await open({ said: JSON.stringify(phones) })
    expect(view.find('[data-test=why-price]').exists()).toBe(false)
    const [own] = surveys('own-format')
    const [all] = surveys('all-of-format')
    expect([own.body.sentence, all.body.sentence].map((sentence) => (sentence as Sentence).formats)).toEqual([['display'], ['display']])
    expect(restrictionsOf(own.body.sentence as Sentence)).toEqual(['include device phone', 'include property p9.example'])
    await own.reply({ body: { ...surveyOf([]), total: { ...surveyOf([]).total, halfMicros: 2_000_000, viewability: 0.5 } } })
    await all.reply({ body: { ...surveyOf([]), total: { ...surveyOf([]).total, halfMicros: 1_000_000, viewability: 0.5 } } })
    await flushPromises()
    expect(view.find('[data-test=why-price]').text()).toContain('Its display costs 2.0 times what display does here.')
  })

  it.each([
    ['channel', 'include class channel', 'television'],
    ['site', 'exclude class channel', 'web and app video']
  ])('compares the video of a %s with its like: %s', async (kind, compared, name) => {
    const spot = {
      placement: 'p31.example',
      position: 'mid-roll',
      size: 'large player',
      viewability: 0.97,
      bots: 0.01,
      grade: 'A' as const
    }
    const counted = surveyOf([
      ['placement', [surveyRow(31, 'mid-roll', 10)]],
      ['source', []],
      ['country', []],
      ['device', []]
    ])
    const view = await open({}, property({ class: kind, placements: [spot] }), counted)
    const [all] = surveys('all-of-format')
    expect(restrictionsOf(all.body.sentence as Sentence)).toEqual([compared])
    const answer = { ...surveyOf([]), total: { ...surveyOf([]).total, halfMicros: 17_000_000 } }
    await surveys('own-format')[0].reply({ body: answer })
    await all.reply({ body: answer })
    await flushPromises()
    expect(view.find('[data-test=why-price]').text()).toContain(`Its ${name} costs about what ${name} does here.`)
  })

  it('is counted inside the sentence, at the bid of the Market, the largest placement first', async () => {
    const view = await open({ said: JSON.stringify(phones), bid: '700000' })
    expect(surveys('property')[0].body).toMatchObject({ bidMicros: 700_000 })
    expect(restrictionsOf(surveys('property')[0].body.sentence as Sentence)).toEqual([
      'include device phone',
      'include property p9.example'
    ])
    expect(
      view
        .findAll('table')[1]
        .findAll('tbody th')
        .map((head) => head.text())
    ).toEqual(['side', 'top'])
    expect(view.text()).toContain('line 2: what is not a record.')
  })

  it('says who may not sell it, and leads back to the Market without them or without it', async () => {
    const view = await open({ said: JSON.stringify(phones), bid: '700000' })
    expect(view.get('.is-wrong').text()).toContain('The file does not name it.')
    await view.get('[data-test=leave-source]').trigger('click')
    await flushPromises()
    expect([went(), router.currentRoute.value.query.bid]).toEqual([['include device phone', 'exclude source Sluice'], '700000'])
    await view
      .findAll('button')
      .find((button) => button.text() === 'without this property')
      ?.trigger('click')
    await flushPromises()
    expect(went()).toEqual(['include device phone', 'exclude source Sluice', 'exclude property p9.example'])
  })

  it.each<[string, Partial<PropertyView>, string]>([
    ['has no name', { file: null }, 'It is sold under a number'],
    [
      'has no file',
      { file: { address: 'birchdaily.example/ads.txt', found: false, records: 0, problems: [] } } as never,
      'ads.txt is not there.'
    ]
  ])('that %s says so', async (_, over, said) => {
    expect((await open({}, property(over))).text()).toContain(said)
  })

  it('of which the sentence finds nothing says so, and one that is not there too', async () => {
    const nothing = surveyOf(
      [
        ['placement', []],
        ['source', []],
        ['country', []],
        ['device', []]
      ],
      { total: { ...traffic(0), mostFloorsMicros: null } }
    )
    expect((await open({ said: JSON.stringify(phones) }, property(), nothing)).text()).toContain(
      '“Anything on phones.” finds nothing here.'
    )
    requests.length = 0
    expect((await open({}, null)).get('[role=alert]').text()).toContain('There is no such property.')
  })
})

describe('into a line', () => {
  async function open(over: Partial<ToLineProps> = {}) {
    const view = mount(ToLine, {
      props: { dimension: 'property', values: ['p4.example', 'p9.example'], words: 'Alder, Birch', ...over },
      global: { ...GLOBAL(), stubs: { teleport: true } }
    })
    await asked('/manifest')[0].reply({
      body: {
        advertisers: [],
        campaigns: [{ id: 2, name: 'Spring' }],
        lines: [
          { id: 7, campaignId: 2, name: 'Ours', state: 'live' },
          { id: 8, campaignId: 2, name: 'Ours', state: 'draft' },
          { id: 9, campaignId: 2, name: 'Gone', state: 'ended' }
        ]
      }
    })
    await flushPromises()
    return view
  }
  const lineOf = (draft: object) => ({ id: 7, version: 3, draft: { ...draftOf(), ...draft } })
  const line = () => requests.find(({ method, path }) => method === 'GET' && path.startsWith('/lines/7'))

  it('they are bought beside what it names, and it is said what its draft does then', async () => {
    const view = await open()
    expect(view.findAll('[data-test=to-line] option').map((one) => one.text())).toEqual(['choose', 'Ours, L-7', 'Ours, L-8'])
    await view.get('[data-test=to-line]').setValue('7')
    await line()?.reply({
      body: lineOf({ targeting: { restrictions: [{ dimension: 'property', mode: 'include', values: ['p1.example'] }] } })
    })
    await flushPromises()
    await view.get('[data-test=to-line-do]').trigger('click')
    const save = requests.find(({ method }) => method === 'PUT')
    expect([save?.body.version, restrictionsOf(save?.body.line as Sentence)]).toEqual([
      3,
      ['include property p1.example,p4.example,p9.example']
    ])
    await save?.reply({ body: { ...lineOf(save.body.line as object), version: 4 } })
    await flushPromises()
    expect(view.get('[role=status]').text()).toContain('buys 3 properties now. It counts once it is put live.')
  })

  it('a price of its own is asked for first, and what the server refuses is said; a list is followed only by name', async () => {
    const view = await open({ list: 5 })
    await view.get('[data-test=to-line]').setValue('7')
    await line()?.reply({ body: lineOf({}) })
    await flushPromises()
    expect(view.find('[data-test=follow]').exists()).toBe(true)
    // Following a list takes the place of what the line named.
    expect(view.text()).toContain('buys them, in place of what it names already')
    await view.get('[data-test=follow]').setValue(false)
    expect(view.text()).toContain('buys them, beside what it names already')
    await view.get('input[value=price]').setValue()
    expect(view.find('[data-test=follow]').exists()).toBe(false)
    await view.get('[data-test=to-line-do]').trigger('click')
    await flushPromises()
    expect(view.get('[role=alert]').text()).toBe('Which price?')
    await view.get('#to-line-price').setValue('1.25')
    await view.get('[data-test=to-line-do]').trigger('click')
    const save = requests.find(({ method }) => method === 'PUT')
    expect((save?.body.line as LineDraft).price.adjustments).toEqual([
      { dimension: 'property', value: 'p4.example', perMille: null, ownMicros: 1_250_000 },
      { dimension: 'property', value: 'p9.example', perMille: null, ownMicros: 1_250_000 }
    ])
    await save?.reply({ status: 409, body: { code: 'stale', title: 'The line was changed in the meantime.' } })
    await flushPromises()
    expect(view.get('[role=alert]').text()).toContain('was changed in the meantime')
  })
})

describe('rows side by side', () => {
  const two = [surveyRow(4, 'Alder', 900), surveyRow(9, 'Birch', 1800)].map((row) => ({ ...row, own: null }))
  async function open() {
    const view = mount(CompareRows, {
      props: { rows: two, drawn: [4, 9], by: 'property', sentence: phones, bidMicros: 1_000_000 },
      global: GLOBAL()
    })
    await settle()
    return view
  }

  it('are any number, of which four are drawn, and others in their place when asked', async () => {
    const six = [1, 2, 3, 4, 5, 6].map((key) => ({ ...surveyRow(key, `Row ${key}`, key), own: null }))
    const view = mount(CompareRows, {
      props: { rows: six, drawn: [1, 2, 3, 4], by: 'property', sentence: phones, bidMicros: 1 },
      global: GLOBAL()
    })
    await settle()
    expect(view.text()).toContain('6 compared; drawn, at most 4: Row 1, Row 2, Row 3, Row 4')
    expect(view.findAll('article')).toHaveLength(4)
    const ticks = view.findAll('.CompareRows-table tbody input')
    expect(ticks.map((tick) => tick.attributes('disabled') !== undefined)).toEqual([true, true, false, false, false, false])
    await ticks[2].trigger('change')
    expect(view.emitted('draw')?.[0]).toEqual([[1, 2, 3]])
    await view.setProps({ drawn: [] })
    expect([view.findAll('article').length, view.text()]).toEqual([0, expect.stringContaining('at most 4: none')])
  })

  it('are counted each for itself and both together, and say how many people they share', async () => {
    const view = await open()
    expect(surveys('compare-0').map(({ body }) => restrictionsOf(body.sentence as Sentence))).toEqual([
      ['include device phone', 'include property p4.example']
    ])
    for (const n of [0, 1])
      await surveys(`compare-${n}`)[0].reply({
        body: surveyOf([
          ['device', [surveyRow(0, 'phone', n === 0 ? 4000 : 1000), surveyRow(2, 'desktop', n === 0 ? 1000 : 4000)]],
          ['age', [surveyRow(1, '25–34', 5000)]]
        ])
      })
    await settle()
    expect(surveys('compare-people')[0].body).toMatchObject({ compare: [4, 9] })
    await surveys('compare-people')[0].reply({
      body: surveyOf([['property', two]], {
        overlap: [
          [200, 50],
          [50, 400]
        ]
      })
    })
    await flushPromises()
    const [alder, birch] = view.findAll('article')
    expect([alder.text().includes('25 % are at Birch too.'), birch.text().includes('13 % are at Alder too.')]).toEqual([true, true])
    expect(
      [alder, birch].map((one) =>
        one
          .get('.CompareRows-group')
          .findAll('b')
          .map((share) => share.text())
      )
    ).toEqual([
      ['80 %', '20 %'],
      ['20 %', '80 %']
    ])
  })

  it('say what went wrong, and lead back', async () => {
    const view = await open()
    await surveys('compare-0')[0].reply({ status: 503, body: { code: 'not-ready', title: 'The tape is being built.' } })
    await flushPromises()
    expect(view.get('[role=alert]').text()).toBe('The tape is being built. Try again')
    await view.get('.CompareRows-top button').trigger('click')
    expect(view.emitted('close')).toHaveLength(1)
  })
})

describe('a line from a sentence', () => {
  const campaign = (id: number, endDate: string | null) => ({
    id,
    advertiserId: 1,
    name: `Campaign ${id}`,
    goal: 'visits',
    flight: { startDate: '2026-01-01', endDate }
  })
  async function open(sentence: Sentence, campaigns = [campaign(3, null), campaign(4, '2026-01-31')]) {
    const view = mount(StartLine, { props: { sentence }, global: GLOBAL() })
    await settle()
    await asked('/manifest')[0].reply({ body: { advertisers: [{ id: 1, name: 'Inkwell', zone: 'Europe/Lisbon' }], campaigns, lines: [] } })
    await flushPromises()
    return view
  }

  it('needs a campaign that goes on and one format, and starts today with what the sentence says', async () => {
    const view = await open(phones)
    expect(view.findAll('[data-test=campaign] option').map((option) => option.text())).toEqual(['choose', 'Inkwell: Campaign 3'])
    await view.get('[data-test=start]').trigger('click')
    expect(view.get('[role=alert]').text()).toContain('Choose the format it buys')
    await view.get('[data-test=line-format]').setValue('pop')
    await view.get('[data-test=start]').trigger('click')
    const posts = () => requests.filter(({ method, path: to }) => method === 'POST' && to !== '/market/survey')
    const [{ path, body }] = posts()
    expect([path, body]).toMatchObject([
      '/campaigns/3/lines',
      {
        format: 'pop',
        zone: 'Europe/Lisbon',
        targeting: phones.targeting,
        price: { model: 'visit', bidMicros: null },
        flight: { startDate: '2026-03-02', endDate: null },
        name: 'Anything on phones.'
      }
    ])
    // Of what most of the traffic is becomes the format, where none was chosen.
    await surveys('start')[0].reply({ body: surveyOf([['format', [surveyRow(0, 'display', 9000), surveyRow(1, 'pop', 10)]]]) })
    await flushPromises()
    expect((view.get('[data-test=line-format]').element as HTMLSelectElement).value).toBe('pop')
    await posts()[0].reply({ status: 422, body: { code: 'invalid', title: 'A line must lie inside its campaign.' } })
    await flushPromises()
    expect(view.get('[role=alert]').text()).toBe('A line must lie inside its campaign.')
    await view.get('[data-test=start]').trigger('click')
    await posts()[1].reply({ body: { id: 77 } })
    await asked('/manifest')[1].reply({ body: { advertisers: [], campaigns: [], lines: [] } })
    await flushPromises()
    expect(router.currentRoute.value.fullPath).toBe('/lines/77')
  })

  it('says that no campaign goes on', async () => {
    const view = await open({ ...phones, formats: ['video'] }, [campaign(4, '2026-01-31')])
    expect(view.text()).toContain('There is no campaign whose flight goes on')
    await view.get('[data-test=start]').trigger('click')
    expect([view.get('[role=alert]').text(), useManifest().campaigns.length]).toEqual(['Choose the campaign it belongs to.', 1])
  })
})
