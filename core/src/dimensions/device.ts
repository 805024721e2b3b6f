import {
  BROWSERS,
  DEVICE_TYPES,
  LANGUAGES,
  MAKERS,
  PRICE_BANDS,
  RESOLUTIONS,
  SYSTEMS,
  deviceWords,
  languageName
} from '../taxonomy/index.js'
import { DEVICE_BROWSER, DEVICE_TYPE, deviceModel } from '../market/index.js'
import { asCalled, attribute, type Restricting, type Telling } from './dimension.js'

const SYSTEM_FORM = new RegExp(`^(${SYSTEMS.join('|')})(>=\\d{1,2})?$`)
const ENGLISH = LANGUAGES.indexOf('en')

/** Values such as `Corvid` or `Corvid>=12` against a name and a number. */
function atLeast(values: readonly string[]): (name: string, number: number) => boolean {
  const rows = values.map((value) => {
    const [name, least] = value.split('>=')
    return { name, least: least === undefined ? -Infinity : Number(least) }
  })
  return (name, number) => rows.some((row) => row.name === name && number >= row.least)
}

export const DEVICE = {
  device: attribute({
    lane: 'device',
    numberOf: (i) => DEVICE_TYPE[i],
    values: DEVICE_TYPES,
    noun: 'device type',
    inFull: ['on', 'not on'],
    said: ['on', 'not on', 'and'],
    words: (value) => ((DEVICE_TYPES as readonly string[]).includes(value) ? deviceWords(value as (typeof DEVICE_TYPES)[number]) : value),
    names: DEVICE_TYPES.map((type) => [type, deviceWords(type)]),
    called: DEVICE_TYPES.flatMap((type) => [
      [type, type],
      [deviceWords(type), type]
    ])
  }),
  system: attribute({
    lane: 'device',
    numberOf: (i) => deviceModel(i).system,
    values: SYSTEMS,
    noun: 'system',
    isKnown: (value) => SYSTEM_FORM.test(value),
    tests: ({ values }) => {
      const test = atLeast(values)
      return { device: (i) => test(SYSTEMS[deviceModel(i).system], deviceModel(i).version) }
    },
    inFull: ['running', 'not running'],
    called: asCalled(SYSTEMS)
  }),
  browser: attribute({
    lane: 'device',
    numberOf: (i) => DEVICE_BROWSER[i],
    values: BROWSERS,
    noun: 'browser',
    inFull: ['in the browser', 'not in the browser'],
    called: asCalled(BROWSERS)
  }),
  'browser language': attribute({
    lane: 'tongue',
    numberOf: (i) => (i >= 32 ? ENGLISH : i),
    values: LANGUAGES,
    labels: LANGUAGES.map(languageName),
    noun: 'language code',
    inFull: ['in a browser that speaks', 'not in a browser that speaks'],
    words: languageName,
    names: LANGUAGES.map((code) => [code, languageName(code)])
  }),
  maker: attribute({
    lane: 'device',
    numberOf: (i) => deviceModel(i).maker,
    values: MAKERS,
    noun: 'maker',
    inFull: ['on devices made by', 'not on devices made by'],
    said: ['made by', 'not made by'],
    called: asCalled(MAKERS)
  }),
  'release year': {
    restricts: {
      noun: 'release year',
      isKnown: (value) => /^(>=)?20[12]\d$/.test(value),
      tests: ({ values }) => {
        const years = new Set(values)
        const least = Math.min(...values.filter((value) => value.startsWith('>=')).map((value) => Number(value.slice(2))))
        return { device: (i) => deviceModel(i).year >= least || years.has(String(deviceModel(i).year)) }
      },
      inFull: ['on devices of the year', 'not on devices of the year'],
      number: { hint: 'with >= before it for that year and later', like: '>=2022' }
    } satisfies Restricting,
    tells: { key: ({ device }) => deviceModel(device).year, label: String } satisfies Telling
  },
  'price band': attribute({
    lane: 'device',
    numberOf: (i) => deviceModel(i).band,
    values: PRICE_BANDS,
    noun: 'price band',
    inOrder: true,
    inFull: ['on devices of the price band', 'not on devices of the price band'],
    said: ['of the price band', 'not of the price band']
  }),
  resolution: attribute({
    lane: 'device',
    numberOf: (i) => deviceModel(i).resolution,
    values: RESOLUTIONS,
    noun: 'resolution',
    inFull: ['on screens of', 'not on screens of']
  })
}
