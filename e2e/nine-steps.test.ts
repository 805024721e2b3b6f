import type { Browser, BrowserContext, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import {
  address,
  choose,
  euros,
  launch,
  openWindow,
  PASSWORD,
  picture,
  runMarket,
  TRADER,
  typeDay,
  violations,
  openClause,
  restrict,
  startLine
} from './support/browser.js'

/** What a new trader does on the first morning, one step after the other in one window. */
describe('a line, from sign-in to steering', () => {
  let browser: Browser
  let context: BrowserContext
  let page: Page
  let errors: string[]
  let lineAddress = ''

  beforeAll(async () => {
    browser = await launch()
    ;({ context, page, errors } = await openWindow(browser))
  })
  afterAll(async () => {
    if (process.env.FAIL_SHOT) await page.screenshot({ path: process.env.FAIL_SHOT })
    await browser.close()
  })

  const figure = async (part: string, unit: string) =>
    (await page
      .locator(`[data-test=${part}] dl > div`, { has: page.locator(`:text-is("${unit}")`) })
      .first()
      .locator('dd')
      .first()
      .textContent()) ?? ''
  const settled = async () => {
    await page.waitForTimeout(120)
    await page.waitForSelector('.ForecastPanel[aria-busy=false]')
  }

  it('1 signs in; a wrong password is refused clearly', async () => {
    await page.goto('/campaigns')
    await page.waitForURL(/sign-in\?to=/)
    expect(await violations(page)).toEqual([])
    await page.fill('#email', TRADER)
    await page.fill('#password', 'wrong')
    await page.click('button[type=submit]')
    await page.waitForSelector('[role=alert]:has-text("No user has this e-mail and password.")')
    await page.fill('#password', PASSWORD)
    await page.press('#password', 'Enter')
    await page.waitForURL(/\/campaigns$/)
  })

  it('2 looks at the market: filters, sorts, and the address keeps it', async () => {
    await page.click('nav >> text=Market')
    await page.waitForSelector('.MarketTable tbody th')
    const world = await page.textContent('[data-test=figures]')
    await page.click('[data-phrase=more]')
    await page.click('[data-add=where]')
    await page.fill('.PhraseChooser-search', 'germ')
    await page.waitForSelector('.PhraseChooser li:has-text("Germany") b:not(:has-text("none"))')
    await page.keyboard.press('Enter')
    await page.waitForFunction(
      (was) => document.querySelector('[data-test=figures]')?.textContent !== was && !document.querySelector('.MarketTable.is-waiting'),
      world
    )
    await page.keyboard.press('Escape')
    await page.click('.MarketTable thead button:has-text("wins half")')
    await page.fill('[data-test=named]', 'an')
    await page.waitForFunction(() => location.search.includes('half.up'))
    expect(new URL(page.url()).searchParams.get('said')).toContain('"DE"')
    const names = await page.locator('.MarketTable-open').allTextContents()
    expect(names.length).toBeGreaterThan(3)
    const column = (await page.locator('.MarketTable thead th').allTextContents()).findIndex((text) => text.startsWith('wins half'))
    const prices = (await page.locator(`.MarketTable tbody tr:not([aria-hidden]) > :nth-child(${column + 1})`).allTextContents()).map(
      Number
    )
    expect(prices).toEqual([...prices].sort((a, b) => a - b))
    await page.reload()
    await page.waitForSelector('.MarketTable tbody th')
    expect(await page.locator('.MarketTable-open').allTextContents()).toEqual(names)
    expect(await violations(page)).toEqual([])
  })

  it('3 makes a campaign and in it a line', async () => {
    await page.click('nav >> text=Campaigns')
    await page.click('section:has-text("Inkwell Kana") >> text=New campaign')
    await page.click('text=Make the campaign')
    await page.waitForSelector('.FieldRow-problem:has-text("A name is needed.")')
    await page.fill('#campaign-name', 'Thirty-day trial')
    await choose(page, 'goal', 'visits')
    await typeDay(page, 'campaign-start', '2 Mar 2026')
    await typeDay(page, 'campaign-end', '31 Mar 2026')
    await page.fill('#campaign-total', '150')
    await page.fill('#campaign-daily', '8,50')
    expect(await violations(page)).toEqual([])
    await page.click('text=Make the campaign')
    await page.waitForSelector('h1:has-text("€8.50")')
    await startLine(page)
    await page.waitForURL(/lines\/\d+/)
    lineAddress = page.url()
    await page.fill('#line-name', 'Display, phones, FR')
    await restrict(page, 'B', 'where', 'France')
    await restrict(page, 'B', 'device', 'phones')
    await restrict(page, 'A', 'size', '300x250', '320x50')
    expect(await page.textContent('[data-test=wording]')).toContain('Buy display in France on phones, in slots of 300x250 or 320x50')
    await openClause(page, 'E')
    await page.fill('#line-daily', '4')
    await page.click('[data-test=add-cap]')
    await openClause(page, 'G')
    await page.fill('#line-landing', 'https://inkwell.example/kana')
    await openClause(page, 'D')
    await page.fill('#line-bid', '2.40')
    await page.fill('#line-max', '3')
    await page.waitForSelector('[data-test=saving]:has-text("saved")')
  })

  it('4 uploads a picture; one that fits no slot is refused with the sizes that would', async () => {
    await openClause(page, 'F')
    const input = page.locator('input[type=file]')
    await input.setInputFiles({ name: 'square.png', mimeType: 'image/png', buffer: await picture(333, 333) })
    await page.waitForSelector('.LineCreatives-refused:has-text("333x333 fits no slot of this line. These would: 300x250, 320x50")')
    await input.setInputFiles([
      { name: 'kana 300x250.png', mimeType: 'image/png', buffer: await picture(300, 250) },
      { name: 'kana 320x50.png', mimeType: 'image/png', buffer: await picture(640, 100) }
    ])
    await page.waitForSelector('.LineAds tbody tr:nth-child(2)')
    expect(await page.locator('.LineCreatives-refused').count()).toBe(0)
  })

  it('5 sees the forecast follow each edit, the newest answer last', async () => {
    await openClause(page, 'D')
    await settled()
    const wins = await figure('forecast', 'wins a day')
    expect(wins).toMatch(/\d/)
    const paid = await figure('forecast', 'CPM paid')
    await page.fill('#line-bid', '0.90')
    await settled()
    expect(await figure('forecast', 'CPM paid')).not.toBe(paid)
    // Typed faster than answers come: the last one typed must be the one shown.
    for (const bid of ['1', '1.1', '1.2', '1.5', '1.9', '2.4']) {
      await page.fill('#line-bid', bid)
      await page.waitForTimeout(25)
    }
    await settled()
    expect(await figure('forecast', 'CPM paid')).toBe(paid)
    expect(await page.locator('[data-test=forecast-flight] dd').first().textContent()).toMatch(/\d/)
    await page.click('text=Undo')
    await settled()
    expect(await page.inputValue('#line-bid')).toBe('1.90')
    await page.fill('#line-bid', '2.4')
    await settled()
    expect(await violations(page)).toEqual([])
  })

  it('6 puts it live after one confirmation that counts what will exist', async () => {
    await page.click('[data-test=put-live]')
    await page.waitForSelector('[data-test=counted]')
    expect(await page.textContent('[data-test=counted]')).toContain(
      '1 campaign, 1 line, 2 ads will exist; nothing else changes. It may spend at most €4.00 a day and €120.00 in all.'
    )
    expect(await violations(page)).toEqual([])
    await page.click('[data-test=confirm-live]')
    await page.waitForSelector('[data-test=state] b:text-is("live")')
  })

  it('7 runs the market; the clock moves, the balance falls, the campaign shows spend against plan', async () => {
    const before = euros(await page.textContent('.TopBand-balance'))
    await runMarket(page, '+1 hour')
    await runMarket(page, '+1 day')
    expect(await page.textContent('[data-test=clock]')).toContain('Tue 3 Mar')
    await page.waitForFunction(
      (was) => Number((document.querySelector('.TopBand-balance')?.textContent ?? '').replace(/[^\d.]/g, '')) < was,
      before
    )
    await page.waitForSelector('[data-test=state]:has-text("serving")')
    await page.click('.LinePage header >> text=Thirty-day trial')
    await page.waitForSelector('[data-test=pace]:has-text("Spent €")')
    expect(await page.textContent('[data-test=pace]')).toMatch(/of the €[\d.]+ due by now/)
    await page.waitForSelector('.PaceChart canvas')
  })

  it('a run can be stopped', async () => {
    // Far longer than the test waits, so that it cannot be over before the button is found.
    expect((await page.request.post('/api/market/run', { headers: { origin: address() }, data: { hours: 5000 } })).ok()).toBe(true)
    await page.click('button:text-is("Stop")')
    await page.waitForSelector('button:text-is("+1 day")')
    const { run, hour } = (await (await page.request.get('/api/market')).json()) as { run: { running: boolean }; hour: number }
    expect(run.running).toBe(false)
    expect(hour).toBeLessThan(1448 + 5000)
  })

  it('8 sees results by placement, leaves two out, and they get nothing more', async () => {
    await page.goto(`${lineAddress}/results`)
    await page.waitForSelector('.LineResults tbody tr:not([aria-hidden])')
    expect(await violations(page)).toEqual([])
    const boxes = page.locator('.LineResults tbody input[type=checkbox]')
    await boxes.nth(0).check()
    await boxes.nth(1).check()
    const chosen = new URL(page.url()).searchParams.get('chosen')?.split('~') ?? []
    expect(chosen).toHaveLength(2)
    await page.waitForSelector('.LineResults-sentence:has-text("2 placements chosen took")')
    const impressions = async () => {
      const answer = (await (
        await page.request.get(`/api/lines/${new URL(lineAddress).pathname.split('/').pop() ?? ''}/results`)
      ).json()) as { rows: { placement: string; impressions: number }[]; total: { impressions: number } }
      return {
        total: answer.total.impressions,
        left: answer.rows.filter((row) => chosen.includes(row.placement)).map((row) => row.impressions)
      }
    }
    const before = await impressions()
    await page.click('[data-test=leave-out]')
    await page.waitForSelector('em:has-text("left out")')
    await runMarket(page, '+1 day')
    const after = await impressions()
    expect(after.left).toEqual(before.left)
    expect(after.total).toBeGreaterThan(before.total)
    await page.waitForSelector(`.LineResults-sentence:has-text("${after.total.toLocaleString('en-GB')} impressions")`)
  })

  it('9 is in the same place after a reload, and in a new window', async () => {
    await page.locator('.LineResults tbody input[type=checkbox]').nth(2).check()
    const { url, text } = { url: page.url(), text: await page.textContent('.LineResults-sentence') }
    await page.reload()
    await page.waitForSelector('.LineResults .is-chosen')
    expect(await page.textContent('.LineResults-sentence')).toBe(text)
    const other = await context.newPage()
    await other.goto(url)
    await other.waitForSelector('.LineResults .is-chosen')
    expect(await other.textContent('.LineResults-sentence')).toBe(text)
    await other.close()
    await page.goto(lineAddress)
    await page.waitForSelector('#line-bid')
    expect(await page.inputValue('#line-bid')).toBe('2.40')
    expect(await page.inputValue('#line-name')).toBe('Display, phones, FR')
    expect(errors).toEqual([])
  })
})
