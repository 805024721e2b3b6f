import { COUNTRIES } from '../places/index.js'
import { DEVICE_TYPES, FORMATS, type Format } from '../taxonomy/index.js'
import { SOURCES } from '../market/index.js'
import { weekdayOf } from '../time/index.js'
import { DESKTOP, Groups, PHONE, bound, type Topic, type WorldBound } from './bounds.js'
import { TAPE_DAYS, type Tape } from './layout.js'

const SHARES: Readonly<Record<Format, readonly [low: number, high: number]>> = {
  display: [45, 55],
  native: [15, 20],
  video: [14, 20],
  audio: [5, 9],
  pop: [8, 14]
}

/** How much there is of each format, and on what devices. */
export function formatShares(): Topic {
  const counts = new Groups()
  let all = 0
  return {
    look: ({ format, kind, device }) => {
      all++
      counts.add(format)
      if (kind === 'television') counts.add('television')
      if (format === 'audio') counts.add(`audio ${DEVICE_TYPES[device]}`)
    },
    bounds: () => {
      const share = (name: string, among: number) => (100 * counts.count(name)) / among
      const audio = counts.count('audio')
      return [
        ...FORMATS.map((format) => bound(`share of ${format}, %`, share(format, all), ...SHARES[format])),
        bound('television of video, %', share('television', counts.count('video')), 25, 40),
        bound('televisions of audio, %', share('audio TV', audio), 0, 5),
        bound('phones of audio, %', share('audio phone', audio), 60, 75),
        bound('desktops of audio, %', share('audio desktop', audio), 10, 20)
      ]
    }
  }
}

/** Countries by how rich their people are. */
const RICHNESS = COUNTRIES.map((country) =>
  country.tier === 3 ? 'tier 3' : COUNTRIES.filter((other) => other.price > country.price).length < 5 ? 'richest five' : 'between'
)

/** The second phone system: who has it. */
export function phoneSystems(): Topic {
  const counts = new Groups()
  return {
    look: ({ device, country, isSecondSystem }) => {
      if (device !== PHONE) return
      counts.add(RICHNESS[country])
      if (isSecondSystem) counts.add(`second ${RICHNESS[country]}`)
    },
    bounds: () =>
      (
        [
          ['richest five', 45, 60],
          ['between', 25, 40],
          ['tier 3', 3, 15]
        ] as const
      ).map(([name, low, high]) =>
        bound(`second phone system, ${name}, %`, (100 * counts.count(`second ${name}`)) / counts.count(name), low, high)
      )
  }
}

/** When people are there. */
export function hoursOfDay(tape: Pick<Tape, 'firstDay'>): Topic {
  const counts = new Groups()
  const weekdays = Array.from({ length: TAPE_DAYS }, (_, day) => weekdayOf(tape.firstDay + day)).filter((day) => day < 5).length
  return {
    look: ({ device, format, kind, property, hour, isWeekend }) => {
      const part = isWeekend ? 'weekend' : 'week'
      const television = kind === 'television'
      if (device === PHONE) counts.add(`phones ${hour}`)
      if (device === DESKTOP) counts.add(`desktops ${hour}`)
      if (television) counts.add(`televisions ${hour}`)
      if (format === 'audio') counts.add(`audio ${hour}`)
      if (property.show === 'podcast') counts.add(`podcasts ${hour}`)
      if (device === PHONE) counts.add(`phones of ${part}`)
      if (device === DESKTOP && hour >= 9 && hour < 17) counts.add(`desktops of ${part}`)
      if (television && hour >= 19 && hour < 23) counts.add(`televisions of ${part}`)
    },
    bounds: () => {
      const hours = (name: string) => Array.from({ length: 24 }, (_, hour) => counts.count(`${name} ${hour}`))
      const busiest = (name: string) => hours(name).reduce((best, n, hour, all) => (n > all[best] ? hour : best), 0)
      const peak = (name: string, from: number, to: number) => {
        const all = hours(name)
        const mean = all.reduce((sum, n) => sum + n, 0) / 24
        return bound(`${name}, ${from} to ${to} h: best hour against the mean`, Math.max(...all.slice(from, to)) / mean, 1.8, 5)
      }
      const ratio = (name: string) =>
        counts.count(`${name} of week`) / weekdays / (counts.count(`${name} of weekend`) / (TAPE_DAYS - weekdays))
      return [
        bound('desktops 9 to 17 h, weekday against weekend', ratio('desktops'), 1.5, 2.2),
        bound('phones, weekday against weekend', ratio('phones'), 0.85, 1),
        bound('television evenings, weekend against weekday', 1 / ratio('televisions'), 1.1, 1.3),
        peak('televisions', 20, 22),
        peak('audio', 7, 9),
        peak('audio', 17, 19),
        peak('phones', 21, 23),
        peak('desktops', 9, 17),
        bound('busiest hour of televisions', busiest('televisions'), 20, 21),
        bound('busiest hour of phones', busiest('phones'), 21, 22),
        bound('busiest hour of desktops', busiest('desktops'), 9, 16),
        bound('busiest hour of podcasts', busiest('podcasts'), 7, 8)
      ]
    }
  }
}

/** Robots by source and format. */
export function robots(): Topic {
  const shares = new Groups()
  return {
    look: ({ isBot, source, format }) => {
      shares.add(`${SOURCES[source].name} ${format}`, isBot ? 1 : 0)
      shares.add(format, isBot ? 1 : 0)
    },
    bounds: () => {
      const all = SOURCES.flatMap(({ name }) => FORMATS.map((format) => 100 * shares.mean(`${name} ${format}`))).filter((one) => one >= 0)
      return [
        bound('robots, least of sources and formats, %', Math.min(...all), 1, 25),
        bound('robots, most of sources and formats, %', Math.max(...all), 1, 25),
        bound('robots of pops against those of display', shares.mean('pop') / shares.mean('display'), 1.3, 10)
      ]
    }
  }
}

/** How unevenly people are active. */
export function activityBounds(tape: Tape): WorldBound[] {
  const counts = Array.from({ length: tape.peopleCount }, (_, p) => tape.starts[p + 1] - tape.starts[p]).sort((a, b) => b - a)
  const top = counts.slice(0, Math.floor(counts.length / 10)).reduce((sum, n) => sum + n, 0)
  return [bound('busiest tenth of people, % of opportunities', (100 * top) / tape.rowCount, 40, 45)]
}
