import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { blankQuestion } from '../blank-question.mjs'
import { BROWSER } from '../install.mjs'
import { inProject } from '../project.mjs'
import { interleave, quantile, round } from './measure.mjs'
import { FLAGS } from './web.mjs'

const HEADLINES = ['Saturn', 'The Moon', 'A dome', 'For two', 'Jupiter', 'Ahead', 'First light', 'Galaxies', 'Look up', 'Night']
const KEYS = 20

/**
 * A hundred ads of ten headlines and ten pictures, as somebody makes them in the page, and how soon each is seen in its place.
 * @param {{ address: string, lineId: number }} at
 */
export async function mixTimes({ address, lineId }) {
  const { chromium } = await import('playwright-core')
  const { default: sharp } = await import('sharp')
  const { DEMO_PASSWORD } = await import(inProject('server/dist/demo/scenario.js'))
  const folder = mkdtempSync(join(tmpdir(), 'tin-harbor-mix-'))
  const pictures = []
  for (let n = 0; n < 10; n++) {
    const path = join(folder, `picture ${n}.png`)
    await sharp({ create: { width: 1200, height: 800, channels: 3, background: { r: 20 + 9 * n, g: 40, b: 90 + 8 * n } } })
      .png()
      .toFile(path)
    pictures.push(path)
  }
  const browser = await chromium.launch({ executablePath: BROWSER, args: FLAGS })
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, locale: 'en-GB' })
    await page.goto(`${address}/sign-in`)
    await page.fill('#email', 'ines@wharfside.example')
    await page.fill('#password', DEMO_PASSWORD)
    await page.click('button[type=submit]')
    await page.waitForSelector('.MarketTable tbody th')
    let actions = 0
    const act = async (/** @type {Promise<unknown>} */ done) => {
      await done
      actions++
    }
    const began = performance.now()
    await act(page.click('nav >> text=Creatives'))
    await act(page.click('[data-test=mix-ads]'))
    await act(page.fill('[data-test=mix-headlines]', HEADLINES.join('\n')))
    await act(page.click('[data-test=add-headlines]'))
    await act(page.fill('[data-test=mix-texts]', 'Clear nights ahead.'))
    await act(page.click('[data-test=add-texts]'))
    await act(page.setInputFiles('.MixPictures input[type=file]', pictures))
    await act(page.click('[data-test=cut-pictures]:has-text("10 others")'))
    await page.waitForSelector('[data-test=mix-words]:has-text("and 10 pictures")')
    const partsSeconds = (performance.now() - began) / 1000
    await act(page.selectOption('[data-test=mix-line]', String(lineId)))
    const making = performance.now()
    await act(page.click('[data-test=make-mix]'))
    await page.waitForSelector('[data-test=mix-made]')
    const said = await page.textContent('[data-test=mix-made]')
    if (!said?.includes('100 ads are made')) throw new Error(`Not a hundred: ${said}`)
    await page.goto(`${address}/campaigns/lines/${lineId}/in-place`)
    const isSeen = () =>
      page.waitForFunction(() => {
        const image = /** @type {HTMLImageElement | null} */ (document.querySelector('[data-test=ad-sight] .AdSight-picture'))
        return image?.complete === true && image.naturalWidth > 0
      })
    await isSeen()
    const mixSeconds = (performance.now() - making) / 1000
    const waits = []
    await page.focus('.InPlaceStage')
    for (let n = 0; n < KEYS; n++) {
      const pressed = performance.now()
      const before = await page.textContent('[data-test=in-place]')
      await page.keyboard.press('ArrowDown')
      await page.waitForFunction((was) => document.querySelector('[data-test=in-place]')?.textContent !== was, before)
      await isSeen()
      waits.push(performance.now() - pressed)
    }
    return { mixSeconds: round(mixSeconds), mixActions: actions, partsSeconds: round(partsSeconds), previewMs: round(quantile(waits, 0.5)) }
  } finally {
    await browser.close()
    rmSync(folder, { recursive: true, force: true })
  }
}

