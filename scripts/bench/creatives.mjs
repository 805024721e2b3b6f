import { execFileSync } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { startDatabase } from '../database.mjs'
import { dataFolder } from '../install.mjs'
import { demoTrader, startTestServer } from '../test-server.mjs'
import { feedAndPlateTimes } from './feeds.mjs'
import { manyAds, mixTimes } from './mix.mjs'
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

/**
 * Files that somebody might send to do harm, or by mistake.
 * @param {string} folder @param {Buffer} film @returns {Promise<Record<string, Buffer>>}
 */
async function hostileFiles(folder, film) {
  const { default: sharp } = await import('sharp')
  const { ZipFile } = await import('yazl')
  const { buffer } = await import('node:stream/consumers')
  const zipped = (/** @type {Record<string, string | Buffer>} */ holds, mode = 0o100644) => {
    const zip = new ZipFile()
    for (const [name, data] of Object.entries(holds)) zip.addBuffer(Buffer.from(data), name, { mode })
    zip.end()
    return buffer(zip.outputStream)
  }
  const page = '<!doctype html><p>x'
  const bomb = await zipped({ 'index.html': page, 'bomb.js': Buffer.alloc(40 * 1024 * 1024) })
  const size = Buffer.alloc(4)
  size.writeUInt32LE(40 * 1024 * 1024)
  const changed = (/** @type {Buffer} */ data, /** @type {string} */ from, /** @type {string} */ to) =>
    Buffer.from(data.toString('latin1').replaceAll(from, to), 'latin1')
  const black = sharp({ create: { width: 16_000, height: 16_000, channels: 3, background: '#000' } })
  return {
    'script.svg': Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>'),
    'bomb.png': await black.png({ compressionLevel: 9 }).toBuffer(),
    'playlist.mp4': Buffer.from(`#EXTM3U\nfile://${folder}/film.mp4\n`),
    'concat.mp4': Buffer.from(`ffconcat version 1.0\nfile ${folder}/film.mp4\n`),
    'dash.mp4': Buffer.from('<?xml version="1.0"?><MPD><BaseURL>film.mp4</BaseURL></MPD>'),
    'page.png': Buffer.from('<!doctype html><script>alert(1)</script>'),
    'cut.mp4': film.subarray(0, 90_000),
    'leads out.zip': changed(await zipped({ 'index.html': page, 'aaaaaaaaaa.js': 'x' }), 'aaaaaaaaaa.js', '../../../a.js'),
    'link.zip': await zipped({ 'index.html': '/etc/passwd' }, 0o120777),
    'bomb.zip': bomb,
    'lies.zip': changed(bomb, size.toString('latin1'), '\x10\0\0\0'),
    'program.zip': await zipped({ 'index.html': page, 'run.php': 'x' })
  }
}

/**
 * A native line of the advertiser whose library is open first.
 * @param {string} address @param {Record<string, string>} headers @param {object} draft
 */
async function nativeLine(address, headers, draft) {
  const made = async (/** @type {string} */ path, /** @type {object} */ body) => {
    const answer = await fetch(`${address}/api/${path}`, { method: 'POST', headers, body: JSON.stringify(body) })
    if (!answer.ok) throw new Error(await answer.text())
    return (await answer.json()).id
  }
  const flight = { startDate: '2026-03-02', endDate: '2026-03-31' }
  const budget = { totalMicros: 900_000_000, dailyMicros: null }
  const campaign = await made('advertisers/1/campaigns', { name: 'Mixed', goal: 'visits', flight, budget })
  const price = { model: 'CPM', bidMicros: 2_000_000, maxMicros: null }
  return made(`campaigns/${campaign}/lines`, { ...draft, name: 'Mixed', format: 'native', flight, targeting: { restrictions: [] }, price })
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
    const fit = { from: 4, to: 34, moments: null, frame: null, mostBytes: 10 * 1024 * 1024, level: -20, silence: false }
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
    let made = 0
    for (;;) {
      const { state, said, made: files } = await trader.read(`fits/${id}`)
      made = files[0] ?? 0
      if (state === 'done') break
      if (state !== 'waits' && state !== 'works') throw new Error(said)
      meanwhile.push(await forecast())
      await new Promise((resolve) => setTimeout(resolve, ASK_MS))
    }
    const fitSeconds = (performance.now() - started) / 1000
    /** @type {Record<string, string>} */
    const verdicts = {}
    for (const [name, data] of Object.entries(await hostileFiles(folder, readFileSync(path))))
      verdicts[name] = await take(name, data).then(
        () => 'taken',
        (/** @type {Error} */ error) => JSON.parse(error.message).issues?.[0]?.message ?? error.message
      )
    const mix = await mixTimes({ address, lineId: await nativeLine(address, trader.headers, draft) })
    const feeds = await feedAndPlateTimes({ address, headers: trader.headers, files: await trader.read('advertisers/1/files') })
    report('creatives', {
      ...mix,
      ...feeds,
      ...(await manyAds()),
      files: FILES,
      megabytes: round(bytes / 1024 / 1024),
      uploadSeconds: round(uploadSeconds),
      filmMegabytes: round(film.bytes / 1024 / 1024),
      fitSeconds: round(fitSeconds),
      fitWas: (await trader.read(`files/${made}`)).madeHow,
      forecastP95Ms: round(quantile(calm, 0.95)),
      forecastP95WhileFittingMs: round(quantile(meanwhile, 0.95)),
      hostile: verdicts
    })
  } finally {
    rmSync(folder, { recursive: true, force: true })
    await server.stop()
    await database.stop()
  }
}
