import { flushPromises, mount } from '@vue/test-utils'
import { defineComponent, h, nextTick, ref, type Component, type Ref } from 'vue'
import { type Router } from 'vue-router'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { LineDraft } from '@tin-harbor/core/buying'
import type { ManifestLine } from '@tin-harbor/core/contract'
import { type Restriction } from '@tin-harbor/core/targeting'
import { mountEditing } from './editing'
import { offerCommands } from '@/composables/commands'
import { useLineDraft } from '@/composables/use-line-draft'
import FindBox from '@/parts/FindBox.vue'
import HourGrid from '@/parts/HourGrid.vue'
import KeywordHints from '@/parts/KeywordHints.vue'
import SegmentTree from '@/parts/SegmentTree.vue'
import SieveTable from '@/parts/SieveTable.vue'
import TypedValues from '@/parts/TypedValues.vue'
import StartFrom from '@/views/campaigns/StartFrom.vue'
import LineClauses from '@/views/line/LineClauses.vue'
import LineField from '@/views/line/LineField.vue'
import LineHead from '@/views/line/LineHead.vue'
import LineWording from '@/views/line/LineWording.vue'
import PriceWork from '@/views/line/PriceWork.vue'
import RadiusMap from '@/views/line/RadiusMap.vue'
import { withFormat } from '@/views/line/with-format'
import { useManifest } from '@/stores/manifest'
import { DIMENSION_KINDS, type SegmentGroup } from '@tin-harbor/core/dimensions'
import {
  CAMPAIGN as campaign,
  SIEVE,
  draftOf,
  figuresOf,
  finding,
  inScope,
  manifestLine as line,
  viewOf,
  type Request,
  traderAt
} from './support'

let requests: Request[]
let router: Router
beforeEach(async () => {
  ;({ requests, router } = traderAt({
    home: '/',
    ...Object.fromEntries(
      ['market', 'lists', 'deals', 'campaigns', 'reports', 'words', 'new-campaign', 'sign-in'].map((name) => [name, `/${name}`])
    ),
    line: '/lines/:lineId',
    campaign: '/campaigns/:campaignId'
  }))
  await router.push('/')
})
const asked = (method: string, path: string) => requests.filter((request) => request.method === method && request.path.startsWith(path))
const include = (dimension: Restriction['dimension'], ...values: string[]): Restriction => ({ dimension, mode: 'include', values })
async function withManifest(lines: ManifestLine[]) {
  const loading = useManifest().load()
  await asked('GET', '/manifest')[0].reply({
    body: {
      advertisers: [{ id: 1, name: 'Inkwell', domain: 'x', zone: 'Europe/Lisbon' }],
      campaigns: [campaign, { ...campaign, id: 4, name: 'Summer' }],
      lines
    }
  })
  await loading
  requests.length = 0
}

function editing(part: Component, props: Record<string, unknown>, draft = draftOf(), problems: Record<string, string> = {}) {
  const held = ref(draft) as Ref<LineDraft>
  const global = { plugins: [router], stubs: { LineCreatives: true, BuysField: true, AdjustmentFields: true } }
  return { view: mountEditing(part, props, { draft: held, campaign, problems, global }), draft: held }
}

