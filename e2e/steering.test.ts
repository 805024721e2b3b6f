import type { Page } from 'playwright-core'
import { beforeAll, describe, expect, it } from 'vitest'
import { useDesk, openWindow, ownDraft, runMarket, signIn, violations, openClause, startLine } from './support/browser.js'

/** What comes after the first morning: steering what is live, others at the same desk, other screens. */
describe('steering', () => {
  const desk = useDesk()
  let page: Page
  beforeAll(() => void ({ page } = desk))

  const openLine = async (name: string, on: Page = page) => {
    await on.goto('/campaigns')
    await on.click(`.ManifestList-line:has-text("${name}")`)
    await on.waitForSelector('#line-bid')
    await on.waitForSelector('.ForecastPanel[aria-busy=false]')
  }
  const state = () => page.textContent('[data-test=state]')

  it('an edit of a live line stays a draft until it is put live, and the confirmation lists it', async () => {
    await openLine('Display, phones, DE AT')
    await page.fill('#line-bid', '0.95')
    await page.waitForSelector('[data-test=state]:has-text("1 edit is not live yet")')
    await page.reload()
    await page.waitForSelector('[data-test=state]:has-text("1 edit is not live yet")')
    await page.click('[data-test=put-live]')
    await page.waitForSelector('.ConfirmLive li:has-text("Bid: €0.68")')
    expect(await page.textContent('[data-test=counted]')).toContain('The line stays one line')
    await page.click('text=Not yet')
    await page.waitForSelector('.el-dialog', { state: 'detached' })
    expect(await state()).toContain('not live yet')
    await page.click('[data-test=put-live]')
    await page.click('[data-test=confirm-live]')
    await page.waitForFunction(() => !document.querySelector('[data-test=state]')?.textContent?.includes('not live yet'))
    expect(await page.locator('[data-test=put-live]').count()).toBe(0)
  })

  it('a live line is paused, goes on, and says whether it serves', async () => {
    await openLine('Display, phones, DE AT')
    await page.click('button:text-is("Pause")')
    await page.waitForSelector('[data-test=state] b:text-is("paused")')
    await page.waitForSelector('.ManifestList-line.is-here em:text-is("paused")')
    await runMarket(page, '+1 hour')
    expect(await state()).toContain('does not serve: paused')
    await page.click('button:text-is("Go on")')
    await page.waitForSelector('[data-test=state] b:text-is("live")')
    await runMarket(page, '+1 hour')
    await page.waitForSelector('[data-test=state]:has-text("serving")')
  })

  it('placements that cost over an amount are left out in three actions, and one is bid for apart in three', async () => {
    await openLine('Display, desktop, DE AT')
    await page.click('.LineWording-ways >> text=Results')
    await page.waitForSelector('.LineResults tbody tr:not([aria-hidden])')
    await page.fill('#results-over', '0.60')
    await page.waitForSelector('[data-test=choose-all]:has-text("that match")')
    const all = Number(/all (\d+) that match/.exec((await page.textContent('[data-test=choose-all]')) ?? '')?.[1])
    expect(all).toBeGreaterThan(0)
    await page.click('[data-test=choose-all]')
    await page.click(`[data-test=leave-out]:has-text("Leave ${all} out")`)
    await page.waitForFunction((many) => document.querySelectorAll('.PlacementResults .is-left-out').length === many, all)
    expect(await page.locator('.ResultsActs').count()).toBe(0)
    await page.fill('#results-over', '')
    await page.waitForFunction(() => !document.querySelector('[data-test=choose-all]')?.textContent?.includes('that match'))
    await page.locator('.PlacementResults tr:not(.is-left-out):not([aria-hidden]) input[type=checkbox]').first().check()
    await page.fill('#own-price', '1.05')
    await page.click('[data-test=own-price]')
    await page.waitForSelector('.PlacementResults em:has-text("bids 1.05")')
    expect(await violations(page)).toEqual([])
    await page.goBack()
    await page.waitForSelector('.LineWording')
    await page.click('[data-test=history]')
    await page.waitForSelector('[data-test=entries] li:has-text("gave 1 placement a price of its own")')
    await page.waitForSelector(`[data-test=entries] li:has-text("left ${all} ${all === 1 ? 'placement' : 'placements'} out")`)
  })

  it('a line that waits for release starts only when it is released', async () => {
    await page.goto(await ownDraft(page, 'A line that waits'))
    await page.waitForSelector('.ForecastPanel[aria-busy=false]')
    await openClause(page, 'C')
    await page.click('.el-radio:has-text("wait for release")')
    await page.waitForSelector('[data-test=saving]:text-is("saved")')
    await page.click('[data-test=put-live]')
    await page.waitForSelector('.ConfirmLive:has-text("waits until somebody releases it")')
    await page.click('[data-test=confirm-live]')
    await page.waitForSelector('[data-test=state]:has-text("waits for release")')
    await page.waitForSelector('.ManifestList-line.is-here em:text-is("waits")')
    await page.click('button:text-is("Release")')
    await page.waitForSelector('[data-test=state]:has-text("starts with its flight")')
    await page.click('button:text-is("End")')
    await page.click('text=Keep it')
    await page.waitForSelector('[data-test=state]:has-text("starts with its flight")')
    await page.click('button:text-is("End")')
    await page.click('[data-test=end-now]')
    await page.waitForSelector('[data-test=state] b:text-is("ended")')
    expect(await page.locator('[data-test=put-live]').count()).toBe(0)
    await openClause(page, 'D')
    await page.fill('#line-bid', '0.77')
    await page.waitForSelector('[data-test=put-live]:has-text("Bring back")')
    await page.waitForSelector('[data-test=saving]:has-text("draft saved")')
    await page.click('[data-test=put-live]')
    await page.click('[data-test=confirm-live]')
    await page.waitForSelector('[data-test=state]:has-text("starts with its flight")')
  })

  it('a campaign is changed, and what is wrong with it stays in the form', async () => {
    await page.goto('/campaigns')
    await page.click('.ManifestList-campaign:has-text("Clear winter skies")')
    await page.click('text=Change')
    await page.waitForSelector('#campaign-daily')
    await page.waitForFunction(() => document.querySelector<HTMLInputElement>('#campaign-daily')?.value === '45.00')
    await page.waitForSelector('text=Lines of this campaign are live')
    await page.fill('#campaign-daily', '1900')
    await page.click('button:has-text("Save")')
    await page.waitForSelector('.FieldRow-problem:has-text("over the total")')
    expect(await page.inputValue('#campaign-daily')).toBe('1900.00')
    await page.fill('#campaign-daily', '44')
    await page.click('button:has-text("Save")')
    await page.waitForSelector('h1:has-text("€44.00")')
    expect(await violations(page)).toEqual([])
  })

  it('a new line can be deleted again while it is a draft', async () => {
    await page.goto('/campaigns')
    await page.click('.ManifestList-campaign:has-text("Clear winter skies")')
    await startLine(page)
    await page.waitForSelector('text=Delete this draft')
    await page.waitForSelector('.ForecastPanel-remark:has-text("Type a bid")')
    await page.click('[data-test=put-live]')
    await page.waitForSelector('[data-test=stops]')
    expect(await page.locator('[data-test=stops] p').allTextContents()).toEqual(
      expect.arrayContaining([expect.stringContaining('Places.'), expect.stringContaining('Bid.'), expect.stringContaining('Creatives.')])
    )
    await page.click('text=Back to the line')
    await page.waitForSelector('.el-dialog', { state: 'detached' })
    await page.click('text=Delete this draft')
    await page.click('[data-test=delete-now]')
    await page.waitForURL(/\/campaigns\/\d+$/)
  })

  it('everybody sees the market move, in other windows and other browsers', async () => {
    const second = await desk.context.newPage()
    await second.goto('/market')
    const other = await openWindow(desk.browser)
    await signIn(other.page, 'marta@wharfside.example')
    await page.goto('/market')
    await page.waitForSelector('.MarketTable tbody th')
    await runMarket(page, '+1 hour')
    const clock = await page.textContent('[data-test=clock]')
    const run = await page.textContent('.TopBand-balance')
    for (const window of [second, other.page]) {
      await window.waitForFunction((now) => document.querySelector('[data-test=clock]')?.textContent === now, clock)
      await expect.poll(() => window.textContent('.TopBand-balance')).toBe(run)
    }
    await second.close()
    await other.context.close()
  })

  it('a reader sees their advertisers, and nothing that they may not do', async () => {
    const reader = await openWindow(desk.browser)
    await signIn(reader.page, 'rui@wharfside.example')
    expect(await reader.page.locator('button:text-is("+1 day")').count()).toBe(0)
    await openLine('Display, desktop, DE AT', reader.page)
    expect(await reader.page.locator('.ManifestList h2').allTextContents()).toEqual(['Nightjar Telescopes', 'Ostler Cargo Bikes'])
    expect(await reader.page.isDisabled('#line-bid')).toBe(true)
    expect(await reader.page.locator('text=New campaign').count()).toBe(0)
    expect(await reader.page.locator('button:text-is("Pause")').count()).toBe(0)
    // Forecasts are read too, and nothing of what they are of can be changed.
    await reader.page.waitForSelector('[data-test=sieve] tbody tr')
    expect(await reader.page.locator('#line-name').isDisabled()).toBe(true)
    await reader.page.click('.LineWording-ways >> text=Results')
    await reader.page.waitForSelector('.LineResults tbody tr:not([aria-hidden])')
    expect(await reader.page.locator('.LineResults input[type=checkbox]:not([disabled])').count()).toBe(0)
    expect(reader.errors).toEqual([])
    await reader.context.close()
  })

  it('addresses that lead nowhere say so and lead back', async () => {
    await page.goto('/campaigns/lines/999999')
    await page.waitForSelector('[role=alert]:has-text("There is no line with this number.")')
    await page.click('text=Back to campaigns')
    await page.waitForURL(/\/campaigns$/)
    expect(await page.locator('[role=alert]').count()).toBe(0)
    await page.goto('/somewhere/else')
    await page.waitForSelector('text=There is nothing at this address.')
    await page.goto('/campaigns/999999')
    await page.waitForSelector('[role=alert]:has-text("There is no campaign")')
  })

  it('a market that fits nothing says the next step', async () => {
    await page.goto('/market?named=zzzz')
    await page.waitForSelector('text=Nothing in the recorded days is like that.')
    expect(await page.locator('.MarketTable tbody th').count()).toBe(0)
    await page.fill('[data-test=named]', '')
    await page.waitForSelector('.MarketTable tbody th')
    expect(await page.locator('text=Nothing in the recorded days is like that.').count()).toBe(0)
  })

  it('works by keyboard alone: sign in, open a line, change the bid, run an hour', async () => {
    const own = await openWindow(desk.browser)
    const keys = own.page
    await keys.goto('/sign-in')
    await keys.waitForSelector('#email')
    await keys.focus('#email')
    await keys.keyboard.type('ines@wharfside.example')
    await keys.keyboard.press('Tab')
    await keys.keyboard.type('harbor-lights')
    await keys.keyboard.press('Enter')
    await keys.waitForURL(/market/)
    const reach = async (selector: string) => {
      for (let n = 0; n < 80; n++) {
        await keys.keyboard.press('Tab')
        if (await keys.evaluate((wanted) => document.activeElement?.matches(wanted) ?? false, selector)) return
      }
      throw new Error(`${selector} cannot be reached by Tab.`)
    }
    await reach('nav a[href="/campaigns"]')
    await keys.keyboard.press('Enter')
    await keys.waitForSelector('.ManifestList-line')
    await reach('.ManifestList-line')
    await keys.keyboard.press('Enter')
    await keys.waitForSelector('#line-bid')
    await reach('#line-bid')
    expect(
      await keys.evaluate(() => getComputedStyle(document.activeElement?.closest('.el-input__wrapper') as Element).boxShadow)
    ).not.toBe('none')
    await keys.keyboard.press('Control+A')
    await keys.keyboard.type('1.35')
    await keys.waitForSelector('[data-test=state]:has-text("not live yet")')
    await keys.focus('body')
    await keys.evaluate(() => (document.activeElement as HTMLElement | null)?.blur())
    const clock = await keys.textContent('[data-test=clock]')
    await reach('.RunControls button')
    await keys.keyboard.press('Enter')
    await keys.waitForFunction((was) => document.querySelector('[data-test=clock]')?.textContent !== was, clock)
    await own.context.close()
  })

  it.each([
    [1024, 700],
    [2560, 1300]
  ])('fits a window of %d x %d without being cut off', async (width, height) => {
    await page.setViewportSize({ width, height })
    for (const path of ['/market', '/campaigns/1', '/campaigns/lines/1001', '/campaigns/lines/1001/results']) {
      await page.goto(path)
      await page.waitForSelector('.MarketTable tbody th, .CampaignPage h1, #line-bid, .LineResults tbody tr:not([aria-hidden])')
      const over = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth)
      expect([path, over]).toEqual([path, 0])
      const band = await page.evaluate(() => (document.querySelector('.TopBand') as HTMLElement).scrollWidth - window.innerWidth)
      expect([path, band <= 0]).toEqual([path, true])
    }
  })
})
