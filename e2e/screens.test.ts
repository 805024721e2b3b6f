import type { Page } from 'playwright-core'
import { beforeAll, describe, expect, it } from 'vitest'
import { address, openClause, openWindow, signIn, useDesk, violations } from './support/browser.js'
import { insideWords } from './support/inside-words.js'

/** Where each screen is, and what stands there once it is ready. */
const SCREENS: readonly (readonly [path: string, ready: string])[] = [
  ['/market', '.MarketTable tbody th'],
  ['/market?rows=publisher', '.MarketTable tbody th'],
  ['/market?rows=deal', '.MarketTable tbody th'],
  ['/market/lists?list=1', '.ListPage-values li'],
  ['/market/deals', '[data-test=offers] tbody th'],
  ['/campaigns', '.ManifestList-line'],
  ['/campaigns/new', '.CampaignForm'],
  ['/campaigns/review', '[data-test=review-words]'],
  ['/campaigns/sold/1', '[data-test=new-tracker]'],
  ['/campaigns/1', '[data-test=company] tbody tr'],
  ['/campaigns/1/edit', '.CampaignForm h1'],
  ['/campaigns/lines/1001', '[data-test=sieve] tbody tr'],
  ['/campaigns/lines/1001/results', '.LineResults tbody th'],
  ['/reports', '.ReportTable tbody th'],
  ['/reports?by=city', '.ReportTable tbody th'],
  ['/reports/forecasts', '.ForecastRecord'],
  ['/reports/trace/1001', '.StairTable tbody tr'],
  ['/creatives', '.CreativesView-row'],
  ['/creatives/specification', 'tbody th'],
  ['/account', '[data-test=session]'],
  ['/words', 'dt']
]
const SIZES = [
  [1024, 768],
  [1920, 1080],
  [390, 844]
] as const