describe('the wording', () => {
  it('opens the editor of a phrase, or leads to its clause where that is open', async () => {
    const went = vi.fn()
    const { view } = editing(LineWording, { findings: [finding()], openClause: 'E', onGo: went })
    expect(view.get('[data-test=wording]').text()).toContain('Buy display nowhere yet')
    expect(view.get('[data-phrase=caps]').classes()).toContain('is-found')
    await view.get('[data-phrase=caps]').trigger('click')
    expect(went).toHaveBeenCalledWith('E', 'input, button')
    expect(view.find('.LineWording-editor').exists()).toBe(false)
    await view.get('[data-phrase=maximum], [data-phrase=bid]').trigger('keydown', { key: 'Enter' })
    expect(view.get('.LineWording-editor').text()).toContain('Base bid')
    await view.get('.LineWording-editor').trigger('keydown', { key: 'Escape' })
    expect(view.find('.LineWording-editor').exists()).toBe(false)
  })

  it('takes a long wording that it understands whole, and no other', async () => {
    const { view, draft } = editing(
      LineWording,
      { findings: [], openClause: null },
      draftOf({ gapMinutes: 5, hours: { clock: 'viewer', perMille: new Array(168).fill(850) as number[] } })
    )
    await view.get('[data-test=long-wording]').trigger('click')
    const box = view.get('[data-test=long-text]')
    const text = (box.element as HTMLTextAreaElement).value
    await box.setValue(text.replace('Bid €2.00 CPM', 'Bid a lot'))
    expect([view.text().includes('Not understood: Bid a lot'), view.get('[data-test=take-wording]').attributes('disabled')]).toEqual([
      true,
      ''
    ])
    await box.setValue(
      text
        .replace('€2.00 CPM', '€2.50 CPM')
        .replace(/ Open in[^.]*(\.\d[^.]*)*\./, '')
        .replace(' Show it to one person 5 minutes apart.', '')
    )
    await view.get('[data-test=take-wording]').trigger('click')
    expect([draft.value.price.bidMicros, draft.value.hours, draft.value.gapMinutes]).toEqual([2_500_000, null, null])
  })
})

