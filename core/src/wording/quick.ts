import type { LineDraft } from '../buying/index.js'
import { MoneyFormatError, parseMoney } from '../money/index.js'
import { COUNTRIES } from '../places/index.js'
import { DEVICE_TYPES, FORMATS, MODELS_OF, deviceWords, type Format, type PriceModel } from '../taxonomy/index.js'
import { withValues } from '../targeting/index.js'
import { DIMENSIONS, DIMENSION_KINDS, type Dimension } from '../dimensions/index.js'
import { readDate } from './long.js'

/** One thing that a typed sentence says, for showing what was understood of it. */
export interface Understood {
  text: string
  says: string
}

export interface QuickReading {
  /** What was understood, written into a draft that says nothing else. */
  apply: (draft: LineDraft) => LineDraft
  understood: Understood[]
  /** Words that say nothing we know: they are shown, never guessed. */
  unknown: string[]
}

type Edit = (draft: LineDraft) => LineDraft

/** Words that only join others. */
const FILLERS = new Set([
  'in',
  'on',
  'and',
  'or',
  'for',
  'at',
  'the',
  'of',
  'to',
  'a',
  'bid',
  'buy',
  'spend',
  'with',
  'person',
  'each',
  'from',
  ','
])
const MODELS: Readonly<Record<string, PriceModel>> = {
  cpm: 'CPM',
  cpc: 'CPC',
  'a click': 'CPC',
  'per click': 'CPC',
  'a view': 'view',
  'per view': 'view',
  'a visit': 'visit',
  'per visit': 'visit'
}

/** What values are called, in lower case; a name that two share is the first's. */
const values = new Map<string, { dimension: Dimension; values: readonly string[] }>()
for (const dimension of DIMENSIONS)
  for (const [words, ...called] of DIMENSION_KINDS[dimension].called ?? [])
    if (!values.has(words.toLowerCase())) values.set(words.toLowerCase(), { dimension, values: called })

const money = (text: string): number | null => {
  try {
    return parseMoney(text.replace(/^€/, ''))
  } catch (error) {
    if (error instanceof MoneyFormatError) return null
    throw error
  }
}
const AMOUNT = '(€?\\d[\\d.,]*)'
const WINDOWS: Readonly<Record<string, number>> = { hour: 1, day: 24, week: 168 }

/** Forms of several words, tried in order at each place; the longest that fit come first. */
const FORMS: readonly { form: RegExp; read: (parts: readonly string[]) => { says: string; edit: Edit } | null }[] = [
  {
    form: new RegExp(`^${AMOUNT} (cpm|cpc|a click|per click|a view|per view|a visit|per visit)(?= |$)`, 'i'),
    read: ([, text, unit]) => {
      const micros = money(text)
      const model = MODELS[unit.toLowerCase()]
      return micros === null
        ? null
        : { says: `bid ${text} ${unit}`, edit: (draft) => ({ ...draft, price: { ...draft.price, model, bidMicros: micros } }) }
    }
  },
  {
    form: new RegExp(`^(?:never above|max(?:imum)?|up to) ${AMOUNT}(?= |$)`, 'i'),
    read: ([, text]) => {
      const micros = money(text)
      return micros === null
        ? null
        : { says: `never above ${text}`, edit: (draft) => ({ ...draft, price: { ...draft.price, maxMicros: micros } }) }
    }
  },
  {
    form: /^(\d{1,4}) (?:times? )?(?:per|an?|each|every) (?:person )?(?:an? |per )?(hour|day|week)(?: each)?(?= |$)/i,
    read: ([whole, times, window]) =>
      /per|times?/i.test(whole)
        ? {
            says: `${times} times a person in ${WINDOWS[window.toLowerCase()]} hours`,
            edit: (draft) => ({ ...draft, caps: [...draft.caps, { times: Number(times), hours: WINDOWS[window.toLowerCase()] }] })
          }
        : null
  },
  {
    form: new RegExp(`^${AMOUNT} (a day|daily|a week|weekly|a month|monthly|in all|total)(?= |$)`, 'i'),
    read: ([, text, period]) => {
      const micros = money(text)
      const field = ({ d: 'dailyMicros', w: 'weeklyMicros', m: 'monthlyMicros', i: 'totalMicros', t: 'totalMicros' } as const)[
        period.toLowerCase().replace(/^a /, '')[0] as 'd'
      ]
      return micros === null
        ? null
        : { says: `${text} ${period}`, edit: (draft) => ({ ...draft, budget: { ...draft.budget, [field]: micros } }) }
    }
  },
  {
    form: /^(evenly|even|fast|as fast as it can|with the traffic)(?= |$)/i,
    read: ([, word]) => ({
      says: word,
      edit: (draft) => ({ ...draft, pacing: /traffic/i.test(word) ? 'traffic' : /fast/i.test(word) ? 'fast' : 'even' })
    })
  },
  {
    form: /^(\d{1,5}) minutes apart(?= |$)/i,
    read: ([, minutes]) => ({ says: `${minutes} minutes apart`, edit: (draft) => ({ ...draft, gapMinutes: Number(minutes) }) })
  },
  {
    form: /^(\d{1,2} [a-z]+ \d{4}|\d{4}-\d\d-\d\d) (?:to|until|-) (\d{1,2} [a-z]+ \d{4}|\d{4}-\d\d-\d\d)(?= |$)/i,
    read: ([, from, to]) => {
      const [startDate, endDate] = [from, to].map((text) =>
        readDate(text.replace(/ ([a-z])([a-z]+) /i, (_, first: string, rest: string) => ` ${first.toUpperCase()}${rest.toLowerCase()} `))
      )
      return startDate && endDate
        ? { says: `from ${startDate} to ${endDate}`, edit: (draft) => ({ ...draft, flight: { ...draft.flight, startDate, endDate } }) }
        : null
    }
  },
  {
    form: /^(https?:\/\/\S+)(?= |$)/i,
    read: ([, landing]) => ({ says: `landing on ${landing}`, edit: (draft) => ({ ...draft, landing }) })
  },
  {
    form: /^(wait(?:s)? for release)(?= |$)/i,
    read: () => ({ says: 'waits for release', edit: (draft) => ({ ...draft, onceCleared: 'wait' }) })
  }
]

