import AxeBuilder from '@axe-core/playwright'
import sharp from 'sharp'
import { afterAll, afterEach, beforeAll, expect } from 'vitest'
import { chromium, type Browser, type BrowserContext, type Page, type Request } from 'playwright-core'

/** What `npm test` installs. */
const BROWSER = '/usr/bin/chromium-headless-shell'
const FLAGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  // A microphone that beeps, and may be used.
  '--use-fake-device-for-media-stream',
  '--use-fake-ui-for-media-stream'
]

export const PASSWORD = 'harbor-lights'
export const TRADER = 'ines@wharfside.example'

/** Where the server under test listens; set by the test command. */
export function address(): string {
  const url = process.env.TEST_SERVER_URL
  if (!url) throw new Error('TEST_SERVER_URL is not set; run the tests with `npm test`.')
  return url
}

export const launch = (): Promise<Browser> => chromium.launch({ executablePath: BROWSER, args: FLAGS })

/** Windows that were opened, each with what it asked and was not answered yet, and the problems that it was told. */
const windows = new Map<Page, { waits: Set<string>; problems: string[] }>()

/** Address, alerts, open choosers and unanswered requests of each window. */
export async function whatIsOpen(): Promise<string> {
  const told = await Promise.all(
    [...windows].map(async ([page, { waits, problems }]) => {
      if (page.isClosed()) return null
      const seen = await page
        .evaluate(() =>
          Array.from(document.querySelectorAll<HTMLElement>('[role=alert], [role=dialog], .PhraseChooser'))
            .map((element) => `  ${element.className}: ${element.innerText.slice(0, 600)}`)
            .join('\n')
        )
        .catch((error: unknown) => `  ${String(error)}`)
      const unanswered = [...waits].join(', ') || 'nothing'
      const refused = problems.slice(-5).join(', ') || 'nothing'
      return [page.url(), seen, `  unanswered: ${unanswered}`, `  refused: ${refused}`].join('\n')
    })
  )
  return told.filter((one) => one !== null).join('\n')
}

function watchRequests(page: Page): void {
  const waits = new Set<string>()
  const problems: string[] = []
  windows.set(page, { waits, problems })
  const name = (request: Request) => `${request.method()} ${new URL(request.url()).pathname}`
  page.on('request', (request) => waits.add(name(request)))
  page.on('requestfinished', (request) => waits.delete(name(request)))
  page.on('requestfailed', (request) => waits.delete(name(request)))
  page.on('response', (response) => {
    if (response.status() >= 400) problems.push(`${response.status()} ${name(response.request())}`)
  })
}

/** A window of its own, at the size the pages are made for first, and what went wrong in it. */
export async function openWindow(browser: Browser): Promise<{ context: BrowserContext; page: Page; errors: string[] }> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, locale: 'en-GB', baseURL: address() })
  const page = await context.newPage()
  page.setDefaultTimeout(60_000)
  watchRequests(page)
  const errors: string[] = []
  page.on('pageerror', (error) => errors.push(error.message))
  return { context, page, errors }
}

/** A browser of its own with one window, in which the trader is signed in. */
export async function openDesk(): Promise<Desk> {
  const browser = await launch()
  const window = await openWindow(browser)
  await signIn(window.page)
  return { browser, ...window }
}

export interface Desk {
  browser: Browser
  context: BrowserContext
  page: Page
  errors: string[]
}

/** The same for all tests of a file, which are told of every error that a page threw. What is read of it is there once they run. */
export function useDesk(): Desk {
  const desk = {} as Desk
  beforeAll(async () => void Object.assign(desk, await openDesk()))
  afterEach(() => expect(desk.errors).toEqual([]))
  afterAll(() => desk.browser.close())
  return desk
}

/** Begins a line of the campaign that is open. By key: what arrives above a button moves it, and a click would land beside it. */
export const startLine = (page: Page): Promise<void> => page.press('[data-test=new-line]:enabled', 'Enter')

export async function signIn(page: Page, email = TRADER): Promise<void> {
  await page.goto('/sign-in')
  await page.fill('#email', email)
  await page.fill('#password', PASSWORD)
  await page.click('button[type=submit]')
  await page.waitForURL(/market/)
}

/** Violations of the rules that axe knows, each with where it is. Lists and calendars that are closing are let close first. */
export async function violations(page: Page): Promise<string[]> {
  await page.waitForFunction(() =>
    Array.from(document.querySelectorAll<HTMLElement>('.el-popper')).every((popper) => popper.offsetParent === null)
  )
  // A row of a table is like the next: the first dozen are looked at. In one go, since no page of ours has frames: going through
  // them takes three times as long.
  const { violations: found } = await new AxeBuilder({ page })
    .setLegacyMode()
    .options({ resultTypes: ['violations'], preload: false })
    .exclude('tbody tr:nth-child(n + 13)')
    .analyze()
  return found.map(
    ({ id, nodes }) =>
      `${id}: ${nodes
        .slice(0, 3)
        .map((node) => node.target.join(' '))
        .join(', ')}`
  )
}

