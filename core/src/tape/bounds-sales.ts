import { COUNTRIES, POSTAL_COUNTRY } from '../places/index.js'
import { BRANCHES, FORMATS, OFFER_KINDS, SEGMENTS, SHAPE_FORMAT, type OfferKind, FORMAT_TABLE } from '../taxonomy/index.js'
import { DATA_COSTS, FIRST_PRICE, FULL, PERSON_WORDS, PROFILES, inSegment, postalOf, type World } from '../market/index.js'
import {
  DEVICE_CLICKS,
  DEVICE_CONVERSIONS,
  HOUR_CONVERSIONS,
  KIND_CONVERSIONS,
  OWN_DAILY,
  TIER_CLICKS,
  TIER_CONVERSIONS,
  crowdOf,
  stayRate
} from '../response/index.js'
import { Groups, bound, medianOf, rankCorrelation, type Topic } from './bounds.js'
import type { Tape } from './layout.js'

/** Sums of a price kind's opportunities. */
interface Sum {
  prices: number[]
  charges: number[]
  visits: number
  stays: number
  /** Hidden chances of each offer's event, by opportunity. */
  events: Record<OfferKind, number[]>
}

/** What an event costs on display at the bid that wins half, euro: from it follow what offers can pay. */
const COSTS: Readonly<Record<OfferKind, readonly [low: number, high: number]>> = { purchase: [25, 60], booking: [9, 25], trial: [4, 10] }
/** Looked at where money is spent: in rich countries. */
const COMPARED = ['display', 'native', 'web and app video', 'pop'] as const

/**
 * What sells, to whom and when: hidden chances of a stay and of an event, summed over the opportunities of the tape for an ad, an
 * advertiser and a person like any. It sums the tables of rates; the draws are made elsewhere.
 */
export function sales(world: World, tape: Tape): Topic {
  const sums = new Map<string, Sum>()
  const hours = OFFER_KINDS.map(() => ({ shown: new Float64Array(24), events: new Float64Array(24) }))
  const prices = new Groups()
  return {
    look: ({ kind, tier, placement, device, isBot, price, hour, format, source, country }) => {
      if (format === 'display' && tier === 1) prices.add(`display in ${country}`, price)
      const name = format === 'pop' ? format : kind
      if (tier !== 1 || !(COMPARED as readonly string[]).includes(name)) return
      let sum = sums.get(name)
      if (!sum) sums.set(name, (sum = { prices: [], charges: [], visits: 0, stays: 0, events: { purchase: [], booking: [], trial: [] } }))
      const visits =
        format === 'pop'
          ? 1 - placement.blocked / 65536
          : (placement.viewable / 65536) * (placement.clicks / 65536) * DEVICE_CLICKS[device] * TIER_CLICKS[tier]
      const stays = isBot ? 0 : visits * stayRate(placement, device)
      sum.prices.push(price)
      // In a first-price source what is bid is paid: here to be set to what wins half.
      sum.charges.push(FIRST_PRICE[source] === 1 ? -1 : price)
      sum.visits += isBot ? 0 : visits
      sum.stays += stays
      OFFER_KINDS.forEach((offer, n) => {
        const chance =
          stays *
          KIND_CONVERSIONS[offer] *
          FORMAT_TABLE[format].converts[offer] *
          DEVICE_CONVERSIONS[device] *
          TIER_CONVERSIONS[tier] *
          HOUR_CONVERSIONS[offer][hour] *
          placement.sells
        sum.events[offer].push(chance)
        if (kind === 'display' || kind === 'native') {
          hours[n].shown[hour]++
          hours[n].events[hour] += chance
        }
      })
    },
    bounds: () => {
      const sumOf = (kind: string) => sums.get(kind) as Sum
      const total = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0)
      const perStay = (kind: string, offer: OfferKind) => total(sumOf(kind).events[offer]) / sumOf(kind).stays
      /** Micros an event at the bid that wins half. */
      const cost = (kind: string, offer: OfferKind) => {
        const { prices: asked, charges, events } = sumOf(kind)
        const bid = medianOf(asked)
        let [paid, came] = [0, 0]
        asked.forEach((price, n) => {
          if (price > bid) return
          paid += charges[n] < 0 ? bid : charges[n]
          came += events[offer][n]
        })
        return paid / came
      }
      const against = (kind: string, offer: OfferKind) => cost(kind, offer) / cost('display', offer)
      const per = (offer: OfferKind) => ({ purchase: 'a purchase', booking: 'a test ride', trial: 'a free trial' })[offer]
      return [
        ...OFFER_KINDS.map((offer) => bound(`cost of ${per(offer)}, display, euro`, cost('display', offer) / 1e6, ...COSTS[offer])),
        bound('a stay converts, a purchase, display, %', 100 * perStay('display', 'purchase'), 1, 2.5),
        bound('a stay converts, a test ride, display, %', 100 * perStay('display', 'booking'), 2.5, 6),
        bound('a stay converts, a free trial, display, %', 100 * perStay('display', 'trial'), 6, 15),
        ...OFFER_KINDS.map((offer) =>
          bound(`a stay converts, ${per(offer)}, native against display`, perStay('native', offer) / perStay('display', offer), 0.7, 1.2)
        ),
        bound(
          'a stay converts, a purchase, pops against display',
          perStay('pop', 'purchase') / perStay('display', 'purchase'),
          0.005,
          0.015
        ),
        bound('a stay converts, a free trial, pops against display', perStay('pop', 'trial') / perStay('display', 'trial'), 0.03, 0.08),
        bound('cost of a purchase, native against display', against('native', 'purchase'), 0.4, 0.8),
        bound('cost of a purchase, video against display', against('web and app video', 'purchase'), 0.7, 0.95),
        bound('cost of a purchase, pops against display', against('pop', 'purchase'), 2, 5),
        bound('cost of a free trial, pops against display', against('pop', 'trial'), 0.4, 0.9),
        bound('cost of a test ride, native against display', against('native', 'booking'), 0.45, 1.3),
        bound('cost of a test ride, video against display', against('web and app video', 'booking'), 0.9, 2),
        ...OFFER_KINDS.map((offer, n) =>
          bound(
            `hours that convert and hours with traffic, ${per(offer)}, rank correlation`,
            rankCorrelation(
              [...hours[n].shown],
              Array.from(hours[n].events, (events, hour) => events / Math.max(1, hours[n].shown[hour]))
            ),
            -0.6,
            0.75
          )
        ),
        ...ofPlacements(world),
        ...ofPeople(world, tape),
        languagesApart((country) => prices.median(`display in ${country}`))
      ]
    }
  }
}

