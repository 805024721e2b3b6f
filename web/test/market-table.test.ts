import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { MARKET_COLUMNS, convertsAt, type MarketRow } from '@/views/market/columns'
import MarketTable from '@/views/market/MarketTable.vue'
import { settle, traffic } from './support'

const marketRow = (key: number, over: Partial<MarketRow> = {}): MarketRow => ({
  key,
  label: `Property ${key}`,
  code: `p${key}.example`,
  ...traffic(1000),
  own: null,
  ...over
})

describe('the table', () => {
  const table = (rows: MarketRow[], over: object = {}) =>
    mount(MarketTable, {
      attachTo: document.body,
      props: {
        rows,
        columns: MARKET_COLUMNS.filter((column) => !column.hidden),
        by: 'property',
        sort: { id: 'day', down: true },
        chosen: new Set<string>(),
        isWaiting: false,
        unfolds: true,
        unfolded: new Set<number>(),
        ...over
      }
    })

  it('fills a tall screen without being scrolled, and follows it as it grows', async () => {
    const resized: ((entries: never[]) => void)[] = []
    let height = 0
    const window = document.defaultView as unknown as { ResizeObserver: unknown }
    const observer = window.ResizeObserver
    window.ResizeObserver = class {
      constructor(hear: (entries: never[]) => void) {
        resized.push(hear)
      }
      observe() {}
      unobserve() {}
      disconnect() {}
    }
    const view = table(Array.from({ length: 400 }, (_, n) => marketRow(n)))
    await settle()
    const shown = () => view.findAll('.MarketTable-open').length
    Object.defineProperty(view.get('.MarketTable').element, 'clientHeight', { get: () => height })
    const grow = async (pixels: number) => {
      height = pixels
      for (const hear of resized) hear([])
      await settle()
    }
    await grow(540)
    const low = shown()
    await grow(2160)
    expect(shown()).toBeGreaterThanOrEqual(80)
    expect(shown() - low).toBe(60)
    window.ResizeObserver = observer
    view.unmount()
  })

  it('draws only what is in sight of 1,200 rows', async () => {
    const view = table(Array.from({ length: 1200 }, (_, key) => marketRow(key)))
    await settle()
    const drawn = view.findAll('tbody tr:not([aria-hidden])').length
    expect(drawn).toBeGreaterThan(10)
    expect(drawn).toBeLessThan(80)
    expect(view.get('table').attributes('aria-rowcount')).toBe('1200')
    const scroller = view.get('.MarketTable').element as HTMLElement
    Object.defineProperties(scroller, { scrollHeight: { value: 27 * 1200 }, clientHeight: { value: 600 } })
    scroller.scrollTop = 27 * 600
    await view.get('.MarketTable').trigger('scroll')
    await settle()
    expect(view.text()).toContain('Property 600')
    expect(view.text()).not.toContain('Property 3 ')
  })

  it('says how it is sorted, and asks for another order, a choice, placements and a page', async () => {
    const view = table([marketRow(1), { ...marketRow(2), isPlacement: true }])
    expect(
      view
        .findAll('thead th')
        .filter((head) => head.attributes('aria-sort') === 'descending')
        .map((head) => head.text())
    ).toEqual(['a day'])
    await view.get('thead button').trigger('click')
    await view.get('tbody input').trigger('click')
    await view.get('.MarketTable-fold').trigger('click')
    await view.get('.MarketTable-open').trigger('click')
    expect([view.emitted('sort'), view.emitted('choose'), view.emitted('unfold'), view.emitted('open')]).toEqual([
      [[{ id: 'name', down: false }]],
      [[['1'], true]],
      [[1]],
      [['p1.example']]
    ])
    expect(view.findAll('tbody input').map((tick) => tick.attributes('aria-label'))).toEqual(['Choose Property 1', 'Choose Property 2'])
    expect(table([]).text()).toContain('Nothing in the recorded days is like that.')
  })

  it('has every column once, and what an offer is worth from rate and payout', () => {
    expect(new Set(MARKET_COLUMNS.map((column) => column.id)).size).toBe(MARKET_COLUMNS.length)
    const worth = MARKET_COLUMNS.find((column) => column.id === 'worth')
    expect(worth?.words(marketRow(1))).toBe('')
    expect(worth?.value(marketRow(1, { payoutMicros: 24_000_000 }))).toBeCloseTo(0.0002 * 1000 * 24_000_000, 3)
    const known = marketRow(1, { own: { wins: 1_000_000, clicks: 900, spendMicros: 1, conversions: 600 } })
    expect(convertsAt(known).value).toBeGreaterThan(convertsAt(marketRow(1)).value * 2)
    for (const column of MARKET_COLUMNS) expect(column.words(marketRow(1))).not.toMatch(/NaN|undefined/)
  })
})
