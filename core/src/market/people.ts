import { CITIES, COUNTRIES, POSTALS } from '../places/index.js'
import { AGES, GENDERS, INCOMES, INDUSTRIES, JOB_FUNCTIONS, LANGUAGES, SEGMENTS } from '../taxonomy/index.js'
import { AliasTable, STREAM, draw, drawBits, exactExp, finish, fold, hash, normalOf, step } from '../random/index.js'
import { EMPLOYER_FIRST, EMPLOYER_LAST } from './names.js'
import { CARRIERS, PROVIDERS } from './networks.js'

/**
 * People of the stand-in market: four 32-bit words each, side by side, since an auction meets them in random order.
 * Word 0: postal area (14 bits), activity class (7), device mix (4), value class (6).
 * Word 1: age (3), gender (2), income (3), language (5), English browser (1), job function (5), profile (12).
 * Word 2: employer (9), carrier (7), provider (7), taste (3), block of addresses (6).
 * Word 3: 32 bits of their own, for what they always do alike.
 */
export interface People {
  count: number
  words: Int32Array
}

export const PERSON_WORDS = 4
export const postalOf = (word0: number) => word0 & 0x3fff
export const rateClassOf = (word0: number) => (word0 >> 14) & 0x7f
export const mixOf = (word0: number) => (word0 >> 21) & 0xf
export const valueClassOf = (word0: number) => (word0 >> 25) & 0x3f
/** Age, gender and income in one number of eight bits: age + 8 x gender + 32 x income. */
export const demographicOf = (word1: number) => word1 & 0xff
/** Language, and 32 more when the browser speaks English to somebody who does not. */
export const tongueOf = (word1: number) => (word1 >> 8) & 0x3f
export const jobOf = (word1: number) => (word1 >> 14) & 0x1f
export const profileOf = (word1: number) => (word1 >>> 19) & 0xfff
export const employerOf = (word2: number) => word2 & 0x1ff
export const carrierOf = (word2: number) => (word2 >> 9) & 0x7f
export const providerOf = (word2: number) => (word2 >> 16) & 0x7f
export const tasteOf = (word2: number) => (word2 >> 23) & 0x7
export const blockOf = (word2: number) => word2 >>> 26

export const DEMOGRAPHICS = 256
export const TONGUES = 64
export const PROFILES = 4096
/** Job of people who have none that is known; `EMPLOYERS.length` says the same of the employer. */
const NO_JOB = JOB_FUNCTIONS.length

export interface Employer {
  index: number
  name: string
  industry: number
  country: number
}

export const EMPLOYERS: readonly Employer[] = Array.from({ length: 500 }, (_, index) => {
  let left = hash(911, index) % COUNTRIES.reduce((sum, country) => sum + country.weight, 0)
  const country = COUNTRIES.findIndex((row) => (left -= row.weight) < 0)
  return {
    index,
    country,
    industry: hash(912, index) % INDUSTRIES.length,
    name: `${EMPLOYER_FIRST[index % EMPLOYER_FIRST.length]} ${EMPLOYER_LAST[Math.floor(index / EMPLOYER_FIRST.length)]}`
  }
})

export const RATE_CLASSES = 128
/** Mean opportunities a person and day. */
const MEAN_RATE = 2
/** Spread of activity: with 1.09 the busiest tenth makes about 42 % of all opportunities. */
const RATE_SIGMA = 1.09
const MOST_RATE = 38
const VALUE_SIGMA = 0.42

