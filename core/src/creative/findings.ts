import type { Shape } from '../taxonomy/index.js'
import type { FileFacts } from './facts.js'
import { RATIO_SLACK, SOURCE_NAMES, isWithin, shapesTaking, takenBy, type Bounds, type PartSpecification } from './specification.js'

/** What is looked at of a file, in the order in which it is told. */
export const RULES = [
  'medium',
  'type',
  'size',
  'ratio',
  'length',
  'moves',
  'sound',
  'codec',
  'frames',
  'rate',
  'loudness',
  'weight',
  'unpacked',
  'click',
  'calls'
] as const
export type Rule = (typeof RULES)[number]

export interface FileFinding {
  rule: Rule
  /** What is there, and what is allowed, in words. */
  is: string
  allowed: string
}

/** What a slot says to a file as one part of an ad. */
export interface SlotVerdict {
  shape: Shape
  part: string
  findings: readonly FileFinding[]
}

const oneDigit = (value: number) => String(Math.round(value * 10) / 10)
export const weightWords = (bytes: number) =>
  bytes >= 1024 * 1024 ? `${oneDigit(bytes / 1024 / 1024)} MB` : `${Math.max(1, Math.ceil(bytes / 1024))} kB`
const list = (names: readonly string[]) => (names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} or ${names.at(-1)}`)
const and = (names: readonly string[]) => (names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`)
const bounds = ({ least, most }: Bounds, unit: string) => `${least} to ${most} ${unit}`
const TYPE_NAMES: Readonly<Record<string, string>> = {
  'application/zip': 'HTML5',
  'image/png': 'PNG',
  'image/jpeg': 'JPEG',
  'image/gif': 'GIF',
  'image/webp': 'WebP',
  'video/mp4': 'MP4',
  'video/webm': 'WebM',
  'audio/mpeg': 'MP3',
  'audio/mp4': 'M4A',
  'audio/ogg': 'Ogg',
  'audio/webm': 'WebM',
  'audio/wav': 'WAV',
  'video/quicktime': 'MOV',
  'video/x-matroska': 'Matroska'
}
export const typeWords = (type: string) => TYPE_NAMES[type] ?? type
const RATIO_NAMES: readonly (readonly [number, string])[] = [
  [16 / 9, '16:9'],
  [9 / 16, '9:16'],
  [4 / 3, '4:3'],
  [1, '1:1'],
  [2, '2:1'],
  [1.91, '1.91:1']
]
export const ratioWords = (ratio: number) => RATIO_NAMES.find(([one]) => one === ratio)?.[1] ?? `${oneDigit(ratio)}:1`
const CODEC_NAMES: Readonly<Record<string, string>> = {
  h264: 'H.264',
  hevc: 'H.265',
  vp8: 'VP8',
  vp9: 'VP9',
  av1: 'AV1',
  aac: 'AAC',
  mp3: 'MP3',
  opus: 'Opus',
  vorbis: 'Vorbis',
  pcm_s16le: 'PCM'
}
export const codecWords = (codec: string) => CODEC_NAMES[codec] ?? codec
/** A length with hundredths where tenths would not tell it from what is allowed. */
const secondsWords = (seconds: number) => `${Math.round(seconds * 100) / 100} s`

type Check = (facts: FileFacts, one: PartSpecification) => FileFinding | null
const finding = (rule: Rule, is: string, allowed: string): FileFinding => ({ rule, is, allowed })

function sizeFinding({ medium, width, height }: FileFacts, { exact, least, most }: PartSpecification): FileFinding | null {
  const sizes = exact ? exact.times.map((times) => `${exact.width * times}x${exact.height * times}`) : []
  if (width === null || height === null) return medium === 'banner' ? finding('size', 'no size in its page', list(sizes)) : null
  const is = `${width}x${height}`
  if (exact) {
    return sizes.includes(is) ? null : finding('size', is, list(sizes))
  }
  if (least && (width < least.width || height < least.height)) return finding('size', is, `at least ${least.width}x${least.height}`)
  if (most && (width > most.width || height > most.height)) return finding('size', is, `at most ${most.width}x${most.height}`)
  return null
}

