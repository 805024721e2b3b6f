import { CITIES, COUNTRIES, POSTALS, POSTAL_COUNTRY, POSTAL_REGION, REGIONS } from '../places/index.js'
import {
  AGES,
  BROWSERS,
  CATEGORIES,
  CONNECTIONS,
  DEVICE_TYPES,
  FORMATS,
  GENDERS,
  INCOMES,
  JOB_FUNCTIONS,
  LANGUAGES,
  MAKERS,
  MOMENTS,
  PRICE_BANDS,
  RATINGS,
  SHAPES,
  SHAPE_FORMAT,
  SYSTEMS
} from '../taxonomy/index.js'
import {
  CARRIERS,
  CELLULAR,
  DEVICE_BROWSER,
  EMPLOYERS,
  PERSON_WORDS,
  PROVIDERS,
  SOURCES,
  carrierOf,
  connectionOf,
  demographic,
  demographicOf,
  deviceModel,
  employerOf,
  isBlocked,
  isBot,
  isProxy,
  jobOf,
  momentOf,
  placementCode,
  popularityOf,
  propertyCode,
  postalOf,
  profileOf,
  providerOf,
  tongueOf,
  type Inventory,
  toldCategory,
  toldPublisher
} from '../market/index.js'
import { csvCell } from '../files/index.js'
import { MINUTES_PER_DAY, dateOfDay } from '../time/index.js'
import type { Tape } from './layout.js'

/** A column of an exported tape: `docs/formats.md` is checked against this list. */
export interface ExportColumn {
  name: string
  type: 'text' | 'whole number' | 'flag'
  about: string
  value: (tape: Tape, inventory: Inventory, row: number) => string | number | boolean
}

const place = (tape: Tape, row: number) => tape.rows.person[row] * PERSON_WORDS
const word = (n: 0 | 1 | 2) => (tape: Tape, row: number) => tape.words[place(tape, row) + n]
const postal = (tape: Tape, row: number) => postalOf(word(0)(tape, row))
const who = (tape: Tape, row: number) => demographic(demographicOf(word(1)(tape, row)))
const model = (tape: Tape, row: number) => deviceModel(tape.rows.device[row])
const placement = (tape: Tape, row: number) => Math.floor(tape.rows.path[row] / SOURCES.length)
const text = (name: string, about: string, value: ExportColumn['value']): ExportColumn => ({ name, type: 'text', about, value })
const whole = (name: string, about: string, value: (tape: Tape, inventory: Inventory, row: number) => number): ExportColumn => ({
  name,
  type: 'whole number',
  about,
  value
})
const flag = (name: string, about: string, value: (tape: Tape, inventory: Inventory, row: number) => boolean): ExportColumn => ({
  name,
  type: 'flag',
  about,
  value
})

