import { POSTAL_ZONE } from '../places/index.js'
import { postalOf } from '../market/index.js'
import { dateOfDay, localDayOf, localHourOf, offsetMinutes, weekdayOf } from '../time/index.js'
import { labelIn, type Telling } from './dimension.js'

const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
const clock = (hour: number) => `${String(hour).padStart(2, '0')}:00`
const ordinal = (n: number) => `${n}${['th', 'st', 'nd', 'rd'][n % 10 < 4 && Math.floor(n / 10) !== 1 ? n % 10 : 0]}`

/** What was bought: whose it was, and of which deal. */
export const WHAT = {
  line: { tells: { key: ({ line }) => line, label: () => null, ofWins: true } satisfies Telling },
  ad: { tells: { key: ({ ad }) => ad, label: () => null, ofWins: true } satisfies Telling },
  'nth exposure': {
    tells: {
      title: 'how often seen before',
      key: ({ nth }) => Math.min(nth, 12),
      label: (key) => (key >= 12 ? '12th and later' : ordinal(key)),
      ofWins: true
    } satisfies Telling
  },
  deal: {
    tells: { key: ({ deal }) => deal, label: (key) => (key === 0 ? 'the open market' : null), ofWins: true } satisfies Telling
  }
}

/** When it was shown. */
export const WHEN = {
  day: { tells: { key: ({ hour }, { zone }) => localDayOf(zone, hour), label: (key) => dateOfDay(key), ofWins: true } satisfies Telling },
  weekday: {
    tells: { key: ({ hour }, { zone }) => weekdayOf(localDayOf(zone, hour)), label: labelIn(WEEKDAYS) } satisfies Telling
  },
  hour: { tells: { key: ({ hour }, { zone }) => localHourOf(zone, hour), label: clock } satisfies Telling },
  'hour of the viewer': {
    tells: {
      key: ({ hour, word0 }) => {
        const minutes = hour * 60 + offsetMinutes(POSTAL_ZONE[postalOf(word0)], hour)
        return Math.floor((((minutes % 1440) + 1440) % 1440) / 60)
      },
      label: clock
    } satisfies Telling
  }
}
