import { computed, shallowRef } from 'vue'
import { DATE_FORMATS, NUMBER_FORMATS, WEEK_STARTS, type Formats } from '@tin-harbor/core/buying'
import { instantOf } from '@tin-harbor/core/time'
import { marksOf, plainMoney } from '@tin-harbor/core/money'

/** Words for numbers, money and time. The clock is the organisation's zone; how figures and days are written is the reader's choice. */
export const ORGANISATION_ZONE = 'Europe/Lisbon'
const BROWSER = typeof navigator === 'undefined' ? 'en-GB' : navigator.language

/** What the reader chose; null leaves figures to the browser, and days as the team has them. */
const chosen = shallowRef<Formats | null>(null)
export const useFormats = (formats: Formats | null) => (chosen.value = formats)

const made = computed(() => {
  const numbers = chosen.value ? NUMBER_FORMATS[chosen.value.numbers] : BROWSER
  const dates = chosen.value ? DATE_FORMATS[chosen.value.dates] : 'en-GB'
  return {
    marks: marksOf(numbers),
    whole: new Intl.NumberFormat(numbers, { maximumFractionDigits: 0 }),
    one: new Intl.NumberFormat(numbers, { minimumFractionDigits: 1, maximumFractionDigits: 1 }),
    euros: new Intl.NumberFormat(numbers, { style: 'currency', currency: 'EUR' }),
    clock: new Intl.DateTimeFormat(dates, {
      timeZone: ORGANISATION_ZONE,
      weekday: 'short',
      day: 'numeric',
      month: 'short',
      hour: '2-digit',
      minute: '2-digit',
      hour12: false
    }),
    dayMonth: new Intl.DateTimeFormat(dates, { timeZone: 'UTC', day: 'numeric', month: 'short' }),
    monthLong: new Intl.DateTimeFormat(dates, { timeZone: 'UTC', month: 'long', year: 'numeric' }),
    moment: new Intl.DateTimeFormat(dates, {
      day: 'numeric',
      month: 'short',
      year: 'numeric',
      hour: '2-digit',
      minute: '2-digit',
      hour12: false
    })
  }
})

/** Marks that the reader types numbers with. */
export const marks = () => made.value.marks
/** An amount as the reader would type it: what is shown in a field is read from it again. */
export const typedMoney = (micros: number) => plainMoney(micros).replace('.', made.value.marks.decimal)
/** Day that a week begins with, Sunday 0. */
export const weekStarts = () => WEEK_STARTS[chosen.value?.week ?? 'Monday']

export const count = (value: number) => made.value.whole.format(value)

/** 7,300 as such, 24k and 1.2M above ten thousand: for figures that are estimates anyway. */
export function about(value: number): string {
  const { whole, one } = made.value
  if (value < 9_950) return whole.format(value < 100 ? Math.round(value) : Number(value.toPrecision(3)))
  if (value < 999_500) return `${value < 99_500 ? one.format(value / 1000).replace(/[.,]0$/, '') : whole.format(value / 1000)}k`
  return `${one.format(value / 1e6)}M`
}

export const money = (micros: number) => made.value.euros.format(micros / 1e6)
/** What one of something costs: below a cent to two figures. */
export const smallMoney = (micros: number) => (micros >= 10_000 || micros <= 0 ? money(micros) : `€${(micros / 1e6).toPrecision(2)}`)
/** A CPM to the cent; a tenth of a cent where it is small. */
export const cpm = (micros: number) => (micros / 1e6).toFixed(micros > 0 && micros < 100_000 ? 3 : 2)
export const perCent = (share: number, digits = 0) => `${(share * 100).toFixed(digits)} %`
export const decimal = (value: number) => made.value.one.format(value)
export const marketTime = (hour: number) => made.value.clock.format(instantOf(hour))
/** Until when money lasts, in words: a date in another year would read as one of this. */
export const lastsWords = (until: number, now: number) =>
  until - now > 300 * 24 ? 'for most of a year and more' : `until ${marketTime(until)}`
/** When something was done, by the reader's own clock. @param seconds since 1970 */
export const realTime = (seconds: number) => made.value.moment.format(new Date(seconds * 1000))
/** March 2026 for 2026-03. */
export const monthYear = (month: string) => made.value.monthLong.format(new Date(`${month}-01T00:00:00Z`))
/** 2 Mar for 2026-03-02. */
export const shortDate = (date: string) => made.value.dayMonth.format(new Date(`${date}T00:00:00Z`))
