import { readFileSync } from 'node:fs'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { FileView, FitView } from '@tin-harbor/core/contract'
import { fileVerdict, fitFor, type FilmFit } from '@tin-harbor/core/creative'
import { takeData } from '../src/files/library.js'
import { FAST, PATTERN, TONE, inFolder, madeFile } from './support/files.js'
import { testServer, type Ask, type TestServer } from './support/server.js'

let server: TestServer
let ask: Ask
const ADVERTISER = 1
beforeAll(async () => {
  server = await testServer('looks')
  ask = await server.as('ines@wharfside.example')
})
afterAll(() => server.close())

async function added(name: string, path: string): Promise<FileView> {
  const { body: user } = await ask('GET', '/me')
  return (await takeData(server.deps, user, ADVERTISER, { name, data: readFileSync(path) })).file
}
const fileOf = async (id: number) => (await ask<FileView>('GET', `/files/${id}`)).body
async function ended(asked: Promise<{ body: FitView }>): Promise<FitView> {
  let { body } = await asked
  while (body.state === 'waits' || body.state === 'works') {
    await new Promise((resolve) => setTimeout(resolve, 50))
    body = (await ask<FitView>('GET', `/fits/${body.id}`)).body
  }
  return body
}
async function get(path: string): Promise<{ type: string | null; data: Buffer }> {
  const { cookie } = await server.signIn('rui@wharfside.example')
  const answer = await fetch(`${server.address}/api${path}`, { headers: { cookie } })
  return { type: answer.headers.get('content-type'), data: Buffer.from(await answer.arrayBuffer()) }
}
/** Red for two seconds, green for two, blue for two, with a tone. */
const COLOURS = ['red', 'lime', 'blue'].flatMap((colour) => ['-f', 'lavfi', '-t', '2', '-i', `color=${colour}:s=640x360:r=25`])
const JOINED = ['-filter_complex', '[0:v][1:v][2:v]concat=n=3:v=1[v]', '-map', '[v]', '-map', '3:a', '-g', '10']

