import { gzipSync } from 'node:zlib'
import { startDatabase } from '../database.mjs'
import { dataFolder } from '../install.mjs'
import { inProject } from '../project.mjs'
import { startTestServer } from '../test-server.mjs'
import { quantile, report, round } from './measure.mjs'

const EDITS = 60
const FLAGS = ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync']

/** First page and the way from an edit to its forecast, in Debian's Chromium against a server of its own. */
export async function benchWeb() {
  const { chromium } = await import('playwright-core')
  const { DEMO_PASSWORD } = await import(inProject('server/dist/demo/scenario.js'))
  const database = await startDatabase(dataFolder('bench'), { schema: 'bench', bufferMb: 256, forTests: true })
  const server = await startTestServer(database.url, '200000')
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: FLAGS })
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, locale: 'en-GB' })
    let scripts = 0
    page.on('response', async (response) => {
      if (/\.js$/.test(new URL(response.url()).pathname)) scripts += gzipSync(await response.body()).length
    })
    await page.goto(`${server.address}/sign-in`)
    await page.fill('#email', 'ines@wharfside.example')
    await page.fill('#password', DEMO_PASSWORD)
    await page.click('button[type=submit]')
    await page.waitForSelector('.MarketView .el-table__row')
    const firstScriptGzipKb = round(scripts / 1024)
    const paints = []
    const markets = []
    for (let n = 0; n < 5; n++) {
      const began = Date.now()
      await page.goto(`${server.address}/market`)
      await page.waitForSelector('.MarketView .el-table__row')
      markets.push(Date.now() - began)
      paints.push(await page.evaluate(() => performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? 0))
    }
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
      const { figures, sieve } = await page.evaluate(async (bid) => {
        const input = /** @type {HTMLInputElement} */ (document.querySelector('#line-bid'))
        performance.clearMarks()
        const began = performance.now()
        input.value = bid
        input.dispatchEvent(new Event('input', { bubbles: true }))
        const marked = (/** @type {RegExp} */ name) => performance.getEntriesByType('mark').find((mark) => name.test(mark.name))?.startTime
        while (marked(/^forecast-sieve-/) === undefined) await new Promise((resolve) => setTimeout(resolve, 1))
        await new Promise(requestAnimationFrame)
        return { figures: Number(marked(/^forecast-\d/)) - began, sieve: Number(marked(/^forecast-sieve-/)) - began }
      }, (2 + n / 100).toFixed(2))
      waits.push(figures)
      ladders.push(sieve)
      await page.waitForTimeout(700)
    }
    report('web', {
      firstScriptGzipKb, firstPaintMs: round(quantile(paints, 0.5)), marketFirstPaintMs: round(quantile(markets, 0.5)),
      editToForecastP50Ms: round(quantile(waits, 0.5)), editToForecastP95Ms: round(quantile(waits, 0.95)), editToLadderP95Ms: round(quantile(ladders, 0.95)),
      serverForecastMedianMs: round(quantile(servers, 0.5)), serverForecastP95Ms: round(quantile(servers, 0.95))
    })
  } finally {
    await browser.close()
    await server.stop()
    await database.stop()
  }
}
