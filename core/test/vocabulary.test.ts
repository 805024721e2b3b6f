import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  CITIES,
  COUNTRIES,
  COUNTRY_GROUPS,
  METROS,
  POSTALS,
  POSTAL_COUNTRY,
  POSTAL_REGION,
  POSTAL_ZONE,
  REGIONS,
  REGIONS_OF,
  cityCode,
  findCountry,
  findRegion,
  kilometres,
  metroCode,
  placeCountry,
  placeKind,
  placeTest,
  postalPlaceCode
} from '../src/places/index.js'
import {
  BRANCHES,
  BROWSERS,
  CATEGORIES,
  DEVICE_TYPES,
  DISPLAY_SIZES,
  ENVIRONMENTS,
  ENVIRONMENT_OF,
  FAMILY_SIZE,
  FORMATS,
  KEYWORDS,
  MAKERS,
  MODELS_OF,
  PRICE_MODELS,
  PROPERTY_CLASSES,
  RESOLUTIONS,
  SEGMENTS,
  SHAPES,
  SHAPE_FORMAT,
  SYSTEMS,
  findCategory,
  findKeyword,
  findSegment,
  shapesOf
} from '../src/taxonomy/index.js'
import {
  BLOCKS,
  BLOCK_PREFIX,
  CARRIERS,
  DATA_COSTS,
  DEVICE_BROWSER,
  DEVICE_CODES,
  DEVICE_MIXES,
  DEVICE_TYPE,
  EMPLOYERS,
  MODELS,
  MODEL_GUIDE,
  modelCells,
  PROVIDERS,
  SOURCES,
  blockAddress,
  carrierBlock,
  connectionOf,
  demographic,
  deviceModel,
  inSegment,
  isBlocked,
  isBot,
  isDemographic,
  isProxy,
  momentOf,
  networksOf,
  pathPlacement,
  pathSource,
  providerBlock,
  rangeBlocks,
  stateOf
} from '../src/market/index.js'
import { DIMENSIONS, DIMENSION_KINDS, segmentsIn } from '../src/dimensions/index.js'
import { restrictionWords, valueWords } from '../src/buying/index.js'
import { ZONES } from '../src/time/index.js'
import { smallWorld } from './support/lines.js'

const world = smallWorld()

