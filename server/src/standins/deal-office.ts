import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { yup } from '@tin-harbor/core/input'
import { VIDEO_KINDS, askSchema, parseInput, type AskFacts, type PlacedAsk, type DealDecision } from '@tin-harbor/core/buying'
import { STREAM, hash } from '@tin-harbor/core/random'
import { positionsOf, type Inventory } from '@tin-harbor/core/market'
import { BRANCHES, isFilm } from '@tin-harbor/core/taxonomy'
import { afterWorking, type WorkingDay } from '@tin-harbor/core/review'
import { offeredDeals } from './offered-deals.js'

/**
 * The stand-in for publishers' deal offices: an HTTP service on loopback that is asked for a deal and answers after some hours of
 * working time. What it decides follows the written rules below; it names the one that decided.
 */

/** Least that a deal brings a publisher in a month, micros; the largest publishers ask for more. */
export const leastSpendOf = (seed: number, publisher: number) => [20, 40, 80][hash(seed, STREAM.deal, 11, publisher) % 3] * 1_000_000
/** Branches that a publisher does not advertise. */
export const refusedBranches = (seed: number, publisher: number) =>
  [0, 1].map((n) => BRANCHES[hash(seed, STREAM.deal, 12 + n, publisher) % BRANCHES.length].name)
const LOWEST = 0.6
const FAIR = 0.95
const MOST_VOLUME = 0.5

/** The rules, in the order in which they are asked. Prices of floor deals are asked for a third less. */
export function decide(ask: PlacedAsk, facts: AskFacts, seed: number): DealDecision {
  const cpm = (micros: number) => (micros / 1e6).toFixed(2)
  if (facts.placements.length === 0 || facts.opportunitiesADay < 1)
    return { state: 'refused', rule: 'inventory', answer: `We sell no ${ask.format} slots.` }
  if (refusedBranches(seed, ask.publisher).includes(ask.about))
    return { state: 'refused', rule: 'category', answer: `We take no advertising for ${ask.about}.` }
  if (isFilm(ask.format) && ask.videoKind && !facts.videoKinds.includes(ask.videoKind))
    return { state: 'refused', rule: 'kind of ad', answer: `Our players show ${facts.videoKinds.join(' and ')} ads only.` }
  const spend = (ask.volume * 30 * ask.priceMicros) / 1000
  const least = leastSpendOf(seed, ask.publisher)
  if (spend < least)
    return { state: 'refused', rule: 'least spend', answer: `That is ${cpm(spend)} a month; a deal with us brings at least ${cpm(least)}.` }
  const worth = facts.halfMicros * (ask.kind === 'fixed' ? 1 : 2 / 3)
  if (ask.priceMicros < worth * LOWEST)
    return {
      state: 'refused',
      rule: 'price',
      answer: `${cpm(ask.priceMicros)} is under six tenths of what these slots bring, ${cpm(worth)}.`
    }
  const fair = Math.ceil((worth * FAIR) / 10_000) * 10_000
  const most = Math.floor((facts.opportunitiesADay * MOST_VOLUME) / 100) * 100
  if (most < 100) return { state: 'refused', rule: 'volume', answer: 'We have too few of these slots for a deal.' }
  const [priceMicros, volume] = [Math.max(ask.priceMicros, fair), Math.min(ask.volume, most)]
  if (priceMicros > ask.priceMicros)
    return { state: 'countered', rule: 'price', answer: `For ${cpm(priceMicros)} we would.`, priceMicros, volume }
  if (volume < ask.volume)
    return {
      state: 'countered',
      rule: 'volume',
      answer: `We promise at most half of a day's slots, ${volume.toLocaleString('en')}.`,
      priceMicros,
      volume
    }
  return {
    state: 'granted',
    rule: 'price',
    answer: `Agreed at ${cpm(priceMicros)} for up to ${volume.toLocaleString('en')} a day.`,
    priceMicros,
    volume
  }
}

/** When offices work: Monday to Friday, 8 to 17 by UTC. */
export const OFFICES: WorkingDay = { from: 8, to: 17 }
/** Working hours an office takes: two to five, drawn for a publisher. */
export const MOST_OFFICE_HOURS = 5
export const hoursToAnswer = (seed: number, publisher: number) => 2 + (hash(seed, STREAM.deal, 10, publisher) % 4)

/** The first market hour at whose start an ask of an hour is answered. */
export const answeredAt = (seed: number, publisher: number, askedHour: number): number =>
  afterWorking(askedHour, hoursToAnswer(seed, publisher), OFFICES)

const bodySchema = yup.object({
  ask: askSchema,
  askedHour: yup.number().integer().required(),
  hour: yup.number().integer().required(),
  facts: yup
    .object({
      placements: yup.array().of(yup.number().required()).required(),
      opportunitiesADay: yup.number().required(),
      halfMicros: yup.number().required(),
      videoKinds: yup.array().of(yup.string().oneOf(VIDEO_KINDS).required()).required()
    })
    .required()
})

export interface DealOffice {
  address: string
  close: () => Promise<void>
}

/**
 * `GET /offers`: what is offered to everybody. `POST /asks`: what is asked, and the market hour it is; 202 while nobody has answered,
 * 200 with the decision.
 */
export async function startDealOffice(seed: number, inventory: Inventory): Promise<DealOffice> {
  const offers = { offers: offeredDeals(inventory, seed) }
  const server: Server = createServer((request, response) => {
    const parts: Buffer[] = []
    request.on('data', (part: Buffer) => parts.push(part))
    request.on('end', () => {
      const say = (status: number, body: object) => {
        response.writeHead(status, { 'content-type': 'application/json' })
        response.end(JSON.stringify(body))
      }
      try {
        if (request.method === 'GET' && request.url === '/offers') return say(200, offers)
        const { ask, facts, askedHour, hour } = parseInput(bodySchema, JSON.parse(Buffer.concat(parts).toString('utf8')))
        const publisher = positionsOf(inventory).publisher.get(ask.publisher)
        if (request.method !== 'POST' || request.url !== '/asks' || publisher === undefined)
          return say(404, { message: 'Nobody here decides about that.' })
        const from = answeredAt(seed, publisher, askedHour)
        return hour < from ? say(202, { from }) : say(200, { from, ...decide({ ...ask, publisher }, facts, seed) })
      } catch (error) {
        return say(422, { message: (error as Error).message })
      }
    })
  })
  await new Promise<void>((resolve, reject) => server.once('error', reject).listen(0, '127.0.0.1', resolve))
  return {
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    close: () => new Promise((resolve) => server.close(() => resolve()))
  }
}
