import type { Page } from 'playwright-core'
import { beforeAll, describe, expect, it } from 'vitest'
import { useDesk, ownDraft, runMarket, violations, openClause } from './support/browser.js'

/** Research, lists and deals, as a trader works with them. */
describe('the Market', () => {
  const desk = useDesk()
  let page: Page
  beforeAll(() => void ({ page } = desk))
  const settled = async () => {
    await page.waitForTimeout(80)
    await page.waitForSelector('.MarketTable:not(.is-waiting) tbody')
  }
  const sentence = async () => (await page.textContent('[data-test=sentence]'))?.replace(/\s+/g, ' ').trim()

  /** What the placements of the market are called. */
  const placementNames = () =>
    page.evaluate(async () => {
      const response = await fetch('/api/market/survey', {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({
          page: 'names-of-placements',
          sentence: { formats: [], targeting: { restrictions: [] }, hours: null },
          by: ['placement'],
          without: null,
          bidMicros: 0
        })
      })
      return ((await response.json()) as { groups: { rows: { code: string }[] }[] }).groups[0].rows.map(({ code }) => code)
    })

  it('builds a sentence by keyboard alone: each value with its traffic before it is chosen', async () => {
    await page.waitForSelector('.MarketTable tbody th')
    await page.focus('[data-phrase=format]')
    await page.keyboard.press('Enter')
    await page.waitForSelector('#phrase-values[data-counted=yes] li b')
    await page.keyboard.type('nat')
    await page.keyboard.press('Enter')
    await page.keyboard.press('Escape')
    expect(await page.evaluate(() => (document.activeElement as HTMLElement).dataset.phrase)).toBe('format')
    const add = async (phrase: string, typed: readonly string[]) => {
      await page.focus('[data-phrase=more]')
      await page.keyboard.press('Enter')
      await page.focus(`[data-add="${phrase}"]`)
      await page.keyboard.press('Enter')
      await page.waitForSelector('#phrase-values[data-counted=yes] li b')
      for (const words of typed) {
        await page.fill('.PhraseChooser-search', words)
        await page.waitForSelector('.PhraseChooser li.is-at b:not(:has-text("none"))')
        await page.keyboard.press('Enter')
      }
      await page.keyboard.press('Escape')
    }
    await add('device', ['phone'])
    await add('where', ['spain', 'portugal'])
    await settled()
    expect(await sentence()).toMatch(/^Native ?on phones, ?in Spain and Portugal ?and …$/)
    expect(new URL(page.url()).searchParams.get('said')).toContain('"values":["ES","PT"]')
    expect(await violations(page)).toEqual([])
  })

  it('says which phrase empties it, and lifts it; a link that holds no sentence says so', async () => {
    const said = {
      formats: ['audio'],
      targeting: {
        restrictions: [
          { dimension: 'where', mode: 'include', values: ['DE'] },
          { dimension: 'size', mode: 'include', values: ['300x250'] }
        ]
      },
      hours: null
    }
    await page.goto(`/market?said=${encodeURIComponent(JSON.stringify(said))}`)
    await page.waitForSelector('[role=status]:has-text("“size” leaves nothing")')
    expect(await page.getAttribute('[data-phrase=size]', 'class')).toContain('is-empty')
    await page.click('[data-test=lift]')
    await page.waitForSelector('.MarketTable tbody th')
    expect(await sentence()).toMatch(/^Audio ?in Germany/)
    await page.goto('/market?said=%7Bbroken')
    await page.waitForSelector('[role=alert]:has-text("no sentence that can be read")')
    await page.waitForSelector('.MarketTable tbody th')
  })

  it('starts a line from three properties, the cheapest for a country and a format, in twelve actions', async () => {
    let actions = 0
    const act = async (what: Promise<unknown>) => {
      actions++
      await what
    }
    await page.goto('/market')
    await page.waitForSelector('.MarketTable tbody th')
    await act(page.click('[data-phrase=format]'))
    await act(page.click('.PhraseChooser li:has-text("display")'))
    await act(page.click('[data-phrase=more]'))
    await act(page.click('[data-add=where]'))
    await act(page.click('.PhraseChooser li:has-text("Germany")'))
    await settled()
    await page.keyboard.press('Escape')
    await act(page.click('.MarketTable thead button:has-text("wins half")'))
    await settled()
    for (const n of [0, 1, 2]) await act(page.locator('.MarketTable tbody input[type=checkbox]').nth(n).check())
    await act(page.click('[data-test=start-line]'))
    await page.waitForSelector('.el-dialog:has-text("at 3 properties")')
    const campaign = await page.locator('[data-test=campaign] option', { hasText: 'Clear winter skies' }).getAttribute('value')
    await act(page.selectOption('[data-test=campaign]', campaign as string))
    await act(page.click('[data-test=start]'))
    await page.waitForURL(/\/campaigns\/lines\/\d+/)
    expect(actions).toBeLessThanOrEqual(12)
    await page.waitForSelector('[data-test=sieve] tr:has-text("3 properties")')
    await page.click('.LineWording-ways >> text=In the Market')
    await page.waitForSelector('[data-phrase=property]')
    expect(await sentence()).toMatch(/^Display ?in Germany, ?at 3 properties/)
  })

  it('compares rows side by side, and opens a property with those who may sell it', async () => {
    await page.goto('/market')
    await page.waitForSelector('.MarketTable tbody th')
    for (const n of [0, 1]) await page.locator('.MarketTable tbody input[type=checkbox]').nth(n).check()
    await page.click('[data-test=compare]')
    await page.waitForSelector('[data-test=compared] >> text=Of its people')
    expect(await page.locator('[data-test=compared] article').count()).toBe(2)
    await page.click('text=back to the rows')
    await page.locator('.MarketTable-open').first().click()
    await page.waitForURL(/\/market\/properties\/[a-z]/)
    await page.waitForSelector('[data-test=sellers] tbody tr')
    expect(await page.locator('[data-test=sellers] td:has-text("yes, line")').count()).toBeGreaterThan(0)
    expect(await violations(page)).toEqual([])
  })

  it('pastes five hundred entries with seven bad ones: the seven are named, the rest is taken and used by a line', async () => {
    await page.goto('/market/lists')
    await page.fill('[data-test=new-name]', 'Pasted placements')
    await page.selectOption('[data-test=new-kind]', 'placements')
    await page.click('[data-test=create]')
    await page.waitForSelector('[data-test=paste]')
    const bad = ['x', '1200', '-1', '1.5', 'No. 12', '99999999', 'placement 7']
    const good = await placementNames()
    await page.fill('[data-test=paste]', [...good.slice(0, 250), ...bad, ...good.slice(250, 493)].join('\n'))
    await page.click('[data-test=read]')
    await page.waitForSelector('[data-test=read-said]:has-text("493 of 500")')
    expect(await page.locator('[data-test=problems] li').allTextContents()).toEqual(
      bad.map((text, n) => expect.stringContaining(`line ${251 + n}: ${text}`) as string)
    )
    await page.click('[data-test=add]')
    await page.waitForSelector('[role=status]:has-text("it holds 493")')
    await page.reload()
    await page.waitForSelector('.ListsView-said:has-text("opportunities a day")')
    await page.click('[data-test=into-line]')
    await page.selectOption('[data-test=to-line]', { label: 'Display, desktop, NL' })
    expect(await page.isChecked('[data-test=follow]')).toBe(true)
    await page.click('[data-test=to-line-do]')
    await page.waitForSelector('[role=status]:has-text("buys 493 placements now, and follows the list")')
    expect(await violations(page)).toEqual([])
    await page.click('[role=status] a')
    await page.waitForURL(/\/campaigns\/lines\/\d+/)
    await page.waitForSelector('[data-test=sieve] tr:has-text("493 placements")')
  })

  it('leads from what is found to what is bought: rows of a search on a new list, a line on it; a property priced apart', async () => {
    await page.goto('/market')
    await page.waitForSelector('.MarketTable tbody th')
    const ticks = page.locator('.MarketTable tbody input[type=checkbox]')
    await ticks.nth(1).click()
    await ticks.nth(6).click({ modifiers: ['Shift'] })
    await page.waitForSelector('.MarketView-said:has-text("6 chosen")')
    await page.click('[data-test=compare]')
    await page.waitForSelector('.CompareRows-top:has-text("6 compared; drawn, at most 4")')
    await page.waitForSelector('[data-test=compared] >> text=Of its people')
    const labels = page.locator('[data-test=compared] article h2')
    const last = await labels.last().textContent()
    await page.uncheck(`[aria-label="Draw ${last}"]`)
    await page.locator('.CompareRows-table input:not(:checked):not([disabled])').nth(1).check()
    await page.waitForFunction(() => document.querySelectorAll('[data-test=compared] article canvas').length >= 4)
    expect(await labels.allTextContents()).not.toContain(last)
    expect(await violations(page)).toEqual([])
    await page.click('text=back to the rows')
    await page.fill('[data-test=named]', 'journal')
    await page.click('.MarketView-said button:text-is("none")')
    await page.click('[data-test=choose-all]')
    const chosen = Number(/(\d+) chosen/.exec((await page.textContent('.MarketView-said')) ?? '')?.[1])
    expect(chosen).toBeGreaterThan(3)
    await page.selectOption('[data-test=put-on]', 'new')
    await page.fill('[data-test=list-name]', 'Journals')
    await page.click('[data-test=make-list]')
    await page.waitForSelector(`[role=status]:has-text("“Journals” is made, with ${chosen}.")`)
    await page.goto('/market/lists')
    // Four actions from the list to the line.
    await page.click('.ListsView-body >> text=Journals')
    await page.click('[data-test=start-line]')
    const campaign = await page.locator('[data-test=campaign] option', { hasText: 'Clear winter skies' }).getAttribute('value')
    await page.waitForFunction(() => (document.querySelector<HTMLSelectElement>('[data-test=line-format]')?.selectedIndex ?? 0) > 0)
    await page.selectOption('[data-test=campaign]', campaign as string)
    await page.click('[data-test=start]')
    await page.waitForURL(/\/campaigns\/lines\/\d+/)
    await page.waitForSelector(`[data-test=sieve] tr:has-text("${chosen} properties")`)
    const line = page.url()
    await page.goto('/market')
    await page.locator('.MarketTable-open').first().click()
    await page.waitForSelector('[data-test=sellers] tbody tr')
    await page.click('[data-test=into-line]')
    await page.selectOption('[data-test=to-line]', /\d+$/.exec(line)?.[0] as string)
    await page.click('label:has-text("bids a price of its own there")')
    await page.fill('#to-line-price', '2.20')
    await page.click('[data-test=to-line-do]')
    await page.waitForSelector('[role=status]:has-text("bids apart at 1 property now")')
    await page.keyboard.press('Escape')
    await page.click('[data-test=ask-deal]')
    await page.waitForFunction(() => (document.querySelector<HTMLSelectElement>('[data-test=ask-publisher]')?.selectedIndex ?? 0) > 0)
    await page.goto(line)
    await openClause(page, 'D')
    expect(await page.inputValue('.AdjustmentFields .MoneyField input')).toBe('2.20')
    expect(desk.errors).toEqual([])
  })

  it('finds an offered deal for connected television, takes it, and starts a line that buys by it', async () => {
    await page.goto('/market/deals')
    await page.waitForSelector('[data-test=offers] tbody tr')
    await page.fill('[data-test=offers-named]', 'connected TV')
    await page.selectOption('[data-test=offers-format]', 'video')
    const name = (await page.locator('[data-test=offers] tbody th b').first().textContent()) as string
    await page.click(`[aria-label="Take ${name}"]`)
    await page.waitForSelector(`[role=status]:has-text("“${name}” is deal")`)
    await page.waitForSelector('[data-test=offers] tbody tr:first-child:has-text("deal ")')
    expect(await violations(page)).toEqual([])
    await page.click(`[aria-label="Start a line on ${name}"]`)
    const campaign = await page.locator('[data-test=campaign] option', { hasText: 'Clear winter skies' }).getAttribute('value')
    await page.selectOption('[data-test=campaign]', campaign as string)
    await page.click('[data-test=start]')
    await page.waitForURL(/\/campaigns\/lines\/\d+/)
    await openClause(page, 'A')
    await page.waitForSelector(`[data-test=buys-deals] .el-tag:has-text("${name}")`)
    await page.goto('/market/deals')
    await page.waitForSelector(`[data-test=deals] tr:has(th:has-text("${name}")) a`)
    expect(desk.errors).toEqual([])
  })

  it('asks for a deal, runs the clock until the publisher answers, and a line buys by it', async () => {
    await page.goto('/market/deals')
    await page.waitForSelector('[data-test=deals] tbody tr')
    await page.click('[data-test=ask]')
    await page.waitForSelector('[role=alert]:has-text("Which publisher?")')
    const abouts = (await page.locator('[data-test=ask-about] option').allTextContents()).slice(1)
    const { publishers } = (await (await page.request.get('/api/deals')).json()) as { publishers: { name: string; formats: string[] }[] }
    await page.selectOption('[data-test=ask-publisher]', { label: publishers.find((one) => one.formats.includes('display'))?.name })
    await page.selectOption('[data-test=ask-format]', 'display')
    await page.fill('#ask-price', '60')
    await page.fill('[data-test=ask-volume]', '200')
    // Each publisher refuses two branches: of three asks one at least is not refused for that.
    for (const about of abouts.slice(0, 3)) {
      const before = await page.locator('[data-test=asks] li').count()
      await page.selectOption('[data-test=ask-about]', about)
      await page.click('[data-test=ask]')
      await page.waitForFunction((was) => document.querySelectorAll('[data-test=asks] li').length > was, before)
    }
    expect(await page.locator('[data-test=asks] li:has-text("waits for an answer")').count()).toBe(3)
    await runMarket(page, '+1 day')
    await page.waitForFunction(() => !document.querySelector('[data-test=asks]')?.textContent?.includes('waits for an answer'), undefined, {
      timeout: 60_000
    })
    await page
      .locator('[data-test=take]')
      .first()
      .click({ timeout: 3000 })
      .catch(() => undefined)
    await page.waitForSelector('[data-test=asks] li:has-text("It is deal")')
    const deal = Number(/It is deal (\d+)/.exec((await page.textContent('[data-test=asks]')) ?? '')?.[1])
    await page.waitForSelector(`[data-test=deals] th:has-text("${deal}")`)
    expect(await violations(page)).toEqual([])
    await page.goto(await ownDraft(page, 'Bought by deal'))
    await openClause(page, 'A')
    await page.click('[data-test=buys-deals]')
    await page.fill('[data-test=buys-deals] input', `${deal} `)
    await page.waitForSelector(`.el-select-dropdown__item.is-hovering:has-text("${deal} ")`)
    await page.keyboard.press('Enter')
    await page.waitForSelector(`[data-test=buys-deals] .el-tag:has-text("${deal} ")`)
    await page.keyboard.press('Escape')
    await page.click('label:has-text("on the open market")')
    await page.waitForSelector('[data-test=saving]:text-is("saved")')
    await page.reload()
    await page.waitForSelector(`[data-test=buys-deals]:has-text("${deal} ")`)
    await page.goto('/market/deals')
    await page.waitForSelector(`[data-test=deals] tr:has(th:has-text("${deal}")) a:has-text("Bought by deal")`)
    expect(desk.errors).toEqual([])
  })
})
