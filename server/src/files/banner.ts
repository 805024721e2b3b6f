import type { Readable } from 'node:stream'
import { fromBuffer, open, type Entry, type ZipFile } from 'yauzl'
import type { Banner, FileFacts } from '@tin-harbor/core/creative'
import { invalidField } from '../http/errors.js'

const MOST_FILES = 200
/** Bytes of a banner unpacked that is read at all: over what browsers unload, so that it can be said by how much it is too heavy. */
const MOST_UNPACKED = 32 * 1024 * 1024
/** What a banner may hold, by the ending of its name: nothing else has a type to be served with. */
const BANNER_TYPES: Readonly<Record<string, string>> = {
  html: 'text/html; charset=utf-8',
  htm: 'text/html; charset=utf-8',
  css: 'text/css; charset=utf-8',
  js: 'text/javascript; charset=utf-8',
  mjs: 'text/javascript; charset=utf-8',
  json: 'application/json; charset=utf-8',
  txt: 'text/plain; charset=utf-8',
  png: 'image/png',
  jpg: 'image/jpeg',
  jpeg: 'image/jpeg',
  gif: 'image/gif',
  webp: 'image/webp',
  svg: 'image/svg+xml',
  woff: 'font/woff',
  woff2: 'font/woff2',
  ttf: 'font/ttf',
  otf: 'font/otf',
  mp4: 'video/mp4',
  webm: 'video/webm',
  mp3: 'audio/mpeg',
  m4a: 'audio/mp4'
}
/** Bits of an entry that say that it is encrypted, and what kind of file it is to who packed it: APPNOTE 6.3.10, 4.4.4 and 4.4.15. */
const ENCRYPTED = 0x1
const KIND_BITS = 0xf000
const LINK = 0xa000

const endingOf = (name: string) => /\.([a-z0-9]+)$/i.exec(name)?.[1].toLowerCase() ?? ''
const refused = (message: string) => invalidField('file', message)

function opened(source: string | Buffer): Promise<ZipFile> {
  return new Promise((resolve, reject) => {
    const options = { lazyEntries: true, autoClose: false, strictFileNames: true, validateEntrySizes: true, decodeStrings: true }
    const done = (error: Error | null, zip: ZipFile) => (error ? reject(error) : resolve(zip))
    if (typeof source === 'string') open(source, options, done)
    else fromBuffer(source, options, done)
  })
}

/** Entries of a zip that are files, one after the other; until one is refused. */
async function entriesOf(zip: ZipFile, see: (entry: Entry) => void): Promise<void> {
  await new Promise<void>((resolve, reject) => {
    zip.on('entry', (entry: Entry) => {
      try {
        if (!entry.fileName.endsWith('/')) see(entry)
        zip.readEntry()
      } catch (error) {
        reject(error as Error)
      }
    })
    zip.once('end', resolve)
    zip.once('error', reject)
    zip.readEntry()
  })
}

async function dataOf(zip: ZipFile, entry: Entry): Promise<Buffer> {
  const stream = await new Promise<Readable>((resolve, reject) =>
    zip.openReadStream(entry, (error: Error | null, found: Readable) => (error ? reject(error) : resolve(found)))
  )
  const chunks: Buffer[] = []
  // What holds more than it says is an error of the stream's: nobody's memory is filled.
  for await (const chunk of stream) chunks.push(chunk as Buffer)
  return Buffer.concat(chunks)
}

