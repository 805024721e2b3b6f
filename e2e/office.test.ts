import { execFile } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { promisify } from 'node:util'
import type { Page } from 'playwright-core'
import { beforeAll, describe, expect, it } from 'vitest'
import { insideWords } from './support/inside-words.js'
import { address, openWindow, signIn, useDesk, violations } from './support/browser.js'

const ADMIN = 'marta@wharfside.example'
const example = (name: string) => fileURLToPath(new URL(`../docs/examples/${name}.mjs`, import.meta.url))

describe('money, team and scripts', () => {
  const desk = useDesk()
  let admin: Page
  beforeAll(async () => {
    const window = await openWindow(desk.browser)
    admin = window.page
    await signIn(admin, ADMIN)
  })
  const balance = async () => Number(/€([\d,.]+)/.exec(await admin.innerText('[data-test=balance]'))?.[1].replaceAll(',', ''))
  /** Pixels by which a page is wider than a screen in the hand, or a small window. */
  const narrow = async (page: Page) => {
    let over = 0
    for (const width of [390, 1024]) {
      await page.setViewportSize({ width, height: 800 })
      over += await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth)
    }
    await page.setViewportSize({ width: 1280, height: 800 })
    return over
  }

  it('a top-up is refused, then paid, and some of it goes back; a double click pays once', async () => {
    await admin.click('.TopBand a:text-is("Ledger")')
    await admin.waitForSelector('[data-test=ledger-sums]')
    const before = await balance()
    await admin.fill('#pay-amount', '50')
    await admin.fill('#pay-number', '9200 0000 0000 0018')
    await admin.click('[data-test=pay]')
    await admin.waitForSelector('text=This is no card’s number')
    await admin.fill('#pay-number', '9200 0000 0000 0025')
    await admin.click('[data-test=pay]')
    await admin.waitForSelector('[data-test=paid]:has-text("The bank refused")')
    expect(await balance()).toBe(before)
    await admin.fill('#pay-number', '9200 0000 0000 0017')
    await admin.dblclick('[data-test=pay]')
    await admin.waitForSelector('[data-test=paid]:has-text("€50.00 is on the balance.")')
    await admin.waitForSelector('[data-test=ledger-row]:has-text("Card ending in 0017")')
    await expect.poll(balance).toBeCloseTo(before + 50, 2)
    expect(await admin.locator('[data-test=ledger-row]:has-text("Card ending in 0017")').count()).toBe(1)
    await admin.locator('[data-test=refund]').first().click()
    await admin.fill('#refund-amount', '20')
    await admin.click('[data-test=refund-now]')
    await admin.waitForSelector('[data-test=ledger-row]:has-text("Refund: to the card ending in 0017")')
    await expect.poll(balance).toBeCloseTo(before + 30, 2)
    await admin.reload()
    await admin.waitForSelector('[data-test=payment]:has-text("refused")')
    expect(await balance()).toBeCloseTo(before + 30, 2)
    expect(await violations(admin)).toEqual([])
    expect(insideWords(await admin.innerText('.SignedIn'))).toEqual([])
    expect(await narrow(admin)).toBe(0)
  })

  it('an advertiser’s margin is charged apart from what we paid, in the ledger and in reports', async () => {
    await admin.locator('[data-test=terms]').first().click()
    await admin.fill('[data-test=margin]', '120')
    await admin.click('[data-test=save-terms]')
    await admin.waitForSelector('text=A margin is at most 100 %.')
    await admin.fill('[data-test=margin]', '20')
    await admin.click('[data-test=save-terms]')
    await admin.waitForSelector('[data-test=advertiser-money]:has-text("20 %")')
    await admin.click('.RunControls button:text-is("+1 hour")')
    await admin.waitForSelector('.TopBand:has-text("09:00")')
    await admin.click('.TopBand a:text-is("Reports")')
    await admin.waitForSelector('.ReportsView-total:has-text("for which clients are charged")')
    await admin.waitForSelector('.ReportTable th:has-text("client charged")')
  })

  it('somebody is asked in, comes in, and is restricted to what they were given', async () => {
    await admin.click('.TopBand a:text-is("Team")')
    await admin.fill('#invite-email', 'nuno@wharfside.example')
    await admin.selectOption('#invite-role', 'assistant')
    await admin.locator('[data-test=all-advertisers]').last().uncheck()
    await admin.locator('label:has-text("Nightjar") >> [data-test=advertiser]').last().check()
    await admin.click('[data-test=invite]')
    const link = (await admin.getAttribute('[data-test=invited] a', 'href')) ?? ''
    expect(await violations(admin)).toEqual([])
    expect(insideWords(await admin.innerText('.SignedIn'))).toEqual([])
    expect(await narrow(admin)).toBe(0)
    const other = await openWindow(desk.browser)
    await other.page.goto(link)
    await other.page.waitForSelector('[data-test=invitation]:has-text("as assistant, who drafts and forecasts")')
    expect(other.page.url()).not.toContain('#')
    expect(await violations(other.page)).toEqual([])
    await other.page.fill('#name', 'Nuno Vale')
    await other.page.fill('#password', 'long enough')
    await other.page.click('[data-test=accept]')
    await other.page.waitForURL(/market/)
    expect(await other.page.locator('.TopBand a:text-is("Ledger"), .TopBand a:text-is("Team"), .RunControls button').count()).toBe(0)
    await other.page.goto('/campaigns')
    await other.page.waitForSelector('.ManifestList-line')
    expect(await other.page.innerText('.ManifestList')).not.toContain('Ostler')
    await other.page.goto('/team')
    await other.page.waitForSelector('[role=alert]')
    expect(other.errors).toEqual([])
    // The link is spent.
    await other.page.goto('about:blank')
    await other.page.goto(link)
    await other.page.waitForSelector('[role=alert]:has-text("This invitation was used")')
    await admin.reload()
    await admin.waitForSelector('[data-test=person]:has-text("drafts and forecasts, for Nightjar Telescopes.")')
    await admin.selectOption('[data-test=trail-kind]', 'invitation')
    await admin.waitForSelector('[data-test=trail-entry]:has-text("sent the invitation nuno@wharfside.example")')
    await other.context.close()
  })

  it('a token is made, and a script acts by it until it is taken back', async () => {
    const { page } = desk
    await page.click('.TopBand-user')
    await page.fill('#token-name', 'Nightly list')
    await page.click('[data-test=make-token]')
    const secret = await page.innerText('[data-test=token-secret]')
    const run = (name: string, ...args: string[]) =>
      promisify(execFile)(process.execPath, [example(name), ...args], {
        env: { ...process.env, TIN_HARBOR_ADDRESS: address(), TIN_HARBOR_TOKEN: secret }
      })
    const { stdout } = await run('list-lines', 'live')
    await page.goto('/campaigns')
    await page.waitForSelector('.ManifestList-line')
    for (const row of stdout.trim().split('\n')) expect(await page.innerText('.ManifestList')).toContain(row.split('\t')[2])
    await expect(run('run-to', '2026-03-02T12:00Z')).rejects.toThrow('This token may not do this.')
    await page.goto('/account')
    await page.waitForSelector('[data-test=token]:has-text("used last")')
    await page.click('[data-test=revoke-token]')
    await page.waitForSelector('[data-test=token]:has-text("taken back")')
    await expect(run('list-lines')).rejects.toThrow('was taken back')
  })
})
