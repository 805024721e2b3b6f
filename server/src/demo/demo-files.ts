import { readFile } from 'node:fs/promises'
import type { Transaction } from 'sequelize'
import { stillPicture, type FileFacts } from '@tin-harbor/core/creative'
import { Advertiser } from '../advertisers/advertiser-model.js'
import type { ContentStore } from '../files/content-store.js'
import { StoredFile } from '../files/file-model.js'
import { contentName } from '../files/library.js'
import { drawPicture, type Scene } from './pictures.js'

/** A file of the demo that lies in the repository, with what was read of it when it was made. */
interface Kept {
  file: string
  advertiser: string
  name: string
  altText: string
  tags: string[]
  sha256: string
  facts: FileFacts
}

const FOLDER = new URL('../../demo-files/', import.meta.url)

/** Pictures that ads of parts name; they are drawn anew. */
const DRAWN: readonly { file: string; advertiser: string; name: string; scene: Scene; width: number; height: number }[] = [
  { file: 'night-card.png', advertiser: 'Nightjar Telescopes', name: 'Night sky, card', scene: 'night sky', width: 1200, height: 628 },
  { file: 'night-icon.png', advertiser: 'Nightjar Telescopes', name: 'Night sky, icon', scene: 'night sky', width: 256, height: 256 },
  { file: 'bike-card.png', advertiser: 'Ostler Cargo Bikes', name: 'Cargo bike, card', scene: 'cargo bike', width: 1200, height: 628 },
  { file: 'bike-icon.png', advertiser: 'Ostler Cargo Bikes', name: 'Cargo bike, icon', scene: 'cargo bike', width: 256, height: 256 },
  { file: 'bike-upright.png', advertiser: 'Ostler Cargo Bikes', name: 'Cargo bike, 320x480', scene: 'cargo bike', width: 320, height: 480 },
  { file: 'kana-card.png', advertiser: 'Inkwell Kana', name: 'Brush strokes, card', scene: 'brush strokes', width: 1200, height: 628 },
  { file: 'kana-icon.png', advertiser: 'Inkwell Kana', name: 'Brush strokes, icon', scene: 'brush strokes', width: 256, height: 256 }
]

/** As the demo's ads name a file, before its content has a hash. */
export const demoFile = (file: string) => `demo:${file}`

/** What is known of the demo's films, spots and banner. */
export async function keptFiles(): Promise<Kept[]> {
  return JSON.parse(await readFile(new URL('files.json', FOLDER), 'utf8')) as Kept[]
}
export const keptFile = (file: string) => readFile(new URL(file, FOLDER))

/** Puts the demo's files into the libraries of its advertisers. @returns what ads name them by, by `demoFile` */
export async function shelveDemoFiles(store: ContentStore, transaction: Transaction): Promise<Map<string, string>> {
  const names = new Map<string, string>()
  const advertisers = new Map((await Advertiser.findAll({ transaction })).map(({ id, name }) => [name, id]))
  const shelve = async ({ file, advertiser, name, altText, tags }: Omit<Kept, 'sha256' | 'facts'>, facts: FileFacts, data: Buffer) => {
    const advertiserId = advertisers.get(advertiser)
    if (advertiserId === undefined) return
    const { sha256, bytes } = await store.put(data)
    const { medium } = facts
    if (!(await StoredFile.findOne({ where: { advertiserId, sha256 }, transaction })))
      await StoredFile.create({ advertiserId, name, sha256, bytes, medium, facts, altText, tags, addedHour: 0 }, { transaction })
    names.set(demoFile(file), contentName(sha256))
  }
  for (const kept of await keptFiles()) await shelve(kept, kept.facts, await keptFile(kept.file))
  for (const { scene, width, height, ...drawn } of DRAWN) {
    const data = await drawPicture(scene, width, height)
    await shelve({ ...drawn, altText: '', tags: [] }, stillPicture('image/png', data.length, width, height), data)
  }
  return names
}
