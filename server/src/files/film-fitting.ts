import { copyFile, rename, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { lengthOf, type FileFacts, type FilmFit } from '@tin-harbor/core/creative'
import { yup } from '@tin-harbor/core/input'
import { frameFilter, heardMoments, seenMoments } from './film-filters.js'
import { READS, jailed } from './jail.js'

/** Seconds of the processor for a film, in all its passes, and for a look at its loudness. */
const MOST_SECONDS = 600
const LOUDNESS_SECONDS = 120
const HEARD_KBPS = 128
/** Of a weight that is aimed at: containers and the encoder's swing take the rest. */
const FILLED = 0.93
/** Beyond, a viewer sees no difference. */
const MOST_SEEN_KBPS = 5000
const LEAST_SEEN_KBPS = 120
/** Range of loudness and highest peak that levelling leaves, EBU R128. */
const LEVELLED = { range: 11, peak: -1.5 }

export interface FitOptions {
  signal: AbortSignal
  onShare: (share: number) => void
}

/** Filters one after the other; null where there are none. */
const joined = (...filters: (string | null)[]): string | null => filters.filter((one) => one !== null).join(',') || null

const measured = yup.object({
  input_i: yup.number().required(),
  input_tp: yup.number().required(),
  input_lra: yup.number().required(),
  input_thresh: yup.number().required(),
  target_offset: yup.number().required()
})

/** Filter that brings a part to a loudness: it is measured first, so that the second pass turns it up or down as a whole. */
async function levelFilter(path: string, fit: FilmFit, signal: AbortSignal): Promise<string | null> {
  const { from, to, level: wanted } = fit
  if (wanted === null) return null
  const target = `loudnorm=I=${wanted}:LRA=${LEVELLED.range}:TP=${LEVELLED.peak}`
  const args = [
    ...READS,
    '-ss',
    String(from),
    '-t',
    String(to - from),
    '-i',
    'input',
    '-vn',
    '-af',
    joined(heardMoments(fit), `${target}:print_format=json`) ?? ''
  ]
  const limits = { seconds: LOUDNESS_SECONDS, bytes: 1024 * 1024, signal }
  return jailed(path, 'ffmpeg', ['-v', 'info', '-nostats', ...args, '-f', 'null', '-'], limits, ({ stderr }) => {
    const found: unknown = JSON.parse(stderr.slice(stderr.lastIndexOf('{'), stderr.lastIndexOf('}') + 1))
    const read = measured.cast(found, { stripUnknown: true })
    // Silence measures as minus infinity, and stays as it is.
    if (!Number.isFinite(read.input_i)) return null
    const { input_i: level, input_tp: peak, input_lra: range, input_thresh: threshold } = read
    const told = `measured_I=${level}:measured_TP=${peak}:measured_LRA=${range}:measured_thresh=${threshold}`
    return `${target}:${told}:offset=${read.target_offset}:linear=true,aresample=48000`
  })
}

function kbpsFor({ seen, heard }: FileFacts, fit: FilmFit, factor: number): { seen: number; heard: number } {
  const { mostBytes, silence } = fit
  const all = ((mostBytes * 8) / 1000 / lengthOf(fit)) * FILLED * factor
  const sound = heard || silence ? Math.min(HEARD_KBPS, seen ? all / 4 : all) : 0
  return { seen: seen ? Math.max(LEAST_SEEN_KBPS, Math.min(MOST_SEEN_KBPS, all - sound)) : 0, heard: Math.max(32, Math.round(sound)) }
}

/** Arguments of one encoding; the second sound input is silence, where it has none. */
function encodeArgs(facts: FileFacts, fit: FilmFit, sound: string | null, factor: number): string[] {
  const { seen, heard } = kbpsFor(facts, fit, factor)
  const frame = joined(seenMoments(facts, fit), frameFilter(facts, fit))
  const level = joined(heardMoments(fit), sound)
  const part = ['-ss', String(fit.from), '-t', String(fit.to - fit.from)]
  const silence = fit.silence && !facts.heard ? ['-f', 'lavfi', '-t', String(lengthOf(fit)), '-i', 'anullsrc=r=48000:cl=stereo'] : []
  const seenArgs = facts.seen
    ? [
        ...(frame ? ['-vf', frame] : []),
        ...['-c:v', 'libx264', '-preset', 'veryfast', '-pix_fmt', 'yuv420p', '-threads', '2', '-crf', '21'],
        ...['-maxrate', `${Math.round(seen)}k`, '-bufsize', `${Math.round(seen * 2)}k`],
        ...(facts.seen.framesASecond > 60 || facts.seen.framesASecond < 23 ? ['-r', '25'] : [])
      ]
    : ['-vn']
  const heardArgs =
    facts.heard || silence.length > 0
      ? ['-c:a', 'aac', '-b:a', `${heard}k`, '-ar', '48000', '-ac', '2', ...(level && facts.heard ? ['-af', level] : [])]
      : ['-an']
  return [
    ...['-v', 'error', '-nostats', '-progress', 'pipe:1', '-filter_threads', '1'],
    // Each thread takes memory of its own, of which there is little.
    ...['-threads', '1', ...READS, ...part, '-i', 'input', ...silence],
    ...['-map_metadata', '-1', '-map', facts.seen ? '0:v:0' : '0:a:0'],
    ...(facts.seen && facts.heard ? ['-map', '0:a:0'] : silence.length > 0 ? ['-map', '1:a:0'] : []),
    ...seenArgs,
    ...heardArgs,
    ...['-movflags', '+faststart', '-f', 'mp4', '-y', 'made']
  ]
}

/**
 * Makes a part of a film or a sound as it is wanted, under its weight: a second encoding is tried where the first was too heavy.
 * @param target path of what is made; nothing is there when it fails
 */
export async function fitFilm(
  path: string,
  target: string,
  facts: FileFacts,
  fit: FilmFit,
  { signal, onShare }: FitOptions
): Promise<void> {
  const sound = facts.heard ? await levelFilter(path, fit, signal) : null
  const encode = (factor: number) =>
    jailed(
      path,
      'ffmpeg',
      encodeArgs(facts, fit, sound, factor),
      {
        seconds: MOST_SECONDS,
        bytes: fit.mostBytes * 3,
        signal,
        onSaid: (text) => {
          const done = /out_time_us=(\d+)/.exec(text)
          if (done) onShare(Math.min(0.99, Number(done[1]) / 1e6 / lengthOf(fit)))
        }
      },
      async ({ folder }) => {
        await copyFile(join(folder, 'made'), `${target}.part`)
        return (await stat(`${target}.part`)).size
      }
    )
  const bytes = await encode(1)
  if (bytes > fit.mostBytes && (await encode((fit.mostBytes / bytes) * FILLED)) > fit.mostBytes)
    throw new Error('It cannot be made as light as that.')
  await rename(`${target}.part`, target)
}
