import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Browser, Page } from 'playwright-core'
import { address, openDesk, ownDraft, violations } from './support/browser.js'

describe('the campaign page', () => {
  let browser: Browser
  let page: Page
  let errors: string[]
  let campaign: number

  beforeAll(async () => {
    const desk = await openDesk()
    ;({ browser, page, errors } = desk)
    const line = Number((await ownDraft(page, 'Of two')).split('/').at(-1))
    const view = (await (await page.request.get(`/api/lines/${line}`)).json()) as { campaignId: number; draft: object }
    campaign = view.campaignId
    const other = {
      ...view.draft,
      name: 'The other',
      targeting: {
        restrictions: [
          { dimension: 'where', mode: 'include', values: ['NL', 'BE'] },
          { dimension: 'size', mode: 'include', values: ['300x250'] }
        ]
      }
    }
    await page.request.post(`/api/campaigns/${campaign}/lines`, { headers: { origin: address() }, data: other })
  })
  afterAll(() => browser.close())

  it('moves a flight by dragging its strip and by keys, and a reload keeps it', async () => {
    await page.goto(`/campaigns/${campaign}`)
    const strip = page.locator('[data-strip]').first()
    const end = await page.locator('[data-strip-end]').first().boundingBox()
    await page.mouse.move((end?.x ?? 0) + 3, (end?.y ?? 0) + 6)
    await page.mouse.down()
    await page.mouse.move((end?.x ?? 0) - 120, (end?.y ?? 0) + 6, { steps: 12 })
    await page.mouse.up()
    await page.waitForFunction(() => !/30 Jun/.test(document.querySelector('[data-strip]')?.getAttribute('aria-label') ?? '30 Jun'))
    const before = await strip.getAttribute('aria-label')
    await strip.focus()
    await page.keyboard.press('Shift+ArrowRight')
    await page.waitForFunction((was) => document.querySelector('[data-strip]')?.getAttribute('aria-label') !== was, before)
    const after = await strip.getAttribute('aria-label')
    await page.reload()
    await page.waitForFunction((is) => document.querySelector('[data-strip]')?.getAttribute('aria-label') === is, after)
    expect(await violations(page)).toEqual([])
  })

  it('tells what the money buys each line, whom they share, and gives each the part advised', async () => {
    await page.waitForSelector('[data-test=company] tfoot')
    expect(await page.textContent('[data-test=company]')).toMatch(/both match [\d.,k]+ a day/)
    const advised = await page.locator('[data-test=company] tbody tr td:nth-child(5)').allTextContents()
    await page.click('[data-test=take-split]')
    await page.waitForSelector('text=Each line has its part as its daily budget')
    await page.waitForFunction(
      (parts) =>
        Array.from(document.querySelectorAll('[data-test=company] tbody tr td:nth-child(3)')).some(
          (cell, n) => cell.textContent === parts[n]
        ),
      advised
    )
  })

  it('is judged by a target, checked at its field', async () => {
    await page.click('text=Change')
    await page.selectOption('[data-test=target]', 'CPC')
    await page.click('text=Save')
    await page.waitForSelector('.FieldRow-problem')
    await page.fill('#campaign-target', '0.40')
    await page.fill('#campaign-tail', '?source=x')
    await page.click('text=Save')
    await page.waitForSelector('.FieldRow-problem:has-text("What is added to links is parameters")')
    await page.fill('#campaign-tail', 'source=harbor')
    await page.click('text=Save')
    await page.waitForSelector('[data-test=target]:has-text("Judged by a CPC of at most €0.40: nothing to tell yet.")')
    expect(errors).toEqual([])
  })
})
