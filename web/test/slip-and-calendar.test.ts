import { flushPromises, mount } from '@vue/test-utils'
import { type Router } from 'vue-router'
import { beforeEach, describe, expect, it } from 'vitest'
import type { ManifestLine, SlipsView } from '@tin-harbor/core/contract'
import SlipDrawer from '@/parts/SlipDrawer.vue'
import FlightCalendar from '@/views/campaigns/FlightCalendar.vue'
import { CAMPAIGN as campaign, finding, manifestLine as line, type Request, traderAt } from './support'

let requests: Request[]
let router: Router
beforeEach(async () => {
  ;({ requests, router } = traderAt({ home: '/', line: '/lines/:lineId' }))
  await router.push('/')
})
const asked = (method: string, path: string) => requests.filter((request) => request.method === method && request.path.startsWith(path))

describe('flights on the calendar', () => {
  const calendar = (over: Partial<ManifestLine> = {}) =>
    mount(FlightCalendar, { props: { campaign, lines: [line(7, over)], disabled: false } })
  const moves = (view: ReturnType<typeof calendar>) => view.emitted('move')?.map((move) => move[1])

  it('move by arrow keys inside the campaign, with Shift the end, with Alt the start', async () => {
    const view = calendar()
    const strip = view.get('[data-strip="7"]')
    await strip.trigger('keydown', { key: 'ArrowRight' })
    await strip.trigger('keydown', { key: 'ArrowLeft', shiftKey: true })
    await strip.trigger('keydown', { key: 'ArrowRight', altKey: true })
    expect(moves(view)).toEqual([
      { startDate: '2026-03-06', endDate: '2026-03-13' },
      { startDate: '2026-03-05', endDate: '2026-03-11' },
      { startDate: '2026-03-06', endDate: '2026-03-12' }
    ])
    const edge = calendar({ startDate: '2026-03-02', endDate: '2026-03-31' })
    await edge.get('[data-strip="7"]').trigger('keydown', { key: 'ArrowLeft' })
    await edge.get('[data-strip="7"]').trigger('keydown', { key: 'ArrowRight', shiftKey: true })
    expect(moves(edge)).toBeUndefined()
    const day = calendar({ startDate: '2026-03-05', endDate: '2026-03-05' })
    await day.get('[data-strip="7"]').trigger('keydown', { key: 'ArrowLeft', shiftKey: true })
    expect(moves(day)).toBeUndefined()
  })
})

describe('the change slip', () => {
  const staged: SlipsView = {
    staged: [
      {
        line: 7,
        code: 'L-7',
        name: 'Line 7',
        campaign: 'Spring',
        state: 'live',
        changes: [
          { field: 'price.bidMicros', before: '€2.00', after: '€2.50' },
          { field: 'pacing', before: 'evenly', after: 'fast' }
        ],
        findings: [finding({ severity: 'stops', field: 'landing', message: 'No page.' })],
        forgets: 'what clicks taught its bids'
      }
    ],
    slips: [{ id: 2, name: 'Went', state: 'live', items: [{ line: 7, fields: ['caps'] }], madeBy: 'Inês', liveHour: 1449, stands: null }]
  }
  async function opened(slips: SlipsView = staged) {
    const view = mount(SlipDrawer, { global: { plugins: [router], stubs: { ElDrawer: { template: '<div><slot /></div>' } } } })
    await asked('GET', '/slips')[0].reply({ body: slips })
    await flushPromises()
    return view
  }
  const bodyOf = (path: string) => asked('POST', path).at(-1)?.body as Record<string, unknown>

  it('shows edits at once, and what they are forecast to bring when that is known', async () => {
    const view = await opened()
    expect(view.text()).toContain('forecast: …')
    await asked('GET', '/slips/expected')[0].reply({
      body: { expected: [{ line: 7, before: { wins: 100, spendMicros: 1e6 }, after: { wins: 240, spendMicros: 2e6 } }] }
    })
    await flushPromises()
    expect(view.text()).toMatch(/100 wins, €1\.00 a day as it is in force; with all its edits 240 wins, €2\.00 a day/)
  })

  it('shows before and after, and puts live what is chosen after it was said once more', async () => {
    const view = await opened()
    expect(view.text()).toContain('Bid: €2.00 → €2.50')
    await asked('GET', '/slips/expected')[0].reply({ body: { expected: [{ line: 7, before: null, after: null }] } })
    await flushPromises()
    expect(view.text()).toContain('not told as it is in force; with all its edits not told; it forgets what clicks taught its bids')
    expect(view.text()).toContain('Landing link: No page.')
    await view.findAll('input[type=checkbox]')[1].trigger('change')
    await view.get('[data-test=slip-live]').trigger('click')
    expect(view.get('[role=alert]').text()).toContain(
      '1 edit of 1 line come into force with the next market hour, all or none; nothing else changes.'
    )
    expect(asked('POST', '/slips/live')).toEqual([])
    await view.get('[data-test=slip-sure]').trigger('click')
    expect(bodyOf('/slips/live')).toMatchObject({
      name: '1 edit of 1 line',
      items: [{ line: 7, fields: ['price.bidMicros'] }],
      token: expect.stringMatching(/^slip-/) as string
    })
    await asked('POST', '/slips/live')[0].reply({ status: 409, body: { code: 'conflict', title: 'Changed meanwhile.' } })
    await flushPromises()
    expect(view.findAll('[role=alert]').at(-1)?.text()).toBe('Changed meanwhile.')
  })

  it('moves edits to a slip of their own, whose edits are then not offered twice, and takes back', async () => {
    const view = await opened()
    await view.get('[data-test=slip-name]').setValue('Dearer')
    await view.get('[data-test=slip-move]').trigger('click')
    expect(bodyOf('/slips')).toEqual({ name: 'Dearer', items: [{ line: 7, fields: ['price.bidMicros', 'pacing'] }] })
    await asked('POST', '/slips')[0].reply({ body: { id: 3 } })
    await asked('GET', '/slips')
      .filter((request) => !request.path.includes('expected'))
      .at(-1)
      ?.reply({ body: staged })
    await asked('GET', '/manifest')
      .at(-1)
      ?.reply({ body: { advertisers: [], campaigns: [], lines: [] } })
    await flushPromises()
    await view.get('[data-test=take-back]').trigger('click')
    expect(asked('POST', '/slips/2/take-back')).toHaveLength(1)
    const held = mount(SlipDrawer, { global: { plugins: [router], stubs: { ElDrawer: { template: '<div><slot /></div>' } } } })
    await asked('GET', '/slips')
      .filter((request) => !request.path.includes('expected'))
      .at(-1)
      ?.reply({
        body: {
          ...staged,
          slips: [
            { ...staged.slips[0], id: 3, state: 'open', items: [{ line: 7, fields: ['pacing'] }] },
            { ...staged.slips[0], stands: 'L-7 went live again since.' }
          ]
        }
      })
    await flushPromises()
    expect([held.findAll('input[type=checkbox]').length, held.find('[data-test=take-back]').exists()]).toEqual([1, false])
    expect(held.text()).toContain('L-7 went live again since.')
  })
})
