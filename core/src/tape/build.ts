import { COUNTRIES, POSTAL_COUNTRY } from '../places/index.js'
import { HOURS_PER_DAY, MINUTES_PER_DAY } from '../time/index.js'
import { STREAM, hash, hashColumns } from '../random/index.js'
import {
  MOST_A_DAY,
  PERSON_WORDS,
  SOURCES,
  dayTables,
  drawMinutes,
  fillRow,
  opportunityColumns,
  placementFormats,
  postalOf,
  type DayTables,
  type World
} from '../market/index.js'
import { GROUPS, TAPE_DAYS, newTape, sealTape, type Tape, type TapeHead } from './layout.js'

/** Numbers of the people on the tape, ascending. */
export function tapePeople({ seed, people, sample }: Pick<World, 'seed' | 'people' | 'sample'>): Uint32Array {
  const chosen: number[] = []
  for (let person = 0; person < people; person++) {
    if (hash(seed, STREAM.sample, person) % sample === 0) chosen.push(person)
  }
  return Uint32Array.from(chosen)
}

/** What a build reports now and then: rows made of about how many. */
export type TapeProgress = (done: number, total: number) => void

const PROGRESS_EVERY = 2048

/** Fills the rows of one person and day from row `at` on, in order of time; returns the row after them. */
function fillPersonDay(
  tables: DayTables,
  tape: Tape,
  n: number,
  day: number,
  row: number,
  minutes: Uint16Array,
  order: Uint32Array
): number {
  const person = tape.numbers[n]
  const word = person * PERSON_WORDS
  const count = drawMinutes(tables, person, tape.words[n * PERSON_WORDS], minutes)
  for (let k = 0; k < count; k++) {
    const entry = (minutes[k] << 6) | k
    let j = k
    for (; j > 0 && order[j - 1] > entry; j--) order[j] = order[j - 1]
    order[j] = entry
  }
  let lastPop = -1
  for (let j = 0; j < count; j++, row++) {
    const minute = order[j] >>> 6
    if (fillRow(tables, person, word, order[j] & 63, minute, lastPop, tape.rows, row) === 1) lastPop = minute
    tape.rows.person[row] = n
    tape.rows.minute[row] = day * MINUTES_PER_DAY + minute
  }
  return row
}

function countTraffic(tape: Tape, world: World): void {
  const formats = placementFormats(world.inventory)
  const { path, minute } = tape.rows
  for (let n = 0; n < tape.peopleCount; n++) {
    const country = POSTAL_COUNTRY[postalOf(tape.words[n * PERSON_WORDS])]
    for (let i = tape.starts[n]; i < tape.starts[n + 1]; i++) {
      const format = formats[Math.floor(path[i] / SOURCES.length)]
      tape.traffic[(format * COUNTRIES.length + country) * TAPE_DAYS + Math.floor(minute[i] / MINUTES_PER_DAY)]++
    }
  }
}

function copyPeople(tape: Tape, world: World, numbers: Uint32Array): void {
  tape.numbers.set(numbers)
  for (let n = 0; n < numbers.length; n++) {
    const from = numbers[n] * PERSON_WORDS
    for (let w = 0; w < PERSON_WORDS; w++) tape.words[n * PERSON_WORDS + w] = world.persons.words[from + w]
    tape.group[n] = hash(world.seed, STREAM.group, numbers[n]) % GROUPS
  }
}

/**
 * Builds the tape whose last whole day is `lastDay` (UTC market day).
 * @param numbers of the people on it, ascending; the sampled ones unless somebody wants others, to see what is true of all
 */