function ratioFinding({ width, height }: FileFacts, { ratios }: PartSpecification): FileFinding | null {
  if (ratios.length === 0 || width === null || height === null) return null
  const ratio = width / height
  return ratios.some((one) => Math.abs(ratio / one - 1) <= RATIO_SLACK)
    ? null
    : finding('ratio', `${width}x${height}`, list(ratios.map(ratioWords)))
}

function movesFinding({ medium, seconds, loops }: FileFacts, { movesSeconds }: PartSpecification): FileFinding | null {
  if (medium !== 'picture' || movesSeconds === null || seconds === null) return null
  const whole = loops === 0 ? Infinity : seconds * (loops ?? 1)
  if (whole <= movesSeconds) return null
  const is = whole === Infinity ? `${secondsWords(seconds)}, again and again` : `moves for ${secondsWords(whole)}`
  return finding('moves', is, movesSeconds === 0 ? 'a picture that does not move' : `stands still after ${movesSeconds} s`)
}

function codecFinding({ seen, heard }: FileFacts, { seenCodecs, heardCodecs }: PartSpecification): FileFinding | null {
  if (seen && !seenCodecs.includes(seen.codec)) return finding('codec', codecWords(seen.codec), list(seenCodecs.map(codecWords)))
  return heard && !heardCodecs.includes(heard.codec)
    ? finding('codec', `${codecWords(heard.codec)} sound`, list(heardCodecs.map(codecWords)))
    : null
}

/** One for each rule but the medium, which all others stand on. */
const CHECKS: Readonly<Record<Exclude<Rule, 'medium'>, Check>> = {
  type: ({ type }, { types }) => (types.includes(type) ? null : finding('type', typeWords(type), list(types.map(typeWords)))),
  size: sizeFinding,
  ratio: ratioFinding,
  length: ({ seconds }, { seconds: allowed }) => {
    if (!allowed) return null
    if (seconds === null) return finding('length', 'no length in the file', bounds(allowed, 's'))
    return isWithin(seconds, allowed) ? null : finding('length', secondsWords(seconds), bounds(allowed, 's'))
  },
  moves: movesFinding,
  sound: ({ heard }, { sound }) => (sound === 'needed' && !heard ? finding('sound', 'no sound track', 'a sound track') : null),
  codec: codecFinding,
  frames: ({ seen }, { framesASecond }) =>
    seen && framesASecond && !isWithin(Math.round(seen.framesASecond), framesASecond)
      ? finding('frames', `${oneDigit(seen.framesASecond)} frames a second`, `${framesASecond.least} to ${framesASecond.most}`)
      : null,
  rate: ({ bytes, seconds }, { kbps }) => {
    if (!kbps || !seconds) return null
    const rate = (bytes * 8) / 1000 / seconds
    return isWithin(rate, kbps) ? null : finding('rate', `${Math.round(rate)} kbit a second`, bounds(kbps, 'kbit a second'))
  },
  // Silence has no loudness that could be levelled.
  loudness: ({ heard }, { loudness }) =>
    !loudness || !heard || heard.lufs === null || isWithin(heard.lufs, loudness)
      ? null
      : finding('loudness', `${oneDigit(heard.lufs)} LUFS`, bounds(loudness, 'LUFS')),
  weight: ({ bytes }, { mostBytes }) =>
    bytes <= mostBytes ? null : finding('weight', weightWords(bytes), `at most ${weightWords(mostBytes)}`),
  unpacked: ({ banner }, { mostUnpacked }) =>
    !banner || mostUnpacked === null || banner.unpacked <= mostUnpacked
      ? null
      : finding(
          'unpacked',
          `${weightWords(banner.unpacked)} unpacked`,
          `at most ${weightWords(mostUnpacked)}: browsers unload what is heavier`
        ),
  click: ({ banner }) =>
    !banner || banner.hasClick ? null : finding('click', 'no clickTag', 'a variable clickTag, which says where a click leads'),
  calls: ({ banner }) => {
    if (!banner || banner.calls?.length === 0) return null
    return banner.calls === null
      ? finding('calls', 'it has not run yet', 'what runs without reaching out')
      : finding('calls', `it reaches for ${and(banner.calls)}`, 'all that it shows lies in the zip')
  }
}

