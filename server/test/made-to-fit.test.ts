import { readFileSync } from 'node:fs'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { FileView, FitView } from '@tin-harbor/core/contract'
import { cropFor, fileVerdict, fitFor, fitWords, type FilmFit } from '@tin-harbor/core/creative'
import { StoredFile } from '../src/files/file-model.js'
import { FAST, PATTERN, TONE, inFolder, madeFile } from './support/files.js'
import { libraryOf, type Library } from './support/library.js'
import { testServer, type Ask, type TestServer } from './support/server.js'

let server: TestServer
let ask: Ask
let [added, fileOf, ended] = [] as unknown as [Library['added'], Library['fileOf'], Library['ended']]
const ADVERTISER = 1
beforeAll(async () => {
  server = await testServer('fits')
  ask = await server.as('ines@wharfside.example')
  ;({ added, fileOf, ended } = libraryOf(server, ask, ADVERTISER))
})
afterAll(() => server.close())

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
      const film = await added(
        'Colours.mp4',
        readFileSync(await madeFile(folder, 'c.mp4', ...COLOURS, ...TONE(6), ...JOINED, ...FAST, '-c:a', 'aac'))
      )
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
      const film = await added(
        'Parts.mp4',
        readFileSync(await madeFile(folder, 'p.mp4', ...COLOURS, ...TONE(6, -2), ...JOINED, ...FAST, '-c:a', 'aac'))
      )
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
      const hard = await added(
        'Noise.mp4',
        readFileSync(await madeFile(folder, 'n.mp4', ...noise, ...TONE(3), ...FAST, '-crf', '12', '-c:a', 'aac'))
      )
      const poor = await ended(ask('POST', `/files/${hard.id}/film-fit`, { ...fit, moments: null, to: 3, mostBytes: 150_000 }))
      expect([poor.state, poor.said]).toEqual(['done', expect.stringContaining('under 0.97')])
    })
  }, 120_000)

  it('that browsers do not play has one that stands in for it; a recording gets the length that it had not', async () => {
    await inFolder(async (folder) => {
      const path = await madeFile(folder, 'o.mkv', ...PATTERN('1280x720', 3), ...TONE(3), '-c:v', 'mpeg4', '-c:a', 'mp3')
      const odd = await added('Old.mkv', readFileSync(path))
      expect([odd.facts.type, odd.hasProxy]).toEqual(['video/x-matroska', false])
      const stoodIn = await ended(ask('POST', `/files/${odd.id}/playable`))
      expect([stoodIn.state, stoodIn.said, (await fileOf(odd.id)).hasProxy]).toEqual(['done', '', true])
      const proxy = await get(`/files/${odd.id}/content?playable=yes`)
      expect([proxy.type, proxy.data.subarray(4, 8).toString()]).toEqual(['video/mp4', 'ftyp'])
      const own = await get(`/files/${odd.id}/content`)
      expect(own.data.length).toBe(odd.bytes)
      expect((await ask('GET', `/files/${odd.id}/content?playable=maybe`)).status).toBe(422)
      const piped = await madeFile(folder, 'r.webm', ...TONE(4), '-c:a', 'libopus', '-live', '1')
      const recording = await added('Recording.webm', readFileSync(piped))
      expect(recording.facts).toMatchObject({ medium: 'sound', type: 'audio/webm', heard: { codec: 'opus' } })
      expect(recording.facts.seconds).toBeCloseTo(4, 0)
      const needless = await ask('POST', `/files/${recording.id}/playable`)
      expect([needless.status, needless.body.issues[0].message]).toEqual([422, 'Browsers play it as it is.'])
    })
  }, 60_000)
})

