import { mkdtempSync, rmSync } from 'node:fs'
import { writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { address, launch, openClause, openWindow, picture, runMarket, useDesk, violations } from './support/browser.js'

const HEADLINES = [
  'See the rings of Saturn',
  'The Moon, so near',
  'A dome in a box',
  'Stars for two',
  'Find Jupiter tonight',
  'Clear nights ahead',
  'Your first telescope',
  'Galaxies by balcony',
  'Look up with us',
  'Night after night'
]

describe('many ads from few parts', () => {
  const desk = useDesk()
  let page: Page
  let line: number
  const folder = mkdtempSync(join(tmpdir(), 'tin-harbor-mix-'))
  const pictures: string[] = []
  /** A line of a format, in a campaign of its own. */
  async function lineOf(advertiser: number, format: string, over: object = {}): Promise<number> {
    const post = async (path: string, data: unknown) => {
      const answer = await page.request.post(`/api${path}`, { headers: { origin: address() }, data })
      expect(answer.ok(), await answer.text()).toBe(true)
      return ((await answer.json()) as { id: number }).id
    }
    const flight = { startDate: '2026-03-02', endDate: '2026-03-31' }
    const name = `Many ${format}`
    const budget = { totalMicros: 900_000_000, dailyMicros: null }
    const campaign = await post(`/advertisers/${advertiser}/campaigns`, { name, goal: 'visits', flight, budget })
    return post(`/campaigns/${campaign}/lines`, {
      name,
      format,
      zone: 'UTC',
      flight,
      targeting: { restrictions: [{ dimension: 'where', mode: 'include', values: ['DE', 'US', 'GB', 'FR'] }] },
      price: { model: format === 'pop' ? 'visit' : 'CPM', bidMicros: 6_000_000, maxMicros: null },
      budget: { dailyMicros: 30_000_000, totalMicros: null },
      pacing: 'even',
      caps: [{ times: 3, hours: 24 }],
      landing: 'https://nightjar.example/winter',
      onceCleared: 'start',
      ...over
    })
  }
  beforeAll(async () => {
    ;({ page } = desk)
    line = await lineOf(1, 'native')
    for (let n = 0; n < 10; n++) {
      const path = join(folder, `night ${n + 1}.png`)
      await writeFile(path, await picture(900, 600, { r: 20 + 4 * n, g: 40, b: 50 + 4 * n }))
      pictures.push(path)
    }
  })
  afterAll(() => rmSync(folder, { recursive: true, force: true }))
  const words = () => page.locator('[data-test=mix-words]').innerText()
  /** Puts the line live whose page is open. */
  async function putLive(): Promise<void> {
    await page.click('[data-test=put-live]:enabled')
    await page.click('[data-test=confirm-live]:enabled')
    await page.waitForSelector('.el-dialog', { state: 'hidden' })
    await page.waitForSelector('[data-test=state] b:text-is("live")')
  }

  it('ten headlines by ten pictures are a hundred ads on a line, in ten actions', async () => {
    await page.goto('/creatives')
    await page.click('[data-test=mix-ads]')
    await page.fill('[data-test=mix-headlines]', HEADLINES.join('\n'))
    await page.click('[data-test=add-headlines]')
    await page.fill('[data-test=mix-texts]', 'Clear nights ahead: look up.')
    await page.click('[data-test=add-texts]')
    await page.setInputFiles('.MixPictures input[type=file]', pictures)
    await page.click('[data-test=cut-pictures]:has-text("10 others")')
    await page.waitForSelector('[data-test=mix-words]:has-text("and 10 pictures"), [data-test=mix-words]:has-text("and 11 pictures")')
    await page.selectOption('[data-test=mix-line]', String(line))
    const count = Number((await words()).split(' ')[0])
    expect(count).toBeGreaterThanOrEqual(100)
    expect(await violations(page)).toEqual([])
    await page.click('[data-test=make-mix]')
    expect(await page.locator('[data-test=mix-made]').innerText()).toContain(`${count} ads are made. ${count} put on Many native`)
  })

  it('what is struck, by a cell and by a row, comes off the line again; a reload keeps it', async () => {
    await page.click('[data-cell="1 1"]')
    await page.click('[aria-label="Strike headline 3 out"]')
    const said = await words()
    expect(said).toMatch(/, 1[12] struck$/)
    await page.waitForSelector('[data-test=mix-saving]:has-text("saved")')
    await page.reload()
    await page.waitForSelector('[data-test=mix-words]:has-text("struck")')
    expect(await words()).toBe(said)
    await page.selectOption('[data-test=mix-line]', String(line))
    await page.click('[data-test=make-mix]')
    expect(await page.locator('[data-test=mix-made]').innerText()).toMatch(/0 put on Many native, 1[12] taken off/)
  })

  it('runs: the line goes live, and its ads are bought, each told with what came of it', async () => {
    await page.click('[data-test=mix-made] a')
    await openClause(page, 'F')
    await page.waitForSelector('.LineAds tbody tr')
    await putLive()
    await runMarket(page, '+1 hour')
    await page.waitForFunction(
      async (id) => {
        const answer = (await (await fetch(`/api/lines/${id}/ads/standing`)).json()) as { ads: { impressions: number }[] }
        return answer.ads.filter(({ impressions }) => impressions > 0).length > 10
      },
      line,
      { polling: 1000 }
    )
  })

  it('is seen in place by keys, and by a client who has a link and no sign-in, until it is closed', async () => {
    await page.goto(`/campaigns/lines/${line}/in-place`)
    const said = page.locator('[data-test=in-place]')
    await page.waitForSelector('[data-test=ad-sight] img')
    const first = await said.innerText()
    await page.focus('.InPlaceStage')
    await page.keyboard.press('ArrowDown')
    expect(await said.innerText()).not.toBe(first)
    await page.keyboard.press('ArrowRight')
    expect(await said.innerText()).toContain('native card')
    // The served file itself, and its pixels: no crop by a style sheet.
    expect(await page.locator('.AdSight-picture').evaluate((image: HTMLImageElement) => image.src)).toMatch(/content\?sha256=[0-9a-f]{64}/)
    expect(await violations(page)).toEqual([])
    // A click is followed to the page itself, and told here; it counts nowhere.
    const [landed] = await Promise.all([page.context().waitForEvent('page'), page.click('[data-test=follow-click]')])
    await landed.waitForSelector('h1:has-text("Wader 80")')
    await landed.close()
    await page.click('[data-test=read-hits]')
    await page.waitForSelector('[data-test=hits] li:has-text("click")')
    await page.click('[data-test=make-link]')
    const link = (await page.locator('[data-test=link-made] a').getAttribute('href')) ?? ''
    const browser = await launch()
    const client = await openWindow(browser)
    await client.page.goto(new URL(link).pathname)
    await client.page.waitForSelector('[data-test=ad-sight] img')
    expect(await client.page.locator('h1').innerText()).toContain('Ads of')
    expect(await violations(client.page)).toEqual([])
    await page.click('[data-test=links] button')
    await page.waitForSelector('[data-test=links]', { state: 'detached' })
    await client.page.reload()
    expect(await client.page.locator('[role=alert]').innerText()).toContain('This link does not open')
    await browser.close()
  })

  it.each([
    [1, 'native', '.AdSight-picture'],
    [2, 'native', '[data-shape=notification] img'],
    [1, 'video', '[data-test=ad-sight] video'],
    [1, 'audio', '[data-test=ad-sight] audio'],
    [2, 'display', '[data-shape="interstitial, upright"] img'],
    [3, 'display', '[data-test=ad-sight] iframe'],
    [3, 'pop', '.AdSight-link b']
  ])('of advertiser %i, %s, is seen in every slot that its ads fit', async (advertiser, format, sight) => {
    const id = await lineOf(advertiser, format)
    const made = (await (await page.request.get(`/api/lines/${id}/made-creatives`)).json()) as { id: number; name: string }[]
    // Of a hundred mixed ones the first is like the others.
    const creatives = made.filter(({ name }) => !name.includes(' / ')).map((one) => one.id)
    expect(creatives.length).toBeGreaterThan(0)
    await page.request.post(`/api/lines/${id}/ads`, { headers: { origin: address() }, data: { creatives } })
    await page.goto(`/campaigns/lines/${id}/in-place`)
    await page.waitForSelector('[data-test=ad-sight]')
    const places = await page.locator('.InPlaceStage nav button').count()
    let seen = 0
    for (let n = 0; n < places; n++) {
      await page.waitForSelector('[data-test=ad-sight]')
      seen += await page.locator(sight).count()
      await page.press('.InPlaceStage', 'ArrowRight')
    }
    expect(seen).toBeGreaterThan(0)
  })

  it('of a feed are made by template, put live, and one whose item sells out is stopped until it is back', async () => {
    const feedLine = await lineOf(2, 'native')
    await page.goto('/creatives?advertiser=2')
    await page.click('[data-test=read-feed]')
    await page.fill('[data-test=new-feed-address]', 'https://tagworks.example/feed/bomb.xml')
    await page.click('[data-test=add-feed]')
    await page.waitForSelector('[data-test=feed-problem]:has-text("declares entities of its own")')
    await page.fill('[data-test=feed-address]', 'https://ostler.example/bikes.rss')
    await page.click('[data-test=read-feed]:has-text("Save, and read it by this")')
    await page.waitForSelector('[data-test=feed-words]:has-text("RSS: 7 items")')
    // What is what in it was not known before it was read.
    expect(await page.locator('[data-test=feed-field-price]').inputValue()).toBe('shop:price')
    await page.fill('[data-test=feed-longHeadline]', '{title}, now {price}')
    await page.selectOption('[data-test=feed-icon]', { index: 1 })
    await page.click('[data-test=read-feed]:has-text("Save, and read it by this")')
    await page.waitForSelector('.FeedView-says:has-text("Longtail, now 1990.00 EUR")')
    expect(await violations(page)).toEqual([])
    await page.click('[data-test=choose-all]')
    await page.selectOption('[data-test=feed-line]', { value: String(feedLine) })
    await page.click('[data-test=make-feed]')
    await page.waitForSelector('[data-test=feed-made]:has-text("6 ads are made"):has-text("6 put on")')
    await page.reload()
    await page.waitForSelector('[data-test=feed-words]:has-text("6 with an ad")')
    await page.goto(`/campaigns/lines/${feedLine}`)
    await putLive()
    // It sells out at two in the afternoon, and comes back at eight.
    const { hour } = (await (await page.request.get('/api/market')).json()) as { hour: number }
    const hours = ((15 - (hour % 24) + 23) % 24) + 1
    await page.request.post('/api/market/run', { headers: { origin: address() }, data: { hours } })
    await page.waitForFunction(() => document.querySelector('[data-test=clock]')?.textContent?.includes('15:00'))
    await page.goto('/creatives?advertiser=2')
    await page.click('[data-test=feed-list] a')
    await page.click('[data-test=read-feed]')
    await page.waitForSelector('[data-test=feed-words]:has-text("1 ad is stopped")')
    await page.selectOption('[data-test=feed-show]', 'out')
    await page.waitForSelector('.FeedView-table :text("out of stock since")')
    await page.goto(`/campaigns/lines/${feedLine}`)
    await openClause(page, 'F')
    await page.waitForSelector('.LineAds-stopped:has-text("out of stock in")')
  })

  it('as pictures of every size are built of words and colours, at once, and put on the line that buys their slots', async () => {
    const display = await lineOf(1, 'display')
    await page.goto('/creatives?advertiser=1')
    await page.click('[data-test=build-pictures]')
    await page.waitForSelector('[data-test=plate-words]:has-text("0 of 10")')
    await page.fill('[data-test=plate-headline]', 'か')
    await page.waitForSelector('.PlateView-none:has-text("Our letters have no か.")')
    await page.fill('[data-test=plate-headline]', 'See the winter sky')
    await page.fill('[data-test=plate-text]', 'A telescope that stands in a minute.')
    await page.waitForSelector('[data-test=plate-words]:has-text("10 of 10 sizes are built")')
    expect(await page.locator('.PlateView-sizes img').count()).toBe(10)
    // At its true pixels, whatever it was drawn at.
    const size = await page.locator('.PlateView-sizes img[alt^="728x90"]').boundingBox()
    expect([size?.width, size?.height]).toEqual([728, 90])
    await page.selectOption('[data-test=plate-layout]', 'label')
    await page.waitForSelector('[data-test=plate-saving]:has-text("saved")')
    expect(await violations(page)).toEqual([])
    await page.reload()
    await page.waitForSelector('[data-test=plate-words]:has-text("10 of 10 sizes are built")')
    expect(await page.locator('[data-test=plate-headline]').inputValue()).toBe('See the winter sky')
    await page.selectOption('[data-test=plate-line]', { value: String(display) })
    await page.click('[data-test=make-plate]')
    await page.waitForSelector('[data-test=plate-made]:has-text("10 pictures are made."):has-text("10 put on")')
    await page.click('[data-test=plate-made] a')
    await page.waitForSelector('.LineAds :text("Plate 1 970x250.png")')
  })
})
