import { instantOf } from '@tin-harbor/core/time'
import { marksOf } from '@tin-harbor/core/money'

/** Words for numbers, money and time. Figures are the reader's locale; the clock is the organisation's zone. */
const locale = typeof navigator === 'undefined' ? 'en-GB' : navigator.language
export const ORGANISATION_ZONE = 'Europe/Lisbon'
/** Day that a week begins with, Sunday 0: Monday where the organisation is. */
export const WEEK_STARTS = 1
export const marks = marksOf(locale)

const whole = new Intl.NumberFormat(locale, { maximumFractionDigits: 0 })
const one = new Intl.NumberFormat(locale, { minimumFractionDigits: 1, maximumFractionDigits: 1 })
const euros = new Intl.NumberFormat(locale, { style: 'currency', currency: 'EUR' })
const clock = new Intl.DateTimeFormat('en-GB', {
  timeZone: ORGANISATION_ZONE,
  weekday: 'short',
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit'
})
const dayMonth = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', day: 'numeric', month: 'short' })

const monthLong = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', month: 'long', year: 'numeric' })

export const count = (value: number) => whole.format(value)

/** 7,300 as such, 24k and 1.2M above ten thousand: for figures that are estimates anyway. */
export function about(value: number): string {
  if (value < 9_950) return whole.format(value < 100 ? Math.round(value) : Number(value.toPrecision(3)))
  if (value < 999_500) return `${value < 99_500 ? one.format(value / 1000).replace(/[.,]0$/, '') : whole.format(value / 1000)}k`
  return `${one.format(value / 1e6)}M`
}

export const money = (micros: number) => euros.format(micros / 1e6)
/** What one of something costs: below a cent to two figures. */
export const smallMoney = (micros: number) => (micros >= 10_000 || micros <= 0 ? money(micros) : `€${(micros / 1e6).toPrecision(2)}`)
/** A CPM to the cent; a tenth of a cent where it is small. */
export const cpm = (micros: number) => (micros / 1e6).toFixed(micros > 0 && micros < 100_000 ? 3 : 2)
export const perCent = (share: number, digits = 0) => `${(share * 100).toFixed(digits)} %`
export const decimal = (value: number) => one.format(value)
export const marketTime = (hour: number) => clock.format(instantOf(hour))
/** March 2026 for 2026-03. */
export const monthYear = (month: string) => monthLong.format(new Date(`${month}-01T00:00:00Z`))
/** 2 Mar for 2026-03-02. */
export const shortDate = (date: string) => dayMonth.format(new Date(`${date}T00:00:00Z`))
