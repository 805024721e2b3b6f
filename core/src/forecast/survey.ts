import { FORMATS, GRADES, SHAPES, SHAPE_FORMAT } from '../taxonomy/index.js'
import {
  CELLULAR,
  CODE_FORMS,
  DEVICE_TYPE,
  PERSON_WORDS,
  SOURCES,
  codeAt,
  placementFormats,
  postalOf,
  type Coded
} from '../market/index.js'
import { POSTAL_COUNTRY, POSTAL_ZONE } from '../places/index.js'
import { OPEN_MARKET } from '../pricing/index.js'
import { conversionChance, eventRates, groupAt, visitChance } from '../response/index.js'
import { REPORT_DIMENSIONS, newSeen, type Seen, type TellingMarket } from '../dimensions/index.js'
import { MINUTES_PER_WEEK, ZONES, offsetMinutes, weekdayOf, zoneIndex } from '../time/index.js'
import { TAPE_DAYS, tapeEnd, type Tape } from '../tape/index.js'
import { compileTargeting } from '../targeting/index.js'
import { cellFailures, fixedFailures, fullLanes, personFailures } from './lanes.js'
import { hourTable } from './match-tape.js'
import { PRICE_BINS, binPrice, priceBin } from './price-bins.js'
import { CancelledError, LOOK_EVERY, type ForecastMarket } from './question.js'

import { lifted, type Sentence, type Survey, type SurveyBy, type SurveyQuestion, type Traffic } from './survey-question.js'

/** Sums of some traffic, kept side by side for many groups. */
class Sums {
  rows = 0
  people = 0
  last = -1
  floor = 0xffffffff
  sum = 0
  highest = 0
  rivals = 0
  won = 0
  viewable = 0
  bots = 0
  blocked = 0
  stays = 0
  grade = 0
  conversions = 0
  direct = 0
  readonly needs = new Uint32Array(PRICE_BINS)

  /** @param floors counted where a quantile of them is told: of all traffic, not of each group */
  constructor(readonly floors: Uint32Array | null = null) {}
}

/** Price at which a share of the counts is reached, micros an impression; 0 for none. */
function binQuantile(counts: Uint32Array, total: number, share: number): number {
  let before = 0
  for (let bin = 0; bin < PRICE_BINS; bin++) {
    before += counts[bin]
    if (total > 0 && before >= share * total) return binPrice(bin)
  }
  return 0
}

function trafficOf(sums: Sums, sample: number): Traffic {
  const { rows, needs, floors } = sums
  const share = (sum: number) => (rows > 0 ? sum / rows : 0)
  return {
    opportunitiesADay: (rows * sample) / TAPE_DAYS,
    people: sums.people * sample,
    floorMicros: rows > 0 ? sums.floor * 1000 : 0,
    mostFloorsMicros: floors ? binQuantile(floors, rows, 0.95) * 1000 : null,
    meanMicros: share(sums.sum) * 1000,
    highestMicros: sums.highest * 1000,
    rivals: share(sums.rivals),
    entersMicros: binQuantile(needs, rows, 0.1) * 1000,
    halfMicros: binQuantile(needs, rows, 0.5) * 1000,
    nineInTenMicros: binQuantile(needs, rows, 0.9) * 1000,
    winRate: share(sums.won),
    viewability: share(sums.viewable) / 100,
    bots: share(sums.bots) / 100,
    blocked: share(sums.blocked) / 100,
    stays: share(sums.stays) / 100,
    grade: GRADES[Math.round(share(sums.grade))],
    direct: share(sums.direct),
    conversionRate: share(sums.conversions)
  }
}

/** Groups of traffic by a number that is small, -1 included. */
class Grouping {
  private places = new Int32Array(1024).fill(-1)
  readonly keys: number[] = []
  readonly sums: Sums[] = []

  of(key: number): Sums {
    const slot = key + 1
    if (slot >= this.places.length) {
      const places = new Int32Array(Math.max(this.places.length * 2, slot + 1)).fill(-1)
      places.set(this.places)
      this.places = places
    }
    if (this.places[slot] < 0) {
      this.places[slot] = this.sums.length
      this.keys.push(key)
      this.sums.push(new Sums())
    }
    return this.sums[this.places[slot]]
  }
}

/**
 * Counts the traffic of a sentence on the tape, whole and by groups.
 * @param zone in which hours of reports are counted; hours of the sentence are the viewer's
 * @throws CancelledError
 */