/** Share of phone, tablet, desktop, TV, console and set-top box for twelve kinds of people. */
export const DEVICE_MIXES: readonly (readonly number[])[] = [
  [100, 0, 0, 0, 0, 0],
  [84, 0, 12, 4, 0, 0],
  [66, 8, 21, 4, 1, 0],
  [52, 22, 18, 6, 0, 2],
  [42, 4, 48, 5, 0, 1],
  [28, 16, 48, 6, 0, 2],
  [14, 0, 84, 2, 0, 0],
  [44, 46, 0, 10, 0, 0],
  [56, 0, 18, 8, 18, 0],
  [38, 6, 28, 22, 0, 6],
  [26, 8, 30, 20, 0, 16],
  [72, 4, 18, 2, 4, 0]
]
const MIX_BY_TIER: Readonly<Record<1 | 2 | 3, readonly number[]>> = {
  1: [10, 16, 16, 7, 15, 8, 6, 3, 5, 6, 4, 4],
  2: [18, 20, 16, 6, 12, 5, 5, 2, 4, 5, 3, 4],
  3: [48, 22, 9, 2, 5, 1, 3, 1, 1, 1, 0, 7]
}
/** How age turns the scales: the young have consoles, the old have set-top boxes and desktops. */
const MIX_BY_AGE: readonly (readonly number[])[] = [
  [14, 14, 12, 4, 4, 1, 1, 6, 30, 2, 0, 12],
  [14, 14, 14, 3, 6, 2, 2, 3, 18, 3, 0, 12],
  [10, 12, 16, 6, 12, 5, 4, 4, 8, 5, 1, 8],
  [8, 10, 14, 9, 15, 8, 6, 4, 4, 7, 3, 6],
  [6, 9, 11, 10, 14, 11, 9, 4, 1, 9, 6, 5],
  [5, 8, 8, 11, 11, 13, 11, 5, 0, 12, 12, 4],
  [4, 7, 5, 12, 8, 14, 12, 7, 0, 15, 18, 3],
  [10, 12, 12, 6, 12, 8, 6, 4, 5, 7, 4, 6]
]

/** Opportunities a day of an activity class, before the day's own factor. */
export function rateOf(rateClass: number): number {
  const z = normalOf(((rateClass + 0.5) / RATE_CLASSES) * 4294967296)
  return Math.min(MOST_RATE, MEAN_RATE * exactExp(RATE_SIGMA * z - (RATE_SIGMA * RATE_SIGMA) / 2) * 1.035)
}

/** Price factor of a value class; median 1. */
export function valueOf(valueClass: number): number {
  return exactExp(VALUE_SIGMA * normalOf(((valueClass + 0.5) / 64) * 4294967296))
}

/** Bytes that `peopleOver` needs. */
export function peopleBytes(count: number): number {
  return count * PERSON_WORDS * 4
}

/** Views over one buffer, which may be shared between threads. */
export function peopleOver(buffer: ArrayBufferLike, count: number): People {
  return { count, words: new Int32Array(buffer, 0, count * PERSON_WORDS) }
}

const AGE_SHARES: Readonly<Record<1 | 2 | 3, readonly number[]>> = {
  1: [6, 12, 17, 17, 16, 13, 11, 8],
  2: [7, 13, 18, 18, 15, 11, 9, 9],
  3: [11, 22, 25, 17, 9, 4, 2, 10]
}
/** Income by age: it rises until people are about fifty. */
const INCOME_SHARES: readonly (readonly number[])[] = [
  [20, 20, 20, 20, 20, 40],
  [34, 26, 18, 10, 4, 20],
  [20, 22, 22, 18, 10, 16],
  [13, 16, 20, 22, 19, 14],
  [11, 14, 19, 23, 24, 14],
  [15, 18, 20, 19, 18, 16],
  [26, 26, 20, 12, 7, 18],
  [16, 16, 16, 16, 14, 30]
]
/** Share of 1,000 in known work by age. */
const WORKING = [20, 340, 520, 560, 540, 380, 60, 240]

/** What audiences like to read and watch: see `tasteFactor`. */
export const TASTES = ['young women', 'young men', 'women', 'men', 'older women', 'older men', 'commuters', 'business'] as const
const TASTE = Object.fromEntries(TASTES.map((name, n) => [name, n])) as Readonly<Record<(typeof TASTES)[number], number>>

function tasteFor(age: number, gender: number, income: number, works: boolean, uniform: number): number {
  if (works && income >= 3 && income < 5 && uniform < 0x4000) return TASTE.business
  if (works && age >= 2 && age <= 5 && (uniform & 0xff) < 96) return TASTE.commuters
  const woman = gender === 0 || (gender === 2 && (uniform & 1) === 1)
  const base = age <= 1 ? 0 : age === 7 ? 2 : age <= 4 ? 2 : 4
  return base + (woman ? 0 : 1)
}