/** Most words that a name of a place, category or slot takes. */
const LONGEST_NAME = 5

/**
 * Reads a sentence as traders type it: `native phones ES PT 1.90 cpm 12 a day 3 per day`. Money is `a day` or `in all`, a cap is
 * `per day`. Codes of countries count only in capitals, so that `it` and `in` are words.
 */
export function readQuick(text: string): QuickReading {
  const edits: Edit[] = []
  const understood: Understood[] = []
  const unknown: string[] = []
  let rest = text
    .replace(/[;,](?= |$)/g, ' ')
    .replace(/\s+/g, ' ')
    .trim()
  const take = (length: number, says: string | null, edit: Edit | null) => {
    const said = rest.slice(0, length)
    if (edit && says) {
      edits.push(edit)
      understood.push({ text: said, says })
    }
    rest = rest.slice(length).trim()
  }
  while (rest !== '') {
    const form = FORMS.map(({ form: formName, read }) => {
      const found = formName.exec(rest)
      const reading = found ? read(found) : null
      return found && reading ? { length: found[0].length, ...reading } : null
    }).find((one) => one !== null)
    if (form) {
      take(form.length, form.says, form.edit)
      continue
    }
    const words = rest.split(' ')
    const format = FORMATS.find((one) => one === words[0].toLowerCase())
    const named = Array.from({ length: Math.min(LONGEST_NAME, words.length) }, (_, n) =>
      words.slice(0, Math.min(LONGEST_NAME, words.length) - n).join(' ')
    ).find((one) => values.has(one.toLowerCase()) && !(/^[A-Za-z]{2}$/.test(one) && one !== one.toUpperCase()))
    if (format) take(words[0].length, format, withFormat(format))
    else if (named) {
      const { dimension, values: wordList } = values.get(named.toLowerCase()) as { dimension: Dimension; values: readonly string[] }
      take(named.length, `${dimension}: ${named}`, (draft) => ({
        ...draft,
        targeting: withValues(draft.targeting, dimension, 'include', [
          ...new Set([
            ...(draft.targeting.restrictions.find((one) => one.dimension === dimension && one.mode === 'include')?.values ?? []),
            ...wordList
          ])
        ])
      }))
    } else {
      if (!FILLERS.has(words[0].toLowerCase())) unknown.push(words[0])
      take(words[0].length, null, null)
    }
  }
  return { apply: (draft) => edits.reduce((made, edit) => edit(made), draft), understood, unknown }
}

/** A format brings the first way of paying for it, where the one so far is not offered. */
const withFormat =
  (format: Format): Edit =>
  (draft) => ({
    ...draft,
    format,
    price: { ...draft.price, model: MODELS_OF[format].includes(draft.price.model) ? draft.price.model : MODELS_OF[format][0] }
  })

/** A name that says what a line buys: `Native, phones, ES PT`. */
export function schemeName(draft: Pick<LineDraft, 'format' | 'targeting'>): string {
  const valuesOf = (dimension: Dimension) =>
    draft.targeting.restrictions.find((one) => one.dimension === dimension && one.mode === 'include')?.values ?? []
  const places = valuesOf('where')
    .filter((code) => /^[A-Z]{2}(-|$)/.test(code))
    .map((code) => code)
  const devices = valuesOf('device').map((type) => deviceWords(type as (typeof DEVICE_TYPES)[number]))
  return [
    draft.format.replace(/^./, (letter) => letter.toUpperCase()),
    devices.slice(0, 2).join(' '),
    places.length > 4 ? `${places.length} places` : places.join(' ')
  ]
    .filter(Boolean)
    .join(', ')
}

/** What a name says, read by the scheme, that the line does not target; in words. */
export function nameSaysMore(draft: Pick<LineDraft, 'name' | 'format' | 'targeting'>): string[] {
  const said: { format: Format | null; codes: string[]; devices: string[] } = { format: null, codes: [], devices: [] }
  for (const part of draft.name.split(/[,\s]+/)) {
    if (/^[A-Z]{2}$/.test(part) && COUNTRIES.some(({ code }) => code === part)) said.codes.push(part)
    const device = DEVICE_TYPES.find((type) => deviceWords(type).toLowerCase() === part.toLowerCase())
    if (device) said.devices.push(device)
    said.format ??= FORMATS.find((format) => format === part.toLowerCase()) ?? null
  }
  const valuesOf = (dimension: Dimension) =>
    draft.targeting.restrictions.find((one) => one.dimension === dimension && one.mode === 'include')?.values ?? []
  const places = valuesOf('where').map((code) => code.replace(/^(?:post:|metro:.*, |city:.*, )?([A-Z]{2})(?:[- ].*)?$/, '$1'))
  return [
    ...(said.format && said.format !== draft.format ? [said.format] : []),
    ...said.codes.filter((code) => places.length > 0 && !places.includes(code)),
    ...said.devices
      .filter((device) => valuesOf('device').length > 0 && !valuesOf('device').includes(device))
      .map((type) => deviceWords(type as (typeof DEVICE_TYPES)[number]))
  ]
}
