import { InputError, lineSchema, parseInput, type FieldIssue, type LineDraft } from '../buying/index.js'
import { MoneyFormatError, parseMoney } from '../money/index.js'
import { DIMENSIONS, type Dimension } from '../dimensions/index.js'
import { VIEW_SECONDS } from '../response/index.js'
import { FORMATS, type DeviceType, type Format } from '../taxonomy/index.js'
import { dayOfDate } from '../time/index.js'
import {
  AIM_EVENTS,
  LIMIT_WORDS,
  viewWords,
  MODEL_WORDS,
  ONCE_WORDS,
  PACING_WORDS,
  ROTATION_WORDS,
  isMoneyLimit,
  readDate,
  type LimitName
} from './long.js'
import { cutAt, partsOf, unquoted } from './quoting.js'
import { readRestriction, readValue } from './values.js'
import { readWeek } from './week.js'

/** What was made of a wording: the line, where all of it was understood, else what was not. */
export interface Reading {
  draft: LineDraft | null
  /** Parts that say nothing we know, as they were written. */
  unknown: string[]
  /** What is wrong with what was understood. */
  issues: readonly FieldIssue[]
}

const euros = (text: string): number => {
  if (!text.startsWith('€')) throw new MoneyFormatError(`"${text}" is not an amount such as €2.40.`)
  return parseMoney(text.slice(1))
}
const keyOf = <K extends string>(words: Readonly<Record<K, string>>, said: string) =>
  (Object.keys(words) as K[]).find((key) => words[key] === said)
const perMille = (text: string) => Math.round(parseFloat(text) * 10)

/** Writes what a sentence says into the draft; false for a sentence that it does not understand. */
type Reader = (rest: string, draft: LineDraft, unknown: string[]) => boolean

function readBuy(rest: string, draft: LineDraft, unknown: string[]): boolean {
  const deals = /^(on the open market and )?by the deals (\d+(?:, \d+)*)( alone)?$/.exec(rest)
  if (deals && Boolean(deals[1]) !== Boolean(deals[3])) {
    draft.buys = { open: Boolean(deals[1]), deals: deals[2].split(', ').map(Number) }
    return true
  }
  const [head, restrictions] = cutAt(rest, /: /)
  const [format, name] = cutAt(head, / as /)
  if (name === null || !(FORMATS as readonly string[]).includes(format)) return false
  draft.format = format as Format
  draft.name = unquoted(name)
  for (const part of partsOf(restrictions ?? '', /; /)) {
    const restriction = readRestriction(part)
    if (restriction) draft.targeting.restrictions.push(restriction)
    else unknown.push(part)
  }
  return true
}

function readRun(rest: string, draft: LineDraft): boolean {
  const found = /^from (.+?)(?: at (\d{1,2}):00)? (?:on|to (.+?)(?: at (\d{1,2}):00)?), by the days of (.+)$/.exec(rest)
  const start = found ? readDate(found[1]) : null
  const end = found?.[3] === undefined ? null : readDate(found[3])
  if (!found || start === null || (found[3] !== undefined && end === null)) return false
  draft.flight = {
    startDate: start,
    endDate: end,
    ...(found[2] === undefined ? {} : { startHour: Number(found[2]) }),
    ...(found[4] === undefined ? {} : { endHour: Number(found[4]) })
  }
  draft.zone = unquoted(found[5])
  return true
}