/** Fills the words of people [from, to); a pure function of the seed, so that threads can share the work. */
export function fillPeople(seed: number, people: People, from = 0, to = people.count): void {
  // Walker's tables of each country's places, languages and networks, with the number of the first.
  const byCountry = COUNTRIES.map((country) => {
    const postals = POSTALS.filter((postal) => CITIES[postal.city].country === country.index)
    const sizes = new Map<number, number>()
    for (const postal of postals) sizes.set(postal.city, (sizes.get(postal.city) ?? 0) + 1)
    const carriers = CARRIERS.filter((network) => network.country === country.index)
    const providers = PROVIDERS.filter((network) => network.country === country.index)
    return {
      tier: country.tier,
      firstPostal: postals[0].index,
      postals: new AliasTable(
        postals.map(
          (postal) =>
            (CITIES[postal.city].weight / (sizes.get(postal.city) as number)) *
            (1 + (hash(seed, STREAM.region, postal.index) % 1000) / 1000)
        )
      ),
      languages: country.languages.map((row) => row.language),
      tongues: new AliasTable(country.languages.map((row) => row.share)),
      firstCarrier: carriers[0].index,
      carriers: new AliasTable(carriers.map((network) => network.weight)),
      firstProvider: providers[0].index,
      providers: new AliasTable(providers.map((network) => network.weight)),
      employers: EMPLOYERS.filter((employer) => employer.country === country.index).map((employer) => employer.index)
    }
  })
  const countries = new AliasTable(COUNTRIES.map((country) => country.weight))
  const ages = ([1, 2, 3] as const).map((tier) => new AliasTable(AGE_SHARES[tier]))
  const incomes = INCOME_SHARES.map((shares) => new AliasTable(shares))
  const mixes = ([1, 2, 3] as const).map((tier) =>
    AGES.map((_, age) => new AliasTable(MIX_BY_TIER[tier].map((share, n) => share * MIX_BY_AGE[age][n])))
  )
  const english = LANGUAGES.indexOf('en')
  const base = fold(seed, STREAM.person)
  const { words } = people
  for (let person = from; person < to; person++) {
    const key = step(base, person)
    const pick = (table: AliasTable, stream: number) => {
      const state = step(key, stream)
      return table.pick(finish(state), finish(step(state, 1)))
    }
    const country = byCountry[pick(countries, STREAM.country)]
    const own = drawBits(key, STREAM.habit)
    const traits = drawBits(key, STREAM.traits)
    const age = pick(ages[country.tier - 1], STREAM.age)
    const gender = (traits & 0xff) < 115 ? 0 : (traits & 0xff) < 230 ? 1 : 2
    const income = pick(incomes[age], STREAM.income)
    const works = ((traits >>> 8) & 0x3ff) < WORKING[age] * 1.024
    const mix = pick(mixes[country.tier - 1][age], STREAM.mix)
    const work = drawBits(key, STREAM.work)
    const language = country.languages[pick(country.tongues, STREAM.language)]
    // Travellers and the well paid have English browsers more often.
    const foreign = language !== english && ((traits >>> 18) & 0x3f) < (income >= 3 && income < 5 ? 8 : 3) ? 1 : 0
    const worth = drawBits(key, STREAM.value) >>> 26
    // Advertisers pay more for the well paid: the class of who earns more is the better of two draws.
    const value = income >= 3 && income < 5 ? Math.max(worth, (traits >>> 24) & 0x3f) : worth
    const knownEmployer = works && country.employers.length > 0 && (work & 0x3) === 0
    const employer = knownEmployer ? country.employers[((work >>> 2) & 0x3fff) % country.employers.length] : EMPLOYERS.length
    const word = person * PERSON_WORDS
    words[word] =
      (country.firstPostal + pick(country.postals, STREAM.region)) |
      ((drawBits(key, STREAM.rate) >>> 25) << 14) |
      (mix << 21) |
      (value << 25)
    words[word + 1] =
      age |
      (gender << 3) |
      (income << 5) |
      (language << 8) |
      (foreign << 13) |
      ((works ? jobFor(work, income) : NO_JOB) << 14) |
      ((profileGroup(age, gender, income) * PROFILES_EACH + ((own >>> 3) & (PROFILES_EACH - 1))) << 19)
    words[word + 2] =
      employer |
      ((country.firstCarrier + pick(country.carriers, STREAM.network)) << 9) |
      ((country.firstProvider + pick(country.providers, STREAM.provider)) << 16) |
      (tasteFor(age, gender, income, works, work >>> 16) << 23) |
      ((own >>> 26) << 26)
    words[word + 3] = own
  }
}

