import type { Browser, BrowserContext, Page } from 'playwright-core'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { openDesk, ownDraft, violations, openClause, restrict } from './support/browser.js'

/** The forecast beside a line: its figures answer every edit, and its ladder, sieve and changes are edits themselves. */
describe('the forecast panel', () => {
  let browser: Browser
  let context: BrowserContext
  let page: Page
  let errors: string[]
  let line: string

  beforeAll(async () => {
    ;({ browser, context, page, errors } = await openDesk())
    line = await ownDraft(page, 'panel line')
    await page.goto(line)
    await settled()
  })
  afterEach(() => expect(errors).toEqual([]))
  afterAll(async () => {
    await context.close()
    await browser.close()
  })

  const settled = async () => {
    await page.waitForTimeout(120)
    await page.waitForSelector('.ForecastPanel[aria-busy=false]')
  }
  const saved = () => page.waitForSelector('[data-test=saving]:text-is("saved")')
  const bid = () => page.inputValue('#line-bid')
  const figure = (unit: string) =>
    page.locator('[data-test=forecast] dl').first().locator(`div:has(:text-is("${unit}")) dd`).first().textContent()

  it('shows figures with their ranges, the ladder, the sieve, and passes axe', async () => {
    expect(await page.locator('.FigureList-range').first().textContent()).toMatch(/\d+.* – .*\d/)
    expect(await page.locator('[data-test=ladder] [role=slider]').count()).toBe(1)
    const sieve = await page.textContent('[data-test=sieve]')
    for (const words of ['all slots that fit', 'places Netherlands', 'device desktops', 'size 300x250']) expect(sieve).toContain(words)
    await page.waitForSelector('[data-test=breakdown] tbody tr')
    expect(await violations(page)).toEqual([])
  })

  it('the mark on the ladder is dragged: figures follow it, and the bid is saved when it rests', async () => {
    const box = await page.locator('.BidLadder-plot').boundingBox()
    if (!box) throw new Error('There is no ladder to drag on.')
    const wins = await figure('wins a day')
    await page.mouse.move(box.x + box.width * 0.7, box.y + 60)
    await page.mouse.down()
    await page.mouse.move(box.x + box.width * 0.5, box.y + 60, { steps: 6 })
    expect(await bid()).toBe('1.90')
    await page.mouse.up()
    await settled()
    await saved()
    expect(Number(await bid())).toBeLessThan(1.9)
    expect(await figure('wins a day')).not.toBe(wins)
    await page.reload()
    await settled()
    expect(Number(await bid())).toBeLessThan(1.9)
    await page.locator('[data-test=ladder-mark]').press('ArrowRight')
    await settled()
    await saved()
  })

  it('a restriction is lifted from the sieve, and undo brings it back', async () => {
    await page.click('[data-test=sieve] tr:has-text("device") button')
    await settled()
    expect(await page.textContent('[data-test=sieve] tbody')).not.toContain('device')
    expect(await page.textContent('[data-test=wording]')).not.toContain('on desktops')
    await page.click('text=Undo')
    await settled()
    expect(await page.textContent('[data-test=wording]')).toContain('on desktops')
    await saved()
  })

  it('what holds it back is offered with its gain, and done with one click', async () => {
    await openClause(page, 'E')
    await page.fill('#line-daily', '60')
    await settled()
    const [first] = await page.locator('[data-test=advice] li').allTextContents()
    expect(first).toMatch(/more wins a day/)
    const wins = await figure('wins a day')
    await page.locator('[data-test=advice] button').first().click()
    await settled()
    await saved()
    expect(await figure('wins a day')).not.toBe(wins)
    expect(await page.locator('.FigureList-was').count()).toBeGreaterThan(0)
  })

  it('hours are painted by dragging and keep what is matched down; a reload keeps them', async () => {
    const matched = await figure('matched a day')
    const cell = async (hour: number) => (await page.locator(`[data-hour="${hour}"]`).boundingBox()) ?? { x: 0, y: 0 }
    await openClause(page, 'C')
    await page.locator('[data-test=hours]').scrollIntoViewIfNeeded()
    const [from, to] = [await cell(0), await cell(11)]
    await page.mouse.move(from.x + 6, from.y + 6)
    await page.mouse.down()
    await page.mouse.move(to.x + 6, to.y + 6, { steps: 14 })
    await page.mouse.up()
    await settled()
    await saved()
    expect(await page.textContent('.HourGrid-words')).toContain('156 of 168 hours are open')
    expect(await figure('matched a day')).not.toBe(matched)
    expect(await page.textContent('[data-test=sieve]')).toContain('hours')
    await page.reload()
    await settled()
    expect(await page.textContent('.HourGrid-words')).toContain('156 of 168')
    await page.click('.HourGrid-words button')
    await saved()
  })

  it('follows age, language, category and another format, priced by the view', async () => {
    await restrict(page, 'A', 'category', 'technology')
    await settled()
    expect(await page.textContent('[data-test=sieve]')).toContain('category technology')
    await restrict(page, 'B', 'age', '25-34')
    await settled()
    expect(await page.textContent('[data-test=sieve]')).toContain('age 25-34')
    await openClause(page, 'A')
    await page.click('.el-radio:has-text("audio")')
    await page.waitForSelector('text=Dropped with the format')
    await openClause(page, 'D')
    await page.click('.el-radio:has-text("view"):visible')
    await page.fill('#line-bid', '0.006')
    await settled()
    expect(await page.textContent('[data-test=wording]')).toContain('Buy audio')
    expect(await figure('matched a day')).toMatch(/\d/)
  })

  it('says which restriction leaves nothing, and comes back from it', async () => {
    await openClause(page, 'A')
    await page.click('.el-radio:has-text("display")')
    await restrict(page, 'B', 'device', 'phones', 'desktops')
    await restrict(page, 'A', 'size', '300x600')
    await settled()
    expect(await page.textContent('[data-test=remark]')).toMatch(/Nothing in the recorded days matches|leaves nothing/)
    await page.waitForSelector('[data-test=sieve] .is-empty')
    expect(await violations(page)).toEqual([])
    for (let n = 0; n < 2; n++) await page.click('text=Undo')
    await settled()
    expect(await figure('matched a day')).not.toBe('0')
  })
})
