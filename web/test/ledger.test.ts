import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Router } from 'vue-router'
import type { LedgerView as Ledger, PaymentView } from '@tin-harbor/core/contract'
import * as files from '@/composables/save-file'
import AdvertisersMoney from '@/views/ledger/AdvertisersMoney.vue'
import ChargeTerms from '@/views/ledger/ChargeTerms.vue'
import LedgerView from '@/views/ledger/LedgerView.vue'
import PayIn from '@/views/ledger/PayIn.vue'
import PaymentsList from '@/views/ledger/PaymentsList.vue'
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
  isLow: false,
  lowDays: 3,
  charge: null,
  serviceIsAway: false,
  knownCards: [{ number: '9200000000000017', fares: 'pays' }],
  payments: [],
  advertisers: [],
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

describe('money that is moved', () => {
  const payment = (over: Partial<PaymentView> = {}): PaymentView => ({
    id: 7,
    kind: 'card',
    amountMicros: 50_000_000,
    state: 'accepted',
    says: '',
    last4: '0017',
    askedHour: 1450,
    settledHour: 1450,
    askedBy: 'Inês',
    refundOf: null,
    canGoBackMicros: 50_000_000,
    ...over
  })
  const payIn = () => mount(PayIn, { props: { cards: ledger().knownCards } })
  const type = async (view: ReturnType<typeof payIn>, amount: string, number?: string) => {
    await settle()
    await view.get('#pay-amount').setValue(amount)
    if (number !== undefined) await view.get('#pay-number').setValue(number)
    await view.get('form').trigger('submit')
    await settle()
  }

  it('is asked for once under one name until it is answered, and anew after that', async () => {
    const view = payIn()
    await type(view, '5', '1234')
    expect(requests).toHaveLength(0)
    expect(view.text()).toContain('At least 10.00.')
    expect(view.text()).toContain('This is no card’s number')
    await type(view, '50', '9200 0000 0000 0025')
    const { token } = last().body as { token: string }
    await last().reply({ status: 503, body: { title: 'The database is away; try again in a moment.' } })
    await settle()
    expect(view.get('[role=alert]').text()).toContain('away')
    await type(view, '50')
    expect((last().body as { token: string }).token).toBe(token)
    await last().reply({ body: payment({ state: 'refused', says: 'The bank refused: not enough on the account.' }) })
    await settle()
    expect(view.get('[data-test=paid]').text()).toBe('Refused. The bank refused: not enough on the account.')
    expect(view.get<HTMLInputElement>('#pay-amount').element.value).toBe('50')
    await type(view, '50', '9200 0000 0000 0017')
    expect((last().body as { token: string }).token).not.toBe(token)
    await last().reply({ body: payment() })
    await settle()
    expect(view.get('[data-test=paid]').text()).toBe('€50.00 is on the balance.')
    expect(view.emitted('paid')).toHaveLength(2)
  })

  it('by transfer needs no card, and says when it comes; one that waits says so', async () => {
    const view = payIn()
    await view.get('[data-test=pay-method]').setValue('transfer')
    await type(view, '100')
    expect(last().body).toMatchObject({ amountMicros: 100_000_000, method: 'transfer' })
    await last().reply({ body: payment({ kind: 'transfer', state: 'asked', amountMicros: 100_000_000 }) })
    await settle()
    expect(view.get('[data-test=paid]').text()).toContain('arrives about two days from now')
  })

  it('can go back to its payer, as much as is left of it', async () => {
    const view = mount(PaymentsList, {
      props: { payments: [payment(), payment({ id: 8, state: 'refused', canGoBackMicros: 0, says: 'No.' })] }
    })
    expect(view.findAll('[data-test=payment]').map((one) => one.text())).toEqual([
      expect.stringContaining('€50.00 by card 0017, Mon 2 Mar, 10:00: done'),
      expect.stringContaining('refused. No.')
    ])
    expect(view.findAll('[data-test=refund]')).toHaveLength(1)
    await view.get('[data-test=refund]').trigger('click')
    await view.get('form').trigger('submit')
    await settle()
    expect(last()).toMatchObject({ method: 'POST', path: '/payments/7/refunds', body: { amountMicros: 50_000_000 } })
    await last().reply({
      status: 422,
      body: { title: 'No', issues: [{ field: 'amountMicros', message: 'The balance is 12.00; more cannot go back.' }] }
    })
    await settle()
    expect(view.text()).toContain('The balance is 12.00')
  })

  it('that was to be charged and was refused is warned of', async () => {
    await router.push('/ledger')
    const view = mount(LedgerView, { global: { plugins: [router] } })
    const refused = payment({ kind: 'charge', state: 'refused', says: 'The bank refused: not enough on the account.', canGoBackMicros: 0 })
    await last().reply({ body: ledger({ payments: [refused, payment()], isLow: true }) })
    await flushPromises()
    expect(view.get('[data-test=refused-charge]').text()).toContain('The charge of €50.00 was refused: The bank refused')
    expect(view.get('[data-test=low]').text()).toContain('less than 3 days')
  })

  it('by charge is agreed on and ended, and warned of when the user says', async () => {
    const view = mount(ChargeTerms, { props: { ledger: ledger() } })
    expect(view.get('[data-test=charge]').text()).toBe('No card is charged by itself.')
    await view.get('[data-test=agree]').trigger('click')
    await view.get('#charge-number').setValue('9200000000000017')
    await view.get('#charge-most').setValue('80')
    await view.findAll('form')[0].trigger('submit')
    await settle()
    expect(last()).toMatchObject({ method: 'PUT', path: '/ledger/charge', body: { number: '9200000000000017', mostMicros: 80_000_000 } })
    await last().reply({ body: ledger({ charge: { last4: '0017', mostMicros: 80_000_000 } }) })
    await settle()
    const [[told]] = view.emitted<[Ledger]>('saved') ?? []
    await view.setProps({ ledger: told })
    expect(view.get('[data-test=charge]').text()).toContain('to the card ending in 0017, at most €80.00 a day')
    await view.get('[data-test=low-days]').setValue(99)
    await view.findAll('form').at(-1)?.trigger('submit')
    expect(view.text()).toContain('At most 60 days.')
  })

  it('has a limit and a margin by advertiser: what we paid and what the client is charged stand apart', async () => {
    const one = { id: 1, name: 'Nightjar', version: 3, limitMicros: 100_000_000, marginPpm: 125_000, nowMicros: 85_000_000 }
    const view = mount(AdvertisersMoney, {
      props: { ledger: ledger({ advertisers: [{ ...one, costMicros: 80_000_000, chargedMicros: 90_000_000 }] }) }
    })
    expect(view.findAll('[data-test=advertiser-money] td').map((cell) => cell.text())).toEqual([
      'Nightjar',
      '€80.00',
      '12.5 %',
      '€90.00',
      '€100.00 a month, 85 % used',
      'change'
    ])
    await view.get('[data-test=terms]').trigger('click')
    await view.get('[data-test=margin]').setValue('101')
    await view.get('form').trigger('submit')
    expect(view.get('[role=alert]').text()).toBe('A margin is at most 100 %.')
    await view.get('[data-test=margin]').setValue('7,25 %')
    await view.get('#limit').setValue('')
    await view.get('form').trigger('submit')
    await settle()
    expect(last()).toMatchObject({ path: '/advertisers/1/money', body: { version: 3, limitMicros: null, marginPpm: 72_500 } })
    // Somebody else was quicker: the page is told to read anew.
    await last().reply({
      status: 409,
      body: { code: 'stale', title: 'The advertiser was changed in the meantime; your edit was not saved.' }
    })
    await settle()
    expect(view.get('[role=alert]').text()).toContain('was changed in the meantime')
    expect(view.emitted('stale')).toHaveLength(1)
  })
})