function readOpen(rest: string, draft: LineDraft): boolean {
  const found = /^in (the viewer's time|the time of the line) (.+)$/.exec(rest)
  draft.hours = found ? readWeek(found[2], found[1] === "the viewer's time" ? 'viewer' : 'line') : null
  return draft.hours !== null
}

function readBid(rest: string, { price }: LineDraft): boolean {
  const repeat = /^(\d+(?:\.\d)?) % less for each earlier showing to the same person$/.exec(rest)
  if (repeat) {
    price.repeatDiscount = perMille(repeat[1])
    return true
  }
  const [bid, ...more] = partsOf(rest, /, (?=never|following|aiming)/)
  const said = /^(nothing yet|€\S+) (.+)$/.exec(bid)
  const model = said ? keyOf(MODEL_WORDS, said[2]) : undefined
  if (!said || !model) return false
  price.model = model
  price.bidMicros = said[1] === 'nothing yet' ? null : euros(said[1])
  return more.every((part) => {
    const aim = /^aiming at (\S+) for (.+)$/.exec(part)
    const event = aim ? keyOf(AIM_EVENTS, aim[2]) : undefined
    if (part === 'following the market') price.follow = true
    else if (part.startsWith('never above ')) price.maxMicros = euros(part.slice(12))
    else if (aim && event) price.aim = { event, micros: euros(aim[1]) }
    else return false
    return true
  })
}

function readCount(rest: string, draft: LineDraft): boolean {
  const seconds = rest.startsWith('a view ') ? VIEW_SECONDS.find((one) => viewWords(one) === rest.slice(7)) : undefined
  if (seconds !== undefined) draft.viewSeconds = seconds
  return seconds !== undefined
}

function readSteps(rest: string, { price }: LineDraft): boolean {
  const steps = partsOf(rest.replace(/^the bid /, ''), /; /).map((part) => {
    const found = /^(?:on (.+)|after (\d+) (days live|impressions)) to (€\S+)$/.exec(part)
    const date = found?.[1] === undefined ? null : readDate(found[1])
    if (!found || (found[1] !== undefined && date === null)) return null
    return {
      after: date === null ? (found[3] as 'impressions') : ('date' as const),
      from: date === null ? Number(found[2]) : dayOfDate(date),
      bidMicros: euros(found[4])
    }
  })
  if (!rest.startsWith('the bid ') || steps.includes(null)) return false
  price.steps = steps as NonNullable<typeof price.steps>
  return true
}

function readAdjust(rest: string, { price }: LineDraft, unknown: string[]): boolean {
  price.adjustments = partsOf(rest, /; /).flatMap((part) => {
    const [dimension, rest] = cutAt(part, /: /)
    const found = rest === null ? null : /^(.+) (?:at (€\S+)|by ([+−])(\d+(?:\.\d)?) %)$/u.exec(rest)
    if (!found || !(DIMENSIONS as readonly string[]).includes(dimension)) {
      unknown.push(part)
      return []
    }
    const own = found[2] === undefined ? null : euros(found[2])
    return [
      {
        dimension: dimension as Dimension,
        value: readValue(dimension as Dimension, found[1]),
        perMille: own === null ? 1000 + (found[3] === '+' ? 1 : -1) * perMille(found[4]) : null,
        ownMicros: own
      }
    ]
  })
  return true
}

function readSpend(rest: string, draft: LineDraft): boolean {
  const pacing = (Object.keys(PACING_WORDS) as (keyof typeof PACING_WORDS)[]).find((key) => rest.endsWith(`, ${PACING_WORDS[key]}`))
  if (!pacing) return false
  draft.pacing = pacing
  const limits = rest.slice(0, -PACING_WORDS[pacing].length - 2)
  if (limits === 'without a limit of its own') return true
  return (
    limits.startsWith('at most ') &&
    partsOf(limits.slice(8), /, /).every((part) => {
      const found = /^(\S+) (.+)$/.exec(part)
      const name: LimitName | undefined = found ? keyOf(LIMIT_WORDS, found[2]) : undefined
      if (!found || !name || (!isMoneyLimit(name) && !/^\d+$/.test(found[1]))) return false
      draft.budget[name] = isMoneyLimit(name) ? euros(found[1]) : Number(found[1])
      return true
    })
  )
}

function readShow(rest: string, draft: LineDraft): boolean {
  if (!rest.startsWith('it to one person ')) return false
  return partsOf(rest.slice(17), /, | and /).every((part) => {
    const cap = /^(\d+) times in (\d+) hours$/.exec(part)
    const gap = /^(\d+) minutes apart$/.exec(part)
    if (cap) draft.caps.push({ times: Number(cap[1]), hours: Number(cap[2]) })
    else if (gap) draft.gapMinutes = Number(gap[1])
    return cap !== null || gap !== null
  })
}

function readTurns(rest: string, draft: LineDraft): boolean {
  draft.rotation = rest.startsWith('ads take turns ') ? keyOf(ROTATION_WORDS, rest.slice(15)) : undefined
  return draft.rotation !== undefined
}

function readOnce(rest: string, draft: LineDraft): boolean {
  const once = keyOf(ONCE_WORDS, rest)
  draft.onceCleared = once ?? draft.onceCleared
  return once !== undefined
}

function readLand(rest: string, draft: LineDraft): boolean {
  const found = /^(?:in ((?:[A-Z]{2}(?:, )?)+) )?(?:with (.+?) )?on (.+)$/.exec(rest)
  if (!found) return false
  const [, countries, devices, link] = found as unknown as [string, string | undefined, string | undefined, string]
  if (countries === undefined && devices === undefined) draft.landing = unquoted(link)
  else
    draft.landings = [
      ...(draft.landings ?? []),
      { countries: countries?.split(', ') ?? [], devices: (devices?.split(', ') ?? []) as DeviceType[], link: unquoted(link) }
    ]
  return true
}

const READERS: Readonly<Record<string, Reader>> = {
  Buy: readBuy,
  Run: readRun,
  Open: readOpen,
  Bid: readBid,
  Count: readCount,
  Change: readSteps,
  Adjust: readAdjust,
  Spend: readSpend,
  Show: readShow,
  Let: readTurns,
  'Once cleared,': readOnce,
  Land: readLand
}

/** What a wording leaves unsaid is nothing: no bid, no limit, no cap. */
export const unsaid = (): LineDraft => ({
  name: '',
  format: 'display',
  zone: '',
  targeting: { restrictions: [] },
  price: { model: 'CPM', bidMicros: null, maxMicros: null },
  flight: { startDate: '', endDate: null },
  budget: { dailyMicros: null, totalMicros: null },
  pacing: 'even',
  caps: [],
  landing: '',
  onceCleared: 'start'
})

/** Reads a paragraph in the long form, checks it as any line is checked, and says what it did not understand. */
export function readWording(text: string): Reading {
  const draft = unsaid()
  const unknown: string[] = []
  for (const sentence of partsOf(`${text.trim()} `, /\.\s+/)) {
    const word = Object.keys(READERS).find((begins) => sentence.startsWith(`${begins} `))
    try {
      if (!word || !READERS[word](sentence.slice(word.length + 1), draft, unknown)) unknown.push(sentence)
    } catch (error) {
      if (!(error instanceof MoneyFormatError)) throw error
      unknown.push(sentence)
    }
  }
  if (unknown.length > 0) return { draft: null, unknown, issues: [] }
  try {
    return { draft: parseInput(lineSchema, draft), unknown, issues: [] }
  } catch (error) {
    if (!(error instanceof InputError)) throw error
    return { draft: null, unknown, issues: error.issues }
  }
}
