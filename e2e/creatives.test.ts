import { execFileSync } from 'node:child_process'
import { copyFileSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { buffer } from 'node:stream/consumers'
import type { Page } from 'playwright-core'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { ZipFile } from 'yazl'
import { address, choose, openClause, ownDraft, useDesk, violations } from './support/browser.js'

/** Bytes that came before the line went dead. */
const PART = 400_000
const ENDED = '.CreativesView-sending li'

describe('the library of files', () => {
  const desk = useDesk()
  let page: Page
  const folder = mkdtempSync(join(tmpdir(), 'tin-harbor-e2e-'))
  const made = (name: string, ...args: string[]) => {
    execFileSync('ffmpeg', ['-y', '-v', 'error', ...args, join(folder, name)])
    return join(folder, name)
  }
  const pattern = (size: string, seconds: number) => ['-f', 'lavfi', '-t', String(seconds), '-i', `testsrc2=s=${size}:r=25`]
  const tone = (seconds: number) => ['-f', 'lavfi', '-t', String(seconds), '-i', 'sine=440:r=48000']
  const fast = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p', '-c:a', 'aac']
  let line: { advertiserId: number; campaignId: number; draft: object }
  beforeAll(async () => {
    ;({ page } = desk)
    const id = (await ownDraft(page, 'Of its own')).split('/').at(-1)
    line = (await (await page.request.get(`/api/lines/${id}`)).json()) as typeof line
  })
  afterAll(() => rmSync(folder, { recursive: true, force: true }))

  /** Adds files and waits until each was taken or refused. */
  async function add(...paths: string[]): Promise<string[]> {
    const before = await page.locator(ENDED).count()
    await page.setInputFiles('.CreativesView [data-test=file]', paths)
    await page.waitForFunction(
      ([selector, count]) => {
        const rows = Array.from(document.querySelectorAll(String(selector)))
        return rows.length === count && rows.every((row) => !/waits|is looked at|is read|%/.test(row.textContent ?? ''))
      },
      [ENDED, before + paths.length] as const
    )
    return (await page.locator(ENDED).allInnerTexts()).slice(before).map((text) => text.replace(/\s+/g, ' '))
  }
  /** A line of a format, as it begins. */
  async function lineOf(format: string): Promise<number> {
    const answer = await page.request.post(`/api/campaigns/${line.campaignId}/lines`, {
      headers: { origin: address() },
      data: { ...line.draft, name: `Shows ${format}`, format, targeting: { restrictions: [] } }
    })
    return ((await answer.json()) as { id: number }).id
  }
  const open = (name: string) => page.click(`.CreativesView-row button:has-text("${name}")`)

  it('takes a film of 46 s, says by whom it is not taken, makes 10 s of it, and puts that on a line', async () => {
    const film = join(folder, 'Harbour.mp4')
    copyFileSync(new URL('../server/demo-files/winter-46.mp4', import.meta.url), film)
    const mute = made('Mute.mp4', ...pattern('640x360', 6), ...fast.slice(0, 6))
    writeFileSync(join(folder, 'list.mp4'), '#EXTM3U\nfile:///etc/passwd\n')
    await page.goto(`/creatives?advertiser=${line.advertiserId}`)
    // What the slots will say is told before the server has read it.
    await page.route('**/finish', (route) => setTimeout(() => void route.continue(), 1500))
    const added = add(film, mute, join(folder, 'list.mp4'))
    await page.waitForSelector('.CreativesView-sending li:has-text("46 s is too much for Tidewater, Northgate, Pennant")')
    await page.waitForSelector('.CreativesView-sending li:has-text("fits no slot as it is (no sound track, 640x360)")')
    expect(await added).toEqual([
      'Harbour.mp4 taken',
      'Mute.mp4 taken',
      'list.mp4 The file is a playlist, which names other files, not a film.'
    ])
    await open('Mute.mp4')
    await page.waitForSelector('[data-test=file-findings] li:has-text("no sound track"):has-text("a sound track")')
    await open('Harbour.mp4')
    await page.waitForSelector('.FileNote li:has-text("46 s"):has-text("Tidewater"):has-text("6 to 30 s")')
    await page.selectOption('[aria-label="Source it is for"]', 'Tidewater')
    await page.fill('[aria-label="Seconds at which the part begins"]', '4')
    await page.press('[aria-label="Seconds at which the part begins"]', 'Tab')
    await page.fill('[aria-label="Seconds at which the part ends"]', '14')
    await page.press('[aria-label="Seconds at which the part ends"]', 'Tab')
    await page.waitForSelector('.FitFilm-words:has-text("cut to 0:04-0:14")')
    await page.click('[data-test=make-fit]')
    await page.waitForSelector('.FileNote h2:has-text("Harbour, cut to 0:04-0:14")')
    await page.waitForSelector('.FileNote-both figcaption:has-text("46 s")')
    expect(await violations(page)).toEqual([])
    await page.goto(`/campaigns/lines/${await lineOf('video')}`)
    await openClause(page, 'F')
    await choose(page, 'library-files', 'Harbour, cut to 0:04-0:14.*')
    await page.waitForSelector('.LineAds tbody tr:has-text("Harbour, cut to 0:04-0:14"):has-text("large player")')
  })

  it('shows a phone film as it is seen, and cuts a picture for slots with the point that was set', async () => {
    const flat = made('flat.mp4', ...pattern('640x360', 6), ...tone(6), ...fast)
    const turned = join(folder, 'Turned.mp4')
    execFileSync('ffmpeg', ['-y', '-v', 'error', '-i', flat, '-metadata:s:v', 'rotate=90', '-c', 'copy', turned])
    const square = await sharp({ create: { width: 200, height: 200, channels: 3, background: '#e01010' } })
      .png()
      .toBuffer()
    const photo = join(folder, 'Photo.png')
    await sharp({ create: { width: 1600, height: 1000, channels: 3, background: '#104080' } })
      .composite([{ input: square, left: 1380, top: 40 }])
      .png()
      .toFile(photo)
    await page.goto(`/creatives?advertiser=${line.advertiserId}`)
    expect(await add(turned, photo)).toEqual(['Turned.mp4 taken', 'Photo.png taken'])
    await page.waitForSelector('.CreativesView-row button:has-text("Turned.mp4"):has-text("360x640")')
    await open('Photo.png')
    const picture = page.locator('.FitPicture-point img')
    await picture.waitFor()
    const box = await picture.boundingBox()
    await picture.click({ position: { x: (box?.width ?? 0) * 0.92, y: (box?.height ?? 0) * 0.14 } })
    await page.click('[data-test=fit-picture] button:text-is("none")')
    await page.check('[data-test=fit-picture] li:has-text("160x600") input')
    await page.click('[data-test=cut-picture]')
    await page.waitForSelector('.FileNote h2:has-text("Photo 160x600")')
    const source = await page.locator('.FileNote [src*="/api/files/"]').last().getAttribute('src')
    const cut = await (await page.request.get(source ?? '')).body()
    const { dominant } = await sharp(await sharp(cut).extract({ left: 70, top: 70, width: 20, height: 20 }).png().toBuffer()).stats()
    expect(dominant.r).toBeGreaterThan(180)
    expect(await violations(page)).toEqual([])
  })

  it('corrects a crop by hand, and keeps a frame of a film as a picture', async () => {
    await page.goto(`/creatives?advertiser=${line.advertiserId}`)
    await open('Photo.png')
    await page.click('[data-test=fit-picture] button:text-is("none")')
    await page.check('[data-test=fit-picture] li:has-text("300x600") input')
    await page.click('[aria-label="Correct 300x600 file by hand"]')
    const stencil = page.locator('.vue-rectangle-stencil')
    await stencil.waitFor()
    await stencil.scrollIntoViewIfNeeded()
    const box = (await stencil.boundingBox()) ?? { x: 0, y: 0, width: 0, height: 0 }
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2]
    await page.mouse.move(x, y)
    await page.mouse.down()
    await page.mouse.move(x + 60, y, { steps: 4 })
    await page.mouse.move(x + 200, y, { steps: 4 })
    await page.mouse.up()
    await page.waitForSelector('[aria-label="Correct 300x600 file by hand"]:has-text("by hand")')
    await page.press('.CropField', 'ArrowLeft')
    await page.press('.CropField', 'ArrowRight')
    expect(await violations(page)).toEqual([])
    await page.click('[data-test=cut-picture]')
    await page.waitForSelector('.FileNote h2:has-text("Photo 300x600")')
    const source = await page.locator('.FileNote [src*="/api/files/"]').last().getAttribute('src')
    const cut = await (await page.request.get(source ?? '')).body()
    // The red square stands at the right edge of the picture, where the part was drawn to.
    const { dominant } = await sharp(await sharp(cut).extract({ left: 210, top: 50, width: 20, height: 20 }).png().toBuffer()).stats()
    expect(dominant.r).toBeGreaterThan(180)
    await open('Turned.mp4')
    await page.click('[data-test=keep-frame]')
    await page.waitForSelector('.FileNote h2:has-text("Turned, the frame at 0 s")')
    await page.waitForSelector('.FileNote:has-text("PNG, 360x640")')
  })

  it('names what a banner reaches for, and lets one that is quiet onto a line', async () => {
    const zip = async (name: string, script: string) => {
      const packed = new ZipFile()
      const page = `<!doctype html><meta name="ad.size" content="width=300,height=250"><script>var clickTag = ''</script><p>Stroke by stroke</p>${script}`
      packed.addBuffer(Buffer.from(page), 'index.html')
      packed.end()
      writeFileSync(join(folder, name), await buffer(packed.outputStream))
      return join(folder, name)
    }
    const tries = `<img src="https://pixel.example/seen.gif"><link rel="stylesheet" href="https://styles.example/a.css"><script>
      fetch('https://spy.example/x').catch(() => 0); new WebSocket('wss://socket.example/x')
      try { parent.document.title = 'taken' } catch {} try { document.cookie = 'a=b' } catch {} try { localStorage.a = 1 } catch {}
      setTimeout(() => { location.href = 'https://away.example/landing' }, 800)</script>`
    await page.goto(`/creatives?advertiser=${line.advertiserId}`)
    expect(await add(await zip('Loud.zip', tries), await zip('Quiet.zip', ''))).toEqual(['Loud.zip taken', 'Quiet.zip taken'])
    await open('Loud.zip')
    await page.waitForSelector(
      '[data-test=banner-ran]:has-text("It reached for away.example, pixel.example, socket.example, spy.example, styles.example")'
    )
    await page.waitForSelector('[data-test=file-findings] li:has-text("it reaches for away.example")')
    expect(await page.title()).not.toBe('taken')
    expect(await violations(page)).toEqual([])
    await open('Quiet.zip')
    await page.waitForSelector('[data-test=banner-ran]:has-text("It ran, and reached for nothing")')
    await page.goto(`/campaigns/lines/${await lineOf('display')}`)
    await openClause(page, 'F')
    await choose(page, 'library-files', 'Quiet.zip.*')
    await page.waitForSelector('.LineAds tbody tr:has-text("Quiet.zip"):has-text("300x250")')
  })

  it('writes a native ad of its files, has a spot spoken, and records one', async () => {
    await page.goto('/creatives?advertiser=1&make=ad')
    const native = {
      name: 'Jupiter',
      headline: 'See Jupiter',
      longHeadline: 'See the moons of Jupiter tonight',
      text: 'In a minute.',
      brand: 'Nightjar',
      button: 'See it'
    }
    for (const [part, words] of Object.entries(native)) await page.fill(`[data-test=ad-${part}]`, words)
    await page.selectOption('[data-test=ad-icon]', { label: 'Night sky, icon' })
    await page.click('[data-test=make-ad]')
    await page.waitForSelector('.AdForm .trouble:has-text("The picture is needed.")')
    await page.selectOption('[data-test=ad-picture]', { label: 'Night sky, card' })
    expect(await violations(page)).toEqual([])
    await page.click('[data-test=make-ad]')
    await page.waitForSelector('[data-test=ad-made]:has-text("“Jupiter” is made"):has-text("native card, native row")')
    await page.click('[data-test=make-spot]')
    await page.click('[data-test=record]')
    await page.fill('[data-test=spoken-name]', 'Jupiter, spoken')
    await page.fill('[data-test=spoken-script]', 'Jupiter is up tonight. See its moons.')
    await page.fill('[data-test=spoken-seconds]', '10')
    await page.waitForFunction(() => Number(/\d+/.exec(document.querySelector('[data-test=record]')?.textContent ?? '')?.[0] ?? 0) >= 6)
    await page.click('[data-test=record]')
    await page.waitForSelector(`${ENDED}:has-text("Recording of"):has-text("taken")`)
    await page.click('[data-test=speak]')
    await page.waitForSelector('.FileNote h2:has-text("Jupiter, spoken")')
    await page.waitForSelector('.FileNote:has-text("audio spot")')
  })

  it('goes on with a file that broke off, after the page was loaded anew', async () => {
    const heavy = made('Heavy.mp4', ...pattern('1280x720', 20), ...tone(20), ...fast, '-qp', '8')
    const bytes = readFileSync(heavy).length
    await page.goto(`/creatives?advertiser=${line.advertiserId}`)
    // The line goes dead after the first part, and stays so until the page is loaded anew.
    let isDead = true
    let parts = 0
    await page.route('**/api/uploads/*', async (route) => {
      const request = route.request()
      if (request.method() !== 'PATCH' || !isDead) return route.continue()
      if (parts++ === 0)
        await page.request.fetch(request.url(), {
          method: 'PATCH',
          headers: { ...request.headers(), 'content-length': String(PART) },
          data: readFileSync(heavy).subarray(0, PART)
        })
      return route.abort()
    })
    await page.setInputFiles('.CreativesView [data-test=file]', [heavy])
    await expect.poll(() => parts, { timeout: 20_000 }).toBeGreaterThan(1)
    await page.reload()
    isDead = false
    await page.waitForSelector('[data-test=cut-off]:has-text("Heavy.mp4")')
    const offsets: number[] = []
    page.on('request', (request) => {
      if (request.method() === 'PATCH') offsets.push(Number(request.headers()['upload-offset']))
    })
    expect(await add(heavy)).toEqual(['Heavy.mp4 taken'])
    expect([offsets[0], bytes > PART]).toEqual([PART, true])
    const taken = page.locator('.CreativesView-row button:has-text("Heavy.mp4")')
    await taken.waitFor()
  })
})
