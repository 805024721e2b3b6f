import { open } from 'node:fs/promises'
import { fileTypeFromFile } from 'file-type'
import sharp from 'sharp'
import { SVG_REFUSED, type FileFacts } from '@tin-harbor/core/creative'
import { invalidField } from '../http/errors.js'
import { readBanner } from './banner.js'
import { saysPlace } from './place.js'
import { probe } from './probing.js'

/** Pixels of a picture that is unpacked, over all that it shows one after the other. */
const MOST_PIXELS = 40_000_000
const PICTURES = ['image/png', 'image/jpeg', 'image/gif', 'image/webp']
/** How sharp's orientation flag turns a picture, degrees clockwise. */
const TURNS = [0, 0, 0, 180, 180, 90, 90, 270, 270] as const

/** Beginning of a file, in letters where it has some. */
async function beginning(path: string): Promise<string> {
  const file = await open(path)
  try {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(512), 0, 512, 0)
    return buffer.subarray(0, bytesRead).toString('latin1')
  } finally {
    await file.close()
  }
}

/** What a file that we do not take says of itself, in words: what somebody needs who does not know why. */
async function unknownWords(path: string, type: string | undefined): Promise<string> {
  const start = await beginning(path)
  if (/^\s*(<\?xml|<!--|<svg)/i.test(start) && /<svg/i.test(start)) return SVG_REFUSED
  if (start.startsWith('#EXTM3U')) return 'The file is a playlist, which names other files, not a film.'
  return type
    ? `The file is ${type}, which no slot takes: pictures, films, sounds and zips with an HTML5 banner are.`
    : 'The file is no picture, film, sound or banner, whatever its name says.'
}

async function readPicture(path: string, type: string, bytes: number): Promise<FileFacts> {
  try {
    // A picture that claims to be huge is refused before it is unpacked.
    const {
      width,
      height,
      pages = 1,
      pageHeight,
      delay,
      loop,
      orientation = 1,
      exif
    } = await sharp(path, {
      limitInputPixels: MOST_PIXELS,
      animated: true
    }).metadata()
    // Head and pixels are two things: one that was cut off, or has none, shows only when it is unpacked.
    await sharp(path, { limitInputPixels: MOST_PIXELS, animated: true, failOn: 'truncated' }).stats()
    const turned = TURNS[orientation] ?? 0
    const tall = pageHeight ?? height
    const milliseconds = pages > 1 ? (delay ?? []).reduce((sum, one) => sum + one, 0) : 0
    return {
      medium: 'picture',
      type,
      bytes,
      width: turned % 180 === 0 ? width : tall,
      height: turned % 180 === 0 ? tall : width,
      turned,
      seconds: pages > 1 ? milliseconds / 1000 : null,
      loops: pages > 1 ? (loop ?? 0) : null,
      seen: null,
      heard: null,
      hasPlace: exif ? saysPlace(exif) : false
    }
  } catch {
    throw invalidField('file', 'The picture cannot be read; it may be damaged.')
  }
}

/**
 * Reads what a file is from its bytes, whatever its name says: all of it is unpacked, or probed as a film in a jail.
 * @throws a field error that says what it is instead
 */
export async function readFacts(path: string, bytes: number): Promise<FileFacts> {
  if (bytes === 0) throw invalidField('file', 'The file is empty.')
  const type = (await fileTypeFromFile(path))?.mime as string | undefined
  if (type && PICTURES.includes(type)) return readPicture(path, type, bytes)
  if (type === 'application/zip') return readBanner(path, bytes)
  if (!type || !/^(video|audio)\//.test(type)) throw invalidField('file', await unknownWords(path, type))
  try {
    const facts = await probe(path, NAMES[type] ?? type, bytes)
    if (!facts.seen && !facts.heard) throw new Error('no track')
    return facts
  } catch (error) {
    // A program that is missing, or a disk that is full, is not the file's.
    if ((error as NodeJS.ErrnoException).syscall !== undefined) throw error
    throw invalidField('file', 'The film or sound cannot be read; it may be damaged, or cut off.')
  }
}

/** Names that the same containers have. */
const NAMES: Readonly<Record<string, string>> = {
  'audio/x-m4a': 'audio/mp4',
  'audio/vnd.wave': 'audio/wav',
  'audio/ogg; codecs=opus': 'audio/ogg',
  'video/x-m4v': 'video/mp4',
  'video/matroska': 'video/x-matroska'
}
