import type { Page } from 'playwright-core'
import { openClause, runMarket } from './browser.js'

/** A stop of the tour, as it is told: what was done and seen, with the figures that the pages show. */
export interface Stop {
  title: string
  words: string
}

const text = async (page: Page, selector: string) =>
  ((await page.locator(selector).first().textContent()) ?? '').replace(/\s+/g, ' ').trim()
const lines = (page: Page, name: string) => page.click(`.ManifestList-line:has-text("${name}")`)
/** A figure of the forecast by its unit. */
const figure = async (page: Page, unit: string) =>
  ((await page.locator(`[data-test=forecast] dl > div:has(:text-is("${unit}")) dd`).first().textContent()) ?? '').trim()
async function forecast(page: Page): Promise<void> {
  await page.waitForSelector('#line-bid')
  await page.waitForSelector('.ForecastPanel[aria-busy=false] [data-test=remark]')
}

/**
 * A morning of a buyer who is signed in, from stop to stop, by what a hand can do on the pages alone.
 * @param tell is told each stop while its page is open
 */
export async function walkTour(page: Page, tell: (stop: Stop) => Promise<void>): Promise<void> {
  await page.goto('/campaigns')
  await page.waitForSelector('.ManifestList-line')
  const all = await page.locator('.ManifestList-line').count()
  const slow = await page.locator('.ManifestList-line em.trouble').count()
  await page.click('.ManifestList-campaign:has-text("Clear winter skies")')
  await page.waitForSelector('[data-test=company] tbody tr')
  await tell({
    title: 'The manifest, first thing',
    words: [
      `${await text(page, '[data-test=clock]')} by the market’s clock.`,
      `The manifest holds ${all} lines of six campaigns;`,
      `${slow} of them are slow against their plan, hatched in red.`,
      `Of *Clear winter skies* it says: “${await text(page, '[data-test=pace]')}”`,
      `And by what it is judged: “${await text(page, '[data-test=target]')}”`
    ].join(' ')
  })

  await lines(page, 'Display, desktop, CH, for a song')
  await forecast(page)
  await tell({
    title: 'A line that does not spend',
    words: [
      `*Display, desktop, CH, for a song* is live and buys nothing.`,
      `Its page says how it stands: “${(await text(page, '[data-test=state]')).replace(/(Pause|Go on|End).*$/, '').trim()}.”`,
      `The forecast says why: “${await text(page, '[data-test=remark]')}”`
    ].join(' ')
  })

  await lines(page, 'Display, desktop, FR, dear')
  await forecast(page)
  const [bid, wins] = [await page.inputValue('#line-bid'), await figure(page, 'wins a day')]
  await tell({
    title: 'A line that pays too much',
    words: [
      `*Display, desktop, FR, dear* bids ${bid} and would win ${wins} times a day.`,
      `“${await text(page, '[data-test=remark]')}”`,
      `Each change that is advised can be taken by one click, and is an edit like any other.`
    ].join(' ')
  })

  await lines(page, 'Display, phones, near the shops')
  await forecast(page)
  await openClause(page, 'C')
  await tell({
    title: 'A line that is behind for a good reason',
    words: [
      `*Display, phones, near the shops* is hatched too.`,
      `Its paragraph says that it is for evenings round two shops; the forecast matches ${await figure(page, 'matched a day')} a day.`,
      `“${await text(page, '[data-test=remark]')}”`,
      `It is left as it is.`
    ].join(' ')
  })

  await lines(page, 'Display, desktop, DE AT')
  await forecast(page)
  await page.click('.LineWording-ways >> text=Results')
  await page.waitForSelector('.LineResults tbody tr:not([aria-hidden])')
  const results = await text(page, '.LineResults-sentence')
  await page.selectOption('[data-test=stand]', 'dearer')
  const dearer = Number(/all (\d+)/.exec(await text(page, '[data-test=choose-all]'))?.[1] ?? 0)
  if (dearer > 0) {
    await page.click('[data-test=choose-all]')
    await page.waitForSelector('[data-test=leave-out], [data-test=take-in]')
  }
  await tell({
    title: 'What a line brought, and where',
    words: [
      `Results of *Display, desktop, DE AT*: “${results}”`,
      `Placements that are surely dearer than the line, at 90 %: ${dearer}.`,
      `All of them are chosen by one click, and left out by another.`
    ].join(' ')
  })
  const leave = page.locator('[data-test=leave-out]')
  if ((await leave.count()) > 0) {
    await leave.click()
    await page.waitForSelector('.PlacementResults .is-left-out')
  }

  await page.goto('/market')
  await page.waitForSelector('.MarketTable tbody th')
  await page.click('.MarketTable thead button:has-text("wins half")')
  await page.waitForSelector('.MarketTable:not(.is-waiting) tbody th')
  const ticks = page.locator('.MarketTable tbody input[type=checkbox]')
  await ticks.nth(0).click()
  await ticks.nth(4).click({ modifiers: ['Shift'] })
  await page.selectOption('[data-test=put-on]', 'new')
  await page.fill('[data-test=list-name]', 'Cheap this week')
  await page.click('[data-test=make-list]')
  await page.waitForSelector('[role=status]:has-text("is made, with 5")')
  await tell({
    title: 'Five cheap properties, kept',
    words: [
      `The Market counts ${await text(page, '[data-test=figures] dd')} opportunities a day.`,
      `By what wins half the cheapest are on top; five of them, chosen with Shift, are the list *Cheap this week* now.`
    ].join(' ')
  })

  await page.goto('/market/deals')
  await page.waitForSelector('[data-test=offers] tbody tr')
  await page.fill('[data-test=offers-named]', 'connected TV')
  await page.waitForFunction(() => /of/.test(document.querySelector('[data-test=offers-count]')?.textContent ?? ''))
  const offer = await text(page, '[data-test=offers] tbody th b')
  await tell({
    title: 'Television, by a deal',
    words: [
      `${await text(page, '[data-test=offers-count]')} offers are for connected TV.`,
      `The largest, *${offer}*, stands beside what the open market asks for the same slots;`,
      `*take it* makes it a deal of ours.`
    ].join(' ')
  })

  await page.click('[data-test=open-slip-drawer]')
  await page.waitForSelector('[data-test=slip] section')
  await page.waitForFunction(() => !document.querySelector('[data-test=slip] section')?.textContent?.includes('…'))
  const edits = await page.locator('[data-test=slip] [aria-label=becomes]').count()
  await tell({
    title: 'A colleague’s slip',
    words: `Beatriz left the slip *More for March*: ${edits} edits of live lines, before and after, with what each is forecast to bring.`
  })
  await page.keyboard.press('Escape')
  await page.waitForSelector('.SlipDrawer', { state: 'detached' }).catch(() => undefined)

  const balance = async () => (await text(page, '.TopBand-balance')).replace('Balance', '').trim()
  const before = await balance()
  await runMarket(page, '+1 day')
  await page.goto('/reports?by=line')
  await page.waitForSelector('.ReportTable tbody th')
  await tell({
    title: 'A day later',
    words: [
      `The market ran a day; the balance went from ${before} to ${await balance()}.`,
      `Reports by line, of two weeks: “${(await text(page, '.ReportsView-total')).replace(/ CSV.*/, '')}”`
    ].join(' ')
  })
}
