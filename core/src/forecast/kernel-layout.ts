import { CELLULAR } from '../market/index.js'
import { COUNTRIES } from '../places/index.js'
import { GROUPS } from '../tape/index.js'
import { MINUTES_PER_WEEK } from '../time/index.js'
import { PASS_MINUTES } from './timeline.js'
import { FREQUENCY_BINS } from './totals.js'

/**
 * What the compiled loops and the memory around them agree on. The build writes it out for the loops (core/kernel/layout.ts), so
 * that no number stands twice.
 */

/**
 * Places in the block: a 32-bit number each, an address or a value. Names that begin with `out` are what is found; those that end
 * with `Fails` are bits of restrictions that fail, by value.
 */
const PLACES = [
  // The tape.
  'peopleCount',
  'words',
  'starts',
  'group',
  'path',
  'device',
  'page',
  'state',
  'sincePop',
  'minute',
  'rival',
  'second',
  // The market: a row's price in one word, its kind of outcome, and what is expected of each kind.
  'floors',
  'priceWord',
  'outcome',
  'outcomeViews',
  'outcomeVisits',
  'outcomeConversions',
  'postalCountry',
  // The line's restrictions.
  'postalFails',
  'demographicFails',
  'tongueFails',
  'jobFails',
  'profileFails',
  'employerFails',
  'cellFails',
  'fixedFails',
  'pathFails',
  'deviceFails',
  'pageFails',
  'stateFails',
  'leastSincePop',
  'reads',
  // What matched.
  'outPeople',
  'outStarts',
  'outRows',
  'outWord',
  'outMinute',
  'byGroup',
  'peopleFound',
  // What is replayed, and by what terms.
  'persons',
  'bid',
  'data',
  'time',
  'slotOf',
  'halfOf',
  'repeats',
  'firstMinute',
  'span',
  'slots',
  'caps',
  'capTimes',
  'capMinutes',
  'gap',
  'full',
  'every',
  'isFlight',
  'early',
  'uncapped',
  // What it won.
  'slotTotals',
  'totals',
  'entries',
  'standing'
] as const

export type Place = (typeof PLACES)[number]
export const PLACE = Object.fromEntries(PLACES.map((name, place) => [name, place])) as Record<Place, number>

/** Bits of `reads`: which tables hold anything at all. */
export const READS = { person: 1, network: 2, device: 4, page: 8, state: 16, path: 32 } as const

/** A row's price in one word: what it takes to win, whether a rival set it, and whether the bid itself is paid. */
export const NEED = 0x3fffffff
export const BY_RIVAL = 0x40000000
export const FIRST = 0x80000000

/** Wins, spend, reach, views, visits and conversions by group; then squared charges and the bins of frequency. */
export const MEASURES_KEPT = 6
export const TOTALS = MEASURES_KEPT * GROUPS + 1 + FREQUENCY_BINS
export const WEEK_SLOTS = 168
export const LONGEST_SLOTS = 28 * 24

/** Most rows of one person in a replay: bytes of each of the three lists of `entries`. */
export const ENTRY_BYTES = 16_384

/**
 * `floor(minute / 30)` as a multiplication and a shift, exact for all minutes of a tape: HALF_HOUR / 2^21 is 1/30 from above by less
 * than 1 / (30 x 20,160).
 */
const HALF_HOUR_SHIFT = 21
const HALF_HOUR = Math.ceil(2 ** HALF_HOUR_SHIFT / 30)

/** Numbers that the loops are compiled with, with their types there. */
const KERNEL_NUMBERS: Readonly<Record<string, { type: 'i32' | 'u32' | 'usize'; value: number }>> = {
  GROUPS: { type: 'usize', value: GROUPS },
  COUNTRIES: { type: 'usize', value: COUNTRIES.length },
  MEASURES_KEPT: { type: 'usize', value: MEASURES_KEPT },
  FREQUENCY_BINS: { type: 'i32', value: FREQUENCY_BINS },
  WEEK_SLOTS: { type: 'usize', value: WEEK_SLOTS },
  WEEK_MINUTES: { type: 'u32', value: MINUTES_PER_WEEK },
  PASS_MINUTES: { type: 'i32', value: PASS_MINUTES },
  ENTRY_BYTES: { type: 'usize', value: ENTRY_BYTES },
  HALF_HOUR: { type: 'i32', value: HALF_HOUR },
  HALF_HOUR_SHIFT: { type: 'i32', value: HALF_HOUR_SHIFT },
  CELLULAR: { type: 'u32', value: CELLULAR },
  NEED: { type: 'u32', value: NEED },
  FIRST: { type: 'u32', value: FIRST },
  ...Object.fromEntries(Object.entries(READS).map(([name, value]) => [`READS_${name.toUpperCase()}`, { type: 'u32' as const, value }]))
}

/**
 * The module that the loops are compiled with.
 * @public read by the build
 */
export function kernelLayoutSource(): string {
  const places = PLACES.map((name) => `  ${name} = ${PLACE[name]}`).join(',\n')
  const numbers = Object.entries(KERNEL_NUMBERS).map(([name, { type, value }]) => `export const ${name}: ${type} = ${value}`)
  return [
    '/** Made by the build from core/src/forecast/kernel-layout.ts. */',
    `export const enum Place {\n${places}\n}`,
    ...numbers,
    ''
  ].join('\n')
}