export function buildTape(world: World, lastDay: number, progress?: TapeProgress, numbers: Uint32Array = tapePeople(world)): Tape {
  const firstDay = lastDay - TAPE_DAYS + 1
  const days = Array.from({ length: TAPE_DAYS }, (_, n) => dayTables(world, firstDay + n))
  const minutes = new Uint16Array(MOST_A_DAY)
  const order = new Uint32Array(MOST_A_DAY)
  // Two passes, so that the one allocation is exact: the columns are shared and never copied.
  const starts = new Uint32Array(numbers.length + 1)
  for (let n = 0; n < numbers.length; n++) {
    const word0 = world.persons.words[numbers[n] * PERSON_WORDS]
    starts[n + 1] = starts[n]
    for (const day of days) starts[n + 1] += drawMinutes(day, numbers[n], word0, minutes)
  }
  const total = starts[numbers.length]
  const { seed, people, sample } = world
  const tape = newTape({ seed, people, sample, firstDay, rowCount: total, peopleCount: numbers.length })
  tape.starts.set(starts)
  copyPeople(tape, world, numbers)
  let row = 0
  for (let n = 0; n < numbers.length; n++) {
    if (n % PROGRESS_EVERY === 0) progress?.(row, total)
    for (let day = 0; day < TAPE_DAYS; day++) row = fillPersonDay(days[day], tape, n, day, row, minutes, order)
  }
  countTraffic(tape, world)
  sealTape(tape)
  progress?.(total, total)
  return tape
}

/**
 * The tape a day later, from the one before it and the seed: the oldest day goes, the new one is drawn. Equal to the
 * byte to one built whole; the old tape is left as it is, for forecasts that still read it.
 */
export function addDay(world: World, old: Tape, progress?: TapeProgress): Tape {
  const tables = dayTables(world, old.firstDay + TAPE_DAYS)
  const minutes = new Uint16Array(MOST_A_DAY)
  const order = new Uint32Array(MOST_A_DAY)
  const kept = new Uint32Array(old.peopleCount)
  const starts = new Uint32Array(old.peopleCount + 1)
  for (let n = 0; n < old.peopleCount; n++) {
    let from = old.starts[n]
    while (from < old.starts[n + 1] && old.rows.minute[from] < MINUTES_PER_DAY) from++
    kept[n] = from
    starts[n + 1] = starts[n] + (old.starts[n + 1] - from) + drawMinutes(tables, old.numbers[n], old.words[n * PERSON_WORDS], minutes)
  }
  const { seed, people, sample, peopleCount } = old
  const tape = newTape({ seed, people, sample, peopleCount, firstDay: old.firstDay + 1, rowCount: starts[peopleCount] })
  tape.starts.set(starts)
  tape.numbers.set(old.numbers)
  tape.words.set(old.words)
  tape.group.set(old.group)
  for (let n = 0; n < peopleCount; n++) {
    if (n % PROGRESS_EVERY === 0) progress?.(starts[n], tape.rowCount)
    let row = starts[n]
    for (let i = kept[n]; i < old.starts[n + 1]; i++, row++) {
      tape.rows.key[row] = old.rows.key[i]
      tape.rows.rival[row] = old.rows.rival[i]
      tape.rows.second[row] = old.rows.second[i]
      tape.rows.path[row] = old.rows.path[i]
      tape.rows.device[row] = old.rows.device[i]
      tape.rows.page[row] = old.rows.page[i]
      tape.rows.state[row] = old.rows.state[i]
      tape.rows.sincePop[row] = old.rows.sincePop[i]
      tape.rows.person[row] = n
      tape.rows.minute[row] = old.rows.minute[i] - MINUTES_PER_DAY
    }
    fillPersonDay(tables, tape, n, TAPE_DAYS - 1, row, minutes, order)
  }
  countTraffic(tape, world)
  sealTape(tape)
  progress?.(tape.rowCount, tape.rowCount)
  return tape
}

/** First market hour after the tape. */
export function tapeEnd(head: Pick<TapeHead, 'firstDay'>): number {
  return (head.firstDay + TAPE_DAYS) * HOURS_PER_DAY
}

export function tapeHash(tape: Tape): string {
  return hashColumns([tape.starts, tape.numbers, tape.words, tape.group, tape.traffic, ...opportunityColumns(tape.rows)])
}
