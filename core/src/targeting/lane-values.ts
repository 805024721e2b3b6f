import {
  BLOCKS,
  PERSON_WORDS,
  blockOf,
  carrierOf,
  demographicOf,
  employerOf,
  jobOf,
  postalOf,
  profileOf,
  providerOf,
  tongueOf,
  type Opportunities
} from '../market/index.js'
import type { LaneValues } from './compile.js'

/**
 * Reads an opportunity and its person, one by one; loops over many read the columns themselves.
 * @param words of people, four each
 * @param person position of the person in `words`
 */
export function laneValues(words: Int32Array, person: number, rows: Opportunities, i: number): LaneValues {
  const word = person * PERSON_WORDS
  const [word0, word1, word2] = [words[word], words[word + 1], words[word + 2]]
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
    path: rows.path[i],
    device: rows.device[i],
    page: rows.page[i],
    state: rows.state[i],
    sincePop: rows.sincePop[i]
  }
}