describe('a film', () => {
  it('is seen as a strip of frames over all of it, and gives a frame as a picture', async () => {
    await inFolder(async (folder) => {
      const film = await added('Colours.mp4', await madeFile(folder, 'c.mp4', ...COLOURS, ...TONE(6), ...JOINED, ...FAST, '-c:a', 'aac'))
      const strip = await get(`/files/${film.id}/strip`)
      expect(strip.type).toBe('image/jpeg')
      const { width = 0, height = 0 } = await sharp(strip.data).metadata()
      expect([width, height]).toEqual([600, 68])
      const seen = await Promise.all(
        [0.1, 0.5, 0.9].map(async (share) => {
          const spot = await sharp(strip.data)
            .extract({ left: Math.round(width * share), top: 30, width: 8, height: 8 })
            .png()
            .toBuffer()
          const { channels } = await sharp(spot).stats()
          return channels.map(({ mean }) => mean > 128)
        })
      )
      expect(seen).toEqual([
        [true, false, false],
        [false, true, false],
        [false, false, true]
      ])
      const kept = await ended(ask('POST', `/files/${film.id}/frame`, { second: 3 }))
      const poster = await fileOf(kept.made[0])
      expect(poster).toMatchObject({ medium: 'picture', madeFrom: film.id, facts: { width: 640, height: 360 } })
      const { dominant } = await sharp((await get(`/files/${poster.id}/content`)).data).stats()
      expect(dominant.g).toBeGreaterThan(200)
      expect(JSON.stringify((await ask('POST', `/files/${film.id}/frame`, { second: 7 })).body)).toContain('The film has 6')
      expect((await ask('GET', `/files/${poster.id}/strip`)).status).toBe(422)
    })
  }, 60_000)

  it('is shortened to marked moments, one after the other, sound and all; how like its original it stays is measured', async () => {
    await inFolder(async (folder) => {
      const film = await added('Parts.mp4', await madeFile(folder, 'p.mp4', ...COLOURS, ...TONE(6, -2), ...JOINED, ...FAST, '-c:a', 'aac'))
      const fit = {
        ...(fitFor(film.facts, 'medium player') as FilmFit),
        moments: [
          { from: 0.4, to: 1.4 },
          { from: 4.4, to: 5.4 }
        ]
      }
      const short = await fileOf((await ended(ask('POST', `/files/${film.id}/film-fit`, fit))).made[0])
      expect(short.madeHow).toContain('2 s of 2 moments')
      expect(short.facts.seconds).toBeCloseTo(2, 0)
      const [early, late] = await Promise.all(
        [0.5, 1.5].map(async (second) => {
          const frame = await fileOf((await ended(ask('POST', `/files/${short.id}/frame`, { second }))).made[0])
          return (await sharp((await get(`/files/${frame.id}/content`)).data).stats()).dominant
        })
      )
      expect([early.r > 200, late.b > 200]).toEqual([true, true])
      const asked = (moments: object) => ask('POST', `/files/${film.id}/film-fit`, { ...fit, moments })
      for (const wrong of [
        [],
        [{ from: 2, to: 1 }],
        [
          { from: 1, to: 3 },
          { from: 2, to: 4 }
        ],
        [{ from: 5, to: 9 }]
      ])
        expect((await asked(wrong)).status).toBe(422)
      const whole = { ...fit, moments: null, to: 5, frame: { width: 480, height: 270, how: 'pad', focal: { x: 0.5, y: 0.5 } } }
      const made = await ended(ask('POST', `/files/${film.id}/film-fit`, whole))
      const how = (await fileOf(made.made[0])).madeHow ?? ''
      expect(Number(/SSIM ([\d.]+)/.exec(how)?.[1])).toBeGreaterThan(0.97)
      const noise = ['-f', 'lavfi', '-t', '3', '-i', 'testsrc2=s=640x360:r=25,noise=alls=90:allf=t']
      const hard = await added('Noise.mp4', await madeFile(folder, 'n.mp4', ...noise, ...TONE(3), ...FAST, '-crf', '12', '-c:a', 'aac'))
      const poor = await ended(ask('POST', `/files/${hard.id}/film-fit`, { ...fit, moments: null, to: 3, mostBytes: 150_000 }))
      expect([poor.state, poor.said]).toEqual(['done', expect.stringContaining('under 0.97')])
    })
  }, 120_000)

  it('that browsers do not play has one that stands in for it; a recording gets the length that it had not', async () => {
    await inFolder(async (folder) => {
      const odd = await added(
        'Old.mkv',
        await madeFile(folder, 'o.mkv', ...PATTERN('1280x720', 3), ...TONE(3), '-c:v', 'mpeg4', '-c:a', 'mp3')
      )
      expect([odd.facts.type, odd.hasProxy]).toEqual(['video/x-matroska', false])
      const stoodIn = await ended(Promise.resolve({ body: server.deps.fits.proxy(server.deps, odd) }))
      expect([stoodIn.state, stoodIn.said, (await fileOf(odd.id)).hasProxy]).toEqual(['done', '', true])
      const proxy = await get(`/files/${odd.id}/content?playable=yes`)
      expect([proxy.type, proxy.data.subarray(4, 8).toString()]).toEqual(['video/mp4', 'ftyp'])
      const own = await get(`/files/${odd.id}/content`)
      expect(own.data.length).toBe(odd.bytes)
      expect((await ask('GET', `/files/${odd.id}/content?playable=maybe`)).status).toBe(422)
      const piped = await madeFile(folder, 'r.webm', ...TONE(4), '-c:a', 'libopus', '-live', '1')
      const recording = await added('Recording.webm', piped)
      expect(recording.facts).toMatchObject({ medium: 'sound', type: 'audio/webm', heard: { codec: 'opus' } })
      expect(recording.facts.seconds).toBeCloseTo(4, 0)
    })
  }, 60_000)
})

describe('a spot', () => {
  it('is read by the studio in the time that it has, over music, as loud as spots are; what does not fit is said', async () => {
    const script = 'Ten minutes a day, stroke by stroke. The first week is free.'
    const wanted = { name: 'Ten minutes', script, voice: 'English', seconds: 10, bed: true }
    const spoken = await ended(ask('POST', `/advertisers/${ADVERTISER}/spoken`, wanted))
    expect([spoken.state, spoken.said]).toEqual(['done', ''])
    const spot = await fileOf(spoken.made[0])
    expect(spot).toMatchObject({ name: 'Ten minutes', medium: 'sound', madeHow: 'spoken in English, 10 s' })
    expect(spot.facts.seconds).toBeCloseTo(10, 0)
    expect(fileVerdict(spot.facts).takes.map(({ shape }) => shape)).toEqual(['audio spot'])
    const long = await ended(ask('POST', `/advertisers/${ADVERTISER}/spoken`, { ...wanted, script: script.repeat(8) }))
    expect([long.state, long.said]).toEqual(['failed', expect.stringMatching(/Read at its fastest it takes \d+ s, and 10 s were wanted/)])
    const { body } = await ask('POST', `/advertisers/${ADVERTISER}/spoken`, { ...wanted, script: ' … ', voice: 'Klingon', seconds: 90 })
    expect(body.issues.map(({ field }: { field: string }) => field).sort()).toEqual(['script', 'seconds', 'voice'])
  }, 60_000)
})
