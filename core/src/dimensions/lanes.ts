import { POSTALS } from '../places/index.js'
import { JOB_FUNCTIONS } from '../taxonomy/index.js'
import {
  BLOCKS,
  CARRIERS,
  DEMOGRAPHICS,
  DEVICE_CODES,
  EMPLOYERS,
  PERSON_WORDS,
  PROFILES,
  PROVIDERS,
  STATES,
  TONGUES,
  blockOf,
  carrierOf,
  demographicOf,
  employerOf,
  jobOf,
  postalOf,
  profileOf,
  providerOf,
  tongueOf,
  type Inventory,
  type Opportunities,
  type Profiles,
  type PublishedMeasures
} from '../market/index.js'

/** What dimensions are read against: all that is sold, who is in which segment, and what is published of it. */
export interface Catalogue {
  inventory: Inventory
  profiles: Profiles
  measures: PublishedMeasures
}

/** Attributes of a person that a dimension can read. */
export const PERSON_LANES = ['postal', 'demographic', 'tongue', 'job', 'profile', 'employer'] as const
/** The person's two networks; the opportunity's connection says which one counts. */
const NETWORK_LANES = ['cell', 'fixed'] as const
/** Attributes of an opportunity. */
export const ROW_LANES = ['path', 'device', 'page', 'state'] as const
export const LANES = [...PERSON_LANES, ...NETWORK_LANES, ...ROW_LANES] as const
export type Lane = (typeof LANES)[number]

/** How many values a lane has. */
export function laneSize(lane: Lane, inventory: Inventory): number {
  switch (lane) {
    case 'postal':
      return POSTALS.length
    case 'demographic':
      return DEMOGRAPHICS
    case 'tongue':
      return TONGUES
    case 'job':
      return JOB_FUNCTIONS.length + 1
    case 'profile':
      return PROFILES
    case 'employer':
      return EMPLOYERS.length + 1
    case 'cell':
      return CARRIERS.length * BLOCKS
    case 'fixed':
      return PROVIDERS.length * BLOCKS
    case 'path':
      return inventory.floors.length
    case 'device':
      return DEVICE_CODES
    case 'page':
      return inventory.pages.count
    case 'state':
      return STATES
  }
}

/** The lane values of one opportunity and its person. */
export type LaneValues = Record<Lane, number> & { sincePop: number }

/** A win, or an opportunity of the tape, as it is told apart. */
export interface Seen {
  line: number
  ad: number
  path: number
  device: number
  page: number
  state: number
  /** Number of the deal; 0 for the open market. */
  deal: number
  nth: number
  /** Market hour. */
  hour: number
  /** The person's words. */
  word0: number
  word1: number
  word2: number
}

/** One that is filled in again and again. */
export const newSeen = (): Seen => ({
  line: 0,
  ad: 0,
  path: 0,
  device: 0,
  page: 0,
  state: 0,
  deal: 0,
  nth: 0,
  hour: 0,
  word0: 0,
  word1: 0,
  word2: 0
})

/** A person's words into a win that is read. */
export function readPerson(seen: Seen, words: Int32Array, person: number): void {
  const word = person * PERSON_WORDS
  seen.word0 = words[word]
  seen.word1 = words[word + 1]
  seen.word2 = words[word + 2]
}

/** Minutes: more than any restriction asks. */
const LONG_AGO = 1e9

/**
 * All lanes at once. One literal: this is made for every row that is looked at, and an object put together by spreading takes twenty
 * times as long.
 * @param sincePop minutes since a pop; it is not kept of a win
 */
export function lanesOf({ word0, word1, word2, path, device, page, state }: Seen, sincePop = LONG_AGO): LaneValues {
  const block = blockOf(word2)
  return {
    postal: postalOf(word0),
    demographic: demographicOf(word1),
    tongue: tongueOf(word1),
    job: jobOf(word1),
    profile: profileOf(word1),
    employer: employerOf(word2),
    cell: carrierOf(word2) * BLOCKS + block,
    fixed: providerOf(word2) * BLOCKS + block,
    path,
    device,
    page,
    state,
    sincePop
  }
}

const looked = newSeen()
/**
 * Reads an opportunity and its person, one by one; loops over many read the columns themselves.
 * @param words of people, four each
 * @param person position of the person in `words`
 */
export function laneValues(words: Int32Array, person: number, rows: Opportunities, i: number): LaneValues {
  readPerson(looked, words, person)
  looked.path = rows.path[i]
  looked.device = rows.device[i]
  looked.page = rows.page[i]
  looked.state = rows.state[i]
  return lanesOf(looked, rows.sincePop[i])
}

/** Value of a lane for a win. */
export const LANE_OF: Readonly<Record<Exclude<Lane, (typeof NETWORK_LANES)[number]>, (seen: Seen) => number>> = {
  postal: ({ word0 }) => postalOf(word0),
  demographic: ({ word1 }) => demographicOf(word1),
  tongue: ({ word1 }) => tongueOf(word1),
  job: ({ word1 }) => jobOf(word1),
  profile: ({ word1 }) => profileOf(word1),
  employer: ({ word2 }) => employerOf(word2),
  path: ({ path }) => path,
  device: ({ device }) => device,
  page: ({ page }) => page,
  state: ({ state }) => state
}
