import type { Transaction } from 'sequelize'
import { priceAtHome, propertyCode } from '@tin-harbor/core/market'
import { SHAPE_FORMAT, FORMATS } from '@tin-harbor/core/taxonomy'
import { Advertiser } from '../advertisers/advertiser-model.js'
import type { Catalogue } from '../market/catalogue.js'
import { demoFile } from './demo-files.js'
import { createCreative, createDeal, createList, createOffer, createShop, createTracker } from './checked-objects.js'

const EVERYWHERE = { countries: [], devices: [], systems: [], connections: [], hours: null }
/** What each event pays, micros: for what it costs on display in the mean, 1.2 times as much. A catalogue pays on the way to a purchase. */
export const PAYS = { purchase: 44_000_000, catalogue: 3_000_000, 'test ride': 20_500_000, 'sign-up': 8_800_000 } as const
const OFFERS = {
  'Nightjar Telescopes': [
    {
      name: 'Winter telescopes',
      landings: [
        { countries: [], devices: [], link: 'https://nightjar.example/winter' },
        { countries: ['DE', 'AT'], devices: ['phone'], link: 'https://nightjar.example/de/winter-m' }
      ],
      payouts: [
        { event: 'purchase', micros: PAYS.purchase },
        { event: 'catalogue', micros: PAYS.catalogue }
      ],
      stock: 400,
      terms: EVERYWHERE
    }
  ],
  'Ostler Cargo Bikes': [
    {
      name: 'Test rides',
      landings: [{ countries: [], devices: [], link: 'https://ostler.example/test-ride' }],
      payouts: [{ event: 'test ride', micros: PAYS['test ride'] }],
      stock: null,
      terms: { ...EVERYWHERE, countries: ['NL', 'BE', 'DE'] }
    }
  ],
  'Inkwell Kana': [
    {
      name: 'First lessons',
      landings: [{ countries: [], devices: [], link: 'https://inkwell.example/start' }],
      payouts: [{ event: 'sign-up', micros: PAYS['sign-up'] }],
      stock: null,
      terms: { ...EVERYWHERE, devices: ['phone', 'tablet'] }
    }
  ]
} as const
const TRACKERS = {
  'Nightjar Telescopes': [
    {
      name: 'purchase',
      kind: 'purchase',
      subject: 'science',
      reports: 'server',
      clickHours: 720,
      viewHours: 24,
      valueMicros: PAYS.purchase
    },
    {
      name: 'catalogue',
      kind: 'request',
      subject: 'science',
      reports: 'script',
      clickHours: 168,
      viewHours: null,
      valueMicros: PAYS.catalogue
    }
  ],
  'Ostler Cargo Bikes': [
    {
      name: 'test ride',
      kind: 'booking',
      subject: 'cycling',
      reports: 'script',
      clickHours: 336,
      viewHours: 24,
      valueMicros: PAYS['test ride'],
      pages: { which: 'these', paths: ['/booked'], leastPages: 1, leastSeconds: 0 }
    }
  ],
  'Inkwell Kana': [
    {
      name: 'sign-up',
      kind: 'trial',
      subject: 'languages',
      reports: 'image',
      clickHours: 168,
      viewHours: null,
      valueMicros: PAYS['sign-up']
    }
  ]
} as const
const SHOPS = {
  'Nightjar Telescopes': [
    { name: 'Nightjar Berlin', place: 'city:Berlin, DE-BE' },
    { name: 'Nightjar Hamburg', place: 'near:53.55,9.99,40' }
  ],
  'Ostler Cargo Bikes': [
    { name: 'Ostler Amsterdam', place: 'near:52.37,4.89,30' },
    { name: 'Ostler Utrecht', place: 'near:52.09,5.12,20' }
  ],
  'Inkwell Kana': []
} as const
const CREATIVES = {
  'Nightjar Telescopes': [
    {
      name: 'Winter sky, native',
      kind: 'native',
      parts: {
        headline: 'See the winter sky',
        longHeadline: 'See the winter sky tonight',
        text: 'A telescope that stands in a minute, for clear nights.',
        brand: 'Nightjar Telescopes',
        icon: demoFile('night-icon.png'),
        picture: demoFile('night-card.png'),
        button: 'See it'
      }
    },
    {
      name: 'Winter sky, 30 s',
      kind: 'video',
      parts: { file: demoFile('winter-30.mp4'), seconds: 30, width: 1280, height: 720, skipAfter: 5, companion: '300x250' }
    },
    { name: 'Winter sky, spoken', kind: 'audio', parts: { file: demoFile('winter-20.m4a'), seconds: 20, companion: null } }
  ],
  'Ostler Cargo Bikes': [
    { name: 'School run, interstitial', kind: 'interstitial', parts: { upright: true, file: demoFile('bike-upright.png') } },
    {
      name: 'Test ride, notification',
      kind: 'notification',
      parts: {
        title: 'Ride one this Saturday',
        text: 'Your shop has three cargo bikes to try.',
        icon: demoFile('bike-icon.png'),
        picture: null
      }
    }
  ],
  'Inkwell Kana': [
    { name: 'First kana, page', kind: 'pop page', parts: { link: 'https://inkwell.example/start?visit' } },
    { name: 'First kana, redirect', kind: 'redirect', parts: { link: 'https://inkwell.example/start?from' } },
    { name: 'Stroke by stroke, banner', kind: 'html5', parts: { size: '300x250', file: demoFile('stroke-300x250.zip') } },
    {
      name: 'Brush stroke, markup',
      kind: 'markup',
      parts: { size: '300x250', markup: '<div style="font:20px serif">One stroke a day</div>' }
    }
  ]
} as const

