import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Browser, Page } from 'playwright-core'
import { openClause, openDesk, ownDraft, restrict, violations } from './support/browser.js'

describe('the line page', () => {
  let browser: Browser
  let page: Page
  let errors: string[]
  let draft: string

  beforeAll(async () => {
    const desk = await openDesk()
    ;({ browser, page, errors } = desk)
    draft = await ownDraft(page, 'Display, desktops, NL')
  })
  afterAll(async () => {
    if (process.env.FAIL_SHOT) await page.screenshot({ path: process.env.FAIL_SHOT })
    await browser.close()
  })
  const saved = () => page.waitForSelector('[data-test=saving]:text-is("saved")')
  const wording = async () => (await page.textContent('[data-test=wording]')) ?? ''
  const open = async (query = '') => {
    await page.goto(`${draft}${query}`)
    await page.waitForSelector('.ForecastPanel[aria-busy=false] [data-test=sieve]')
  }

  it('reads as one paragraph whose phrases edit where they stand, in a popover or in the clause that is open', async () => {
    await open('?clause=none')
    expect(await wording()).toBe(
      'Buy display in Netherlands on desktops, in slots of 300x250, from 1 to 30 June 2026 at all hours. Bid €1.90 CPM; spend €3 a day evenly; show it to one person 3 times a day. Land on inkwell.example/kana; once cleared, start with the flight.'
    )
    expect(await violations(page)).toEqual([])
    await page.click('[data-phrase=bid]')
    await page.fill('.LineWording-editor #line-bid', '2.05')
    await saved()
    expect(await wording()).toContain('Bid €2.05 CPM')
    await page.keyboard.press('Escape')
    await page.waitForSelector('.LineWording-editor', { state: 'detached' })
    expect(await page.evaluate(() => document.activeElement?.getAttribute('data-phrase'))).toBe('bid')
    await openClause(page, 'D')
    await page.click('[data-phrase=bid]')
    expect(await page.evaluate(() => document.activeElement?.id)).toBe('line-bid')
    expect(await page.locator('.LineWording-editor').count()).toBe(0)
  })

  it('says all of it in words that are read back, and names what it does not understand', async () => {
    await page.click('[data-test=long-wording]')
    const text = await page.inputValue('[data-test=long-text]')
    await page.fill('[data-test=long-text]', text.replace('3 times in 24 hours', 'now and then'))
    await page.waitForSelector('text=Not understood: Show it to one person now and then')
    expect(await page.isDisabled('[data-test=take-wording]')).toBe(true)
    await page.fill(
      '[data-test=long-text]',
      text.replace('3 times in 24 hours', '2 times in 24 hours and 6 times in 168 hours, 30 minutes apart')
    )
    await page.click('[data-test=take-wording]')
    await saved()
    expect(await wording()).toContain('show it to one person twice a day and 6 times a week, 30 minutes apart')
    await page.keyboard.press('Control+z')
    await page.waitForFunction(() => document.querySelector('[data-test=wording]')?.textContent?.includes('3 times a day'))
    await page.keyboard.press('Control+Shift+z')
    await page.waitForFunction(() => document.querySelector('[data-test=wording]')?.textContent?.includes('twice a day'))
    await saved()
    await page.reload()
    await page.waitForSelector('[data-test=wording]:has-text("30 minutes apart")')
  })

  it('opens each clause by keyboard alone, and edits in it', async () => {
    await open('?clause=none')
    await page.focus('[data-clause=A]')
    for (const clause of ['A', 'B', 'C', 'D', 'E', 'F', 'G']) {
      await page.keyboard.press('Enter')
      await page.waitForSelector(`[data-clause-body=${clause}]`)
      expect(await page.locator('[data-clause-body]').count()).toBe(1)
      expect(await page.evaluate(() => document.activeElement?.getAttribute('data-clause'))).toBe(clause)
      if (clause === 'A' || clause === 'C' || clause === 'D') expect(await violations(page)).toEqual([])
      if (clause !== 'G') await page.keyboard.press('ArrowDown')
    }
    await page.keyboard.press('Tab')
    await page.keyboard.press('Control+A')
    await page.keyboard.type('https://inkwell.example/kana?from=keys')
    await saved()
    await page.reload()
    expect(await page.inputValue('#line-landing')).toBe('https://inkwell.example/kana?from=keys')
  })

  it('restricts by what is counted, listed, typed and joined, each with what it leaves', async () => {
    await restrict(page, 'B', 'language', 'Dutch')
    await openClause(page, 'B')
    await page.click('[data-dimension=where]')
    await page.click('[data-test=paste-places]')
    await page.fill('[data-test=typed-values]', 'near:52.37,4.90,20\nNowhere at all')
    await page.click('[data-test=add-typed]')
    await page.waitForSelector('text=line 2: Nowhere at all: Not a country, region, city, postal code or radius we know.')
    await page.click('.TypedValues button:text-is("Done")')
    await page.click('[data-dimension=segments]')
    await page.click('[data-test=join-segments]')
    await page.fill('.SegmentTree-new input', 'Amateur astronomers')
    const known = await page.isEnabled('[data-test=add-segment]')
    if (!known)
      await page.fill(
        '.SegmentTree-new input',
        (await page.locator('.SegmentTree-new datalist option').first().getAttribute('value')) ?? ''
      )
    await page.click('[data-test=add-segment]')
    await page.waitForSelector('[role=status]:has-text("people in 14 days")')
    await page.click('.RestrictionChooser button:text-is("Done")')
    await openClause(page, 'A')
    await page.click('[data-dimension=keyword]')
    await page.fill('[data-test=typed-values]', 'telescope, no such word')
    await page.click('[data-test=add-typed]')
    await page.waitForSelector('text=line 1: no such word: Not a keyword we know.')
    await page.click('.TypedValues button:text-is("Done")')
    await saved()
    expect(await wording()).toContain('who speak Dutch, of a group of segments, beside the words telescope')
    await page.click('[aria-label="Lift keyword"]')
    await openClause(page, 'B')
    await page.click('[aria-label="Lift segments"]')
    await saved()
  })

  it('paints hours with a brush, follows the traffic, and builds a bid up step by step', async () => {
    await openClause(page, 'C')
    await page.click('.HourGrid-brush button:text-is("+25")')
    await page.click('[data-hour="20"]')
    await saved()
    expect(await page.textContent('[data-hour="20"]')).toBe('+25')
    await page.click('[data-test=follow-traffic]')
    await saved()
    expect(await wording()).toMatch(/at all hours, \d+ of them at another bid/)
    await openClause(page, 'D')
    await page.fill('#line-repeat', '12')
    await page.press('#line-repeat', 'Tab')
    await saved()
    const steps = await page.locator('[data-test=bid-steps] li').allTextContents()
    expect(steps[0]).toMatch(/base bid2\.05/)
    expect(steps.at(-1)).toContain('2nd showing')
    await page.fill('.PriceWork-share >> nth=0', '1')
    await page.fill('.PriceWork-share >> nth=1', '10')
    await page.fill('#line-payout', '20')
    await page.waitForSelector('[data-test=worth]:has-text("Pays for itself up to 20.00 CPM, €2.00 a click")')
  })

  it('names what preflight found, at the field, in the wording and as a list, and mends it with one click', async () => {
    await openClause(page, 'E')
    await page.click('.CapFields [aria-label="Take cap 1 away"]')
    await page.click('.CapFields [aria-label="Take cap 1 away"]')
    await page.waitForSelector('[data-phrase=caps].is-found')
    await page.waitForSelector('[data-clause-body=E] .FindingNote:has-text("Without a cap")')
    await page.click('[data-test=preflight]')
    await page.click('[data-test=findings] .FindingNote:has-text("Without a cap") [data-test=fix]')
    await page.waitForSelector('[data-phrase=caps]:not(.is-found):has-text("3 times a day")')
    expect(await violations(page)).toEqual([])
  })

  it('finds a line or a command by Ctrl K, and lists its keys', async () => {
    await page.focus('[data-clause=E]')
    await page.keyboard.press('?')
    await page.waitForSelector('.FindBox:has-text("undo and redo an edit of a line")')
    await page.keyboard.press('Escape')
    await page.waitForSelector('.FindBox', { state: 'detached' })
    await page.keyboard.press('Control+k')
    await page.fill('[data-test=find]', 'clause g')
    await page.keyboard.press('Enter')
    await page.waitForSelector('[data-clause-body=G]')
    await page.keyboard.press('Control+k')
    await page.fill('[data-test=find]', '1003')
    await page.keyboard.press('Enter')
    await page.waitForURL(/lines\/1003/)
    await page.waitForSelector('[data-test=wording]')
    expect(await page.textContent('main')).toContain('L-1003')
  })

  it('copies a line for another country in five actions, and says what differs', async () => {
    await open()
    let actions = 0
    const act = async (what: Promise<unknown>) => {
      actions++
      await what
    }
    await act(page.click('[data-test=copy]'))
    await act(page.click('[data-test=copy-now]'))
    await page.waitForURL((url) => !url.pathname.endsWith(new URL(draft, page.url()).pathname))
    await page.waitForSelector('[data-test=wording]')
    await act(page.click('[data-phrase="where include"]'))
    await page.waitForSelector('[data-counted=yes]')
    await act(page.fill('.PhraseChooser-search', 'Belgium'))
    await page.waitForSelector('#phrase-0:has-text("Belgium")')
    await act(page.press('.PhraseChooser-search', 'Shift+Enter'))
    await saved()
    expect(actions).toBeLessThanOrEqual(5)
    expect(await wording()).toContain('Buy display in Belgium on desktops')
    await page.reload()
    await page.click('button:has-text("from Display, desktops, NL")')
    await page.waitForSelector('.LineHead li:has-text("Places")')
  })

  it('begins a line from one typed sentence, and shows what was not understood', async () => {
    await page.goto(
      `/campaigns/${await page.evaluate(async (path) => ((await (await fetch(`/api/lines/${path.split('/').at(-1)}`)).json()) as { campaignId: number }).campaignId, draft)}`
    )
    await page.fill('[data-test=quick]', 'native phones ES PT florbs 1.90 cpm 12 a day 3 per day')
    await page.waitForSelector('text=Not understood, and left out: florbs.')
    await page.waitForSelector('[data-test=quick-said]:has-text("Buy native on phones in Spain and Portugal")')
    await page.click('[data-test=new-line]')
    await page.waitForURL(/lines\/\d+/)
    await page.waitForSelector('#line-bid')
    expect([await page.inputValue('#line-name'), await page.inputValue('#line-bid')]).toEqual(['Native, phones, ES PT', '1.90'])
    expect(errors).toEqual([])
  })

  it('gathers edits of live lines on a slip: some to one of their own, put live, and taken back', async () => {
    await page.goto('/campaigns/lines/1001')
    await page.waitForSelector('.ForecastPanel[aria-busy=false]')
    const before = await page.inputValue('#line-bid')
    await page.fill('#line-bid', '1.15')
    await openClause(page, 'E')
    await page.fill('#line-gap', '15')
    await page.press('#line-gap', 'Tab')
    await page.waitForSelector('[data-test=state]:has-text("2 edits are not live yet")')
    await page.click('[data-test=open-slip-drawer]:has-text("Slip: 1")')
    await page.waitForSelector('.SlipDrawer-line label:has-text("Bid:")')
    expect(await violations(page)).toEqual([])
    await page.uncheck('.SlipDrawer-line label:has-text("Bid:") input')
    await page.fill('[data-test=slip-name]', 'Further apart')
    await page.click('[data-test=slip-move]')
    await page.waitForSelector('[data-test=open-slip]:has-text("Further apart")')
    expect(await page.locator('.SlipDrawer-line label').count()).toBe(1)
    await page.click('[data-test=open-slip] >> text=Put live')
    await page.waitForSelector('[data-test=live-slip]:has-text("Further apart")')
    await page.reload()
    await page.waitForSelector('[data-test=state]:has-text("1 edit is not live yet")')
    await page.click('[data-test=open-slip-drawer]')
    await page.click('[data-test=live-slip]:has-text("Further apart") [data-test=take-back]')
    await page.waitForSelector('text=“Further apart” is taken back')
    await page.reload()
    await openClause(page, 'E')
    expect(await page.inputValue('#line-gap')).toBe('')
    await openClause(page, 'D')
    await page.fill('#line-bid', before)
    await page.waitForSelector('[data-test=state]:not(:has-text("not live yet"))')
    expect(errors).toEqual([])
  })
})
