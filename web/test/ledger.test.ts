import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Router } from 'vue-router'
import type { LedgerView as Ledger } from '@tin-harbor/core/contract'
import * as files from '@/composables/save-file'
import LedgerView from '@/views/ledger/LedgerView.vue'
import { settle, traderAt, type Request } from './support'

let requests: Request[]
let router: Router
beforeEach(() => {
  ;({ requests, router } = traderAt({ ledger: '/ledger' }))
})

const ledger = (over: Partial<Ledger> = {}): Ledger => ({
  balanceMicros: 1_937_000_000,
  lastDayMicros: 63_000_000,
  lastsUntil: 2184,
  months: ['2026-03', '2026-02'],
  month: '2026-03',
  openingMicros: 1_900_000_000,
  inMicros: 100_000_000,
  outMicros: -63_000_000,
  closingMicros: 1_937_000_000,
  rows: [
    { date: '2026-03-01', kind: 'top-up', advertiser: null, note: 'Card', amountMicros: 100_000_000, balanceMicros: 2_000_000_000 },
    { date: '2026-03-01', kind: 'spend', advertiser: 'Nightjar', note: '', amountMicros: -60_000_000, balanceMicros: 1_940_000_000 },
    { date: '2026-03-01', kind: 'spend', advertiser: null, note: '', amountMicros: -3_000_000, balanceMicros: 1_937_000_000 }
  ],
  ...over
})
const last = () => requests[requests.length - 1]

describe('the ledger', () => {
  const shown = async (over: Partial<Ledger> = {}, path = '/ledger') => {
    await router.push(path)
    const view = mount(LedgerView, { global: { plugins: [router] } })
    await last().reply({ body: ledger(over) })
    await flushPromises()
    return view
  }

  it('says how long the money lasts, and runs the balance from entry to entry', async () => {
    const view = await shown()
    expect(view.get('[data-test=ledger-words]').text()).toBe(
      '€1,937.00; at the pace of the last day, €63.00, it lasts until Thu 2 Apr, 01:00.'
    )
    // It is printed without what it is chosen by.
    expect(view.get('h1').text()).toBe('Ledger, March 2026')
    expect(view.findAll('[data-test=ledger-row]').map((row) => row.findAll('td').map((cell) => cell.text()))).toEqual([
      ['1 Mar', 'Top-up: Card', '€100.00', '', '€2,000.00'],
      ['1 Mar', 'Spent for Nightjar', '', '€60.00', '€1,940.00'],
      ['1 Mar', 'Spent for other advertisers', '', '€3.00', '€1,937.00']
    ])
    expect(view.get('[data-test=ledger-sums]').text()).toContain('€63.00')
  })

  it('has other months and single entries in the address, and asks for another month alone', async () => {
    const view = await shown()
    await view.get('[data-test=ledger-of]').setValue('Spent for Nightjar')
    await settle()
    expect(router.currentRoute.value.query).toEqual({ of: 'Spent for Nightjar' })
    expect(view.findAll('[data-test=ledger-row]')).toHaveLength(1)
    expect(requests).toHaveLength(1)
    await view.get('[data-test=ledger-month]').setValue('2026-02')
    await settle()
    expect(last().path).toBe('/ledger?month=2026-02')
    await last().reply({ body: ledger({ month: '2026-02', rows: [], inMicros: 0, outMicros: 0 }) })
    await flushPromises()
    expect(view.get('[data-test=ledger-sums]').text()).toMatch(/Nothing was booked; carried on€0.00€0.00€1,937.00/)
    // What was chosen stays so, where the month has none of it too.
    expect(view.get<HTMLSelectElement>('[data-test=ledger-of]').element.value).toBe('Spent for Nightjar')
  })

  it('says when nothing is left, when nothing was spent, and when it cannot be read', async () => {
    expect((await shown({ balanceMicros: 0, lastsUntil: 1450 })).text()).toContain('no line buys until there is money again')
    expect((await shown({ lastDayMicros: 0, lastsUntil: null })).text()).toContain('nothing was spent in the last day')
    const view = mount(LedgerView, { global: { plugins: [router] } })
    await last().reply({ status: 422, body: { title: 'No', detail: 'The ledger is from 2026-02 to 2026-03.' } })
    await flushPromises()
    expect(view.text()).toContain('The ledger is from 2026-02 to 2026-03.')
  })

  it('is saved whole as a file, with what was carried over and on', async () => {
    const save = vi.spyOn(files, 'saveTable').mockResolvedValue()
    const view = await shown({}, '/ledger?of=Top-up:+Card')
    await view.get('[data-test=ledger-csv]').trigger('click')
    expect(save).toHaveBeenCalledWith('csv', {
      name: 'statement 2026-03',
      head: ['date', 'what', 'amount', 'balance'],
      rows: [
        ['', 'carried over', '', 1900],
        ['2026-03-01', 'Top-up: Card', 100, 2000],
        ['2026-03-01', 'Spent for Nightjar', -60, 1940],
        ['2026-03-01', 'Spent for other advertisers', -3, 1937],
        ['', 'carried on', 37, 1937]
      ]
    })
    save.mockRestore()
  })
})