describe('the clauses', () => {
  it('open one at a time, the address holds which, and one with an unreadable field stays', async () => {
    const props = { line: viewOf(), findings: [finding({ field: 'landing', message: 'No page.' })], unreadable: [] as string[] }
    const { view } = editing(LineClauses, props)
    expect(view.findAll('[data-clause-body]').map((body) => body.attributes('data-clause-body'))).toEqual(['D'])
    expect(view.get('[data-clause=G]').text()).toContain('1 to look at')
    await view.get('[data-clause=G]').trigger('click')
    await flushPromises()
    expect(router.currentRoute.value.query.clause).toBe('G')
    expect(view.get('[data-clause-body=G]').text()).toContain('No page.')
    await view.get('[data-clause=G]').trigger('click')
    await flushPromises()
    expect([router.currentRoute.value.query.clause, view.findAll('[data-clause-body]').length]).toEqual(['none', 0])
    await router.replace('/')
    const held = editing(LineClauses, { ...props, unreadable: ['price.bidMicros'] })
    await held.view.get('[data-clause=A]').trigger('click')
    await flushPromises()
    expect(held.view.get('[role=alert]').text()).toContain('Clause D has a field that cannot be read')
    expect(held.view.find('[data-clause-body=D]').exists()).toBe(true)
  })

  it('of restrictions lift, put earlier and add them', async () => {
    await router.replace('/?clause=B')
    const { view, draft } = editing(
      LineClauses,
      { line: viewOf(), findings: [], unreadable: [] },
      draftOf({ targeting: { restrictions: [include('where', 'PT'), include('device', 'phone'), include('age', '25-34')] } })
    )
    expect(view.findAll('.RestrictingClause-row .phrase').map((words) => words.text())).toEqual([
      'in Portugal',
      'on phones',
      'to people of 25-34'
    ])
    await view.get('[aria-label="Sift by age one place earlier"]').trigger('click')
    expect(draft.value.targeting.restrictions.map(({ dimension }) => dimension)).toEqual(['where', 'age', 'device'])
    await view.get('[aria-label="Lift places"]').trigger('click')
    expect(draft.value.targeting.restrictions.map(({ dimension }) => dimension)).toEqual(['age', 'device'])
    await view.get('.RestrictingClause-more [data-dimension="since pop"]').trigger('click')
    await view.get('.TypedValues-number').setValue('0')
    expect(view.get('.TypedValues [role=alert]').text()).toContain('Not a number of minutes')
    await view.get('.TypedValues-number').setValue('30')
    expect(draft.value.targeting.restrictions.at(-1)).toEqual(include('since pop', '30'))
  })

  it('keep what still applies of another format, and name what they drop', () => {
    const before = draftOf({
      targeting: { restrictions: [include('where', 'PT'), include('size', '300x250', '728x90'), include('rewarded', 'yes')] },
      price: { model: 'CPC', bidMicros: 200_000, maxMicros: null },
      buys: { open: true, deals: [3] }
    })
    const { draft, dropped } = withFormat(before, 'audio')
    expect([draft.targeting.restrictions.map(({ dimension }) => dimension), draft.price.model, draft.price.bidMicros, draft.buys]).toEqual([
      ['where'],
      'CPM',
      // It was of a click.
      null,
      undefined
    ])
    expect(dropped).toBe('its slots, rewarded, paying by the click, with its amounts, 1 deal')
    expect(withFormat(before, 'display').dropped).toBe('1 deal')
  })

  it('convert what is bid into another way of paying, and say what was assumed', async () => {
    const { view, draft } = editing(
      LineField,
      { of: 'bid' },
      draftOf({ price: { model: 'CPM', bidMicros: 2_000_000, maxMicros: 2_500_000 } })
    )
    const choose = (label: string) =>
      view
        .findAll('input[type=radio]')
        .find((radio) => radio.element.parentElement?.parentElement?.textContent?.includes(label))
        ?.setValue(true)
    await choose('click')
    const { day } = figuresOf(900)
    const rate = day.visits.value / day.wins.value
    expect(draft.value.price.model).toBe('CPC')
    expect(Math.abs((draft.value.price.bidMicros ?? 0) / (2000 / rate) - 1)).toBeLessThan(0.01)
    expect(view.get('[data-test=assumed]').text()).toMatch(
      /^2\.00 CPM is [\d.]+ a click at [\d.]+ % of impressions clicked, as forecast\.$/
    )
    // Towards an aim too, which is then paid for by the click.
    await choose('towards an aim')
    expect(draft.value.price).toMatchObject({ model: 'CPC', aim: { event: 'click' } })
    await choose('the thousand')
    expect(Math.abs((draft.value.price.maxMicros ?? 0) / 2_500_000 - 1)).toBeLessThan(0.02)
  })

  it('begin and end at an hour, and count a view where it is said', async () => {
    const flight = { startDate: '2026-03-02', endDate: '2026-03-09' as string | null }
    const { view, draft } = editing(LineField, { of: 'flight' }, draftOf({ flight }))
    await view.get('[aria-label="Hour at which it starts"]').setValue('14')
    await view.get('[aria-label="Hour at which it ends"]').setValue('9')
    expect(draft.value.flight).toEqual({ ...flight, startHour: 14, endHour: 9 })
    await view.get('[aria-label="Hour at which it starts"]').setValue('')
    expect(draft.value.flight.startHour).toBeNull()
    const film = editing(LineField, { of: 'view' }, draftOf({ format: 'video' }))
    await film.view.get('#line-view').setValue('6')
    expect(film.draft.value.viewSeconds).toBe(6)
    await film.view.get('#line-view').setValue('0')
    expect(film.draft.value.viewSeconds).toBe(0)
    await film.view.get('#line-view').setValue('')
    expect(film.draft.value.viewSeconds).toBeNull()
    expect(editing(LineField, { of: 'view' }).view.find('#line-view').exists()).toBe(false)
  })

  it('build a bid up and say what it is worth', async () => {
    const { view } = editing(
      PriceWork,
      {},
      draftOf({
        price: {
          model: 'CPM',
          bidMicros: 2_000_000,
          maxMicros: 2_100_000,
          repeatDiscount: 100,
          adjustments: [{ dimension: 'device', value: 'tablet', perMille: 1500, ownMicros: null }]
        }
      })
    )
    const steps = () => view.findAll('[data-test=bid-steps] li').map((step) => step.text())
    expect(steps()).toEqual(
      ['base bid2.00', 'Tablets, 150 %3.00', '2nd showing2.70', 'never above2.10'].map((text) => text.replace('Tablets', 'tablets'))
    )
    await view.get('.PriceWork-picks input[type=checkbox]').trigger('change')
    expect(steps()).toEqual(['base bid2.00', '2nd showing1.80'])
    const [clicks, conversions] = view.findAll('.PriceWork-share')
    await clicks.setValue('1')
    await conversions.setValue('5')
    await view.get('#line-payout').setValue('10')
    expect(view.get('[data-test=worth]').text()).toContain('Pays for itself up to 5.00 CPM, €0.50 a click')
    await clicks.setValue('many')
    expect(view.get('[data-test=worth]').text()).toContain('as forecast')
  })
})

