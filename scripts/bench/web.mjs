import { gzipSync } from 'node:zlib'
import { startDatabase } from '../database.mjs'
import { BROWSER, dataFolder } from '../install.mjs'
import { inProject } from '../project.mjs'
import { startTestServer } from '../test-server.mjs'
import { quantile, report, round } from './measure.mjs'

const EDITS = 60
export const FLAGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync'
]

/** What the sentence says already when a chooser is opened: choosers of places are opened on its other phrases. */
const SENTENCES = [[], [['device', 'phone']], [['where', 'US']], [['where', 'DE', 'FR', 'ES']]]

/**
 * From the click that opens a chooser, and from each choice of a value, to all values counted for the rest of the sentence, in the page.
 * @param {import('playwright-core').Page} page @param {string} address
 */
async function chooserTimes(page, address) {
  const timed = (/** @type {string} */ selector, /** @type {number} */ nth) =>
    page.evaluate(
      async ([selector, nth]) => {
        const began = performance.now()
        const found = document.querySelectorAll(String(selector))
        ;/** @type {HTMLElement} */ (found[Number(nth) % found.length]).click()
        await new Promise(requestAnimationFrame)
        while (!document.querySelector('#phrase-values[data-counted=yes]:not(.is-waiting) li b'))
          await new Promise((resolve) => setTimeout(resolve, 1))
        await new Promise(requestAnimationFrame)
        return performance.now() - began
      },
      [selector, nth]
    )
  const times = []
  for (const phrase of ['where', 'device', 'category', 'age']) {
    for (const said of SENTENCES) {
      const restrictions = said
        .filter(([dimension]) => dimension !== phrase)
        .map(([dimension, ...values]) => ({ dimension, mode: 'include', values }))
      await page.goto(
        `${address}/market?said=${encodeURIComponent(JSON.stringify({ formats: [], targeting: { restrictions }, hours: null }))}`
      )
      await page.waitForSelector('.MarketTable:not(.is-waiting) tbody th')
      await page.waitForTimeout(1000)
      await page.click('[data-phrase=more]')
      times.push(await timed(`[data-add="${phrase}"]`, 0))
      for (let n = 0; n < 3; n++) {
        await page.waitForTimeout(250)
        times.push(await timed('#phrase-values li', n))
      }
    }
  }
  return times
}

/**
 * Frames a second while a table of all placements is scrolled.
 * @param {import('playwright-core').Page} page @param {string} address
 */
async function tableFrames(page, address) {
  await page.goto(`${address}/market?rows=placement`)
  await page.waitForSelector('.MarketTable:not(.is-waiting) tbody th')
  await page.waitForTimeout(1500)
  return page.evaluate(async () => {
    const table = /** @type {HTMLElement} */ (document.querySelector('.MarketTable'))
    const began = performance.now()
    let frames = 0
    while (performance.now() - began < 3000) {
      await new Promise(requestAnimationFrame)
      table.scrollTop = (table.scrollTop + 90) % (table.scrollHeight - table.clientHeight)
      frames++
    }
    return Math.round((frames * 1000) / (performance.now() - began))
  })
}

/**
 * Frames a second while the mark of the bid ladder is dragged, and while hours are painted.
 * @param {import('playwright-core').Page} page on a line's page
 */
async function dragFrames(page) {
  const counted = async (/** @type {() => Promise<void>} */ move) => {
    await page.evaluate(() => {
      const count = /** @type {any} */ (window)
      count.frames = 0
      count.counting = true
      count.began = performance.now()
      const next = () => {
        if (!count.counting) return
        count.frames++
        requestAnimationFrame(next)
      }
      requestAnimationFrame(next)
    })
    await move()
    return page.evaluate(() => {
      const count = /** @type {any} */ (window)
      count.counting = false
      return Math.round((count.frames * 1000) / (performance.now() - count.began))
    })
  }
  const box = async (/** @type {string} */ selector) => {
    const box = await page.locator(selector).boundingBox()
    return { x: (box?.x ?? 0) + (box?.width ?? 0) / 2, y: (box?.y ?? 0) + (box?.height ?? 0) / 2 }
  }
  const mark = await box('[data-test=ladder-mark]')
  await page.mouse.move(mark.x, mark.y)
  await page.mouse.down()
  const drag = await counted(async () => {
    for (let n = 0; n < 120; n++) await page.mouse.move(mark.x - 60 * Math.sin(n / 12), mark.y)
  })
  await page.mouse.up()
  await page.click('[data-clause=C]')
  await page.waitForSelector('[data-hour="0"]')
  await page.locator('[data-test=hours]').scrollIntoViewIfNeeded()
  const [first, last] = [await box('[data-hour="0"]'), await box('[data-hour="167"]')]
  await page.mouse.move(first.x, first.y)
  await page.mouse.down()
  const paint = await counted(async () => {
    for (let n = 0; n <= 120; n++)
      await page.mouse.move(first.x + ((last.x - first.x) * (n % 24)) / 23, first.y + (last.y - first.y) * (n / 120))
  })
  await page.mouse.up()
  return { dragFramesPerSecond: drag, paintFramesPerSecond: paint }
}

/**
 * Makes drafts until the manifest has five hundred lines, and times a line's page beside it, from its address to its wording.
 * @param {import('playwright-core').Page} page @param {string} address
 */