describe('every screen', () => {
  const desk = useDesk()
  let page: Page
  beforeAll(() => void ({ page } = desk))

  const open = async ([path, ready]: readonly [string, string]) => {
    await page.goto(path)
    await page.waitForSelector(ready)
    await page.waitForLoadState('networkidle')
  }
  /** What can be read and heard of a page: words, names of controls, notes. */
  const told = () =>
    page.evaluate(() => {
      const words = [(document.querySelector('.SignedIn') as HTMLElement).innerText, document.title]
      for (const element of Array.from(document.querySelectorAll<HTMLElement>('[aria-label], [title], [placeholder], option, .el-overlay')))
        words.push(
          element.getAttribute('aria-label') ?? '',
          element.getAttribute('title') ?? '',
          element.getAttribute('placeholder') ?? '',
          element.matches('option, .el-overlay') ? element.innerText : ''
        )
      return words.join('\n')
    })

  it('holds no word of the inside, passes axe, and fits four windows, wide tables in frames of their own', async () => {
    const found: string[] = []
    for (const screen of SCREENS) {
      await open(screen)
      found.push(...insideWords(await told()).map((words) => `${screen[0]}: ${words}`))
      found.push(...(await violations(page)).map((one) => `${screen[0]}: ${one}`))
      for (const [width, height] of SIZES) {
        await page.setViewportSize({ width, height })
        // Laid out, and drawn by those who watch their size.
        await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))))
        const over = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth)
        if (over > 0) found.push(`${screen[0]} is ${over} pixels wider than ${width}`)
      }
      await page.setViewportSize({ width: 1280, height: 800 })
    }
    expect(found).toEqual([])
  })

  it('and what opens on one holds no word of the inside either: no number of ours, no name of a field', async () => {
    const found: string[] = []
    const look = async (where: string) => found.push(...insideWords(await told()).map((words) => `${where}: ${words}`))
    await open(['/campaigns/lines/1001', '[data-test=sieve] tbody tr'])
    for (const clause of ['A', 'B', 'C', 'D', 'E', 'F', 'G']) {
      await openClause(page, clause)
      await page.waitForLoadState('networkidle')
      await look(`clause ${clause}`)
    }
    await page.click('[data-test=long-wording]')
    await page.click('[data-test=history]')
    await page.waitForSelector('[data-test=entries] li')
    await page.click('[data-test=preflight]')
    await look('words, history and preflight')
    await page.goto('/market')
    await page.locator('.MarketTable-open').first().click()
    await page.waitForSelector('[data-test=sellers] tbody tr')
    await look('a property')
    await page.click('[data-test=into-line]')
    await page.waitForSelector('[data-test=to-line] option >> nth=1', { state: 'attached' })
    await look('into a line')
    await page.keyboard.press('Escape')
    await page.click('[data-test=open-slip-drawer]')
    await page.waitForSelector('[data-test=slip]')
    await look('the slip')
    expect(found).toEqual([])
  })

  it('of money is for those who keep it; a reload keeps its month', async () => {
    expect(await page.locator('.TopBand a:text-is("Ledger")').count()).toBe(0)
    const other = await openWindow(desk.browser)
    await signIn(other.page, 'marta@wharfside.example')
    await other.page.click('.TopBand a:text-is("Ledger")')
    await other.page.selectOption('[data-test=ledger-month]', '2026-02')
    await other.page.waitForSelector('[data-test=ledger-row]:has-text("Top-up: Bank transfer")')
    await other.page.reload()
    await other.page.waitForSelector('[data-test=ledger-row]:has-text("Top-up: Bank transfer")')
    expect(await violations(other.page)).toEqual([])
    expect(insideWords(await other.page.innerText('.SignedIn'))).toEqual([])
    await other.page.setViewportSize({ width: 390, height: 844 })
    expect(await other.page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth)).toBe(0)
    expect(other.errors).toEqual([])
    await other.context.close()
  })

  it('comes from pages that were built for production, without the warnings that are for developers', async () => {
    const html = await (await page.request.get('/')).text()
    const scripts = [...html.matchAll(/assets\/[\w-]+\.js/g)].map(([path]) => path)
    expect(scripts.length).toBeGreaterThan(0)
    for (const path of scripts)
      expect([path, (await (await page.request.get(`/${path}`)).text()).includes('[Vue warn]')]).toEqual([path, false])
  })

  it('as a file holds no such word either', async () => {
    const found: string[] = []
    for (const [path, ready, button] of [
      ['/market?columns=day,people,formats,publisher,own shown', '.MarketTable tbody th', '.MarketTools button:text-is("CSV")'],
      ['/market?rows=placement', '.MarketTable tbody th', '.MarketTools button:text-is("CSV")'],
      ['/reports', '.ReportTable tbody th', '.ReportsView-total button:has-text("CSV")'],
      ['/reports?by=property', '.ReportTable tbody th', '.ReportsView-total button:has-text("CSV")'],
      ['/market/lists?list=1', '.ListPage-values li', '.ListPage-name button:text-is("CSV")']
    ] as const) {
      await open([path, ready])
      const [download] = await Promise.all([page.waitForEvent('download'), page.click(button)])
      const stream = await download.createReadStream()
      let text = ''
      for await (const part of stream) text += String(part)
      expect([path, text.split('\n').length > 3]).toEqual([path, true])
      found.push(...insideWords(text).map((words) => `${path}: ${words}`))
    }
    expect(found).toEqual([])
  })

  it('holds a crowd: sixty lines with long names that begin alike', async () => {
    await page.setViewportSize({ width: 1280, height: 800 })
    const headers = { origin: address() }
    const line = (await (await page.request.get('/api/lines/1001')).json()) as { campaignId: number; draft: Record<string, unknown> }
    const name = 'Winter skies for those who look up, a test of the evening hours, number'
    for (let n = 1; n <= 60; n++) {
      const made = await page.request.post(`/api/campaigns/${line.campaignId}/lines`, {
        headers,
        data: { ...line.draft, name: `${name} ${n}`, onceCleared: 'wait' }
      })
      expect(made.status()).toBeLessThan(300)
    }
    await open(['/campaigns', '.ManifestList.is-dense'])
    // Folded: each campaign says how many lines it has; opened it shows them all.
    expect(await page.locator('.ManifestList-line').count()).toBe(0)
    await page.waitForSelector('.ManifestList-head em:has-text("62")')
    await page.click('.ManifestList-head:has-text("Clear winter skies") button')
    expect(await page.locator('.ManifestList-line').count()).toBe(62)
    await page.fill('[data-test=manifest-search]', 'number 17')
    await page.waitForFunction(() => document.querySelectorAll('.ManifestList-line').length === 1)
    await page.fill('[data-test=manifest-search]', '')
    await open([`/campaigns/${line.campaignId}`, '[data-test=company] tbody tr'])
    expect(await page.textContent('[data-test=among]')).toContain('The 8 lines with most money of its 62')
    const calendar = await page
      .locator('.FlightCalendar text:has(tspan)')
      .evaluateAll((all) => all.map((one) => one.firstChild?.nextSibling?.textContent ?? ''))
    expect(new Set(calendar).size).toBe(62)
    const heights = await page.evaluate(() => (document.querySelector('.FlightCalendar') as HTMLElement).offsetHeight)
    expect(heights).toBeLessThan(400)
    expect(await violations(page)).toEqual([])
    await open(['/market?rows=placement', '.MarketTable tbody th'])
    await page.click('[data-test=choose-all]')
    await page.waitForSelector('.MarketView-said b')
    const over = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth)
    expect(over).toBe(0)
    await page.goto(`/campaigns/${line.campaignId}`)
    await page.waitForSelector('.CampaignPage h1')
  })

  it('in the hand is read; of edits it has pausing and releasing alone', async () => {
    await page.setViewportSize({ width: 390, height: 844 })
    await open(['/campaigns/lines/1001', '[data-test=wording]'])
    expect(await page.locator('.LineState-moves button').allTextContents()).toEqual(['Pause'])
    expect(await page.locator('[data-test=put-live], [data-test=copy], [data-test=open-slip-drawer]').count()).toBe(0)
    expect(await violations(page)).toEqual([])
    await page.click('.LineState-moves button')
    await page.waitForSelector('[data-test=state]:has-text("paused")')
    await page.click('.LineState-moves button:text-is("Go on")')
    await page.waitForSelector('[data-test=state]:has-text("live")')
    await page.setViewportSize({ width: 1280, height: 800 })
  })
})