describe('a file', () => {
  it('is made to fit: a film cut, padded, levelled and given a sound, as a file of its own that every player takes', async () => {
    await inFolder(async (folder) => {
      const loud = await madeFile(folder, 'loud.mp4', ...PATTERN('640x480', 9), ...TONE(9, 12), ...FAST, '-c:a', 'aac', '-shortest')
      const file = await added('Loud.mp4', readFileSync(loud))
      const wanted = { ...(fitFor(file.facts, 'large player') as FilmFit), from: 1, to: 8 }
      expect(fitWords(file.facts, wanted)).toBe('cut to 0:01-0:08, padded to 1280x720, levelled to -20 LUFS')
      const job = await ask<FitView>('POST', `/files/${file.id}/film-fit`, wanted)
      expect([job.status, job.body]).toMatchObject([200, { words: fitWords(file.facts, wanted) }])
      const done = await ended(Promise.resolve(job))
      expect([done.state, done.said, done.made.length]).toEqual(['done', '', 1])
      const made = await fileOf(done.made[0])
      expect(made).toMatchObject({ madeFrom: file.id, facts: { width: 1280, height: 720 } })
      // A pattern of hard edges, enlarged: how like its original it is, is told beside.
      expect(made.madeHow).toMatch(new RegExp(`^${fitWords(file.facts, wanted)}; SSIM 0\\.\\d{3}$`))
      expect(made.facts.seconds).toBeCloseTo(7, 1)
      expect(Math.abs((made.facts.heard?.lufs ?? 0) + 20)).toBeLessThan(1)
      expect(fileVerdict(made.facts).takes.map(({ shape }) => shape)).toEqual(['small player', 'medium player', 'large player'])
      expect(await fileOf(file.id)).toMatchObject({ sha256: file.sha256, madeFrom: null })
      const mute = await madeFile(folder, 'mute.mp4', ...PATTERN('1280x720', 6), ...FAST)
      const silent = await added('Mute.mp4', readFileSync(mute))
      const given = await ended(ask('POST', `/files/${silent.id}/film-fit`, fitFor(silent.facts, 'large player')))
      expect((await fileOf(given.made[0])).facts.heard).toMatchObject({ codec: 'aac', isSilent: true })
    })
  }, 120_000)

  it('is stopped, or cannot be made, without a trace; what is asked wrongly is refused by the field', async () => {
    await inFolder(async (folder) => {
      const path = await madeFile(folder, 'long.mp4', ...PATTERN('1280x720', 20), ...TONE(20), ...FAST, '-c:a', 'aac', '-shortest')
      const file = await added('Long.mp4', readFileSync(path))
      const fit = {
        ...(fitFor(file.facts, 'large player') as FilmFit),
        frame: { width: 1920, height: 1080, how: 'pad', focal: { x: 0.5, y: 0.5 } }
      }
      const before = await StoredFile.count()
      const job = await ask<FitView>('POST', `/files/${file.id}/film-fit`, fit)
      const second = await ask<FitView>('POST', `/files/${file.id}/film-fit`, fit)
      expect(second.body.state).toBe('waits')
      await ask('DELETE', `/fits/${second.body.id}`)
      await ask('DELETE', `/fits/${job.body.id}`)
      expect([(await ended(Promise.resolve(job))).state, (await ended(Promise.resolve(second))).state]).toEqual(['stopped', 'stopped'])
      expect((await ended(Promise.resolve(job))).said).toBe('Stopped; nothing was made.')
      expect(await StoredFile.count()).toBe(before)
      const asked = async (over: object) =>
        (await ask('POST', `/files/${file.id}/film-fit`, { ...fit, ...over })).body as { issues?: { field: string }[] }
      expect((await asked({ from: 5, to: 4 })).issues?.[0].field).toBe('to')
      expect((await asked({ from: 50, to: 60 })).issues?.[0].field).toBe('from')
      expect((await asked({ frame: { ...fit.frame, width: 9 } })).issues?.[0].field).toBe('frame.width')
      const reader = await server.signIn('rui@wharfside.example')
      expect((await reader.ask('POST', `/files/${file.id}/film-fit`, fit)).status).toBe(403)
      expect((await ask('GET', '/fits/99999')).status).toBe(404)
    })
  }, 120_000)

  it('is cut for slots, the point that matters kept, each under its weight, without what the camera wrote', async () => {
    // Noise weighs much; a red square marks the point.
    const noise = Buffer.from(Array.from({ length: 1600 * 1000 * 3 }, (_, n) => Math.imul(n, 2654435761) >>> 25))
    const mark = await sharp({ create: { width: 120, height: 120, channels: 3, background: '#f00' } })
      .png()
      .toBuffer()
    const data = await sharp(noise, { raw: { width: 1600, height: 1000, channels: 3 } })
      .composite([{ input: mark, left: 1300, top: 100 }])
      .withExifMerge({ IFD3: { GPSLatitudeRef: 'N', GPSLatitude: '38/1 42/1 0/1' } })
      .jpeg({ quality: 95 })
      .toBuffer()
    const file = await added('Noise.jpg', data)
    // Where it was taken is gone from what is kept; nothing else is.
    expect([file.facts.hasPlace, file.bytes]).toEqual([false, data.length])
    expect((await server.deps.store.read(file.sha256)).includes(data.subarray(-2000))).toBe(true)
    const slots = [
      { shape: '300x250', part: 'file' },
      { shape: '728x90', part: 'file' },
      { shape: '160x600', part: 'file' },
      { shape: 'native card', part: 'icon' }
    ]
    const done = await ended(ask('POST', `/files/${file.id}/picture-fit`, { slots, focal: { x: 0.85, y: 0.16 } }))
    expect([done.state, done.made.length]).toEqual(['done', 4])
    for (const [n, { shape, part }] of slots.entries()) {
      const made = await fileOf(done.made[n])
      expect(fileVerdict(made.facts).takes).toContainEqual(expect.objectContaining({ shape, part }))
      expect(made.facts.hasPlace).toBe(false)
      const spot = sharp(await server.deps.store.read(made.sha256)).extract(around(made))
      const { dominant } = await sharp(await spot.png().toBuffer()).stats()
      expect(dominant.r).toBeGreaterThan(200)
      expect(dominant.g).toBeLessThan(90)
    }
    expect((await ask('POST', `/files/${file.id}/picture-fit`, { slots: [], focal: { x: 0, y: 0 } })).status).toBe(422)
    function around({ facts: { width, height } }: FileView) {
      const crop = cropFor(1600, 1000, (width ?? 1) / (height ?? 1), { x: 0.85, y: 0.16 })
      const scale = (width ?? 1) / crop.width
      const [x, y] = [(1360 - crop.left) * scale, (160 - crop.top) * scale].map(Math.round)
      return { left: x - 3, top: y - 3, width: 6, height: 6 }
    }
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
