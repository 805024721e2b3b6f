import { copyFile, readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import sharp from 'sharp'
import type { FileFacts } from '@tin-harbor/core/creative'
import { READS, jailed } from './jail.js'

/** Number of the entry that points to where a picture was taken, in Exif 2.32, 4.6.3. */
const GPS_ENTRY = 0x8825
const ENTRY_BYTES = 12
/** Bytes of a value by its type, Exif 2.32, 4.6.2. */
const TYPE_BYTES: Readonly<Record<number, number>> = { 1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 7: 1, 9: 4, 10: 8 }
const MARK = Buffer.from('Exif\0\0', 'latin1')
const COPY_LIMITS = { seconds: 60, bytes: 500 * 1024 * 1024 }

/** The part of a file from the head of its Exif on, in which places of the directory are counted; null where it has none. */
function tiffOf(data: Buffer): Buffer | null {
  const mark = data.indexOf(MARK)
  const chunk = data.indexOf('EXIF', 0, 'latin1')
  const found = mark >= 0 ? data.subarray(mark + MARK.length) : chunk >= 0 ? data.subarray(chunk + 8) : null
  return found && found.length >= 8 && ['II', 'MM'].includes(found.toString('latin1', 0, 2)) ? found : null
}

function reader(tiff: Buffer) {
  const isLittle = tiff.toString('latin1', 0, 2) === 'II'
  const word = (place: number) => (place + 2 > tiff.length ? 0 : isLittle ? tiff.readUInt16LE(place) : tiff.readUInt16BE(place))
  const long = (place: number) => (place + 4 > tiff.length ? 0 : isLittle ? tiff.readUInt32LE(place) : tiff.readUInt32BE(place))
  const entries = (directory: number) => Array.from({ length: word(directory) }, (_, n) => directory + 2 + n * ENTRY_BYTES)
  return { word, long, entries }
}

/** Whether an Exif block, with its mark or without, points to a place. */
export function saysPlace(exif: Buffer): boolean {
  const tiff = tiffOf(exif) ?? exif
  if (tiff.length < 8) return false
  const { word, long, entries } = reader(tiff)
  return entries(long(4)).some((entry) => word(entry) === GPS_ENTRY)
}

/** Overwrites where a JPEG or WebP was taken with nothing; not a pixel changes. False where no such directory was found. */
function wipePlace(data: Buffer): boolean {
  const tiff = tiffOf(data)
  if (!tiff) return false
  const { word, long, entries } = reader(tiff)
  const pointer = entries(long(4)).find((entry) => word(entry) === GPS_ENTRY)
  if (pointer === undefined) return false
  const directory = long(pointer + 8)
  for (const entry of entries(directory)) {
    const bytes = (TYPE_BYTES[word(entry + 2)] ?? 0) * long(entry + 4)
    if (bytes > 4) tiff.fill(0, long(entry + 8), Math.min(tiff.length, long(entry + 8) + bytes))
    tiff.fill(0, entry, Math.min(tiff.length, entry + ENTRY_BYTES))
  }
  tiff.fill(0, directory, Math.min(tiff.length, directory + 2))
  tiff.fill(0, pointer, pointer + ENTRY_BYTES)
  return true
}

/** Containers that films and sounds are written into again, by their type. */
const CONTAINERS: Readonly<Record<string, string>> = {
  'video/webm': 'webm',
  'audio/webm': 'webm',
  'video/x-matroska': 'matroska',
  'audio/ogg': 'ogg',
  'audio/mpeg': 'mp3',
  'audio/wav': 'wav'
}

/**
 * Writes a file anew without where it was taken, and a recording with the length that it had not: what is seen and heard stays as it is,
 * bit for bit.
 * @param target path of what is written
 */
export async function rewritten(path: string, { medium, type }: FileFacts, target: string): Promise<void> {
  if (medium === 'picture') {
    const data = await readFile(path)
    const wiped = type === 'image/jpeg' || type === 'image/webp' ? wipePlace(data) : false
    await writeFile(target, wiped ? data : await sharp(path).rotate().png().toBuffer())
    return
  }
  const format = CONTAINERS[type] ?? 'mp4'
  const writes = ['-map', '0', '-dn', '-c', 'copy', '-map_metadata', '-1', '-fflags', '+bitexact', '-f', format, '-y', 'made']
  await jailed(path, 'ffmpeg', ['-v', 'error', ...READS, '-i', 'input', ...writes], COPY_LIMITS, ({ folder }) =>
    copyFile(join(folder, 'made'), target)
  )
}
