import type { MediaInfo } from 'mediainfo.js'
import {
  MOST_FILE_BYTES,
  SVG_REFUSED,
  fileVerdict,
  stillPicture,
  type FileFacts,
  type HeardTrack,
  type SeenTrack
} from '@tin-harbor/core/creative'

const LIGHT_BYTES = 5 * 1024 * 1024
const CHUNK_BYTES = 256 * 1024
/** Names of codecs and containers as they are said here. */
const CODECS: Readonly<Record<string, string>> = {
  AVC: 'h264',
  HEVC: 'hevc',
  VP8: 'vp8',
  VP9: 'vp9',
  AV1: 'av1',
  AAC: 'aac',
  'MPEG Audio': 'mp3',
  Opus: 'opus',
  Vorbis: 'vorbis',
  PCM: 'pcm_s16le',
  FLAC: 'flac'
}
const CONTAINERS: Readonly<Record<string, string>> = {
  'MPEG-4': 'mp4',
  QuickTime: 'quicktime',
  WebM: 'webm',
  Matroska: 'x-matroska',
  Wave: 'wav',
  'MPEG Audio': 'mpeg',
  Ogg: 'ogg'
}
const MILLI = 1000

let reader: Promise<MediaInfo> | null = null
/** One at a time: it reads one file. */
let last: Promise<unknown> = Promise.resolve()

/** What reads films is fetched with the first of them. */
function mediaReader(): Promise<MediaInfo> {
  reader ??= Promise.all([import('mediainfo.js'), import('mediainfo.js/MediaInfoModule.wasm?url')]).then(([{ default: make }, wasm]) =>
    make({ format: 'object', chunkSize: CHUNK_BYTES, locateFile: () => wasm.default })
  )
  return reader
}

const numberOf = (value: unknown) => (value === undefined || value === '' || Number.isNaN(Number(value)) ? null : Number(value))

async function lookAtMedia(file: File): Promise<FileFacts | null> {
  const media = await mediaReader()
  const read = async (size: number, offset: number) => new Uint8Array(await file.slice(offset, offset + size).arrayBuffer())
  const tracks = (await media.analyzeData(file.size, read)).media?.track ?? []
  const general = tracks.find((track) => track['@type'] === 'General')
  const video = tracks.find((track) => track['@type'] === 'Video')
  const audio = tracks.find((track) => track['@type'] === 'Audio')
  if (!general || (!video && !audio)) return null
  const container = general.Format_Profile === 'QuickTime' ? 'quicktime' : (CONTAINERS[general.Format ?? ''] ?? 'unknown')
  const turned = Math.round(numberOf(video?.Rotation) ?? 0)
  const sides = [numberOf(video?.Width), numberOf(video?.Height)]
  const [width, height] = turned % 180 === 0 ? sides : [sides[1], sides[0]]
  const kbps = (rate: unknown) => {
    const bits = numberOf(rate)
    return bits === null ? null : Math.round(bits / MILLI)
  }
  const seen: SeenTrack | null = video
    ? {
        codec: CODECS[video.Format ?? ''] ?? video.Format ?? 'unknown',
        kbps: kbps(video.BitRate),
        framesASecond: numberOf(video.FrameRate) ?? 25
      }
    : null
  // How loud it is only the server measures.
  const heard: HeardTrack | null = audio
    ? {
        codec: CODECS[audio.Format ?? ''] ?? audio.Format ?? 'unknown',
        kbps: kbps(audio.BitRate),
        channels: numberOf(audio.Channels) ?? 2,
        hertz: numberOf(audio.SamplingRate) ?? 48_000,
        lufs: null,
        isSilent: false
      }
    : null
  const seconds = numberOf(general.Duration)
  const what = { bytes: file.size, width, height, turned, seconds, loops: null, seen, heard, hasPlace: false }
  return { medium: seen ? 'film' : 'sound', type: `${seen ? 'video' : 'audio'}/${container}`, ...what }
}

async function lookAtPicture(file: File): Promise<FileFacts> {
  const picture = await createImageBitmap(file)
  const facts = stillPicture(file.type, file.size, picture.width, picture.height)
  picture.close()
  return facts
}

/** What a look at a file says before any of it is sent. */
export interface Look {
  /** Why it need not be sent at all; empty where it may be. */
  refused: string
  /** What slots will say of it, in words; empty where that is not known. */
  foreseen: string
}

const may = (foreseen = ''): Look => ({ refused: '', foreseen })
const not = (refused: string): Look => ({ refused, foreseen: '' })

function wordsOf(facts: FileFacts): string {
  const { takes, findings, bySource } = fileVerdict(facts)
  const shapes = [...new Set(takes.map(({ shape }) => shape))]
  const wrong = [...new Set(findings.map(({ is }) => is))].join(', ')
  const said = shapes.length > 0 ? `will be taken by ${shapes.join(', ')}` : `fits no slot as it is (${wrong}); it can be made to fit here`
  return [said, ...bySource.map(({ is, sources }) => `${is} is too much for ${sources.join(', ')}`)].join('; ')
}

/** Looks at a file where it lies: what is in vain is known before its bytes travel. What cannot be looked at is the server's to read. */
export async function lookBefore(file: File): Promise<Look> {
  if (file.size === 0) return not('The file is empty.')
  if (file.size > MOST_FILE_BYTES)
    return not(`A file has at most ${MOST_FILE_BYTES / 1024 / 1024} MB; this has ${Math.ceil(file.size / 1024 / 1024)}.`)
  if (file.type === 'image/svg+xml') return not(SVG_REFUSED)
  if (/^image\/(png|jpeg|webp|gif)$/.test(file.type))
    return lookAtPicture(file).then(
      (facts) => may(wordsOf(facts)),
      () => not('The picture cannot be read; it may be damaged.')
    )
  if (!/^(video|audio)\//.test(file.type)) return may()
  const look = last.then(() => lookAtMedia(file))
  last = look.catch(() => null)
  return look.then(
    (facts) => {
      if (facts) return may(wordsOf(facts))
      // What is light travels quickly, and the server says better what it is.
      return file.size < LIGHT_BYTES ? may() : not('The film or sound cannot be read; it may be damaged, or be something else.')
    },
    () => may()
  )
}