/** Managers, engineers and doctors earn more. */
function jobFor(work: number, income: number): number {
  const job = ((work >>> 11) & 0x1f) % JOB_FUNCTIONS.length
  return income === 4 && (work & 0x300) === 0x300 ? JOB_FUNCTIONS.indexOf('management') : job
}

const PROFILES_EACH = 64
/** People of one age, gender and income share 64 profiles, out of 64 groups. */
function profileGroup(age: number, gender: number, income: number): number {
  const rich = income === 5 ? 1 : income <= 1 ? 0 : income <= 2 ? 1 : 2
  return Math.min(age, 6) * 9 + gender * 3 + rich
}

const SEGMENT_WORDS = Math.ceil(SEGMENTS.length / 32)

/** Which segments each profile is in: a bit a segment, `words` 32-bit words a profile. */
export interface Profiles {
  words: number
  sets: Int32Array
}

/** Whether a profile is in a segment. */
export function inSegment(profiles: Profiles, profile: number, segment: number): boolean {
  return ((profiles.sets[profile * profiles.words + (segment >> 5)] >>> (segment & 31)) & 1) === 1
}

/** Interest of an age in a branch, 1 in the mean: a wave over the ages whose crest each branch has of its own. */
export function ageInterest(branchNumber: number, age: number): number {
  const crest = (branchNumber * 5) % 7
  const away = Math.abs(Math.min(age, 6) - crest)
  return [2.1, 1.6, 1.1, 0.75, 0.55, 0.45, 0.4][away]
}

const ABLE = [0.7, 1, 1.4]
/** Segments of the 4,096 profiles; who cares for a subject is in many of its segments. */
export function makeProfiles(seed: number): Profiles {
  const sets = new Int32Array(PROFILES * SEGMENT_WORDS)
  const branches = [...new Set(SEGMENTS.map((segment) => segment.branch))]
  const cares = SEGMENTS.map((segment) => branches.indexOf(segment.branch))
  const spread = SEGMENTS.map(({ kind, index }) => {
    const base = kind === 'interest' ? 0.11 : kind === 'purchase intent' ? 0.022 : 0.06
    return base * exactExp(0.5 * normalOf(hash(seed, STREAM.segment, index)))
  })
  // Every thread makes them anew as it starts: what is alike in a group is worked out once, each product in one order.
  const interests = new Float64Array(SEGMENTS.length)
  const shares = new Float64Array(SEGMENTS.length)
  const likings = new Float64Array(branches.length)
  for (let profile = 0; profile < PROFILES; profile++) {
    const key = fold(seed, STREAM.profile, profile)
    // A profile's own liking for a branch is shared by all of the branch's segments.
    for (let care = 0; care < branches.length; care++) likings[care] = exactExp(1.0 * normalOf(draw(key, 1000 + care)) - 0.5)
    if (profile % PROFILES_EACH === 0) {
      const group = profile / PROFILES_EACH
      const age = Math.floor(group / 9)
      const able = ABLE[group % 3]
      for (const { index, kind, branch } of SEGMENTS) {
        interests[index] = branch < 0 ? 1 : ageInterest(cares[index], age)
        shares[index] = kind === 'purchase intent' ? spread[index] * able : spread[index]
      }
    }
    for (let index = 0; index < SEGMENTS.length; index++) {
      const share = Math.min(0.9, shares[index] * likings[cares[index]] * interests[index])
      if (draw(key, index) < share * 4294967296) sets[profile * SEGMENT_WORDS + (index >> 5)] |= 1 << (index & 31)
    }
  }
  return { words: SEGMENT_WORDS, sets }
}

/** Age, gender and income of a demographic code. */
export const demographic = (code: number) => ({ age: code & 7, gender: (code >> 3) & 3, income: (code >> 5) & 7 })
/** Whether a demographic code can occur. */
export const isDemographic = (code: number) => ((code >> 3) & 3) < GENDERS.length && ((code >> 5) & 7) < INCOMES.length