describe('values that are typed', () => {
  it('are read by the server line by line, and what was not understood stays in the box', async () => {
    const view = mount(TypedValues, { props: { dimension: 'keyword', restriction: include('keyword', 'moon map') } })
    await view.get('textarea').setValue('telescope\nnonsense')
    await view.get('[data-test=add-typed]').trigger('click')
    await asked('POST', '/lists/read')[0].reply({
      body: { values: ['telescope'], entries: 2, problems: [{ line: 2, text: 'nonsense', message: 'Not a keyword we know.' }] }
    })
    await flushPromises()
    expect(view.emitted('change')?.[0]).toEqual([include('keyword', 'moon map', 'telescope')])
    expect([
      (view.get('textarea').element as HTMLTextAreaElement).value,
      view.text().includes('line 2: nonsense: Not a keyword we know.')
    ]).toEqual(['nonsense', true])
    await view.get('[aria-label="Take moon map away"]').trigger('click')
    expect(view.emitted('change')?.at(-1)).toEqual([null])
  })

  it('set a radius round a city or a point of the map', async () => {
    const view = mount(RadiusMap, { props: { country: 'PT' } })
    expect(view.get('[data-test=add-radius]').attributes('disabled')).toBe('')
    await view.get('[data-test=radius-city]').setValue('Porto')
    expect(view.text()).toMatch(/\d+ (city lies|cities lie) in it/)
    await view.get('input').setValue(40)
    await view.get('[data-test=add-radius]').trigger('click')
    const code = view.emitted('add')?.[0]?.[0] as string
    expect(code).toMatch(/^near:41\.\d+,-8\.\d+,40$/)
    expect(DIMENSION_KINDS.where.isKnown(code)).toBe(true)
    await view.get('svg').trigger('click', { clientX: 12, clientY: 12 })
    await view.get('[data-test=add-radius]').trigger('click')
    expect(DIMENSION_KINDS.where.isKnown(view.emitted('add')?.[1]?.[0] as string)).toBe(true)
    await view.get('input').setValue(900)
    expect(view.get('[data-test=add-radius]').attributes('disabled')).toBe('')
  })

  it('are given words like them, to be taken or struck out', async () => {
    const view = mount(KeywordHints, {
      props: { sentence: { formats: [], targeting: { restrictions: [] }, hours: null }, chosen: ['telescope'] }
    })
    const words = () =>
      view
        .findAll('.KeywordHints-words button')
        .map((button) => button.text())
        .filter((text) => text !== '✕')
    expect(words().slice(0, 2)).toEqual(['telescope price', 'telescope review'])
    await view.get('[aria-label="Strike out telescope price"]').trigger('click')
    expect(words()[0]).toBe('telescope review')
    await view
      .findAll('.KeywordHints-words button')
      .find((button) => button.text() === 'telescope review')
      ?.trigger('click')
    expect(view.emitted('add')).toEqual([['telescope review']])
  })

  it('follow a saved list, and no longer when told so', async () => {
    await router.replace('/?clause=A')
    const { view, draft } = editing(LineClauses, { line: viewOf(), findings: [], unreadable: [] })
    await view.get('[data-dimension=keyword]').trigger('click')
    await asked('GET', '/lists')[0].reply({
      body: {
        lists: [
          {
            id: 5,
            advertiserId: null,
            name: 'Sky',
            kind: 'keywords',
            values: ['telescope', 'moon map'],
            names: [],
            group: null,
            version: 1,
            usedBy: []
          },
          { id: 6, advertiserId: null, name: 'Other', kind: 'places', values: ['PT'], names: [], group: null, version: 1, usedBy: [] }
        ]
      }
    })
    await flushPromises()
    expect(view.findAll('[data-test=follow-list] option').map((option) => option.text())).toEqual(['none', 'Sky, 2'])
    await view.get('[data-test=follow-list]').setValue('5')
    expect(draft.value.targeting.restrictions).toEqual([{ ...include('keyword', 'telescope', 'moon map'), list: 5 }])
    await view.get('[data-test=follow-list]').setValue('')
    expect(draft.value.targeting.restrictions).toEqual([include('keyword', 'telescope', 'moon map')])
  })

  it('join segments in groups, one inside another', async () => {
    let group: SegmentGroup | null = { join: 'or', parts: ['students'] }
    const view = mount(SegmentTree, { props: { group } })
    await view.get('select').setValue('not')
    expect(view.emitted('change')?.[0]).toEqual([{ join: 'not', parts: ['students'] }])
    const name = view.get('datalist option').attributes('value') ?? ''
    await view.get('input').setValue(name)
    await view
      .findAll('button')
      .find((button) => button.text() === 'Add as a group')
      ?.trigger('click')
    group = view.emitted('change')?.at(-1)?.[0] as SegmentGroup
    expect(group).toEqual({ join: 'or', parts: ['students', { join: 'or', parts: [name] }] })
    await view.setProps({ group })
    await view.get('[aria-label="Take students away"]').trigger('click')
    expect(view.emitted('change')?.at(-1)?.[0]).toEqual({ join: 'or', parts: [{ join: 'or', parts: [name] }] })
  })

  it('of hours are painted with a brush, chosen by name and copied over the days', async () => {
    const view = mount(HourGrid, {
      props: { hours: null, disabled: false, multipliers: true, traffic: Array.from({ length: 168 }, (_, hour) => hour) }
    })
    const last = () => view.emitted('update:hours')?.at(-1)?.[0] as { perMille: number[] }
    await view
      .findAll('.HourGrid-brush button')
      .find((button) => button.text() === '+25')
      ?.trigger('click')
    await view.get('[data-hour="9"]').trigger('pointerdown')
    await view.get('table').trigger('pointerup')
    expect([last().perMille[9], last().perMille[10]]).toEqual([1250, 1000])
    await view.setProps({ hours: { clock: 'viewer', perMille: last().perMille } })
    expect(view.get('[data-hour="9"]').attributes('aria-label')).toBe('Mon 9:00, open, +25 %')
    await view
      .findAll('.HourGrid-quick button')
      .find((button) => button.text() === 'Monday to all days')
      ?.trigger('click')
    expect([33, 57, 153].map((hour) => last().perMille[hour])).toEqual([1250, 1250, 1250])
    await view
      .findAll('.HourGrid-quick button')
      .find((button) => button.text() === 'Office hours')
      ?.trigger('click')
    expect([last().perMille[9], last().perMille[8], last().perMille[129]]).toEqual([1250, 0, 0])
    expect(view.get('.HourGrid-traffic path').attributes('d')).toContain('M0 30')
  })
})