/** Where people click is not where they buy. */
function ofPlacements({ inventory: { placements } }: World) {
  const display = placements.filter(({ shape, clicks }) => clicks > 0 && FORMATS[SHAPE_FORMAT[shape]] === 'display')
  const clicks = display.map((one) => one.clicks)
  const [clicked, sold] = [clicks, display.map((one) => one.sells)].map(medianOf)
  const share = (test: (one: (typeof display)[number]) => boolean) => (100 * display.filter(test).length) / display.length
  return [
    bound(
      'clicks and sales of a stay over placements of display, rank correlation',
      rankCorrelation(
        clicks,
        display.map((one) => one.sells)
      ),
      -0.5,
      -0.1
    ),
    bound(
      'placements that click well and sell badly, %',
      share((one) => one.clicks > 1.3 * clicked && one.sells < sold / 1.3),
      5,
      25
    ),
    bound(
      'placements that sell well and click badly, %',
      share((one) => one.clicks < clicked / 1.3 && one.sells > 1.3 * sold),
      5,
      25
    )
  ]
}

/** Events that people come for by themselves, what an impression adds, and an audience that is worth its data. */
function ofPeople({ profiles }: World, { words, peopleCount }: Tape) {
  const own = (offer: OfferKind) => {
    let sum = 0
    for (let person = 0; person < peopleCount; person++)
      sum += OWN_DAILY[offer] * TIER_CONVERSIONS[COUNTRIES[POSTAL_COUNTRY[postalOf(words[person * PERSON_WORDS])]].tier]
    return (sum / peopleCount) * FULL.people
  }
  // Each subject's purchase intent against all people, and what it costs with its data beside an impression of display.
  const [better, dearer] = [[] as number[], [] as number[]]
  BRANCHES.forEach((branch, subject) => {
    const crowd = crowdOf(profiles, subject)
    for (const { index, kind, branch: own } of SEGMENTS) {
      if (own !== branch.index || kind !== 'purchase intent') continue
      const members = Array.from({ length: PROFILES }, (_, profile) => profile).filter((profile) => inSegment(profiles, profile, index))
      if (members.length < 20) continue
      better.push(members.reduce((sum, profile) => sum + crowd[profile], 0) / members.length)
      dearer.push(1 + DATA_COSTS[index] / 900_000)
    }
  })
  const { display, video } = FORMAT_TABLE
  const television = video.liftsOnTelevision ?? video.lifts
  const lifts = [television, ...FORMATS.map((format) => FORMAT_TABLE[format].lifts)].map((lift) => 100 * lift)
  return [
    bound('purchases a day that people come for by themselves', own('purchase'), 20, 60),
    bound('what an impression seen adds to its day, least of formats, %', Math.min(...lifts), 5, 30),
    bound('what an impression seen adds to its day, most of formats, %', Math.max(...lifts), 5, 30),
    bound('what it adds, video against display', video.lifts / display.lifts, 1.5, 4),
    bound('what it adds, television against display', television / display.lifts, 1.5, 4),
    bound('people about to buy of the subject against all, conversions, median of audiences', medianOf(better), 2.5, 3.5),
    bound('people about to buy of the subject against all, price with data, median of audiences', medianOf(dearer), 1.6, 2.5)
  ]
}

/** Countries whose people speak one language mostly, in rich countries: what the dearest costs against the cheapest. */
function languagesApart(price: (country: number) => number) {
  const byLanguage = new Map<number, number[]>()
  for (const { index, tier, languages } of COUNTRIES) {
    const asked = price(index)
    if (tier !== 1 || Number.isNaN(asked)) continue
    const { language } = languages.reduce((most, one) => (one.share > most.share ? one : most))
    byLanguage.set(language, [...(byLanguage.get(language) ?? []), asked])
  }
  const apart = [...byLanguage.values()].filter((all) => all.length > 1).map((all) => Math.max(...all) / Math.min(...all))
  return bound('display in two rich countries of one language, dearest against cheapest', Math.max(...apart), 1.5, 2.6)
}