/** What is wrong with a file as a part of an ad, in the order of the rules. */
export function findingsOf(facts: FileFacts, one: PartSpecification): FileFinding[] {
  if (facts.medium !== one.medium) return [finding('medium', `a ${facts.medium}`, `a ${one.medium}`)]
  return RULES.flatMap((rule) => (rule === 'medium' ? [] : (CHECKS[rule](facts, one) ?? [])))
}

/** Findings as sentences; null where there are none. */
export const findingWords = (findings: readonly FileFinding[]): string | null =>
  findings.map(({ is, allowed }) => `It is ${is}; allowed is ${allowed}.`).join(' ') || null

/**
 * What each slot says to a file, for the parts that its medium can be.
 * @param shapes that count; all that take the medium where none is named
 */
export function verdictsOf(facts: FileFacts, shapes: readonly Shape[] = shapesTaking(facts.medium)): SlotVerdict[] {
  return shapes.flatMap((shape) =>
    takenBy(shape, null)
      .filter(({ medium }) => medium === facts.medium)
      .map((one) => ({ shape, part: one.part, findings: findingsOf(facts, one) }))
  )
}

/** A finding, with the slots that it is of. */
export interface ToldFinding extends FileFinding {
  shapes: Shape[]
}

/** What some sources take less of than the slot does. */
export interface SourceFinding extends FileFinding {
  sources: string[]
}

/** What is told of a file: the slots that take it, what the others find, and what sources find that the slots do not. */
export interface FileVerdict {
  takes: { shape: Shape; part: string }[]
  findings: ToldFinding[]
  bySource: SourceFinding[]
}

const isAlike = (a: FileFinding, b: FileFinding) => a.rule === b.rule && a.is === b.is && a.allowed === b.allowed

/** What sources find in a file that the slots themselves do not. */
function sourceFindings(facts: FileFacts, shapes: readonly Shape[]): SourceFinding[] {
  const found: SourceFinding[] = []
  for (const shape of shapes)
    takenBy(shape, null).forEach((one, place) => {
      if (one.medium !== facts.medium) return
      const own = findingsOf(facts, one)
      for (const source of SOURCE_NAMES)
        for (const more of findingsOf(facts, takenBy(shape, source)[place])) {
          if (own.some(({ rule }) => rule === more.rule)) continue
          const alike = found.find((other) => isAlike(other, more))
          if (!alike) found.push({ ...more, sources: [source] })
          else if (!alike.sources.includes(source)) alike.sources.push(source)
        }
    })
  return found
}

/** Verdicts put together: one finding for all slots that say the same. */
export function fileVerdict(facts: FileFacts, shapes: readonly Shape[] = shapesTaking(facts.medium)): FileVerdict {
  const findings: ToldFinding[] = []
  const takes: FileVerdict['takes'] = []
  for (const { shape, part, findings: own } of verdictsOf(facts, shapes)) {
    if (own.length === 0) takes.push({ shape, part })
    for (const one of own) {
      const alike = findings.find((other) => isAlike(other, one))
      if (!alike) findings.push({ ...one, shapes: [shape] })
      else if (!alike.shapes.includes(shape)) alike.shapes.push(shape)
    }
  }
  return { takes, findings, bySource: sourceFindings(facts, shapes) }
}