describe('places', () => {
  it('lie in one another: postal area in city, region and country, all in one zone', () => {
    expect(COUNTRIES).toHaveLength(24)
    for (const postal of POSTALS) {
      const city = CITIES[postal.city]
      expect([POSTAL_REGION[postal.index], POSTAL_COUNTRY[postal.index], POSTAL_ZONE[postal.index]]).toEqual([
        city.region,
        city.country,
        REGIONS[city.region].zone
      ])
    }
    for (const region of REGIONS) {
      expect(region.code.slice(0, 2)).toBe(COUNTRIES[region.country].code)
      expect(ZONES[region.zone]).toBeDefined()
      expect(REGIONS_OF[region.country]).toContain(region)
      expect(findRegion(region.code)).toBe(region)
    }
  })

  it("have postal codes in each country's form", () => {
    const found = (code: string) =>
      POSTALS.filter((postal) => COUNTRIES[POSTAL_COUNTRY[postal.index]].code === code).map((postal) => postal.code)
    for (const [code, form] of [
      ['PT', /^\d{4}-\d{3}$/],
      ['GB', /^[A-Z]\d\d \d[A-Z]{2}$/],
      ['NL', /^\d{4} [A-Z]{2}$/],
      ['CA', /^[A-Z]\d[A-Z] \d[A-Z]\d$/],
      ['JP', /^\d{3}-\d{4}$/],
      ['IE', /^[A-Z]\d\d [A-Z]{4}$/],
      ['DE', /^\d{5}$/],
      ['IN', /^\d{6}$/]
    ] as const) {
      for (const postal of found(code)) expect(postal).toMatch(form)
      expect(found(code)).toEqual([...found(code)].sort())
    }
  })

  it('are found by their codes, each of its kind, and nothing by others', () => {
    const metro = METROS[5]
    const samples = {
      country: 'DE',
      region: 'DE-BY',
      metro: metroCode(metro),
      city: cityCode(CITIES[100]),
      postal: postalPlaceCode(POSTALS[3000]),
      radius: 'near:52.5,13.4,30'
    } as const
    for (const [kind, code] of Object.entries(samples)) {
      expect(placeKind(code)).toBe(kind)
      expect(POSTALS.some((postal) => placeTest(code)?.(postal))).toBe(true)
    }
    for (const code of ['XX', 'DE-XX', 'city:Atlantis, PT-11', 'post:PT 0', 'near:95,0,10', 'near:1,1,0', 'near:1,1', ''])
      expect(placeKind(code)).toBeUndefined()
    expect(placeCountry(samples.city)).toBe(CITIES[100].country)
    expect(placeCountry(samples.metro)).toBe(metro.country)
    expect(placeCountry(samples.postal)).toBe(POSTAL_COUNTRY[3000])
    expect(placeCountry('DE-BY')).toBe(findCountry('DE')?.index)
    expect(placeCountry(samples.radius)).toBeUndefined()
  })

  it('are as far apart as a globe says, within a hundredth at a radius', () => {
    const globe = (lat: number, lon: number, otherLat: number, otherLon: number) => {
      const [a, b, c] = [lat, otherLat, lon - otherLon].map((degrees) => (degrees * Math.PI) / 180)
      return 6371 * Math.acos(Math.min(1, Math.sin(a) * Math.sin(b) + Math.cos(a) * Math.cos(b) * Math.cos(c)))
    }
    fc.assert(
      fc.property(
        fc.double({ min: -60, max: 60, noNaN: true }),
        fc.double({ min: -179, max: 179, noNaN: true }),
        fc.double({ min: -1, max: 1, noNaN: true }),
        fc.double({ min: -1, max: 1, noNaN: true }),
        (lat, lon, north, east) => {
          const [own, real] = [
            kilometres(lat * 100, lon * 100, (lat + north) * 100, (lon + east) * 100),
            globe(lat, lon, lat + north, lon + east)
          ]
          expect(Math.abs(own - real)).toBeLessThanOrEqual(0.01 * real + 0.1)
        }
      )
    )
    expect(kilometres(1000, 17_990, 1000, -17_990)).toBeLessThan(30)
  })

  it("metro areas gather cities around one, none within another's reach", () => {
    for (const metro of METROS) {
      const inside = CITIES.filter((city) => city.metro === metro.index)
      expect(inside.map((city) => city.index)).toContain(metro.city)
      for (const city of inside)
        expect(kilometres(city.lat, city.lon, CITIES[metro.city].lat, CITIES[metro.city].lon)).toBeLessThanOrEqual(45)
    }
    for (const { codes } of COUNTRY_GROUPS) for (const code of codes) expect(findCountry(code)).toBeDefined()
  })
})