describe('the sieve', () => {
  it('is dragged into another order and restricted from', async () => {
    const sieve = {
      ...SIEVE,
      steps: [include('where', 'PT'), include('device', 'phone')].map((restriction) => ({
        restriction,
        left: 100,
        price: 1,
        lifted: 5,
        liftedPrice: 2
      }))
    }
    const view = mount(SieveTable, { props: { sieve, disabled: false } })
    const rows = view.findAll('tbody tr[draggable=true]')
    await rows[1].trigger('dragstart')
    await rows[0].trigger('drop')
    expect(view.emitted('reorder')).toEqual([[1, 0]])
    await view.get('[data-test=sieve-set]').setValue('age')
    expect(view.emitted('restrict')).toEqual([['age']])
  })
})

describe('an edit', () => {
  const saves = () => asked('PUT', '/lines/7')
  async function loaded() {
    vi.useFakeTimers()
    const { result: edit } = inScope(() => useLineDraft(() => undefined))
    const loading = edit.load(7)
    await asked('GET', '/lines/7')[0].reply({ body: viewOf() })
    await loading
    const set = (change: (draft: LineDraft) => void) => {
      if (edit.draft.value) change(edit.draft.value)
      edit.edited()
    }
    return { edit, set }
  }

  it('is undone and done again, until another takes its place', async () => {
    const { edit, set } = await loaded()
    set((draft) => (draft.name = 'One'))
    set((draft) => (draft.name = 'Two'))
    edit.undo()
    expect([edit.draft.value?.name, edit.redoStack.value.length]).toEqual(['One', 1])
    edit.redo()
    expect(edit.draft.value?.name).toBe('Two')
    edit.undo()
    set((draft) => (draft.pacing = 'fast'))
    expect(edit.redoStack.value).toEqual([])
    vi.useRealTimers()
  })

  it('that is said twice is saved all the same', async () => {
    const { edit, set } = await loaded()
    set((draft) => (draft.gapMinutes = 15))
    edit.edited()
    await vi.advanceTimersByTimeAsync(600)
    expect(saves()[0].body.line.gapMinutes).toBe(15)
    vi.useRealTimers()
  })

  it('is put together with somebody else’s of other fields, and asked about where they are of the same', async () => {
    const { edit, set } = await loaded()
    set((draft) => (draft.pacing = 'fast'))
    await vi.advanceTimersByTimeAsync(600)
    const theirs = draftOf({ name: 'Theirs' })
    const stale = (version: number, draft: LineDraft) => ({
      status: 409,
      body: { code: 'stale', title: 'x', current: { version, draft, changes: [{ field: 'name', before: 'a', after: 'b' }] } }
    })
    await saves()[0].reply(stale(4, theirs))
    expect(saves()[1].body).toMatchObject({ version: 4, line: { name: 'Theirs', pacing: 'fast' } })
    expect(edit.merged.value.map(({ field }) => field)).toEqual(['name'])
    await saves()[1].reply({ body: viewOf({ ...theirs, pacing: 'fast' }, { version: 5 }) })
    expect(edit.saving.value).toBe('saved')
    edit.undo()
    expect([edit.draft.value?.name, edit.draft.value?.pacing]).toEqual(['Theirs', 'even'])
    set((draft) => (draft.name = 'Mine'))
    await vi.advanceTimersByTimeAsync(600)
    await saves()[2].reply(stale(6, draftOf({ name: 'Theirs again', pacing: 'fast' })))
    expect([edit.stale.value?.version, edit.draft.value?.name]).toEqual([6, 'Mine'])
    vi.useRealTimers()
  })
})

