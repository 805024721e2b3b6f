import type { LineDraft } from '../buying/index.js'
import { MoneyFormatError, parseMoney } from '../money/index.js'
import type { PriceModel } from '../taxonomy/index.js'
import { readDate } from './long.js'

export type Edit = (draft: LineDraft) => LineDraft

const MODELS: Readonly<Record<string, PriceModel>> = {
  cpm: 'CPM',
  cpv: 'view',
  cpc: 'CPC',
  'a click': 'CPC',
  'per click': 'CPC',
  'a view': 'view',
  'per view': 'view',
  'a visit': 'visit',
  'per visit': 'visit'
}

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

/** What a form says, and what it makes of a draft; null where it says nothing that can be. */
type Read = { says: string; edit: Edit } | null

const DAY = '(\\d{1,2}\\.? [a-z]{3,9}\\.?(?: \\d{4})?|\\d{4}-\\d\\d-\\d\\d)'
const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec']
/** The date of `2 Mar`, `2 March 2026` or `2026-03-02`; null for none. @param year of a day that says none */
export function dayNamed(text: string, year: number): string | null {
  if (!new RegExp(`^(?:${DAY})$`, 'i').test(text)) return null
  const [day, month, named] = text.replaceAll('.', '').split(' ')
  if (month === undefined) return readDate(text)
  const place = MONTHS.indexOf(month.slice(0, 3).toLowerCase()) + 1
  if (place === 0) return null
  return readDate(`${named ?? year}-${String(place).padStart(2, '0')}-${day.padStart(2, '0')}`)
}
/** A flight of which a day may be left as it is; null where one of them is no day. */
function flightOf(startDate: string | null | undefined, endDate: string | null | undefined): Read {
  if (startDate === null || endDate === null) return null
  const said = { ...(startDate === undefined ? {} : { startDate }), ...(endDate === undefined ? {} : { endDate }) }
  const says = [startDate && `from ${startDate}`, endDate && `to ${endDate}`].filter(Boolean).join(' ')
  return { says, edit: (draft) => ({ ...draft, flight: { ...draft.flight, ...said } }) }
}

const PARTS = { nights: [0, 6], mornings: [6, 12], afternoons: [12, 18], evenings: [18, 24] } as const
/** Hours [from, to) of the viewer's weekdays, weekends or all days; what is open already stays so. */
function hoursOf(days: string, [from, to]: readonly [number, number]): Read {
  if (from >= to || to > 24) return null
  const isDay = (day: number) => (/^weekd/i.test(days) ? day < 5 : /^weeke/i.test(days) ? day >= 5 : true)
  const perMille = Array.from({ length: 168 }, (_, hour) =>
    isDay(Math.floor(hour / 24)) && hour % 24 >= from && hour % 24 < to ? 1000 : 0
  )
  return {
    says: `${days || 'every day'} from ${from}:00 to ${to}:00`,
    edit: (draft) => ({
      ...draft,
      hours: { clock: 'viewer', perMille: perMille.map((share, hour) => Math.max(share, draft.hours?.perMille[hour] ?? 0)) }
    })
  }
}

/** Forms of several words, tried in order at each place; the longest that fit come first. */
export const FORMS: readonly { form: RegExp; read: (parts: readonly string[], year: number) => Read }[] = [
  {
    form: new RegExp(`^${AMOUNT} (cpm|cpc|cpv|a click|per click|a view|per view|a visit|per visit)(?= |$)`, 'i'),
    read: ([, text, unit]) => {
      const micros = money(text)
      const model = MODELS[unit.toLowerCase()]
      return micros === null
        ? null
        : { says: `bid ${text} ${unit}`, edit: (draft) => ({ ...draft, price: { ...draft.price, model, bidMicros: micros } }) }
    }
  },
  {
    form: /^(?:max(?:imum)? |at most |up to |no more than )?(\d{1,4}) (?:times? )?(?:per|an?|each|every) (?:person )?(?:an? |per )?(hour|day|week)(?: each)?(?= |$)/i,
    read: ([whole, times, window]) =>
      /per|times?/i.test(whole)
        ? {
            says: `${times} times a person in ${WINDOWS[window.toLowerCase()]} hours`,
            edit: (draft) => ({ ...draft, caps: [...draft.caps, { times: Number(times), hours: WINDOWS[window.toLowerCase()] }] })
          }
        : null
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
    form: new RegExp(`^(?:from )?${DAY} (?:to|until|-|–) ${DAY}(?= |$)`, 'i'),
    read: ([, from, to], year) => flightOf(dayNamed(from, year), dayNamed(to, year))
  },
  {
    form: new RegExp(`^(?:from|starting|since) ${DAY}(?= |$)`, 'i'),
    read: ([, from], year) => flightOf(dayNamed(from, year), undefined)
  },
  {
    form: new RegExp(`^(?:until|till|to) ${DAY}(?= |$)`, 'i'),
    read: ([, to], year) => flightOf(undefined, dayNamed(to, year))
  },
  {
    form: /^(weekdays?|weekends?|daily)?(?: |^)?(?:in the |at )?(nights?|mornings?|afternoons?|evenings?)(?= |$)/i,
    read: ([, days, part]) => hoursOf(days ?? '', PARTS[part.toLowerCase().replace(/s?$/, 's') as keyof typeof PARTS])
  },
  {
    form: /^(weekdays?|weekends?|daily)?(?: |^)?(?:from )?(\d{1,2})(?::00)? ?(?:to|-|–) ?(\d{1,2})(?::00| o'clock)(?= |$)/i,
    read: ([, days, from, to]) => hoursOf(days ?? '', [Number(from), Number(to)])
  },
  { form: /^(weekdays|weekends)(?= |$)/i, read: ([, days]) => hoursOf(days, [0, 24]) },
  {
    form: new RegExp(`^aim(?:ing)?(?: at)? ${AMOUNT} (?:a|per|each|for a|for each) (conversion|click|view|stay|page|person)(?= |$)`, 'i'),
    read: ([, text, event]) => {
      const micros = money(text)
      return micros === null
        ? null
        : {
            says: `aims at ${text} a ${event}`,
            edit: (draft) => ({
              ...draft,
              price: { ...draft.price, follow: false, aim: { event: event.toLowerCase() as 'click', micros } }
            })
          }
    }
  },
  {
    form: /^(follow(?:s|ing)? the market)(?= |$)/i,
    read: () => ({ says: 'follows the market', edit: (draft) => ({ ...draft, price: { ...draft.price, follow: true } }) })
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
