import { beforeAll, describe, expect, it } from 'vitest'
import { address, choose, openClause, runMarket, useDesk, violations } from './support/browser.js'

/** Here the reviewer takes its working hours, as it does for users. */
describe('from a line to its first billed impression', () => {
  const desk = useDesk()
  let line = 0
  const headers = { origin: address() }
  async function post<T = { id: number }>(path: string, data: unknown): Promise<T> {
    const answer = await desk.page.request.post(`/api${path}`, { headers, data })
    if (!answer.ok()) throw new Error(await answer.text())
    return (await answer.json()) as T
  }
  const native = (name: string, headline: string) =>
    post('/advertisers/2/made-creatives', {
      name,
      kind: 'native',
      parts: {
        headline,
        longHeadline: headline,
        text: 'An hour, a bike, and a hill.',
        brand: 'Ostler',
        icon: 'https://ostler.example/256x256.png',
        picture: 'https://ostler.example/1200x800.png',
        button: 'Book'
      }
    })
  const stateIs = (state: string) => desk.page.waitForSelector(`[data-test=state] b:text-is("${state}")`)
  /** Runs days until all that waits is answered. */
  async function untilAnswered() {
    for (let day = 0; day < 4; day++) {
      await runMarket(desk.page, '+1 day')
      const answer = await desk.page.request.get('/api/reviews')
      const { reviews } = (await answer.json()) as { reviews: { state: string }[] }
      if (reviews.every(({ state }) => state !== 'waits')) return
    }
    throw new Error('The reviewer did not answer.')
  }

  beforeAll(async () => {
    const flight = { startDate: '2026-03-02', endDate: '2026-03-31' }
    const campaign = await post('/advertisers/2/campaigns', {
      name: 'Spring rides',
      goal: 'visits',
      flight,
      budget: { totalMicros: 90_000_000, dailyMicros: null },
      linkTail: 'click=${CLICK_ID}'
    })
    const include = (dimension: string, values: string[]) => ({ dimension, mode: 'include', values })
    const { id } = await post(`/campaigns/${campaign.id}/lines`, {
      name: 'Native, NL DE',
      format: 'native',
      zone: 'Europe/Amsterdam',
      flight,
      targeting: { restrictions: [include('where', ['NL', 'DE'])] },
      price: { model: 'CPM', bidMicros: 2_500_000, maxMicros: null },
      budget: { dailyMicros: 5_000_000, totalMicros: null },
      pacing: 'even',
      caps: [{ times: 3, hours: 24 }],
      landing: 'https://ostler.example/test-ride',
      onceCleared: 'start'
    })
    line = id
    const creatives = [await native('Loud', 'BOOK A RIDE NOW!!'), await native('Calm', 'A ride on Saturday')].map((one) => one.id)
    await native('Softer', 'Book a ride now')
    await post(`/lines/${line}/ads`, { creatives })
  })

  it('says beforehand what would be refused and by when it is answered, and starts with what was cleared', async () => {
    const { page } = desk
    await page.goto(`/campaigns/lines/${line}?clause=F`)
    await page.waitForSelector('text=The reviewer would refuse “Loud”')
    await page.click('[data-test=put-live]')
    await page.waitForSelector('[data-test=goes-to-review]:has-text("2 ads go to review and are answered by")')
    await page.click('[data-test=confirm-live]')
    await stateIs('in review')
    await page.reload()
    await stateIs('in review')
    expect(await page.textContent('[data-test=state]')).toContain('answered by')
    await untilAnswered()
    await stateIs('live')
    await page.waitForSelector('.ReviewEntry:has-text("refused"):has-text("BOOK A RIDE NOW!!")')
    expect(await violations(page)).toEqual([])
  })

  it('sends the repair alone, and shows it once it is cleared', async () => {
    const { page } = desk
    await openClause(page, 'F')
    await page.click('[aria-label="Take Loud off the line"]')
    await page.waitForSelector('[aria-label="Take Loud off the line"]', { state: 'detached' })
    await choose(page, 'made-creatives', 'Softer \\(native\\)')
    await page.waitForSelector('[aria-label="Take Softer off the line"]')
    await page.click('[data-test=put-live]')
    await page.waitForSelector('[data-test=goes-to-review]:has-text("1 ad goes to review")')
    await page.click('[data-test=confirm-live]')
    await page.waitForSelector('.ReviewEntry:has-text("Softer"):has-text("in review")')
    await stateIs('live')
    await untilAnswered()
    await page.waitForSelector('.ReviewEntry', { state: 'detached' })
    expect(await page.textContent('[data-test=state]')).toMatch(/serving|paced/)
  })

  it('goes on with the old link of one ad until the new one is cleared, and both stand beside each other', async () => {
    const { page } = desk
    await page.click('[aria-label="What Calm has of its own: nothing"]')
    await page.fill('#ad-landing', 'https://ostler.example/')
    await page.waitForSelector('[data-test=saving]:text-is("draft saved")')
    await page.click('[data-test=put-live]')
    await page.waitForSelector('[data-test=goes-to-review]:has-text("what serves now goes on until then")')
    await page.click('[data-test=confirm-live]')
    await page.waitForSelector('.el-dialog', { state: 'detached' })
    await page.goto('/campaigns/review')
    await page.waitForSelector('[data-test=review-words]:has-text("1 waits")')
    const entry = page.locator('.ReviewEntry')
    expect(await entry.count()).toBe(1)
    expect(await entry.textContent()).toContain('its version before goes on serving')
    expect(await entry.textContent()).toMatch(/serves\s*Calm, leads to https:\/\/ostler.example\/test-ride/)
    expect(await violations(page)).toEqual([])
    await untilAnswered()
    await page.waitForSelector('[data-test=review-words]:has-text("Nobody has to look at anything now")')
  })

  it('is followed from a click in a preview to a booking, which shows and counts nowhere', async () => {
    const { page, context } = desk
    await page.goto(`/campaigns/lines/${line}/in-place`)
    await page.waitForSelector('[data-test=in-place]')
    const [site] = await Promise.all([context.waitForEvent('page'), page.click('[data-test=follow-click]')])
    await site.waitForLoadState()
    if (await site.locator('a:text-is("Book a test ride")').count()) await site.click('a:text-is("Book a test ride")')
    await site.click('button:text-is("Book it")')
    await site.waitForSelector('h1:text-is("Booked")')
    await site.waitForLoadState('networkidle')
    await site.close()
    await page.click('[data-test=read-hits]')
    await page.waitForSelector('[data-test=conversions-told]:has-text("test ride"):has-text("counts nowhere")')
    expect(await page.textContent('[data-test=conversions-told]')).toContain('earned by a click')
  })

  it('has its trackers tried, and says what an offer brought', async () => {
    const { page } = desk
    await page.goto('/campaigns/sold/2')
    await page.click('[data-test^=test-]')
    await page.waitForSelector('[data-test=test-sent]:has-text("a test: counts nowhere; it would be earned by a click")')
    await page.click('[data-test^=log-]')
    await page.waitForSelector('.ToldTable tbody tr:has-text("a test")')
    await page.waitForSelector('text=In 90 days its campaigns brought')
    await page.click('[data-test=new-tracker]')
    await page.fill('#tracker-name', 'test ride')
    await page.click('.TrackerForm [data-test=save-tracker]')
    await page.waitForSelector('.FieldRow-problem:has-text("called “test ride” already")')
    expect(await violations(page)).toEqual([])
  })
})
