import { copyFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { VOICES, type Spoken } from '@tin-harbor/core/creative'
import { invalidField } from '../http/errors.js'
import { fitFilm } from '../files/film-fitting.js'
import { inWorkFolder, jailed, READS } from '../files/jail.js'
import { probe } from '../files/probing.js'

/** Words a minute at which somebody reads, and at the most. */
const USUAL_WORDS = 155
const MOST_WORDS = 220
/** Seconds of music before the first word and after the last. */
const LEAD = 0.4
/** The voice's library reserves 64 MB of shared memory when it starts, as a file. */
const LIMITS = { seconds: 60, bytes: 80 * 1024 * 1024 }
const MOST_BYTES = 3 * 1024 * 1024
/** LUFS of a spot. */
const LOUDNESS = -17

/** Four chords of three strings, plucked twice a second: Hz of each, one chord for two seconds. */
const CHORDS = [
  [220, 277.18, 329.63],
  [174.61, 220, 261.63],
  [196, 246.94, 293.66],
  [164.81, 207.65, 246.94]
] as const

/** The music bed as a formula over the time `t`, in seconds. */
function bedFormula(): string {
  const strings = [0, 1, 2].map((string) => {
    const pitch = CHORDS.map((chord, n) => `${chord[string]}*eq(mod(floor(t/2),4),${n})`).join('+')
    // Each string a little later than the one before it, and dying away.
    const since = `mod(t+${1 - string / 6},0.5)`
    return `0.18*sin(2*PI*(${pitch})*t)*exp(-5*${since})`
  })
  return strings.join('+')
}

/** Arguments that make the bed an input of its own. */
export const bedInput = (seconds: number): string[] => ['-f', 'lavfi', '-t', String(seconds), '-i', `aevalsrc='${bedFormula()}':s=48000`]

/** A script as it is read, a WAV; at a pace that it fits into the time, where it can. */
function read({ script, voice, seconds }: Spoken, target: string, signal: AbortSignal): Promise<void> {
  return inWorkFolder(async (folder) => {
    const text = join(folder, 'script.txt')
    await writeFile(text, script)
    /** @returns how long it takes, seconds */
    const speak = async (words: number) => {
      const args = ['-v', `${VOICES[voice]}+f3`, '-s', String(words), '-f', 'input', '-w', 'made']
      await jailed(text, 'espeak-ng', args, { ...LIMITS, signal }, ({ folder: work }) => copyFile(join(work, 'made'), target))
      return (await probe(target, 'audio/wav', 0)).seconds ?? 0
    }
    const most = seconds - 2 * LEAD
    const usual = await speak(USUAL_WORDS)
    if (usual <= most) return
    const fast = await speak(Math.min(MOST_WORDS, Math.ceil((USUAL_WORDS * usual) / most) + 3))
    const needs = Math.ceil(fast + 2 * LEAD)
    if (fast > most)
      throw invalidField('script', `Read at its fastest it takes ${needs} s, and ${seconds} s were wanted: shorten it, or give it longer.`)
  })
}

/**
 * A spot of so many seconds, read by the studio's voice, with music under it where it is wanted.
 * @param target path of what is made, an M4A
 * @throws a field error where the script does not fit into the time
 */
export function speakSpot(spoken: Spoken, target: string, signal: AbortSignal): Promise<void> {
  return inWorkFolder(async (folder) => {
    const voice = join(folder, 'voice.wav')
    await read(spoken, voice, signal)
    const { seconds, bed } = spoken
    const said = `[0:a]adelay=${LEAD * 1000}:all=1,aresample=48000,apad,atrim=0:${seconds}[said]`
    const mixed = bed ? `[1:a]volume=0.3[bed];[said][bed]amix=inputs=2:duration=first:normalize=0[all]` : '[said]anull[all]'
    const faded = `[all]afade=t=out:st=${seconds - LEAD}:d=${LEAD}[out]`
    const args = [
      ...['-v', 'error', '-nostats', '-filter_threads', '1', '-filter_complex_threads', '1', ...READS, '-i', 'input'],
      ...(bed ? bedInput(seconds) : []),
      ...['-filter_complex', [said, mixed, faded].join(';'), '-map', '[out]', '-t', String(seconds), '-f', 'wav', '-y', 'made']
    ]
    const mix = join(folder, 'mix.wav')
    await jailed(voice, 'ffmpeg', args, { ...LIMITS, signal }, ({ folder: work }) => copyFile(join(work, 'made'), mix))
    const facts = await probe(mix, 'audio/wav', 0)
    const fit = { from: 0, to: seconds, moments: null, frame: null, mostBytes: MOST_BYTES, level: LOUDNESS, silence: false }
    await fitFilm(mix, target, facts, fit, { signal, onShare: () => undefined })
  })
}
