import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from 'playwright-core'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
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
        return rows.length === count && rows.every((row) => !/waits|is read|%/.test(row.textContent ?? ''))
      },
      [ENDED, before + paths.length] as const
    )
    return (await page.locator(ENDED).allInnerTexts()).slice(before).map((text) => text.replace(/\s+/g, ' '))
  }
  const open = (name: string) => page.click(`.CreativesView-row button:has-text("${name}")`)

  it('takes a film of 46 s, says by whom it is not taken, makes 30 s of it, and puts that on a line', async () => {
    const film = made('Harbour.mp4', ...pattern('1280x720', 46), ...tone(46), ...fast)
    const mute = made('Mute.mp4', ...pattern('640x360', 6), ...fast.slice(0, 6))
    writeFileSync(join(folder, 'list.mp4'), '#EXTM3U\nfile:///etc/passwd\n')
    await page.goto(`/creatives?advertiser=${line.advertiserId}`)
    expect(await add(film, mute, join(folder, 'list.mp4'))).toEqual([
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
    await page.fill('[aria-label="Seconds at which the part ends"]', '34')
    await page.press('[aria-label="Seconds at which the part ends"]', 'Tab')
    await page.waitForSelector('.FitFilm-words:has-text("cut to 0:04-0:34")')
    await page.click('[data-test=make-fit]')
    await page.waitForSelector('.FileNote h2:has-text("Harbour, cut to 0:04-0:34")')
    await page.waitForSelector('.FileNote-both figcaption:has-text("46 s")')
    expect(await violations(page)).toEqual([])
    const video = (await (
      await page.request.post(`/api/campaigns/${line.campaignId}/lines`, {
        headers: { origin: address() },
        data: { ...line.draft, name: 'Film of 30 s', format: 'video', targeting: { restrictions: [] } }
      })
    ).json()) as { id: number }
    await page.goto(`/campaigns/lines/${video.id}`)
    await openClause(page, 'F')
    await choose(page, 'library-files', 'Harbour, cut to 0:04-0:34.*')
    await page.waitForSelector('.LineCreatives li:has-text("Harbour, cut to 0:04-0:34"):has-text("large player")')
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