async function manifestTime(page, address) {
  await page.evaluate(async () => {
    const { draft, campaignId } = await (await fetch('/api/lines/1003')).json()
    for (let n = 0; n < 500; n += 10) {
      await Promise.all(
        Array.from({ length: 10 }, (_, k) =>
          fetch(`/api/campaigns/${campaignId}/lines`, {
            method: 'POST',
            headers: { 'content-type': 'application/json' },
            body: JSON.stringify({ ...draft, name: `Line ${n + k}` })
          })
        )
      )
    }
  })
  const times = []
  for (let n = 0; n < 5; n++) {
    const began = Date.now()
    await page.goto(`${address}/campaigns/lines/1003`)
    await page.waitForSelector('[data-test=wording]')
    await page.waitForFunction(() => document.querySelectorAll('.ManifestList-line').length >= 500)
    times.push(Date.now() - began)
  }
  return quantile(times, 0.5)
}

/** First page and the way from an edit to its forecast, in Debian's Chromium against a server of its own. */
export async function benchWeb() {
  const { chromium } = await import('playwright-core')
  const { DEMO_PASSWORD } = await import(inProject('server/dist/demo/scenario.js'))
  const database = await startDatabase(dataFolder('bench'), { schema: 'bench', bufferMb: 256, forTests: true })
  // The full market: with a number of people it would be a smaller one, of which more is on the tape.
  const server = await startTestServer(database.url, process.env.TIN_HARBOR_PEOPLE ?? '', { checks: false })
  const browser = await chromium.launch({ executablePath: BROWSER, args: FLAGS })
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, locale: 'en-GB' })
    let scripts = 0
    page.on('response', async (response) => {
      if (/\.js$/.test(new URL(response.url()).pathname)) scripts += gzipSync(await response.body().catch(() => Buffer.alloc(0))).length
    })
    await page.goto(`${server.address}/sign-in`)
    // What a page asks for, not what has come by some moment: a slow machine would count more of what is asked for later.
    await page.waitForLoadState('networkidle')
    const firstScriptGzipKb = round(scripts / 1024)
    await page.fill('#email', 'ines@wharfside.example')
    await page.fill('#password', DEMO_PASSWORD)
    await page.click('button[type=submit]')
    await page.waitForSelector('.MarketTable tbody th')
    await page.waitForLoadState('networkidle')
    const marketScriptGzipKb = round(scripts / 1024)
    const paints = []
    const markets = []
    for (let n = 0; n < 5; n++) {
      const began = Date.now()
      await page.goto(`${server.address}/market`)
      await page.waitForSelector('.MarketTable tbody th')
      markets.push(Date.now() - began)
      paints.push(await page.evaluate(() => performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? 0))
    }
    const choosers = await chooserTimes(page, server.address)
    const tableFramesPerSecond = await tableFrames(page, server.address)
    await page.goto(`${server.address}/campaigns/lines/1001`)
    await page.waitForSelector('#line-bid')
    await page.waitForSelector('.ForecastPanel[aria-busy=false]')
    const waits = []
    const ladders = []
    const servers = []
    page.on('response', async (response) => {
      if (!response.url().endsWith('/forecast') || !response.ok()) return
      const [first] = (await response.text().catch(() => '')).split('\n')
      if (first) servers.push(JSON.parse(first).milliseconds)
    })
    for (let n = 0; n < EDITS; n++) {
      const { figures, sieve } = await page.evaluate(
        async (bid) => {
          const input = /** @type {HTMLInputElement} */ (document.querySelector('#line-bid'))
          performance.clearMarks()
          const began = performance.now()
          input.value = bid
          input.dispatchEvent(new Event('input', { bubbles: true }))
          const marked = (/** @type {RegExp} */ name) =>
            performance.getEntriesByType('mark').find((mark) => name.test(mark.name))?.startTime
          while (marked(/^forecast-sieve-/) === undefined) await new Promise((resolve) => setTimeout(resolve, 1))
          await new Promise(requestAnimationFrame)
          return { figures: Number(marked(/^forecast-\d/)) - began, sieve: Number(marked(/^forecast-sieve-/)) - began }
        },
        (0.9 + n / 100).toFixed(2)
      )
      waits.push(figures)
      ladders.push(sieve)
      await page.waitForTimeout(700)
    }
    const frames = await dragFrames(page)
    const manifest500Ms = round(await manifestTime(page, server.address))
    report('web', {
      firstScriptGzipKb,
      marketScriptGzipKb,
      firstPaintMs: round(quantile(paints, 0.5)),
      marketFirstPaintMs: round(quantile(markets, 0.5)),
      chooserP50Ms: round(quantile(choosers, 0.5)),
      chooserP95Ms: round(quantile(choosers, 0.95)),
      tableFramesPerSecond,
      editToForecastP50Ms: round(quantile(waits, 0.5)),
      editToForecastP95Ms: round(quantile(waits, 0.95)),
      editToLadderP95Ms: round(quantile(ladders, 0.95)),
      ...frames,
      manifest500Ms,
      serverForecastMedianMs: round(quantile(servers, 0.5)),
      serverForecastP95Ms: round(quantile(servers, 0.95))
    })
  } finally {
    await browser.close()
    await server.stop()
    await database.stop()
  }
}
