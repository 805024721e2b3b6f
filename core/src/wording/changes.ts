import { landingWords, plainAds, termsOfAd, withTerms, type FieldChange, type LineDraft } from '../buying/index.js'
import { dateOfDay } from '../time/index.js'
import { withRestriction, withoutRestriction, type Restriction } from '../targeting/index.js'
import {
  AIM_EVENTS,
  LIMIT_WORDS,
  viewWords,
  MODEL_WORDS,
  ONCE_WORDS,
  PACING_WORDS,
  ROTATION_WORDS,
  bent,
  dateWords,
  euros,
  isMoneyLimit,
  type LimitName
} from './long.js'
import { buysWords, hoursSaid } from './paragraph.js'
import { phraseWords, valueWords } from '../buying/index.js'
import type { Dimension } from '../dimensions/index.js'
import { adTermsWords } from './ad-words.js'
import { plainLine } from './plain.js'

interface Leaf {
  field: string
  /** What is compared. */
  value: unknown
  words: string
}

const amount = (micros: number | null | undefined) => (micros == null ? 'none' : euros(micros))

function priceLeaves({ price }: LineDraft): Leaf[] {
  const { model, bidMicros, maxMicros, adjustments = [], steps = [], repeatDiscount = 0, aim = null, follow = false } = price
  return [
    { field: 'price.model', value: model, words: MODEL_WORDS[model] },
    { field: 'price.bidMicros', value: bidMicros, words: amount(bidMicros) },
    { field: 'price.maxMicros', value: maxMicros, words: amount(maxMicros) },
    { field: 'price.aim', value: aim, words: aim ? `${amount(aim.micros)} for ${AIM_EVENTS[aim.event]}` : 'none' },
    { field: 'price.follow', value: follow, words: follow ? 'yes' : 'no' },
    { field: 'price.repeatDiscount', value: repeatDiscount, words: repeatDiscount > 0 ? `${repeatDiscount / 10} % less each` : 'none' },
    {
      field: 'price.steps',
      value: steps,
      words:
        steps
          .map(
            ({ after, from, bidMicros: bid }) => `${amount(bid)} ${after === 'date' ? `from ${dateOfDay(from)}` : `after ${from} ${after}`}`
          )
          .join(', ') || 'none'
    },
    {
      field: 'price.adjustments',
      value: adjustments,
      words:
        adjustments
          .map(
            ({ dimension, value, perMille, ownMicros }) =>
              `${valueWords(dimension, value)} ${perMille === null ? amount(ownMicros) : bent(perMille)}`
          )
          .join(', ') || 'none'
    }
  ]
}

/** A draft as a list of fields, each with its value in words. */
function leaves(draft: LineDraft): Leaf[] {
  const {
    name,
    zone,
    flight,
    budget,
    pacing,
    rotation = 'weight',
    caps,
    format,
    hours = null,
    gapMinutes = null,
    viewSeconds = null,
    landing,
    landings = [],
    onceCleared,
    buys,
    targeting,
    ads = []
  } = draft
  return [
    { field: 'name', value: name, words: name },
    { field: 'format', value: format, words: format },
    ...targeting.restrictions.map((restriction): Leaf => ({
      field: `targeting.${restriction.dimension}.${restriction.mode}`,
      value: restriction,
      words: phraseWords(restriction)
    })),
    { field: 'buys', value: buys ?? null, words: buysWords(draft) },
    { field: 'flight.startDate', value: flight.startDate, words: dateWords(flight.startDate) },
    { field: 'flight.endDate', value: flight.endDate, words: flight.endDate === null ? 'open' : dateWords(flight.endDate) },
    {
      field: 'flight.startHour',
      value: flight.startHour ?? null,
      words: flight.startHour == null ? 'with the day' : `${flight.startHour}:00`
    },
    { field: 'flight.endHour', value: flight.endHour ?? null, words: flight.endHour == null ? 'with the day' : `${flight.endHour}:00` },
    { field: 'zone', value: zone, words: zone },
    { field: 'hours', value: hours, words: hoursSaid(hours) },
    ...priceLeaves(draft),
    { field: 'viewSeconds', value: viewSeconds, words: viewWords(viewSeconds) },
    ...(Object.keys(LIMIT_WORDS) as LimitName[]).map((limit): Leaf => ({
      field: `budget.${limit}`,
      value: budget[limit] ?? null,
      words: budget[limit] == null ? 'none' : isMoneyLimit(limit) ? amount(budget[limit]) : budget[limit].toLocaleString('en')
    })),
    { field: 'pacing', value: pacing, words: PACING_WORDS[pacing] },
    { field: 'rotation', value: rotation, words: ROTATION_WORDS[rotation] },
    ...ads.map(({ ad, ...own }): Leaf => ({ field: `ads.${ad}`, value: own, words: adTermsWords(own) })),
    { field: 'caps', value: caps, words: caps.map(({ times, hours: window }) => `${times} in ${window} h`).join(', ') || 'none' },
    { field: 'gapMinutes', value: gapMinutes, words: gapMinutes ? `${gapMinutes} minutes` : 'none' },
    { field: 'landing', value: landing, words: landing || 'none' },
    { field: 'landings', value: landings, words: landings.map((one) => `${landingWords(one)}: ${one.link}`).join('; ') || 'none' },
    { field: 'onceCleared', value: onceCleared, words: ONCE_WORDS[onceCleared] }
  ]
}

/** The fields in which two drafts differ, in the order of the clauses. */
export function changesBetween(before: LineDraft, after: LineDraft): FieldChange[] {
  const read = (draft: LineDraft) => new Map(leaves(plainLine(draft)).map((leaf) => [leaf.field, leaf]))
  const was = read(before)
  const is = read(after)
  return [...new Set([...was.keys(), ...is.keys()])]
    .filter((field) => JSON.stringify(was.get(field)?.value) !== JSON.stringify(is.get(field)?.value))
    .map((field) => {
      const [old, next] = [was.get(field)?.words ?? 'none', is.get(field)?.words ?? 'none']
      // Two long lists may read alike in short: then it is said that they are not.
      return { field, before: old, after: old === next ? `${next}, changed` : next }
    })
}

/** The first draft with some fields of the second; fields as `changesBetween` names them. */
export function withFields(base: LineDraft, from: LineDraft, fields: readonly string[]): LineDraft {
  return fields.reduce((made, field): LineDraft => {
    const [part, name, mode] = field.split('.')
    if (part === 'targeting') {
      const sought = { dimension: name as Dimension, mode: mode as Restriction['mode'] }
      const restriction = from.targeting.restrictions.find((one) => one.dimension === sought.dimension && one.mode === sought.mode)
      return { ...made, targeting: restriction ? withRestriction(made.targeting, restriction) : withoutRestriction(made.targeting, sought) }
    }
    if (part === 'ads' && name !== undefined) {
      const ad = Number(name)
      const others = plainAds(made.ads).filter((one) => one.ad !== ad)
      return { ...made, ads: withTerms(others, ad, termsOfAd(from, ad)) }
    }
    const key = part as keyof LineDraft
    if (name === undefined) return { ...made, [key]: from[key] }
    return { ...made, [key]: { ...(made[key] as object), [name]: (from[key] as unknown as Record<string, unknown>)[name] } }
  }, base)
}
