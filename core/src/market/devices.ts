import { COUNTRIES } from '../places/index.js'
import { BROWSERS, DEVICE_TYPES, MAKERS, NEWEST_RELEASE, PRICE_BANDS, SYSTEMS, type DeviceType } from '../taxonomy/index.js'
import { guideTable, hash } from '../random/index.js'

/** A model of a device. */
export interface Model {
  index: number
  type: number
  system: number
  version: number
  maker: number
  year: number
  band: number
  resolution: number
}

/** Browsers of a device; the fourth place is an app's or a TV's own. */
export const BROWSER_SLOTS = 4
const IN_APP = BROWSERS.indexOf('in an app')
const TV_APP = BROWSERS.indexOf('TV app')

const COUNT: Readonly<Record<DeviceType, number>> = { phone: 64, tablet: 22, desktop: 30, TV: 16, console: 6, 'set-top box': 8 }
const SCREENS: Readonly<Record<DeviceType, readonly number[]>> = {
  phone: [0, 1, 2],
  tablet: [3],
  desktop: [4, 5, 6, 7],
  TV: [5, 7],
  console: [5, 7],
  'set-top box': [5]
}

/** The models of the market; the same in every world. */
export const MODELS: readonly Model[] = DEVICE_TYPES.flatMap((name, type) =>
  Array.from({ length: COUNT[name] }, (_, n) => {
    const draw = (what: number) => hash(77, type, n, what)
    const year = NEWEST_RELEASE - [0, 1, 1, 2, 2, 3, 3, 4, 5, 6, 8, 10][draw(0) % 12]
    const band = n % PRICE_BANDS.length
    // One phone maker has its own system, and only the two dearer bands.
    const own = band >= 2 && draw(1) % 10 < 6
    const system =
      name === 'desktop'
        ? own
          ? SYSTEMS.indexOf('Pomelo')
          : draw(2) % 5 === 0
            ? SYSTEMS.indexOf('Driftwood')
            : SYSTEMS.indexOf('Casement')
        : name === 'TV' || name === 'set-top box'
          ? SYSTEMS.indexOf('Hearthvision')
          : name === 'console'
            ? SYSTEMS.indexOf('Playfield')
            : SYSTEMS.indexOf(own ? 'Pomelo' : 'Corvid')
    return {
      type,
      system,
      year,
      band,
      maker: own ? 0 : 1 + (draw(3) % (MAKERS.length - 1)),
      version: Math.max(6, year - NEWEST_RELEASE + 16 - (draw(4) % 2)),
      resolution: SCREENS[name][Math.min(SCREENS[name].length - 1, Math.floor((band * SCREENS[name].length) / 4 + (draw(5) % 2) * 0.5))]
    }
  })
).map((model, index) => ({ index, ...model }))

/** Number of values of an opportunity's device column: model x browser slot. */
export const DEVICE_CODES = MODELS.length * BROWSER_SLOTS

export const deviceModel = (code: number) => MODELS[code >> 2]
/** Type of each device code. */
export const DEVICE_TYPE = Uint8Array.from({ length: DEVICE_CODES }, (_, code) => deviceModel(code).type)
/** Browser of each device code, index into `BROWSERS`. */
export const DEVICE_BROWSER = Uint8Array.from({ length: DEVICE_CODES }, (_, code) => {
  const type = DEVICE_TYPES[DEVICE_TYPE[code]]
  if ((code & 3) === 3) return type === 'TV' || type === 'set-top box' || type === 'console' ? TV_APP : IN_APP
  return [0, 1, 2][code & 3] === 2 && type === 'desktop' ? 3 : code & 3
})

const CELLS = 64
/** Countries by how rich they are: the five dearest, those between, and the third tier. */
export const RICHNESS = Uint8Array.from(COUNTRIES, (country) =>
  country.tier === 3 ? 2 : COUNTRIES.filter((other) => other.price > country.price).length < 5 ? 0 : 1
)
const RICHNESSES = 3
const SECOND_SYSTEM = SYSTEMS.indexOf('Pomelo')
/** Share of phones and tablets that the second system has, by richness; and how it rises with income. */
const SECOND_SHARE = [0.52, 0.32, 0.09]
const SECOND_BY_INCOME = [0.6, 0.82, 1, 1.2, 1.35, 1]
/** What rivals pay for a device of it, against others. */
const SECOND_PRICE = 1.38
/** Price factor of each model. */
export const MODEL_PRICE = Float64Array.from(MODELS, (model) => (model.type > 1 ? 1 : model.system === SECOND_SYSTEM ? SECOND_PRICE : 0.95))

/** Where the cells of a device type, richness and income begin in the guide. */
export const modelCells = (type: number, richness: number, income: number) => ((type * RICHNESSES + richness) * 6 + income) * CELLS

/**
 * Model by device type x richness of the country x income (0 lowest .. 4 highest, 5 unknown) x 64 cells: who earns more has newer and
 * dearer devices, and more of the second system.
 */
export const MODEL_GUIDE = (() => {
  const table = new Uint8Array(DEVICE_TYPES.length * RICHNESSES * 6 * CELLS)
  const picks = new Uint8Array(CELLS)
  DEVICE_TYPES.forEach((_, type) => {
    const models = MODELS.filter((model) => model.type === type)
    for (let richness = 0; richness < RICHNESSES; richness++) {
      for (let income = 0; income < 6; income++) {
        const rich = income === 5 ? 2 : income
        const weights = models.map(
          (model) =>
            [
              [40, 18, 5, 1],
              [34, 24, 8, 2],
              [24, 30, 16, 6],
              [14, 26, 26, 14],
              [7, 18, 30, 30]
            ][rich][model.band] *
            (1 + 0.25 * Math.max(0, model.year - 2018))
        )
        const isSecond = models.map((model) => type <= 1 && model.system === SECOND_SYSTEM)
        const sumOf = (second: boolean) => weights.reduce((sum, weight, n) => sum + (isSecond[n] === second ? weight : 0), 0)
        const share = SECOND_SHARE[richness] * SECOND_BY_INCOME[income]
        const [own, other] = [sumOf(true), sumOf(false)]
        guideTable(
          weights.map((weight, n) => (own === 0 ? weight : isSecond[n] ? (weight / own) * share : (weight / other) * (1 - share))),
          CELLS,
          picks,
          0
        )
        picks.forEach((pick, cell) => (table[modelCells(type, richness, income) + cell] = models[pick].index))
      }
    }
  })
  return table
})()
