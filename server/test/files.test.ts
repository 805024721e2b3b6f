import { readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { QueryTypes } from 'sequelize'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { FileTaken, FileView } from '@tin-harbor/core/contract'
import { fileVerdict } from '@tin-harbor/core/creative'
import { Creative } from '../src/creatives/creative-model.js'
import { ContentStore } from '../src/files/content-store.js'
import { StoredFile, Upload } from '../src/files/file-model.js'
import { moveBlobs } from '../src/files/moving.js'
import { readFacts } from '../src/files/reading.js'
import { FAST, PATTERN, TONE, inFolder, madeFile } from './support/files.js'
import { testServer, type Ask, type TestServer } from './support/server.js'

const facts = (path: string) => readFacts(path, statSync(path).size)
const refusal = (path: string) =>
  facts(path).then(
    () => 'taken',
    ({ issues }: { issues?: { message: string }[] }) => issues?.[0].message ?? 'something else'
  )

describe('a file that is read', () => {
  it('is known by what it holds: a film with sound, turned by a flag, without a length in it, or without sound', async () => {
    await inFolder(async (folder) => {
      const film = await madeFile(folder, 'film.bin.mp4', ...PATTERN('640x360', 6), ...TONE(6), ...FAST, '-c:a', 'aac', '-shortest')
      expect(await facts(film)).toMatchObject({
        medium: 'film',
        type: 'video/mp4',
        width: 640,
        height: 360,
        turned: 0,
        seen: { codec: 'h264', framesASecond: 25 },
        heard: { codec: 'aac', isSilent: false }
      })
      const { seconds, heard } = await facts(film)
      expect(seconds).toBeCloseTo(6, 1)
      expect(heard?.lufs).toBeLessThan(-15)
      expect(heard?.lufs).toBeGreaterThan(-28)
      const turned = await madeFile(folder, 'turned.mp4', '-display_rotation', '90', '-i', film, '-c', 'copy').catch(() =>
        madeFile(folder, 'turned.mp4', '-i', film, '-metadata:s:v', 'rotate=90', '-c', 'copy')
      )
      const { turned: degrees, width, height } = await facts(turned)
      expect([degrees % 180, width, height]).toEqual([90, 360, 640])
      const mute = await madeFile(folder, 'mute.webm', ...PATTERN('320x180', 2), '-c:v', 'libvpx')
      expect(fileVerdict(await facts(mute)).findings.map(({ rule }) => rule)).toContain('sound')
      const silent = await madeFile(folder, 'silent.wav', '-f', 'lavfi', '-t', '5', '-i', 'anullsrc')
      expect(await facts(silent)).toMatchObject({ medium: 'sound', type: 'audio/wav', heard: { isSilent: true, lufs: null } })
    })
  }, 60_000)

  it('is turned as its picture says, and tells where it was taken only as a warning', async () => {
    await inFolder(async (folder) => {
      const path = join(folder, 'phone.jpg')
      const photo = sharp({ create: { width: 640, height: 320, channels: 3, background: '#335' } }).jpeg()
      await photo
        .withMetadata({ orientation: 6 })
        .withExifMerge({ IFD3: { GPSLatitudeRef: 'N', GPSLatitude: '38/1 42/1 0/1' } })
        .toFile(path)
      expect(await facts(path)).toMatchObject({ medium: 'picture', width: 320, height: 640, turned: 90, hasPlace: true })
      const moving = join(folder, 'moving.gif')
      const frames = [1, 2, 3].map((n) => sharp({ create: { width: 300, height: 250, channels: 3, background: `#${n}${n}5` } }).png())
      const pages = await Promise.all(frames.map((frame) => frame.toBuffer()))
      await sharp(pages, { join: { animated: true } })
        .gif({ delay: [500, 500, 500], loop: 2 })
        .toFile(moving)
      expect(await facts(moving)).toMatchObject({ width: 300, height: 250, seconds: 1.5, loops: 2 })
    })
  })

  it('is refused, with what it is, when it is none that we take, whatever its name says', async () => {
    await inFolder(async (folder) => {
      const named = (name: string, data: string | Buffer) => {
        writeFileSync(join(folder, name), data)
        return refusal(join(folder, name))
      }
      writeFileSync(join(folder, 'secret.txt'), 'nobody reads this')
      const film = await madeFile(folder, 'whole.mp4', ...PATTERN('320x180', 3), ...FAST)
      expect(await named('empty.png', '')).toBe('The file is empty.')
      expect(await named('a.svg', '<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>')).toContain('can run scripts')
      expect(await named('list.mp4', '#EXTM3U\n#EXTINF:5,\nsecret.txt\n#EXT-X-ENDLIST\n')).toContain('playlist')
      expect(await named('list.mpd', '<?xml version="1.0"?><MPD><BaseURL>secret.txt</BaseURL></MPD>')).toMatch(
        /no picture, film, sound or banner|xml/
      )
      expect(await named('concat.mp4', 'ffconcat version 1.0\nfile secret.txt\n')).toContain('no picture, film, sound or banner')
      expect(await named('page.png', '<!doctype html><script>alert(1)</script>')).toContain('no picture, film, sound or banner')
      expect(await named('cut.mp4', readFileSync(film).subarray(0, 9000))).toContain('damaged, or cut off')
      expect(await named('noise.mp4', Buffer.concat([readFileSync(film).subarray(0, 40), Buffer.alloc(5000, 7)]))).toContain('damaged')
      const bomb = await sharp({ create: { width: 16_000, height: 16_000, channels: 3, background: '#000' } })
        .png({ compressionLevel: 9 })
        .toBuffer()
      expect(await named('bomb.png', bomb)).toContain('cannot be read')
      const { type } = await readFacts(film, statSync(film).size)
      writeFileSync(join(folder, 'called.jpg'), readFileSync(film))
      expect((await facts(join(folder, 'called.jpg'))).type).toBe(type)
    })
  }, 60_000)
})

describe('the store', () => {
  it('has a content once, under its hash, whole or not at all; the sweep takes what is old and not named, nothing else', async () => {
    await inFolder(async (folder) => {
      const store = new ContentStore(folder)
      const [one, again, other] = await Promise.all(['a', 'a', 'b'].map((text) => store.put(Buffer.from(text))))
      expect([one, again.sha256 === one.sha256, other.bytes]).toEqual([{ sha256: one.sha256, bytes: 1 }, true, 1])
      expect((await store.read(one.sha256)).toString()).toBe('a')
      expect(() => store.pathOf('../../etc/passwd')).toThrow('named by its hash')
      writeFileSync(join(folder, 'broken-off.part'), 'half')
      expect(await store.sweep(new Set([one.sha256]))).toEqual([])
      const swept = await store.sweep(new Set([one.sha256]), 0)
      expect(swept.map((name) => name.slice(-8)).sort()).toEqual(['off.part', other.sha256.slice(-8)].sort())
      expect([await store.has(one.sha256), await store.has(other.sha256)]).toEqual([true, false])
      await expect(store.take(join(folder, 'not-there'))).rejects.toThrow()
      expect(readdirSync(folder).filter((name) => name.endsWith('.part'))).toEqual([])
    })
  })
})

/** An advertiser that has no file yet. */
const EMPTY = 3

describe('an upload', () => {
  let server: TestServer
  let ask: Ask
  let cookie: string
  let advertiserId: number
  const headersOf = (own: string) => ({ origin: server.address, cookie: own, 'tus-resumable': '1.0.0' })
  const begin = (name: string, bytes: number, own = cookie, whose = advertiserId) =>
    fetch(`${server.address}/api/advertisers/${whose}/uploads`, {
      method: 'POST',
      headers: {
        ...headersOf(own),
        'upload-length': String(bytes),
        'upload-metadata': `filename ${Buffer.from(name).toString('base64')}`
      }
    })
  const send = (address: string, offset: number, data: Buffer, own = cookie) =>
    fetch(`${server.address}${address}`, {
      method: 'PATCH',
      headers: { ...headersOf(own), 'upload-offset': String(offset), 'content-type': 'application/offset+octet-stream' },
      body: new Uint8Array(data)
    })
  const offsetOf = async (address: string) =>
    Number((await fetch(`${server.address}${address}`, { method: 'HEAD', headers: headersOf(cookie) })).headers.get('upload-offset'))
  const picture = (background: string) =>
    sharp({ create: { width: 300, height: 250, channels: 3, background } })
      .png()
      .toBuffer()
  async function whole(
    name: string,
    data: Buffer,
    whose = advertiserId
  ): Promise<{ status: number; body: FileTaken & { issues?: { message: string }[] } }> {
    const address = (await begin(name, data.length, cookie, whose)).headers.get('location') ?? ''
    await send(address, 0, data)
    const { status, body } = await ask('POST', `${address.replace('/api', '')}/finish`)
    return { status, body: body as FileTaken }
  }

  beforeAll(async () => {
    server = await testServer('files')
    const trader = await server.signIn('ines@wharfside.example')
    ask = trader.ask
    cookie = trader.cookie
    advertiserId = ((await ask('GET', '/manifest')).body.advertisers as { id: number }[])[0].id
  })
  afterAll(() => server.close())

  it('goes on where it broke off, is read when it is whole, and is in the library once', async () => {
    const data = await picture('#123456')
    const begun = await begin('Harbour.png', data.length)
    const address = begun.headers.get('location') ?? ''
    expect([begun.status, address]).toEqual([201, expect.stringMatching(/^\/api\/uploads\/\d+$/)])
    expect(begun.headers.get('access-control-allow-origin')).toBeNull()
    await send(address, 0, data.subarray(0, 100))
    expect(await offsetOf(address)).toBe(100)
    expect((await ask('POST', `${address.replace('/api', '')}/finish`)).status).toBe(409)
    expect((await send(address, 40, data.subarray(40))).status).toBe(409)
    expect((await send(address, 100, data.subarray(100))).status).toBe(204)
    const taken = await ask('POST', `${address.replace('/api', '')}/finish`)
    const { file, wasKnown } = taken.body as unknown as FileTaken
    expect([taken.status, wasKnown, file.name, file.facts.width, file.usedBy]).toEqual([200, false, 'Harbour.png', 300, []])
    expect((await ask('POST', `${address.replace('/api', '')}/finish`)).status).toBe(404)
    const again = await whole('The same.png', data)
    expect([again.body.wasKnown, again.body.file.id, again.body.file.name]).toEqual([true, file.id, 'Harbour.png'])
    const served = await fetch(`${server.address}/api/files/${file.id}/content`, { headers: { cookie } })
    expect([served.headers.get('content-type'), Buffer.from(await served.arrayBuffer()).equals(data)]).toEqual(['image/png', true])
    expect(served.headers.get('content-security-policy')).toContain('sandbox')
  })

  it('is nobody else’s to see, go on with, finish or give up, and needs the rights and the advertiser', async () => {
    const data = await picture('#654321')
    const address = (await begin('Mine.png', data.length)).headers.get('location') ?? ''
    const admin = await server.signIn('marta@wharfside.example')
    const verb = async (method: string, own: string) =>
      (await fetch(`${server.address}${address}`, { method, headers: { ...headersOf(own), 'upload-offset': '0' } })).status
    expect(await Promise.all(['HEAD', 'PATCH', 'DELETE'].map((method) => verb(method, admin.cookie)))).toEqual([404, 404, 404])
    expect((await admin.ask('POST', `${address.replace('/api', '')}/finish`)).status).toBe(404)
    expect((await fetch(`${server.address}${address}`, { headers: headersOf(admin.cookie) })).status).toBe(404)
    const reader = await server.signIn('rui@wharfside.example')
    expect((await begin('Not mine.png', 10, reader.cookie)).status).toBe(403)
    expect(await verb('PATCH', reader.cookie)).toBe(403)
    expect(
      (await fetch(`${server.address}/api/advertisers/${advertiserId}/uploads`, { method: 'POST', headers: { 'upload-length': '10' } }))
        .status
    ).toBe(403)
    const dropped = await fetch(`${server.address}${address}`, { method: 'DELETE', headers: headersOf(cookie) })
    expect([dropped.status, await Upload.count()]).toEqual([204, 0])
  })

  it('is kept without where it was taken: a picture to the last pixel, a film to the last frame', async () => {
    const place = { IFD3: { GPSLatitudeRef: 'N', GPSLatitude: '38/1 42/1 0/1', GPSLongitudeRef: 'W', GPSLongitude: '9/1 8/1 0/1' } }
    for (const type of ['jpeg', 'webp', 'png'] as const) {
      const data = await sharp(await picture('#3377aa'))
        .withExifMerge(place)
        [type]()
        .toBuffer()
      const { file } = (await whole(`Phone.${type}`, data)).body
      expect([type, file.facts.hasPlace, file.facts.type]).toEqual([type, false, `image/${type}`])
      const kept = await server.deps.store.read(file.sha256)
      const pixels = (one: Buffer) => sharp(one).raw().toBuffer()
      expect((await pixels(kept)).equals(await pixels(data))).toBe(true)
    }
    await inFolder(async (folder) => {
      const told = ['-metadata', 'location=+38.7000-009.1333/']
      const path = await madeFile(folder, 'phone.mp4', ...PATTERN('320x180', 6), ...TONE(6), ...FAST, '-c:a', 'aac', '-shortest', ...told)
      expect((await facts(path)).hasPlace).toBe(true)
      const { file } = (await whole('Phone.mp4', readFileSync(path))).body
      expect(file.facts).toMatchObject({ hasPlace: false, width: 320, seen: { codec: 'h264', framesASecond: 25 } })
      expect((await whole('Again.mp4', readFileSync(path))).body.wasKnown).toBe(true)
    })
  }, 60_000)

  it('of what cannot be read says why, and leaves nothing', async () => {
    const before = await StoredFile.count()
    const refused = await whole('film.mp4', Buffer.from('#EXTM3U\nfile:///etc/passwd\n'))
    expect([refused.status, refused.body.issues?.[0].message]).toEqual([422, expect.stringContaining('playlist')])
    expect([await StoredFile.count(), await Upload.count()]).toEqual([before, 0])
    expect((await begin('x'.repeat(300), 10)).status).toBe(422)
    expect((await begin('huge.mp4', 500 * 1024 * 1024)).status).toBe(422)
    expect((await begin('empty.mp4', 0)).status).toBe(422)
    const beginWith = async (over: Record<string, string>) =>
      (
        await fetch(`${server.address}/api/advertisers/${advertiserId}/uploads`, {
          method: 'POST',
          headers: { ...headersOf(cookie), 'upload-length': '10', 'upload-metadata': 'filename aGVsbG8=', ...over }
        })
      ).status
    expect([await beginWith({ 'upload-metadata': '=,;' }), await beginWith({ 'upload-length': 'ten' })]).toEqual([422, 422])
    expect(await beginWith({ 'tus-resumable': '9.9.9' })).toBe(400)
    // It is forgotten once it is answered.
    await expect.poll(() => Upload.count()).toBe(0)
  })

  it('of many into an empty library is taken whole, and the same one twice is one file', async () => {
    const before = await StoredFile.count()
    const pictures = await Promise.all(Array.from({ length: 24 }, (_, n) => picture(`#00${String(n + 10)}44`)))
    const taken = await Promise.all([...pictures, ...pictures].map((data, n) => whole(`Many ${n}.png`, data, EMPTY)))
    expect(taken.map(({ status }) => status)).toEqual(taken.map(() => 200))
    expect([await StoredFile.count(), new Set(taken.map(({ body }) => body.file.id)).size]).toEqual([before + 24, 24])
  }, 60_000)

  it('is named, described, tagged and retired; a stale edit is refused; what is taken again is offered again', async () => {
    const data = await picture('#777777')
    const { file } = (await whole('Plain.png', data)).body
    const edit = { name: 'Plain, grey', altText: 'A grey box', tags: ['spring'], retired: true, version: file.version }
    const saved = (await ask('PUT', `/files/${file.id}`, edit)).body as unknown as FileView
    expect(saved).toMatchObject({ name: 'Plain, grey', altText: 'A grey box', tags: ['spring'], retired: true, version: 2 })
    expect((await ask('PUT', `/files/${file.id}`, edit)).status).toBe(409)
    expect((await ask('PUT', `/files/${file.id}`, { ...edit, version: 2, altText: 'x'.repeat(301) })).status).toBe(422)
    expect((await whole('Plain.png', data)).body.file).toMatchObject({ id: file.id, retired: false, name: 'Plain, grey' })
  })

  it('goes onto a line that can show it: pictures as they are, films and sounds of their formats', async () => {
    const lines = (await ask('GET', '/manifest')).body.lines as { id: number; campaignId: number }[]
    const { draft, campaignId } = (await ask('GET', `/lines/${lines[0].id}`)).body as { draft: Record<string, unknown>; campaignId: number }
    const { file } = (await whole('Box.png', await picture('#2244aa'))).body
    const drafted = async (over: object) =>
      ((await ask('POST', `/campaigns/${campaignId}/lines`, { ...draft, targeting: { restrictions: [] }, ...over })).body as { id: number })
        .id
    const lineId = await drafted({ name: 'Shows files' })
    const shown = await ask('POST', `/lines/${lineId}/files`, { file: file.id })
    expect(shown.body.ads).toMatchObject([{ name: 'Box.png', size: '300x250', type: 'image/png' }])
    const listed = (await ask('GET', `/advertisers/${advertiserId}/files`)).body as unknown as FileView[]
    expect(listed.find(({ id }) => id === file.id)?.usedBy).toEqual([lineId])
    const wrong = await whole(
      'Odd.png',
      await sharp(await picture('#fff'))
        .resize(301, 250)
        .png()
        .toBuffer()
    )
    const refused = await ask('POST', `/lines/${lineId}/files`, { file: wrong.body.file.id })
    expect([refused.status, JSON.stringify(refused.body)]).toEqual([422, expect.stringContaining('301x250 fits no slot')])
    expect((await ask('POST', `/lines/${lineId}/files`, { file: 99_999 })).status).toBe(422)
    await inFolder(async (folder) => {
      const path = await madeFile(folder, 'film.mp4', ...PATTERN('1280x720', 8), ...TONE(8), ...FAST, '-c:a', 'aac', '-shortest')
      const film = (await whole('Film.mp4', readFileSync(path))).body.file
      const videoLine = await drafted({ name: 'Shows films', format: 'video' })
      const onIt = await ask('POST', `/lines/${videoLine}/files`, { file: film.id })
      expect(onIt.body.ads).toMatchObject([
        { name: 'Film.mp4', type: 'video', seconds: film.facts.seconds, shapes: expect.arrayContaining(['large player']) }
      ])
      expect(JSON.stringify((await ask('POST', `/lines/${videoLine}/files`, { file: film.id })).body)).toContain('on this line already')
      expect(JSON.stringify((await ask('POST', `/lines/${lineId}/files`, { file: film.id })).body)).toContain('this is a film')
      expect(JSON.stringify((await ask('POST', `/lines/${videoLine}/files`, { file: file.id })).body)).toContain(
        'cannot run on a video line'
      )
      const used = (await ask('GET', `/files/${film.id}`)).body as unknown as FileView
      expect(used.usedBy).toEqual([videoLine])
    })
  })

  it('of pictures that were rows moves into the store, once', async () => {
    const { sequelize, store } = server.deps
    const data = await picture('#aa2244')
    const row = await Creative.findOne({ rejectOnEmpty: true })
    await sequelize.query('UPDATE creative SET data = ? WHERE id = ?', { replacements: [data, row.id] })
    expect([await moveBlobs(sequelize, store), await moveBlobs(sequelize, store)]).toEqual([1, 0])
    const { sha256 } = await row.reload()
    const left = await sequelize.query('SELECT id FROM creative WHERE data IS NOT NULL', { type: QueryTypes.SELECT })
    expect([left, (await store.read(sha256)).equals(data), await StoredFile.count({ where: { sha256 } })]).toEqual([[], true, 1])
  })
})
