import { execFileSync } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { startDatabase } from '../database.mjs'
import { dataFolder } from '../install.mjs'
import { demoTrader, startTestServer } from '../test-server.mjs'
import { quantile, report, round } from './measure.mjs'

const FILES = 30
/** Pixels of a picture of noise that weighs 2 MB. */
const [WIDTH, HEIGHT] = [960, 740]
/** How many are sent at once, as a page does. */
const AT_ONCE = 2
/** Between two questions for a forecast while a film is made. */
const ASK_MS = 250

/**
 * Takes a file into the library, as a page does: begun, sent, read.
 * @param {string} address @param {Record<string, string>} headers @param {number} advertiserId
 */
function takerOf(address, headers, advertiserId) {
  return async (/** @type {string} */ name, /** @type {Buffer} */ data) => {
    const begun = await fetch(`${address}/api/advertisers/${advertiserId}/uploads`, {
      method: 'POST',
      headers: {
        ...headers,
        'tus-resumable': '1.0.0',
        'upload-length': String(data.length),
        'upload-metadata': `filename ${Buffer.from(name).toString('base64')}`
      }
    })
    const place = begun.headers.get('location')
    await fetch(`${address}${place}`, {
      method: 'PATCH',
      headers: {
        ...headers,
        'tus-resumable': '1.0.0',
        'upload-offset': '0',
        'content-type': 'application/offset+octet-stream'
      },
      body: new Uint8Array(data)
    })
    const taken = await fetch(`${address}${place}/finish`, { method: 'POST', headers: headers })
    if (!taken.ok) throw new Error(await taken.text())
    return (await taken.json()).file
  }
}

/** Files taken into a library, a film made to fit, and how long forecasts take meanwhile. */
export async function benchCreatives() {
  const { default: sharp } = await import('sharp')
  const database = await startDatabase(dataFolder('bench'), { schema: 'bench', bufferMb: 256, forTests: true })
  const url = new URL(database.url)
  url.pathname = '/bench_creatives'
  const server = await startTestServer(url.href, '', { checks: false })
  const folder = mkdtempSync(join(tmpdir(), 'tin-harbor-bench-'))
  try {
    const { address } = server
    const trader = await demoTrader(address)
    const { draft, campaignId, advertiserId, id: lineId } = await trader.read('lines/1003')
    const take = takerOf(address, trader.headers, advertiserId)
    const pictures = await Promise.all(
      Array.from({ length: FILES }, () => {
        const noise = randomBytes(WIDTH * HEIGHT * 3)
        return sharp(noise, { raw: { width: WIDTH, height: HEIGHT, channels: 3 } })
          .png()
          .toBuffer()
      })
    )
    const bytes = pictures.reduce((sum, { length }) => sum + length, 0)
    const began = performance.now()
    const queue = pictures.map((data, n) => ({ data, name: `Noise ${n}.png` }))
    const lane = async () => {
      for (let one = queue.shift(); one; one = queue.shift()) await take(one.name, one.data)
    }
    await Promise.all(Array.from({ length: AT_ONCE }, lane))
    const uploadSeconds = (performance.now() - began) / 1000
    const path = join(folder, 'film.mp4')
    const sources = ['-f', 'lavfi', '-i', 'testsrc2=s=1920x1080:r=30', '-f', 'lavfi', '-i', 'sine=440:r=48000']
    execFileSync('ffmpeg', ['-v', 'error', ...sources, '-t', '46', '-c:v', 'libx264', '-preset', 'ultrafast', '-c:a', 'aac', path])
    const film = await take('Film.mp4', readFileSync(path))
    const fit = { from: 4, to: 34, frame: null, mostBytes: 10 * 1024 * 1024, level: -20, silence: false }
    let number = 0
    const forecast = async () => {
      const asked = performance.now()
      const bidMicros = 1_000_000 + number * 1000
      const answer = await fetch(`${address}/api/forecast`, {
        method: 'POST',
        headers: trader.headers,
        body: JSON.stringify({
          page: 'bench-creatives',
          number: ++number,
          campaignId,
          lineId,
          line: { ...draft, price: { ...draft.price, bidMicros, maxMicros: null } }
        })
      })
      const reader = answer.body?.getReader()
      await reader?.read()
      const first = performance.now() - asked
      for (let part = await reader?.read(); part && !part.done; part = await reader?.read());
      return first
    }
    const calm = []
    // The first ones find nothing warm.
    for (let n = 0; n < 10; n++) await forecast()
    for (let n = 0; n < 20; n++) calm.push(await forecast())
    const started = performance.now()
    const { id } = await (
      await fetch(`${address}/api/files/${film.id}/film-fit`, { method: 'POST', headers: trader.headers, body: JSON.stringify(fit) })
    ).json()
    const meanwhile = []
    for (;;) {
      const { state, said } = await trader.read(`fits/${id}`)
      if (state === 'done') break
      if (state !== 'waits' && state !== 'works') throw new Error(said)
      meanwhile.push(await forecast())
      await new Promise((resolve) => setTimeout(resolve, ASK_MS))
    }
    report('creatives', {
      files: FILES,
      megabytes: round(bytes / 1024 / 1024),
      uploadSeconds: round(uploadSeconds),
      filmMegabytes: round(film.bytes / 1024 / 1024),
      fitSeconds: round((performance.now() - started) / 1000),
      forecastP95Ms: round(quantile(calm, 0.95)),
      forecastP95WhileFittingMs: round(quantile(meanwhile, 0.95))
    })
  } finally {
    rmSync(folder, { recursive: true, force: true })
    await server.stop()
    await database.stop()
  }
}