/** Twelve deals: of the publishers with most placements, in turn at a fixed price and over a floor. */
function dealsOf({ inventory }: Catalogue): object[] {
  const byPublisher = new Map<number, number[]>()
  for (const { index, property } of inventory.placements) {
    if (inventory.properties[property].anonymous) continue
    const { publisher } = inventory.properties[property]
    byPublisher.set(publisher, [...(byPublisher.get(publisher) ?? []), index])
  }
  const largest = [...byPublisher].sort((a, b) => b[1].length - a[1].length || a[0] - b[0]).slice(0, 12)
  return largest.map(([publisher, all], n) => {
    const format = SHAPE_FORMAT[inventory.placements[all[n % all.length]].shape]
    const placements = all.filter((placement) => SHAPE_FORMAT[inventory.placements[placement].shape] === format)
    const prices = placements.map((placement) => priceAtHome(inventory, inventory.placements[placement])).sort((a, b) => a - b)
    const middle = prices[prices.length >> 1]
    const fixed = n % 2 === 0
    return {
      name: `${inventory.publishers[publisher].name}, ${FORMATS[format]}, ${fixed ? 'fixed price' : 'floor price'}`,
      publisher,
      kind: fixed ? 'fixed' : 'floor',
      priceMicros: Math.round(middle * (fixed ? 1.1 : 0.5)) * 1000,
      placements,
      volume: fixed ? 400_000 : null,
      leastSpendMicros: fixed ? 20_000_000 : null
    }
  })
}

/** An ad whose files are named by what they hold. */
const withFiles = (creative: object, files: ReadonlyMap<string, string>): unknown =>
  JSON.parse(JSON.stringify(creative), (_, value: unknown) => (typeof value === 'string' ? (files.get(value) ?? value) : value))

/** Fills in what forecasts and the exchange can use besides lines. */
export async function makeMarketObjects(
  catalogue: Catalogue,
  organisationId: number,
  creatives: Readonly<Record<string, readonly object[]>>,
  files: ReadonlyMap<string, string>,
  transaction: Transaction
): Promise<void> {
  for (const advertiser of await Advertiser.findAll({ transaction })) {
    const name = advertiser.name as keyof typeof OFFERS
    for (const offer of OFFERS[name] ?? []) await createOffer(advertiser.id, offer, transaction)
    for (const tracker of TRACKERS[name] ?? []) await createTracker(advertiser.id, tracker, transaction)
    for (const shop of SHOPS[name] ?? []) await createShop(advertiser.id, shop, transaction)
    for (const creative of [...(CREATIVES[name] ?? []), ...(creatives[name] ?? [])])
      await createCreative(advertiser.id, withFiles(creative, files), transaction)
  }
  for (const deal of dealsOf(catalogue)) await createDeal(catalogue, organisationId, deal, transaction)
  const { properties } = catalogue.inventory
  await createList(
    organisationId,
    null,
    { name: 'Never again', kind: 'properties', values: [3, 17, 42].map((n) => propertyCode(properties[n])), group: null },
    transaction
  )
  await createList(
    organisationId,
    null,
    { name: 'Sky words', kind: 'keywords', values: ['telescope', 'star chart', 'eclipse'], group: null },
    transaction
  )
  await createList(
    organisationId,
    null,
    { name: 'Northern towns', kind: 'places', values: ['city:Kiel, DE-SH', 'city:Hamburg, DE-HH', 'near:53.55,9.99,60'], group: null },
    transaction
  )
  await createList(
    organisationId,
    null,
    {
      name: 'Phones on Wi-Fi',
      kind: 'group',
      values: [],
      group: {
        restrictions: [
          { dimension: 'device', mode: 'include', values: ['phone'] },
          { dimension: 'connection', mode: 'include', values: ['Wi-Fi'] }
        ]
      }
    },
    transaction
  )
}
