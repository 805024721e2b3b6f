import { copyFile, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { FileFacts, FilmFit } from '@tin-harbor/core/creative'
import { READS, jailed } from './jail.js'
import { frameFilter } from './film-filters.js'

const MB = 1024 * 1024
const QUICK = { seconds: 30, bytes: 20 * MB }
/** Frames of a strip, and their pixels. */
const STRIP = { frames: 10, width: 60, height: 68 }
const QUIET = ['-v', 'error', '-nostats', '-filter_threads', '1', '-threads', '1', ...READS]
/** All frames of a film that is as short are looked at: it may have no more than one key frame. */
const SHORT_SECONDS = 15
/** Every so many frames are compared. */
const COMPARED = 12
/** A film that stands in for one that browsers do not play: small, and soon there. */
const PROXY = { height: 480, seconds: 600, bytes: 200 * MB }

/** A strip of frames over a film, a JPEG: of its key frames alone, which need no others, where all would take long. */
export function stripOf(path: string, { seconds }: FileFacts): Promise<Buffer> {
  const { frames, width, height } = STRIP
  const whole = Math.max(seconds ?? 1, 0.5)
  const fill = `scale=${width}:${height}:force_original_aspect_ratio=increase,crop=${width}:${height},setsar=1`
  // The last key frame stands for all after it.
  const even = `tpad=stop_mode=clone:stop_duration=${whole},fps=${frames / whole}:round=near`
  const sparse = whole > SHORT_SECONDS ? ['-skip_frame', 'nokey'] : []
  const read = [...sparse, '-i', 'input', '-an', '-vf', `${fill},${even},tile=${frames}x1`, '-frames:v', '1']
  return jailed(path, 'ffmpeg', [...QUIET, ...read, '-f', 'image2', '-c:v', 'mjpeg', '-y', 'made'], QUICK, ({ folder }) =>
    readFile(join(folder, 'made'))
  )
}

/** The frame at a second, a PNG of the film's own pixels. */
export function frameAt(path: string, second: number): Promise<Buffer> {
  const args = ['-ss', String(second), '-i', 'input', '-an', '-frames:v', '1', '-f', 'image2', '-c:v', 'png', '-y', 'made']
  return jailed(path, 'ffmpeg', [...QUIET, ...args], QUICK, ({ folder }) => readFile(join(folder, 'made')))
}

/** A film or a sound that every browser plays, for looking at one that it does not. */
export async function makeProxy(path: string, { seen }: FileFacts, target: string, signal: AbortSignal): Promise<void> {
  const film = [
    ...['-map', '0:v:0', '-vf', `scale=-2:'min(${PROXY.height},ih)',setsar=1`],
    ...['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '26']
  ]
  const args = [
    ...['-i', 'input', '-map_metadata', '-1', '-map', '0:a:0?', ...(seen ? [...film, '-pix_fmt', 'yuv420p'] : [])],
    ...['-c:a', 'aac', '-b:a', '96k', '-ac', '2', '-ar', '48000', '-movflags', '+faststart', '-f', 'mp4', '-y', 'made']
  ]
  await jailed(path, 'ffmpeg', [...QUIET, ...args], { ...PROXY, signal }, ({ folder }) => copyFile(join(folder, 'made'), target))
}

/**
 * How alike what was made is to the part that it was made of, by SSIM (Wang et al. 2004) as ffmpeg computes it over frames of both, at the
 * pixels of what was made: 1 is the same. Null where frames do not stand for each other.
 * @param made path of what was made
 */
export async function likeness(path: string, made: string, facts: FileFacts, fit: FilmFit, signal: AbortSignal): Promise<number | null> {
  if (!facts.seen || fit.moments || facts.seen.framesASecond > 60 || facts.seen.framesASecond < 23) return null
  const frame = frameFilter(facts, fit)
  const some = `select='not(mod(n,${COMPARED}))',setpts=N/TB`
  const graph = `[0:v]${frame ? `${frame},` : ''}format=yuv420p,${some}[was];[1:v]${some}[is];[was][is]ssim`
  const part = ['-ss', String(fit.from), '-t', String(fit.to - fit.from)]
  const args = [
    ...['-v', 'info', '-nostats', '-threads', '1', '-filter_complex_threads', '1'],
    ...[...READS, ...part, '-i', 'input', ...READS, '-i', 'beside']
  ]
  const limits = { seconds: 200, bytes: MB, beside: made, signal }
  return jailed(path, 'ffmpeg', [...args, '-filter_complex', graph, '-an', '-f', 'null', '-'], limits, ({ stderr }) => {
    const found = /SSIM .*All:([\d.]+)/.exec(stderr)
    return found ? Number(found[1]) : null
  })
}