describe('a line begins', () => {
  it('from a typed sentence, whose rest is named, or as a copy', async () => {
    await withManifest([line(7), line(8, { template: true, name: 'Our template' })])
    const view = mount(StartFrom, { props: { campaign }, global: { plugins: [router] } })
    await view.get('[data-test=quick]').setValue('native phones PT florbs 1.90 cpm')
    expect(view.text()).toContain('Not understood, and left out: florbs.')
    expect(view.get('[data-test=quick-said]').text()).toContain('Buy native on phones in Portugal')
    await view.get('form').trigger('submit')
    expect(asked('POST', '/campaigns/3/lines')[0].body).toMatchObject({
      name: 'Native, phones, PT',
      format: 'native',
      price: { bidMicros: 1_900_000 },
      flight: { startDate: '2026-03-02', endDate: '2026-03-31' }
    })
    await view.get('[data-test=template]').setValue('8')
    expect(asked('POST', '/lines/8/copy')[0].body).toEqual({ name: 'Our template', campaignId: 3 })
    await view.get('[data-test=quick]').setValue('native 1.9005 cpm')
    expect([view.text().includes('steps of 0.001'), view.get('[data-test=new-line]').attributes('disabled')]).toEqual([true, ''])
  })

  it('as a copy named by the scheme, and says what differs from its original', async () => {
    await withManifest([line(7)])
    const view = viewOf(draftOf({ name: 'Display', targeting: { restrictions: [include('where', 'PT')] } }), {
      tags: ['spring'],
      copiedFrom: { id: 5, name: 'First', differs: [{ field: 'name', before: 'First', after: 'Display' }] }
    })
    const changed = vi.fn()
    const { view: head } = editing(LineHead, { line: view, onChanged: changed }, view.draft)
    expect(head.get('.LineHead-tag').text()).toBe('spring')
    await head
      .findAll('button')
      .find((button) => button.text().includes('1 difference from First'))
      ?.trigger('click')
    expect(head.get('.LineHead li').text()).toContain('Name: First there, Display here')
    await head.get('[data-test=copy]').trigger('click')
    expect((head.get('[data-test=copy-name]').element as HTMLInputElement).value).toBe('Display, PT')
    await head.get('form').trigger('submit')
    expect(asked('POST', '/lines/7/copy')[0].body).toEqual({ name: 'Display, PT', campaignId: 3 })
    await asked('POST', '/lines/7/copy')[0].reply({ status: 422, body: { code: 'invalid', title: 'No.' } })
    await flushPromises()
    expect(head.get('[role=alert]').text()).toBe('No.')
    await head.get('[data-test=history]').trigger('click')
    await asked('GET', '/lines/7/history')[0].reply({
      body: {
        entries: [
          {
            id: 1,
            at: 1_790_000_000,
            hour: 1450,
            who: 'Marta',
            action: 'save',
            changes: [{ field: 'pacing', before: 'evenly', after: 'fast' }]
          }
        ]
      }
    })
    await flushPromises()
    expect(head.get('[data-test=entries]').text()).toMatch(/Marta: save; Pacing: evenly → fast/)
    await head.get('[data-test=tags]').trigger('click')
    await head.get('[data-test=tag-names]').setValue('a, b ,')
    await head.get('form').trigger('submit')
    expect(asked('POST', '/lines/7/label')[0].body).toEqual({ tags: ['a', 'b'] })
  })
})