/** Chooses an entry of a drop-down list by its words. */
export async function choose(page: Page, test: string, words: string): Promise<void> {
  await page.click(`[data-test=${test}]`)
  const entry = page.locator('.el-select-dropdown__item:visible', { hasText: new RegExp(`^${words}$`) }).first()
  await entry.scrollIntoViewIfNeeded()
  await entry.click()
}

/** Opens a clause of a line's page, where it is not open. */
export async function openClause(page: Page, clause: string): Promise<void> {
  const head = page.locator(`[data-clause=${clause}]`)
  if ((await head.getAttribute('aria-expanded')) !== 'true') await head.click()
  await page.waitForSelector(`[data-clause-body=${clause}]`)
}

/** Chooses values of a restriction in its chooser, by their words; those that were chosen before are taken out by naming them again. */
export async function restrict(page: Page, clause: 'A' | 'B', dimension: string, ...values: string[]): Promise<void> {
  await openClause(page, clause)
  // By key, as for a new line: the sentence above may grow by a row between the look and the click.
  await page.press(`[data-clause-body=${clause}] [data-dimension="${dimension}"]`, 'Enter')
  await page.waitForSelector(`[data-clause-body=${clause}] .PhraseChooser`)
  for (const value of values) {
    await page.waitForSelector('[data-counted=yes]')
    await page.fill('.PhraseChooser-search', value)
    await page.waitForSelector(`#phrase-0:has-text("${value}")`)
    await page.press('.PhraseChooser-search', 'Enter')
    await page.waitForSelector(`.PhraseChooser li:has(span:text-is("${value}"))`)
  }
  await page.click('.PhraseChooser button:text-is("Done")')
}

/** Types a date into a date field. */
export async function typeDay(page: Page, id: string, date: string): Promise<void> {
  await page.fill(`#${id}`, date)
  await page.press(`#${id}`, 'Enter')
  await page.press(`#${id}`, 'Escape')
}

/** Runs the market by a button of the band and waits for the clock to stand again. */
export async function runMarket(page: Page, button: '+1 hour' | '+1 day'): Promise<void> {
  const before = await page.textContent('[data-test=clock]')
  await page.click(`button:text-is("${button}")`)
  await page.waitForFunction((was) => document.querySelector('[data-test=clock]')?.textContent !== was, before)
  await page.waitForSelector(`button:text-is("${button}")`, { timeout: 120_000 })
}

/** Euros of a figure such as `€2,459.20`. */
export const euros = (text: string | null) => Number((text ?? '').replace(/[^\d.]/g, ''))

/** A picture with something to be seen on it. */
export const picture = (width: number, height: number, background: sharp.Color = '#14313a') =>
  sharp({ create: { width, height, channels: 3, background } })
    .composite([{ input: { create: { width: Math.ceil(width / 3), height, channels: 3, background: '#fbfaf5' } }, left: 0, top: 0 }])
    .png()
    .toBuffer()

/**
 * Makes a draft of its own for a test, with one creative, in June: whatever other tests do to clock and demo, it is there.
 * @returns the address of its page
 */
export async function ownDraft(page: Page, name: string): Promise<string> {
  const headers = { origin: address() }
  const flight = { startDate: '2026-06-01', endDate: '2026-06-30' }
  const post = async (path: string, data: unknown) => {
    const answer = await page.request.post(`/api${path}`, { headers, data })
    if (!answer.ok()) throw new Error(await answer.text())
    return ((await answer.json()) as { id: number }).id
  }
  const campaign = await post('/advertisers/3/campaigns', {
    name: `For ${name}`,
    goal: 'visits',
    flight,
    budget: { totalMicros: 90_000_000, dailyMicros: null }
  })
  const include = (dimension: string, values: string[]) => ({ dimension, mode: 'include', values })
  const line = await post(`/campaigns/${campaign}/lines`, {
    name,
    format: 'display',
    zone: 'Europe/Lisbon',
    flight,
    targeting: { restrictions: [include('where', ['NL']), include('device', ['desktop']), include('size', ['300x250'])] },
    price: { model: 'CPM', bidMicros: 1_900_000, maxMicros: null },
    budget: { dailyMicros: 3_000_000, totalMicros: null },
    pacing: 'even',
    caps: [{ times: 3, hours: 24 }],
    landing: 'https://inkwell.example/kana',
    onceCleared: 'start'
  })
  await page.request.post(`/api/lines/${line}/creatives`, {
    headers,
    multipart: { file: { name: 'own.png', mimeType: 'image/png', buffer: await picture(300, 250) } }
  })
  return `/campaigns/lines/${line}`
}
