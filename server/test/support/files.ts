import { execFile } from 'node:child_process'
import { mkdtemp, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { buffer } from 'node:stream/consumers'
import type { Sequelize } from 'sequelize'
import { ZipFile } from 'yazl'
import type { FileView, PreviewLinkMade } from '@tin-harbor/core/contract'
import { Upload } from '../../src/files/file-model.js'
import { readFacts } from '../../src/files/reading.js'
import { AdReview } from '../../src/review/review-model.js'
import type { Ask } from './server.js'

const run = promisify(execFile)

/** A folder of its own while something is done in it. */
export async function inFolder<T>(work: (folder: string) => Promise<T>): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), 'tin-harbor-test-'))
  try {
    return await work(folder)
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

/** What is read of some bytes, as of a file. */
export const factsOf = (data: Buffer) =>
  inFolder(async (folder) => {
    const path = join(folder, 'anything.bin')
    await writeFile(path, data)
    return readFacts(path, (await stat(path)).size)
  })

/** Makes a film or a sound. @param args of ffmpeg, before the name of the file */
export async function madeFile(folder: string, name: string, ...args: string[]): Promise<string> {
  const path = join(folder, name)
  await run('ffmpeg', ['-y', '-v', 'error', ...args, path])
  return path
}

/** A moving pattern, and a tone, as inputs. */
export const PATTERN = (size: string, seconds: number) => ['-f', 'lavfi', '-t', String(seconds), '-i', `testsrc2=s=${size}:r=25`]
export const TONE = (seconds: number, decibels = 0) => ['-f', 'lavfi', '-t', String(seconds), '-i', `sine=440:r=48000,volume=${decibels}dB`]
export const FAST = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p']

/**
 * Numbers of a file of an advertiser, an upload under way, something made to fit, a matrix, a feed, a plate, a link to the ads of a
 * line, an offer, a tracker, and a review.
 */
export async function fileNumbers(
  ask: Ask,
  sequelize: Sequelize,
  advertiserId: number,
  lineId: number
): Promise<
  Record<
    'fileId' | 'uploadId' | 'fitId' | 'madeId' | 'mixId' | 'feedId' | 'plateId' | 'linkId' | 'offerId' | 'trackerId' | 'reviewId',
    number
  >
> {
  const files = (await ask<FileView[]>('GET', `/advertisers/${advertiserId}/files`)).body
  const fileId = files.find(({ medium }) => medium === 'picture')?.id ?? 0
  const tag = { name: 'Their tag', kind: 'markup', parts: { size: '300x250', markup: '<p>theirs' } }
  const { id: madeId } = (await ask<{ id: number }>('POST', `/advertisers/${advertiserId}/made-creatives`, tag)).body
  const fit = { slots: [{ shape: '320x50', part: 'file' }], focal: { x: 0.5, y: 0.5 } }
  const { id: fitId } = (await ask<{ id: number }>('POST', `/files/${fileId}/picture-fit`, fit)).body
  const { id: uploadId } = await sequelize.transaction((transaction) =>
    Upload.create({ advertiserId, userId: 1, name: 'Theirs.png', bytes: 100 }, { transaction })
  )
  const common = { brand: '', button: '', icon: '' }
  const mix = { name: 'Theirs', kind: 'native', headlines: [], pictures: [], texts: [], common, struck: [] }
  const { id: mixId } = (await ask<{ id: number }>('POST', `/advertisers/${advertiserId}/mixes`, { mix })).body
  const { links } = (await ask<PreviewLinkMade>('POST', `/lines/${lineId}/preview-links`, { days: 1 })).body
  const feed = {
    name: 'Theirs',
    address: 'https://inkwell.example/courses.atom',
    fields: { key: '', title: '', text: '', link: '', picture: '', price: '', stock: '' },
    template: { headline: '{title}', longHeadline: '{title}', text: '{text}', button: 'See', brand: 'Kana', icon: '' },
    which: { words: '', least: null, most: null },
    changed: 'goes on'
  }
  const { id: feedId } = (await ask<{ id: number }>('POST', `/advertisers/${advertiserId}/feeds`, { feed })).body
  const words = { layout: 'words', headline: 'Theirs', text: '', brand: '', button: '' }
  const pictures = { image: '', whole: false, cover: '', focal: { x: 0.5, y: 0.5 }, ground: '#16323c', accent: '#d9a441' }
  const plate = { name: 'Theirs', ...words, ...pictures, sizes: ['300x250'] }
  const { id: plateId } = (await ask<{ id: number }>('POST', `/advertisers/${advertiserId}/plates`, { plate })).body
  const [{ id: offerId }] = (await ask<{ id: number }[]>('GET', `/advertisers/${advertiserId}/offers`)).body
  const [{ id: trackerId }] = (await ask<{ id: number }[]>('GET', `/advertisers/${advertiserId}/trackers`)).body
  return {
    fileId,
    uploadId,
    fitId,
    madeId,
    mixId,
    feedId,
    plateId,
    linkId: links[0].id,
    offerId,
    trackerId,
    reviewId: await reviewNumber(sequelize, advertiserId, lineId)
  }
}

async function reviewNumber(sequelize: Sequelize, advertiserId: number, lineId: number): Promise<number> {
  const texts = { kind: 'picture' as const, name: 'Theirs', advertiser: '', domain: '', texts: [], outside: [], tones: [] }
  const reviewed = { ...texts, links: [], about: null, note: '' }
  const sent = { publisher: null, desk: 'the reviewer', sentHour: 0, byHour: 1, sentBy: null }
  const { id } = await sequelize.transaction((transaction) =>
    AdReview.create({ adId: 0, lineId, advertiserId, ...sent, reviewed, landings: [], state: 'cleared', findings: [] }, { transaction })
  )
  return id
}

/** A zip of files by name. @param modes kinds and rights of some, as a Unix sees them */
export async function zipped(
  holds: Readonly<Record<string, string | Buffer>>,
  modes: Readonly<Record<string, number>> = {}
): Promise<Buffer> {
  const zip = new ZipFile()
  for (const [name, data] of Object.entries(holds)) zip.addBuffer(Buffer.from(data), name, { mode: modes[name] })
  zip.end()
  return buffer(zip.outputStream)
}

/** A banner that is as it should be. */
export const PAGE = `<!doctype html><meta name="ad.size" content="width=300,height=250"><script>var clickTag = ''</script><p>One stroke a day`