describe('finding things', () => {
  it('lists commands, views, lines and campaigns by all that is typed, and goes there', async () => {
    await withManifest([line(7, { name: 'Native, phones', tags: ['spring'] })])
    const done = vi.fn()
    const page = defineComponent({
      setup() {
        offerCommands(() => [{ name: 'Do the thing', keys: 'Ctrl D', does: done }])
        return () => h(FindBox)
      }
    })
    const view = mount(page, { global: { plugins: [router] } })
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'k', ctrlKey: true }))
    await nextTick()
    await view.get('[data-test=find]').setValue('phones spring')
    expect(view.findAll('[role=option]').map((option) => option.text())).toEqual(['line Native, phones, L-7, spring'])
    await view.get('[data-test=find]').trigger('keydown', { key: 'Enter' })
    await flushPromises()
    expect([router.currentRoute.value.path, view.find('.FindBox').exists()]).toEqual(['/lines/7', false])
    window.dispatchEvent(new KeyboardEvent('keydown', { key: '?' }))
    await nextTick()
    expect(view.get('.FindBox').text()).toContain('Do the thing')
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }))
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'k', ctrlKey: true }))
    await nextTick()
    await view.get('[data-test=find]').setValue('thing')
    await view.get('[role=option]').trigger('click')
    expect(done).toHaveBeenCalledOnce()
    view.unmount()
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'k', ctrlKey: true }))
    expect(document.querySelector('.FindBox')).toBeNull()
  })
})
