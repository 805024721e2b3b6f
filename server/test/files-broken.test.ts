import { execFileSync } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { readFileSync, readdirSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname } from 'node:path'
import sharp from 'sharp'
import { expect, it } from 'vitest'
import type { FileTaken, FileView, FitView } from '@tin-harbor/core/contract'
import { fitFor } from '@tin-harbor/core/creative'
import { copyTemplate, demoTrader, startTestServer } from '../../scripts/test-server.mjs'
import { FAST, PATTERN, TONE, inFolder, madeFile } from './support/files.js'
import { testServer } from './support/server.js'
import { TEMPLATE, TEMPLATE_PEOPLE } from './support/template.js'

const ADVERTISER = 1
type Headers = Record<string, string>

/** Begins an upload. @returns where it goes on */
async function begin(address: string, headers: Headers, name: string, bytes: number): Promise<string> {
  const answer = await fetch(`${address}/api/advertisers/${ADVERTISER}/uploads`, {
    method: 'POST',
    headers: {
      ...headers,
      'tus-resumable': '1.0.0',
      'upload-length': String(bytes),
      'upload-metadata': `filename ${Buffer.from(name).toString('base64')}`
    }
  })
  return answer.headers.get('location') ?? ''
}
const send = (address: string, headers: Headers, where: string, offset: number, data: Uint8Array) =>
  fetch(`${address}${where}`, {
    method: 'PATCH',
    headers: { ...headers, 'tus-resumable': '1.0.0', 'upload-offset': String(offset), 'content-type': 'application/offset+octet-stream' },
    body: Buffer.from(data)
  })
const post = async <T>(
  address: string,
  headers: Headers,
  path: string,
  body: unknown = undefined
): Promise<{ status: number; body: T }> => {
  const answer = await fetch(`${address}/api${path}`, {
    method: 'POST',
    headers,
    body: body === undefined ? undefined : JSON.stringify(body)
  })
  return { status: answer.status, body: (await answer.json()) as T }
}
const workLeft = () => readdirSync(tmpdir()).filter((name) => name.startsWith('tin-harbor-work-'))
const encoders = () =>
  execFileSync('ps', ['-eo', 'args'], { encoding: 'utf8' })
    .split('\n')
    .filter((line) => /^ffmpeg .*made$/.test(line.trim()))

it('A server that is killed in the middle of an upload goes on with it; in the middle of a conversion nothing of that is left', async () => {
  const base = process.env.TEST_DATABASE_URL ?? ''
  const url = new URL(base)
  url.pathname = '/test_broken'
  const tapes = await copyTemplate(base, TEMPLATE, 'test_broken')
  const start = () => startTestServer(url.href, String(TEMPLATE_PEOPLE), { fresh: false, tapes })
  const kill = async (pid: number) => {
    process.kill(pid, 'SIGKILL')
    await expect
      .poll(() => execFileSync('ps', ['-eo', 'pid,stat'], { encoding: 'utf8' }), { timeout: 15_000 })
      .not.toMatch(new RegExp(`^\\s*${pid} [^Z]`, 'm'))
  }
  await inFolder(async (folder) => {
    const path = await madeFile(folder, 'long.mp4', ...PATTERN('1280x720', 40), ...TONE(40), ...FAST, '-c:a', 'aac', '-shortest')
    const data = readFileSync(path)
    const half = data.length >> 1
    const first = await start()
    const own = { headers: (await demoTrader(first.address)).headers }
    const where = await begin(first.address, own.headers, 'Long.mp4', data.length)
    expect((await send(first.address, own.headers, where, 0, data.subarray(0, half))).status).toBe(204)
    await kill(first.pid)

    const second = await start()
    const again = (await demoTrader(second.address)).headers as Headers
    const stands = await fetch(`${second.address}${where}`, { method: 'HEAD', headers: { ...again, 'tus-resumable': '1.0.0' } })
    expect(Number(stands.headers.get('upload-offset'))).toBe(half)
    await send(second.address, again, where, half, data.subarray(half))
    const { file } = (await post<FileTaken>(second.address, again, `${where.replace('/api', '')}/finish`)).body
    expect([file.bytes, file.name]).toEqual([data.length, 'Long.mp4'])
    const listed = async (address: string, headers: Headers) =>
      (await (await fetch(`${address}/api/advertisers/${ADVERTISER}/files`, { headers })).json()) as FileView[]
    const before = (await listed(second.address, again)).length
    const fit = { ...fitFor(file.facts, 'large player'), frame: { width: 1920, height: 1080, how: 'pad', focal: { x: 0.5, y: 0.5 } } }
    const job = (await post<FitView>(second.address, again, `/files/${file.id}/film-fit`, fit)).body
    await expect.poll(() => encoders().length, { timeout: 20_000 }).toBeGreaterThan(0)
    await kill(second.pid)
    await expect.poll(() => encoders().length, { timeout: 15_000 }).toBe(0)
    const left = workLeft().filter((name) => name.includes(`-${second.pid}-`))
    expect(left.length).toBeGreaterThan(0)

    const third = await start()
    const last = (await demoTrader(third.address)).headers as Headers
    expect((await listed(third.address, last)).length).toBe(before)
    expect((await fetch(`${third.address}/api/fits/${job.id}`, { headers: last })).status).toBe(404)
    await expect.poll(() => workLeft().filter((name) => left.includes(name)), { timeout: 10_000 }).toEqual([])
    await third.stop()
  })
}, 120_000)

/** Whether a disk of a few bytes can be had: some machines let nobody mount one. */
const hasDisks = await inFolder((folder) => {
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64k', 'tmpfs', folder], { stdio: 'ignore' })
    execFileSync('umount', [folder])
    return Promise.resolve(true)
  } catch {
    return Promise.resolve(false)
  }
})

it.runIf(hasDisks)('A disk that is full is said, keeps nothing half, and the file is taken once there is room', async () => {
  const server = await testServer('full')
  const { cookie, ask } = await server.signIn('ines@wharfside.example')
  const headers = { origin: server.address, cookie }
  const contents = dirname(dirname(server.deps.store.pathOf('0'.repeat(64))))
  const noise = randomBytes(900 * 900 * 3)
  const data = await sharp(noise, { raw: { width: 900, height: 900, channels: 3 } })
    .png()
    .toBuffer()
  execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64k', 'tmpfs', contents])
  const where = await begin(server.address, headers, 'Noise.png', data.length)
  await send(server.address, headers, where, 0, data)
  const finish = () => post<FileTaken & { code?: string; title?: string }>(server.address, headers, `${where.replace('/api', '')}/finish`)
  const count = async () => (await ask<FileView[]>('GET', `/advertisers/${ADVERTISER}/files`)).body.length
  try {
    const before = await count()
    const refused = await finish()
    expect([refused.status, refused.body.code, refused.body.title]).toEqual([507, 'no-room', expect.stringContaining('no room left')])
    expect(await count()).toBe(before)
    expect(readdirSync(contents).filter((name) => name.endsWith('.part'))).toEqual([])
  } finally {
    execFileSync('umount', [contents])
  }
  expect((await finish()).body.file).toMatchObject({ name: 'Noise.png', bytes: data.length })
  await server.close()
})