export const EXPORT_COLUMNS: readonly ExportColumn[] = [
  text('date', 'UTC day, YYYY-MM-DD', (t, _, i) => dateOfDay(t.firstDay + Math.floor(t.rows.minute[i] / MINUTES_PER_DAY))),
  whole('minute', 'minute of the UTC day, 0 to 1,439', (t, _, i) => t.rows.minute[i] % MINUTES_PER_DAY),
  whole('person', 'number of the person, the same on every day', (t, _, i) => t.numbers[t.rows.person[i]]),
  whole('group', 'group of the person for ranges, 0 to 31', (t, _, i) => t.group[t.rows.person[i]]),
  text('country', 'ISO 3166-1 alpha-2', (t, _, i) => COUNTRIES[POSTAL_COUNTRY[postal(t, i)]].code),
  text('region', 'ISO 3166-2', (t, _, i) => REGIONS[POSTAL_REGION[postal(t, i)]].code),
  text('city', 'name of the city', (t, _, i) => CITIES[POSTALS[postal(t, i)].city].name),
  text('postal_code', 'postal code', (t, _, i) => POSTALS[postal(t, i)].code),
  text('age', 'age band', (t, _, i) => AGES[who(t, i).age]),
  text('gender', 'gender', (t, _, i) => GENDERS[who(t, i).gender]),
  text('income', 'household income, fifths of the country', (t, _, i) => INCOMES[who(t, i).income]),
  text('language', 'first language, ISO 639-1', (t, _, i) => LANGUAGES[tongueOf(word(1)(t, i)) & 31]),
  text('browser_language', 'language of the browser, ISO 639-1', (t, _, i) =>
    tongueOf(word(1)(t, i)) >= 32 ? 'en' : LANGUAGES[tongueOf(word(1)(t, i))]
  ),
  text('job_function', 'job function; empty when not known', (t, _, i) => JOB_FUNCTIONS[jobOf(word(1)(t, i))] ?? ''),
  text('employer', 'employer; empty when not known', (t, _, i) => EMPLOYERS[employerOf(word(2)(t, i))]?.name ?? ''),
  whole('profile', "profile that the person's segments come from, 0 to 4,095", (t, _, i) => profileOf(word(1)(t, i))),
  text('device', 'device type', (t, _, i) => DEVICE_TYPES[model(t, i).type]),
  text('system', 'system', (t, _, i) => SYSTEMS[model(t, i).system]),
  whole('system_version', 'version of the system', (t, _, i) => model(t, i).version),
  text('browser', 'browser', (t, _, i) => BROWSERS[DEVICE_BROWSER[t.rows.device[i]]]),
  text('maker', 'maker of the device', (t, _, i) => MAKERS[model(t, i).maker]),
  whole('release_year', 'year in which the model came out', (t, _, i) => model(t, i).year),
  text('price_band', 'price band of the device', (t, _, i) => PRICE_BANDS[model(t, i).band]),
  text('connection', 'Wi-Fi, cellular or wired', (t, _, i) => CONNECTIONS[connectionOf(t.rows.state[i])]),
  text('network', 'carrier when cellular, else provider', (t, _, i) =>
    connectionOf(t.rows.state[i]) === CELLULAR ? CARRIERS[carrierOf(word(2)(t, i))].name : PROVIDERS[providerOf(word(2)(t, i))].name
  ),
  flag('bot', 'a robot', (t, _, i) => isBot(t.rows.state[i])),
  flag('proxy', 'behind a proxy', (t, _, i) => isProxy(t.rows.state[i])),
  flag('blocked', 'a pop that the browser holds back', (t, _, i) => isBlocked(t.rows.state[i])),
  whole('minutes_since_pop', "minutes since the person's last pop of that day; 1,440 for none", (t, _, i) => t.rows.sincePop[i]),
  text('moment', 'moment; empty when none is guessed', (t, _, i) => MOMENTS[momentOf(t.rows.state[i])] ?? ''),
  text('format', 'format of the slot', (t, inventory, i) => FORMATS[SHAPE_FORMAT[inventory.placements[placement(t, i)].shape]]),
  text('size', 'size or shape of the slot', (t, inventory, i) => SHAPES[inventory.placements[placement(t, i)].shape]),
  text('placement', 'property and where on it', (t, inventory, i) => placementCode(inventory, inventory.placements[placement(t, i)])),
  text('property', 'address or store id; “No.” and its number of one that is sold under a number', (t, inventory, i) =>
    propertyCode(inventory.properties[inventory.placements[placement(t, i)].property])
  ),
  text(
    'publisher',
    'name of the publisher; empty where nobody is told',
    (t, inventory, i) =>
      inventory.publishers[toldPublisher(inventory.properties[inventory.placements[placement(t, i)].property])]?.name ?? ''
  ),
  text(
    'property_class',
    'class of the property',
    (t, inventory, i) => inventory.properties[inventory.placements[placement(t, i)].property].class
  ),
  text(
    'category',
    'category of the page; empty where nobody is told',
    (t, inventory, i) => CATEGORIES[toldCategory(inventory, t.rows.page[i])]?.name ?? ''
  ),
  whole('page', 'number of the page', (t, _, i) => t.rows.page[i]),
  whole('popularity', "fifth of its property's pages by readers, 0 the most read", (t, _, i) => popularityOf(t.rows.page[i])),
  text('rating', 'content rating', (t, inventory, i) => RATINGS[inventory.pages.rating[t.rows.page[i]]]),
  text('source', 'supply source', (t, _, i) => SOURCES[t.rows.path[i] % SOURCES.length].name),
  text('auction', 'first price or second price', (t, _, i) => SOURCES[t.rows.path[i] % SOURCES.length].auction),
  whole('floor', 'floor, micros an impression', (t, inventory, i) => inventory.floors[t.rows.path[i]]),
  whole('rival', 'best rival bid, micros an impression; 0 for none', (t, _, i) => t.rows.rival[i]),
  whole('second_rival', 'second rival bid, micros an impression; 0 for none', (t, _, i) => t.rows.second[i])
]

/** The tape as CSV, in pieces of many lines, so that nobody has to hold all of it. */
export function* tapeCsv(
  tape: Tape,
  inventory: Inventory,
  columns: readonly ExportColumn[] = EXPORT_COLUMNS,
  linesAtOnce = 5000
): Generator<string> {
  yield `${columns.map((column) => column.name).join(',')}\n`
  for (let from = 0; from < tape.rowCount; from += linesAtOnce) {
    let piece = ''
    for (let row = from; row < Math.min(tape.rowCount, from + linesAtOnce); row++)
      piece += `${columns.map((column) => csvCell(column.value(tape, inventory, row))).join(',')}\n`
    yield piece
  }
}

/** A column's values over rows [from, to), for writers of columnar files. */
export function exportValues(
  column: ExportColumn,
  tape: Tape,
  inventory: Inventory,
  from = 0,
  to = tape.rowCount
): (string | number | boolean)[] {
  return Array.from({ length: to - from }, (_, n) => column.value(tape, inventory, from + n))
}