describe('vocabularies', () => {
  it('shapes belong to one format, display sizes first', () => {
    expect(FORMATS.flatMap((format) => shapesOf(format))).toEqual([...SHAPES])
    SHAPES.forEach((shape, n) => expect(shapesOf(FORMATS[SHAPE_FORMAT[n]])).toContain(shape))
    expect(SHAPES.slice(0, DISPLAY_SIZES.length)).toEqual([...DISPLAY_SIZES])
    for (const models of Object.values(MODELS_OF)) for (const model of models) expect(PRICE_MODELS).toContain(model)
    for (const kind of PROPERTY_CLASSES) expect(ENVIRONMENTS).toContain(ENVIRONMENT_OF[kind])
  })

  it('categories hang on branches, keywords in families, segments on what they are about', () => {
    for (const category of CATEGORIES) {
      expect(CATEGORIES[category.branch].branch).toBe(category.branch)
      expect(findCategory(category.name)).toBe(category)
    }
    for (const branch of BRANCHES) expect(KEYWORDS.filter((keyword) => keyword.branch === branch.index).length).toBe(20 * FAMILY_SIZE)
    for (const keyword of KEYWORDS) expect(findKeyword(keyword.word.toUpperCase())).toBe(keyword)
    for (const family of [0, 17, 400]) expect(KEYWORDS.filter((keyword) => keyword.family === family)).toHaveLength(FAMILY_SIZE)
    for (const segment of SEGMENTS)
      expect([segment.branch < 0, findSegment(segment.name)]).toEqual([segment.kind === 'life stage', segment])
    expect(findKeyword('no such word')).toBeUndefined()
  })

  it('of every dimension: listed values are known, and said in words', () => {
    for (const dimension of DIMENSIONS) {
      const { values, isKnown, noun } = DIMENSION_KINDS[dimension]
      expect(noun.length).toBeGreaterThan(2)
      expect(isKnown('no such thing at all')).toBe(false)
      for (const value of values ?? []) {
        expect([dimension, value, isKnown(value)]).toEqual([dimension, value, true])
        expect(valueWords(dimension, value).length).toBeGreaterThan(0)
      }
    }
    expect(valueWords('where', 'near:52.5,13.4,30')).toBe('30 km round 52.5, 13.4')
    expect(valueWords('where', cityCode(CITIES[0]))).toBe('Lisbon, PT-11')
    expect(valueWords('language', 'pt')).toBe('Portuguese')
    expect(restrictionWords({ dimension: 'publisher', mode: 'exclude', values: ['A', 'B', 'C'] })).toBe('without 3 publishers')
    expect(segmentsIn({ values: [], group: { join: 'or', parts: ['a', { join: 'not', parts: ['b', 'c'] }] } })).toEqual(['a', 'b', 'c'])
  })
})

describe('devices', () => {
  it('are made of what a model has, each of a screen that its type can have', () => {
    expect(DEVICE_TYPE).toHaveLength(DEVICE_CODES)
    for (let code = 0; code < DEVICE_CODES; code++) {
      const model = deviceModel(code)
      expect(
        [SYSTEMS[model.system], MAKERS[model.maker], RESOLUTIONS[model.resolution], BROWSERS[DEVICE_BROWSER[code]]].every(Boolean)
      ).toBe(true)
      expect(model.year).toBeLessThanOrEqual(2026)
      if (model.type > 2 && (code & 3) === 3) expect(BROWSERS[DEVICE_BROWSER[code]]).toBe('TV app')
      if (model.type <= 2 && (code & 3) === 3) expect(BROWSERS[DEVICE_BROWSER[code]]).toBe('in an app')
    }
    DEVICE_TYPES.forEach((_, type) => expect(MODELS.some((model) => model.type === type)).toBe(true))
    for (const mix of DEVICE_MIXES) expect(mix.reduce((sum, share) => sum + share, 0)).toBe(100)
  })

  it('are dearer for those who earn more', () => {
    const models = (type: number, richness: number, income: number) =>
      Array.from({ length: 64 }, (_, cell) => MODELS[MODEL_GUIDE[modelCells(type, richness, income) + cell]])
    const sum = (values: readonly number[]) => values.reduce((total, one) => total + one, 0)
    const band = (type: number, richness: number, income: number) => sum(models(type, richness, income).map((model) => model.band))
    DEVICE_TYPES.forEach((_, type) => {
      for (const richness of [0, 1, 2]) {
        for (let income = 1; income < 5; income++)
          expect(band(type, richness, income)).toBeGreaterThanOrEqual(band(type, richness, income - 1))
        expect(models(type, richness, 2).every((model) => model.type === type)).toBe(true)
      }
    })
    const second = (richness: number) => models(0, richness, 2).filter((model) => SYSTEMS[model.system] === 'Pomelo').length
    expect(second(0)).toBeGreaterThan(second(1))
    expect(second(1)).toBeGreaterThan(second(2))
  })
})