export function survey(question: SurveyQuestion, zone: string, tape: Tape, catalogue: ForecastMarket, cancelled: () => boolean): Survey {
  const sentence = lifted(question.sentence, question.without)
  const counted = (asked: SurveyQuestion, every: number) => gather(asked, zone, tape, catalogue, every, cancelled)
  // Where a part of the people shows that very much matches, the part is enough.
  const part = tape.rowCount > MOST_ROWS ? counted({ ...question, sentence }, PART) : null
  const about = part ? part.rows * PART : 0
  const found = part && about > 4 * MOST_ROWS ? part : counted({ ...question, sentence }, about > MOST_ROWS ? PART / 2 : 1)
  const { rows, ...survey } = found
  return {
    ...survey,
    emptiedBy: rows > 0 ? null : emptiedBy(sentence, (shorter) => counted({ ...question, sentence: shorter, by: [] }, 1).rows)
  }
}

/** Rows beyond which one person in four is looked at; far beyond them one in eight. */
const MOST_ROWS = 200_000
const PART = 8

function gather(
  question: SurveyQuestion,
  zone: string,
  tape: Tape,
  catalogue: ForecastMarket,
  every: number,
  cancelled: () => boolean
): Omit<Survey, 'emptiedBy'> & { rows: number } {
  const { inventory, profiles, measures, benchmarks, groupByPath } = catalogue
  const { sentence } = question
  const compiled = compileTargeting(sentence.targeting, catalogue)
  const shapes = SHAPES.flatMap((_, shape) =>
    sentence.formats.length === 0 || sentence.formats.includes(FORMATS[SHAPE_FORMAT[shape]]) ? [shape] : []
  )
  const lanes = fullLanes(compiled, inventory, shapes, OPEN_MARKET)
  const hours = sentence.hours && sentence.hours.perMille.some((m) => m === 0) ? hourTable(sentence.hours, zone, tape) : null
  const noon = tapeEnd(tape) - 12
  const weekStart = weekdayOf(tape.firstDay) * 1440
  const localStart = ZONES.map((_, index) => weekStart + offsetMinutes(index, noon) + 2 * MINUTES_PER_WEEK)
  const market: TellingMarket = { inventory, profiles, measures, zone: zoneIndex(zone) }
  const dealsOf = dealTable(question, inventory.placements.length)
  const groupings = question.by.map((by) => ({
    by,
    grouping: new Grouping(),
    key: by === 'deal' ? (seen: Seen) => dealsOf[Math.floor(seen.path / SOURCES.length)] : REPORT_DIMENSIONS[by].key
  }))
  const total = new Sums(new Uint32Array(PRICE_BINS))
  const week = Array.from({ length: 168 }, () => ({ rows: 0, rivals: 0, needs: new Uint32Array(PRICE_BINS) }))
  const compared = question.compare ?? []
  const shared = compared.map(() => new Float64Array(compared.length))
  const seen = newSeen()
  const bid = Math.floor(question.bidMicros / 1000)
  const {
    words,
    starts,
    peopleCount,
    rows: { path, device, page, state, sincePop, rival, second, minute }
  } = tape
  const { floors } = inventory
  const formats = placementFormats(inventory)
  const rates = FORMATS.map((_, format) => eventRates(format, question.counted))
  /** The row looked at. */
  const row = { person: 0, placement: 0, floor: 0, need: 0, rivals: 0, conversions: 0, direct: 0 }
  const add = (sums: Sums) => {
    const { person, placement, floor, need, rivals, conversions, direct } = row
    sums.rows++
    if (sums.last !== person) sums.people++
    sums.last = person
    if (floor < sums.floor) sums.floor = floor
    const asked = need > floor ? need - 1 : floor
    sums.sum += asked
    if (asked > sums.highest) sums.highest = asked
    sums.rivals += rivals
    if (bid >= need) sums.won++
    sums.viewable += measures.viewable[placement]
    sums.bots += measures.bots[placement]
    sums.blocked += measures.blocked[placement]
    sums.stays += measures.stays[placement]
    sums.grade += measures.grade[placement]
    sums.conversions += conversions
    sums.direct += direct
    sums.needs[priceBin(need)]++
    if (sums.floors !== null) sums.floors[priceBin(floor)]++
  }
  for (let person = 0; person < peopleCount; person += every) {
    if (person % LOOK_EVERY === 0 && cancelled()) throw new CancelledError()
    const end = starts[person + 1]
    let i = starts[person]
    if (i === end || personFailures(lanes, words, person) !== 0) continue
    seen.word0 = words[person * PERSON_WORDS]
    seen.word1 = words[person * PERSON_WORDS + 1]
    seen.word2 = words[person * PERSON_WORDS + 2]
    const cell = cellFailures(lanes, seen.word2)
    const fixed = fixedFailures(lanes, seen.word2)
    const zoneOf = POSTAL_ZONE[postalOf(seen.word0)]
    const country = POSTAL_COUNTRY[postalOf(seen.word0)]
    const multipliers = hours ? hours[zoneOf] : null
    let met = 0
    for (; i < end; i++) {
      const pathIndex = path[i]
      if (
        (lanes.path[pathIndex] |
          lanes.device[device[i]] |
          lanes.page[page[i]] |
          lanes.state[state[i]] |
          (((state[i] >> 3) & 3) === CELLULAR ? cell : fixed)) !==
          0 ||
        sincePop[i] < compiled.sincePop
      )
        continue
      const when = minute[i]
      if (multipliers && multipliers[Math.floor((when % MINUTES_PER_WEEK) / 30)] === 0) continue
      const floor = floors[pathIndex]
      const best = rival[i]
      const need = floor > best ? floor : best + 1
      const rivals = (best > 0 ? 1 : 0) + (second[i] > 0 ? 1 : 0)
      const placement = Math.floor(pathIndex / SOURCES.length)
      const group = groupAt(groupByPath[pathIndex], state[i])
      const type = DEVICE_TYPE[device[i]]
      const visits = visitChance(benchmarks, group, type, country)
      const conversions = conversionChance(benchmarks, rates[formats[placement]], visits, group, type, country) / 1e6
      const direct = inventory.direct[pathIndex]
      row.person = person
      row.placement = placement
      row.floor = floor
      row.need = need
      row.rivals = rivals
      row.conversions = conversions
      row.direct = direct
      add(total)
      const hour = week[Math.floor(((when + localStart[zoneOf]) % MINUTES_PER_WEEK) / 60)]
      hour.rows++
      hour.rivals += rivals
      hour.needs[priceBin(need)]++
      if (groupings.length === 0) continue
      seen.path = pathIndex
      seen.device = device[i]
      seen.page = page[i]
      seen.state = state[i]
      seen.hour = tape.firstDay * 24 + Math.floor(when / 60)
      for (let g = 0; g < groupings.length; g++) {
        const { grouping, key } = groupings[g]
        const keys = key(seen, market)
        if (typeof keys === 'number') add(grouping.of(keys))
        else for (const one of keys) add(grouping.of(one))
        if (g === 0)
          compared.forEach((one, n) => {
            if (one === keys) met |= 1 << n
          })
      }
    }
    if (met !== 0)
      shared.forEach((row, a) => {
        if ((met >> a) & 1) for (let b = 0; b < row.length; b++) row[b] += (met >> b) & 1
      })
  }
  const sample = tape.sample * every
  const label = (by: SurveyBy, key: number) => (by === 'deal' ? String(key) : (REPORT_DIMENSIONS[by].label(key, market) ?? String(key)))
  const coded = (by: SurveyBy, key: number): { code?: string } => {
    const code = by in CODE_FORMS ? codeAt(market.inventory, by as Coded, key) : null
    return code === null ? {} : { code }
  }
  return {
    rows: total.rows,
    every,
    total: trafficOf(total, sample),
    groups: groupings.map(({ by, grouping }) => ({
      by,
      rows: grouping.keys.map((key, n) => ({ key, label: label(by, key), ...coded(by, key), ...trafficOf(grouping.sums[n], sample) }))
    })),
    week: {
      opportunities: week.map(({ rows }) => (rows * sample * 7) / TAPE_DAYS),
      halfMicros: week.map(({ rows, needs }) => binQuantile(needs, rows, 0.5) * 1000),
      rivals: week.map(({ rows, rivals }) => (rows > 0 ? rivals / rows : 0))
    },
    curve: curveOf(total),
    overlap: shared.map((row) => [...row].map((people) => people * sample))
  }
}

