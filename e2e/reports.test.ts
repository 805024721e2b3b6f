import { readFileSync } from 'node:fs'
import type { Page } from 'playwright-core'
import { beforeAll, describe, expect, it } from 'vitest'
import { address, choose, useDesk, openWindow, runMarket, violations, openClause, startLine } from './support/browser.js'

/** Running further, and reading what it brought. */
describe('running, reports and the trace', () => {
  const desk = useDesk()
  let page: Page
  beforeAll(() => void ({ page } = desk))

  const clock = () => page.textContent('[data-test=clock]')
  const total = async () => Number((await page.textContent('.ReportsView-total b'))?.replace(/\D/g, ''))

  it('runs to a moment that is chosen, and not to one that is past', async () => {
    await runMarket(page, '+1 hour')
    const before = await clock()
    await page.click('button:text-is("Run to …")')
    await page.waitForSelector('.RunMenu:visible')
    await page.fill('#run-day', '1 Feb 2026')
    await page.press('#run-day', 'Enter')
    await page.waitForSelector('.RunMenu:has-text("The clock is past that moment.")')
    expect(await page.isDisabled('[data-test=run-to]')).toBe(true)
    const { hour } = (await (await page.request.get('/api/market')).json()) as { hour: number }
    const next = new Date(Date.UTC(2026, 0, 1) + (hour + 24) * 3_600_000).toLocaleDateString('en-GB', {
      day: 'numeric',
      month: 'short',
      year: 'numeric',
      timeZone: 'UTC'
    })
    await page.fill('#run-day', next)
    await page.press('#run-day', 'Enter')
    await page.click('[data-test=run-to]')
    await page.waitForFunction((was) => document.querySelector('[data-test=clock]')?.textContent !== was, before)
    await page.waitForSelector('button:text-is("+1 hour")', { timeout: 120_000 })
    expect(await clock()).toContain('00:00')
  })

  it('is played an hour at a time, and stops when told', async () => {
    const before = await clock()
    await page.click('button:text-is("Run to …")')
    await page.waitForSelector('.RunMenu:visible')
    await page.click('[data-test=play]')
    await page.waitForSelector('.RunControls:has-text("played:")')
    await page.waitForFunction((was) => document.querySelector('[data-test=clock]')?.textContent !== was, before)
    await page.click('button:text-is("Stop")')
    await page.waitForSelector('button:text-is("+1 hour")')
    // What was stopped stands still, at a whole hour.
    const stopped = await clock()
    expect(stopped).not.toBe(before)
    await page.waitForTimeout(1500)
    expect(await clock()).toBe(stopped)
  })

  it('reports add up by whatever they are told apart by, and a link shows the same', async () => {
    await page.click('nav >> text=Reports')
    await page.waitForSelector('.ReportsView tbody tr:not([aria-hidden])')
    const all = await total()
    expect(all).toBeGreaterThan(100)
    await choose(page, 'report-by', 'country')
    await page.waitForSelector('.ReportsView tbody tr:not([aria-hidden]):has-text("Germany")')
    expect(await total()).toBe(all)
    await choose(page, 'report-of', 'Display, desktop, DE AT')
    await page.waitForFunction((was) => Number(document.querySelector('.ReportsView-total b')?.textContent?.replace(/\D/g, '')) < was, all)
    const part = await total()
    const { page: other } = await openWindow(desk.browser)
    await other.context().addCookies(await desk.context.cookies())
    await other.goto(page.url())
    await other.waitForSelector('.ReportsView tbody tr:not([aria-hidden]):has-text("Germany")')
    expect(Number((await other.textContent('.ReportsView-total b'))?.replace(/\D/g, ''))).toBe(part)
    await other.close()
    expect(await violations(page)).toEqual([])
  })

  it('give what is shown as a file', async () => {
    const [file] = await Promise.all([page.waitForEvent('download'), page.click('.ReportsView-total button:has-text("CSV")')])
    const text = readFileSync(await file.path(), 'utf8')
      .trimEnd()
      .split('\r\n')
    expect(text[0]).toContain('name,shown,people')
    expect(text.some((line) => line.startsWith('Germany,'))).toBe(true)
    expect(text[text.length - 1]).toMatch(/^in all,/)
  })

  it('days without anything say so', async () => {
    await page.goto('/reports?from=2026-01-01&to=2026-01-03')
    await page.waitForSelector('text=Nothing was shown in these days.')
    expect(await page.locator('.ReportsView tbody tr:not([aria-hidden])').count()).toBe(0)
  })

  it('the trace falls from all opportunities to what was won, names the change that helps, and shows one opportunity', async () => {
    await page.goto('/campaigns/lines/1001')
    await page.click('.LineWording-ways >> text=Trace')
    await page.waitForSelector('.StairTable')
    expect(await page.textContent('[data-test=remark]')).toContain('Most opportunities that it matched were lost to')
    const left = (await page.locator('.StairTable tr:has(.is-exact) td:nth-child(2)').allTextContents()).map((text) =>
      Number(text.replace(/\D/g, ''))
    )
    expect(left.every((n, place) => place === 0 || n <= left[place - 1])).toBe(true)
    await page.click('[data-test=look]')
    await page.waitForSelector('.OneOpportunity-verdicts td:has-text("Display, desktop, DE AT")', { timeout: 120_000 })
    const first = await page.textContent('.OneOpportunity-facts')
    await page.click('.OneOpportunity-next >> text=any')
    await page.waitForFunction((was) => document.querySelector('.OneOpportunity-facts')?.textContent !== was, first)
    // Not every hour of so small a market has a win: the day is gone through until there is one.
    await page.fill('#trace-clock', '0')
    await page.press('#trace-clock', 'Tab')
    await page.click('[data-test=seek-won]')
    const won = page.locator('.OneOpportunity-verdicts tr.is-own td:has-text("won")')
    const goOn = page.locator('text=Go on in the hour after it')
    for (let hour = 0; hour < 24; hour++) {
      await won.or(goOn).first().waitFor()
      if (await won.count()) break
      await goOn.click()
    }
    expect(await page.textContent('.OneOpportunity-facts')).toContain('Display, desktop, DE AT bought it')
    await page.reload()
    await page.waitForSelector('.OneOpportunity-verdicts td:has-text("Display, desktop, DE AT")', { timeout: 120_000 })
    expect(await violations(page)).toEqual([])
  })

  it('a line by the click, towards an aim or following the market is drafted in its own fields', async () => {
    const headers = { origin: address() }
    const flight = { startDate: '2026-06-01', endDate: '2026-06-30' }
    const campaign = (await (
      await page.request.post('/api/advertisers/1/campaigns', {
        headers,
        data: { name: 'By aim', goal: 'conversions', flight, budget: { totalMicros: 90_000_000, dailyMicros: null } }
      })
    ).json()) as { id: number }
    await page.goto(`/campaigns/${campaign.id}`)
    await startLine(page)
    await page.waitForSelector('#line-bid')
    await page.fill('#line-bid', '1.50')
    await page.click('[data-clause-body=D] label:has-text("towards an aim")')
    await page.waitForSelector('#line-aim')
    expect(await page.inputValue('#line-max')).toBe('1.50')
    expect(await page.locator('#line-bid').count()).toBe(0)
    await page.fill('#line-max', '')
    await page.waitForSelector('text=An aim needs a maximum bid that it never passes.')
    await page.fill('#line-max', '4')
    await page.waitForSelector('[data-test=saving]:text-is("saved")')
    await page.reload()
    await page.waitForSelector('#line-aim')
    await page.click('[data-clause-body=D] label:has-text("follow the market")')
    await page.waitForSelector('#line-bid')
    await openClause(page, 'A')
    await page.click('[data-clause-body=A] label:has-text("native")')
    await openClause(page, 'F')
    await page.waitForSelector('[data-test=made-creatives]')
    await page.click('[data-test=made-creatives]')
    await page.click('.el-select-dropdown__item:visible:has-text("Winter sky, native")')
    await page.waitForSelector('.LineAds tbody tr:has-text("Winter sky, native")')
  })
})
