import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from 'playwright-core'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { address, launch, openClause, openWindow, runMarket, useDesk, violations } from './support/browser.js'

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
      await sharp({ create: { width: 900, height: 600, channels: 3, background: { r: 20 + 9 * n, g: 40, b: 90 + 8 * n } } })
        .png()
        .toFile(path)
      pictures.push(path)
    }
  })
  afterAll(() => rmSync(folder, { recursive: true, force: true }))
  const words = () => page.locator('[data-test=mix-words]').innerText()

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
    await page.click('[data-test=put-live]:enabled')
    await page.click('[data-test=confirm-live]:enabled')
    await page.waitForSelector('.el-dialog', { state: 'hidden' })
    await page.waitForSelector('[data-test=state] b:text-is("live")')
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
    [3, 'pop', '.AdSight-page b']
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
})