/** Deals that each placement is sold by. */
function dealTable({ by, deals }: SurveyQuestion, placements: number): number[][] {
  const table = Array.from({ length: placements }, () => [] as number[])
  if (by.includes('deal')) for (const { deal, placements: own } of deals) for (const placement of own) table[placement]?.push(deal)
  return table
}

/** Steps of the curve, as shares of all. */
const CURVE_STEPS = 40

function curveOf({ rows, needs }: Sums): Survey['curve'] {
  const curve: Survey['curve'] = []
  let before = 0
  let told = 0
  for (let bin = 0; bin < PRICE_BINS && rows > 0; bin++) {
    before += needs[bin]
    if (needs[bin] === 0 || (before - told < rows / CURVE_STEPS && before < rows)) continue
    told = before
    curve.push({ bidMicros: binPrice(bin) * 1000, share: before / rows })
  }
  return curve
}

/** The first phrase of a sentence that leaves nothing of what was left before it. */
function emptiedBy({ formats, targeting: { restrictions } }: Sentence, count: (sentence: Sentence) => number): Survey['emptiedBy'] {
  const some = (kept: number) => count({ formats, targeting: { restrictions: restrictions.slice(0, kept) }, hours: null }) > 0
  if (!some(0)) return 'format'
  for (let kept = 1; kept <= restrictions.length; kept++) if (!some(kept)) return restrictions[kept - 1].dimension
  return 'hours'
}