/** What a hundred ads on a line cost a forecast and an hour of the market, against three: all alike, and with rules of their own. */
export async function manyAds() {
  /** @type {any} */
  const core = {}
  for (const part of ['market', 'exchange', 'tape', 'forecast', 'response', 'taxonomy', 'pricing'])
    Object.assign(core, await import(inProject(`core/dist/${part}/index.js`)))
  const world = core.makeWorld({ ...core.TENTH, people: 200_000 })
  const inventory = world.inventory
  const catalogue = { inventory, profiles: world.profiles, measures: core.publishMeasures(world.seed, inventory) }
  const market = core.forecastMarket(catalogue, core.makeBenchmarks(inventory))
  const lastDay = 59
  const tape = core.buildTape(world, lastDay)
  const hour = (lastDay + 1) * 24
  const shape = core.SHAPES.indexOf('native card')
  const ads = (/** @type {number} */ count, /** @type {boolean} */ own) =>
    Array.from({ length: count }, (_, n) => ({
      ad: n + 1,
      shape,
      weight: 1 + (n % 3),
      ...(own && n % 2 ? { bidMicros: 1_000_000 + (n % 7) * 100_000 } : {}),
      ...(own && n % 3 === 0 ? { caps: [{ times: 1 + (n % 3), hours: 24 }] } : {})
    }))
  const targeting = { restrictions: [{ dimension: 'where', mode: 'include', values: ['US', 'DE', 'GB'] }] }
  const price = { model: 'CPM', bidMicros: 2_000_000, maxMicros: null }
  const question = (/** @type {any[]} */ some) =>
    blankQuestion(core, {
      targeting,
      shapes: [shape],
      ...(some.some((ad) => ad.caps || ad.bidMicros) ? { ads: some } : {}),
      price,
      caps: [{ times: 3, hours: 24 }],
      startHour: hour,
      endHour: hour + 7 * 24,
      nowHour: hour
    })
  const never = () => false
  const forecast = (/** @type {any[]} */ some) => () => core.mainFigures(core.workOut(question(some), tape, market, never), never)
  const running = (/** @type {any[]} */ some) => {
    const line = { line: 1, revision: 1, campaign: 1, targeting, shapes: [shape], price, zone: 'UTC', startHour: hour, endHour: null }
    const rules = {
      ...line,
      liveFromHour: hour,
      limits: core.NO_LIMITS,
      pacing: 'fast',
      caps: [{ times: 3, hours: 24 }],
      demandMicros: 1,
      ads: some
    }
    const opening = { hour, balanceMicros: 9e15, lines: new Map(), campaigns: new Map(), exposures: new core.ExposureBook() }
    const exchange = new core.Exchange(world, { publication: 1, lines: [rules], campaigns: [], apart: true }, opening)
    return () => exchange.runHour()
  }
  const cases = { three: ads(3, false), hundred: ads(100, false), threeOwn: ads(3, true), hundredOwn: ads(100, true) }
  const median = (/** @type {Record<string, number[]>} */ times) =>
    Object.fromEntries(Object.entries(times).map(([name, all]) => [name, quantile(all, 0.5)]))
  const named = (/** @type {(some: any[]) => () => unknown} */ make) =>
    Object.fromEntries(Object.entries(cases).map(([name, some]) => [name, make(some)]))
  const forecasts = median(interleave(named(forecast), 12))
  const hours = median(interleave(named(running), 24))
  const ratios = (/** @type {Record<string, number>} */ times) => ({
    alike: round(times.hundred / times.three),
    withRulesOfTheirOwn: round(times.hundredOwn / times.threeOwn),
    rulesAgainstNone: round(times.hundredOwn / times.three)
  })
  return { forecastHundredAgainstThree: ratios(forecasts), hourHundredAgainstThree: ratios(hours) }
}
