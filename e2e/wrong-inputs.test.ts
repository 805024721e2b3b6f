import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openDesk, openWindow, ownDraft, signIn, violations } from './support/browser.js'

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
    const ads = await page.locator('.LineCreatives li').count()
    const input = page.locator('input[type=file]')
    await input.setInputFiles({ name: 'notes.png', mimeType: 'image/png', buffer: Buffer.from('only words') })
    await page.waitForSelector('.LineCreatives-refused:has-text("notes.png")')
    expect(await page.textContent('.LineCreatives-refused')).toContain('not a picture')
    await input.setInputFiles({ name: 'huge.png', mimeType: 'image/png', buffer: Buffer.alloc(9 * 1024 * 1024) })
    await page.waitForSelector('.LineCreatives-refused:has-text("at most 8 MB")')
    expect(await page.locator('.LineCreatives li').count()).toBe(ads)
  })

  it('an edit somebody else was faster with: both are shown, and one is chosen', async () => {
    await openDraft(page)
    const second = await openWindow(browser)
    await signIn(second.page, 'marta@wharfside.example')
    await openDraft(second.page)
    await second.page.fill('#line-name', 'Display, desktop, NL, Marta')
    await second.page.waitForSelector('[data-test=saving]:has-text("saving")')
    await second.page.waitForSelector('[data-test=saving]:text-is("saved")')
    await page.fill('#line-bid', '1.75')
    await page.waitForSelector('.StaleEditNote')
    expect(await page.textContent('.StaleEditNote')).toContain('Name: you have Display, desktop, NL, saved is Display, desktop, NL, Marta')
    expect(await page.inputValue('#line-bid')).toBe('1.75')
    await page.click('text=Save mine over it')
    await page.waitForSelector('[data-test=saving]:text-is("saved")')
    await second.page.fill('#line-bid', '1.80')
    await second.page.waitForSelector('.StaleEditNote')
    await second.page.click('text=Take what is saved')
    await second.page.waitForFunction(() => document.querySelector<HTMLInputElement>('#line-bid')?.value === '1.75')
    await second.context.close()
    expect(errors).toEqual([])
  })
})