/** Names of the files of a zip, with what must hold of each before anything is unpacked. */
async function checkedEntries(zip: ZipFile): Promise<Map<string, Entry>> {
  const found = new Map<string, Entry>()
  let unpacked = 0
  await entriesOf(zip, (entry) => {
    const name = entry.fileName
    // Left behind by file managers; no page asks for it.
    if (/(^|\/)(__MACOSX\/|\.DS_Store$|Thumbs\.db$)/.test(name)) return
    if (found.size >= MOST_FILES) throw refused(`The banner holds more than ${MOST_FILES} files.`)
    if (entry.generalPurposeBitFlag & ENCRYPTED) throw refused('The zip is locked with a password.')
    const kind = (entry.externalFileAttributes >>> 16) & KIND_BITS
    if (kind === LINK) throw refused(`“${name}” is a link to somewhere else, not a file.`)
    if ([...found.keys()].some((other) => other.toLowerCase() === name.toLowerCase())) throw refused(`“${name}” is in the zip twice.`)
    if (!(endingOf(name) in BANNER_TYPES))
      throw refused(`“${name}” is nothing that a banner shows: pages, scripts, styles, pictures, fonts, films and sounds are.`)
    unpacked += entry.uncompressedSize
    if (unpacked > MOST_UNPACKED) throw refused(`Unpacked it has more than ${MOST_UNPACKED / 1024 / 1024} MB.`)
    found.set(name, entry)
  })
  return found
}

/** The page that a banner begins with: the index that lies highest, or the only page there. */
function entryOf(names: readonly string[]): string {
  const pages = names
    .filter((name) => /\.html?$/i.test(name))
    .sort((a, b) => a.split('/').length - b.split('/').length || a.localeCompare(b))
  const entry = pages.find((name) => /(^|\/)index\.html?$/i.test(name)) ?? (pages.length === 1 ? pages[0] : undefined)
  if (entry === undefined)
    throw refused(
      pages.length === 0
        ? 'The zip holds no page: a banner begins with index.html.'
        : 'Which page is first? A banner begins with index.html.'
    )
  return entry
}

/** Pixels that a page says an ad has, as `<meta name="ad.size" content="width=300,height=250">`. */
function sizeOf(page: string): { width: number | null; height: number | null } {
  const meta = [...page.matchAll(/<meta\b[^>]*>/gi)].map(([tag]) => tag).find((tag) => /name\s*=\s*["']?ad\.size/i.test(tag))
  const [width, height] = ['width', 'height'].map((side) =>
    Number(new RegExp(`${side}\\s*=\\s*(\\d{1,4})`, 'i').exec(meta ?? '')?.[1] ?? NaN)
  )
  return Number.isNaN(width) || Number.isNaN(height) ? { width: null, height: null } : { width, height }
}

/**
 * What a zip is as a banner: all of it is unpacked once, in memory and never onto the disk, so that what lies about its sizes is found out.
 * @throws a field error that says what is wrong with it
 */
export async function readBanner(path: string, bytes: number): Promise<FileFacts> {
  let zip: ZipFile | null = null
  try {
    zip = await opened(path)
    const entries = await checkedEntries(zip)
    const entry = entryOf([...entries.keys()])
    let [page, unpacked, hasClick] = ['', 0, false]
    for (const [name, one] of entries) {
      const data = await dataOf(zip, one)
      unpacked += data.length
      const text = /^(html?|m?js)$/.test(endingOf(name)) ? data.toString('utf8') : ''
      hasClick ||= /\bclickTag\b/i.test(text)
      if (name === entry) page = text
    }
    const banner: Banner = { entry, files: entries.size, unpacked, hasClick, calls: null }
    const none = { turned: 0, seconds: null, loops: null, seen: null, heard: null, hasPlace: false }
    return { medium: 'banner', type: 'application/zip', bytes, ...sizeOf(page), ...none, banner }
  } catch (error) {
    if ((error as { status?: number }).status === 422 || (error as NodeJS.ErrnoException).syscall !== undefined) throw error
    const { message } = error as Error
    throw refused(
      /path|file ?name|backslash/i.test(message)
        ? 'A name in the zip leads out of it.'
        : 'The zip cannot be read; it may be damaged, or say of itself what is not so.'
    )
  } finally {
    zip?.close()
  }
}

/** One file of a banner, with the type it is served with; null where it holds none of that name. */
export async function fileOfBanner(path: string, name: string): Promise<{ type: string; data: Buffer } | null> {
  const zip = await opened(path)
  try {
    let found: Entry | null = null
    await entriesOf(zip, (entry) => {
      if (entry.fileName === name) found = entry
    })
    const type = BANNER_TYPES[endingOf(name)] as string | undefined
    return found && type ? { type, data: await dataOf(zip, found) } : null
  } finally {
    zip.close()
  }
}
