import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openDesk, openWindow, ownDraft, signIn, violations, openClause } from './support/browser.js'

/** The inputs most easily got wrong: a bid, a picture, an edit somebody else was faster with. */
describe('wrong inputs', () => {
  let browser: Browser
  let page: Page
  let errors: string[]
  let draft = ''

  beforeAll(async () => {
    ;({ browser, page, errors } = await openDesk())
    draft = await ownDraft(page, 'Display, desktop, NL')
  })
  afterAll(() => browser.close())

  async function openDraft(in_: Page): Promise<void> {
    await in_.goto(draft)
    await in_.waitForSelector('#line-bid')
    await in_.waitForSelector('.ForecastPanel[aria-busy=false]')
  }

  it('a bid that cannot be: said at the field, nothing saved, nothing lost, the forecast says it is old', async () => {
    await openDraft(page)
    const problem = () => page.textContent('.FieldRow:has(#line-bid) .FieldRow-problem')
    await page.fill('#line-bid', '-2')
    await page.waitForSelector('.FieldRow:has(#line-bid) .FieldRow-problem')
    expect(await problem()).toBe('The bid must be more than 0.')
    await page.fill('#line-bid', '1.200,5.0')
    await page.waitForSelector('.FieldRow-problem:has-text("cannot be read")')
    await page.fill('#line-bid', '9000')
    await page.waitForSelector('.FieldRow-problem:has-text("over 500")')
    expect(await page.textContent('[data-test=saving]')).toBe('not saved')
    await page.waitForSelector('.ForecastPanel-note:has-text("from before")')
    expect(await page.inputValue('#line-bid')).toBe('9000')
    expect(await violations(page)).toEqual([])
    await page.fill('#line-bid', '2,10')
    await page.waitForSelector('[data-test=saving]:has-text("saved")')
    await page.reload()
    await page.waitForSelector('#line-bid')
    expect(await page.inputValue('#line-bid')).toBe('2.10')
  })

  it('a file that is no picture, and one too large: each said by its name', async () => {
    await openDraft(page)
    await openClause(page, 'F')
    await page.waitForSelector('input[type=file]', { state: 'attached' })
    const ads = await page.locator('.LineAds tbody tr').count()
    const input = page.locator('input[type=file]')
    await input.setInputFiles({ name: 'notes.png', mimeType: 'image/png', buffer: Buffer.from('only words') })
    await page.waitForSelector('.LineCreatives-refused:has-text("notes.png")')
    expect(await page.textContent('.LineCreatives-refused')).toContain('no picture, film, sound or banner')
    await input.setInputFiles({ name: 'huge.png', mimeType: 'image/png', buffer: Buffer.alloc(9 * 1024 * 1024) })
    await page.waitForSelector('.LineCreatives-refused:has-text("at most 8 MB")')
    expect(await page.locator('.LineAds tbody tr').count()).toBe(ads)
  })

  it('edits of somebody else are put together with ours where they are of other fields, and asked about where not', async () => {
    await openDraft(page)
    const second = await openWindow(browser)
    await signIn(second.page, 'marta@wharfside.example')
    await openDraft(second.page)
    const saved = (on: typeof page) => on.waitForSelector('[data-test=saving]:text-is("saved")')
    await second.page.fill('#line-name', 'Display, desktop, NL, Marta')
    await second.page.waitForSelector('[data-test=saving]:has-text("saving")')
    await saved(second.page)
    await page.fill('#line-bid', '1.75')
    await page.waitForSelector('.OthersNote:has-text("Name Display, desktop, NL, Marta")')
    await saved(page)
    expect([await page.inputValue('#line-bid'), await page.inputValue('#line-name')]).toEqual(['1.75', 'Display, desktop, NL, Marta'])
    await second.page.fill('#line-bid', '1.80')
    await second.page.waitForSelector('.StaleEditNote')
    expect(await second.page.textContent('.StaleEditNote')).toContain('Bid: you have €1.80, saved is €1.75')
    await second.page.click('text=Take what is saved')
    await second.page.waitForFunction(() => document.querySelector<HTMLInputElement>('#line-bid')?.value === '1.75')
    await page.fill('#line-bid', '1.60')
    await page.waitForSelector('[data-test=saving]:has-text("saving")')
    await saved(page)
    await second.page.fill('#line-bid', '1.90')
    await second.page.waitForSelector('.StaleEditNote')
    await second.page.click('text=Save mine over it')
    await saved(second.page)
    expect(await second.page.inputValue('#line-bid')).toBe('1.90')
    await second.context.close()
    expect(errors).toEqual([])
  })
})