describe('networks', () => {
  it('have names of their own, some in every country', () => {
    for (const list of [CARRIERS, PROVIDERS]) {
      expect(new Set(list.map((network) => network.name)).size).toBe(list.length)
      for (const country of COUNTRIES) expect(networksOf(list, country.code).length).toBeGreaterThanOrEqual(2)
    }
    expect(new Set(EMPLOYERS.map((employer) => employer.name)).size).toBe(500)
  })

  it('own blocks of addresses that ranges take in whole', () => {
    const blocks = (CARRIERS.length + PROVIDERS.length) * BLOCKS
    expect(providerBlock(0)).toBe(carrierBlock(CARRIERS.length - 1) + BLOCKS)
    fc.assert(
      fc.property(fc.integer({ min: 0, max: blocks - 1 }), fc.integer({ min: 8, max: BLOCK_PREFIX }), (block, bits) => {
        const range = rangeBlocks(`${blockAddress(block)}/${bits}`)
        expect(range && range.from <= block && block < range.to).toBe(true)
        expect(range && range.to - range.from).toBe(bits === BLOCK_PREFIX ? 1 : 2 ** (BLOCK_PREFIX - bits))
      })
    )
    for (const wrong of ['10.0.0.0/23', '10.0.0/8', '300.0.0.0/8', '10.0.0.0', 'home']) expect(rangeBlocks(wrong)).toBeNull()
    expect(blockAddress(0)).toBe('10.0.0.0')
    expect(blockAddress(5)).toBe('10.0.20.0')
  })
})

describe('what is packed', () => {
  it('is read back as it was laid down', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 12 }),
        fc.integer({ min: 0, max: 2 }),
        fc.boolean(),
        fc.boolean(),
        fc.boolean(),
        (moment, connection, bot, proxy, blocked) => {
          const state = stateOf(moment, connection, bot ? 1 : 0, proxy ? 1 : 0, blocked ? 1 : 0)
          expect([momentOf(state), connectionOf(state), isBot(state), isProxy(state), isBlocked(state)]).toEqual([
            moment,
            connection,
            bot,
            proxy,
            blocked
          ])
        }
      )
    )
    for (let code = 0; code < 256; code++) {
      const { age, gender, income } = demographic(code)
      expect(age + 8 * gender + 32 * income).toBe(code)
      expect(isDemographic(code)).toBe(gender < 3 && income < 6)
    }
    for (const path of [0, 5, 6, 7199]) expect(pathPlacement(path) * SOURCES.length + pathSource(path)).toBe(path)
  })

  it('profiles are in some segments, those of one liking in several of its kind', () => {
    const sizes = SEGMENTS.map(
      (segment) => Array.from({ length: 4096 }, (_, profile) => inSegment(world.profiles, profile, segment.index)).filter(Boolean).length
    )
    for (const size of sizes) {
      expect(size).toBeGreaterThan(5)
      expect(size).toBeLessThan(4096 * 0.6)
    }
    const [a, b] = SEGMENTS.filter((segment) => segment.branch === SEGMENTS[0].branch && segment.kind === 'interest')
    const other = SEGMENTS.filter((segment) => segment.kind === 'interest').find(
      (segment) => segment.branch !== a.branch
    ) as (typeof SEGMENTS)[number]
    const both = (x: number, y: number) =>
      Array.from({ length: 4096 }, (_, profile) => profile).filter(
        (profile) => inSegment(world.profiles, profile, x) && inSegment(world.profiles, profile, y)
      ).length
    expect(both(a.index, b.index) / sizes[b.index]).toBeGreaterThan((1.3 * both(a.index, other.index)) / sizes[other.index])
    for (const cost of DATA_COSTS) expect(cost % 50_000).toBe(0)
  })
})
