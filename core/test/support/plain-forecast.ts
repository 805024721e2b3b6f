import { POSTALS, CITIES, REGIONS } from '../../src/places/index.js'
import { DEVICE_TYPES, FORMATS, SHAPE_FORMAT } from '../../src/taxonomy/index.js'
import { HELD_BACK } from '../../src/response/index.js'
import { SOURCES, deviceModel, postalOf } from '../../src/market/index.js'
import { DIMENSIONS } from '../../src/dimensions/index.js'
import type { ForecastMarket, ForecastQuestion } from '../../src/forecast/index.js'
import type { AdRules, Cap } from '../../src/exchange/index.js'
import { STREAM, draw } from '../../src/random/index.js'
import type { Tape } from '../../src/tape/index.js'
import { offsetMinutes, weekdayOf, zoneIndex, localDayOf, startOfLocalDay } from '../../src/time/index.js'
import { factsOf, holds, type Facts } from './plain.js'

/** A row of the tape as an object: the slow twin knows nothing of columns. */
export interface PlainRow {
  row: number
  person: number
  minute: number
  floor: number
  rival: number
  second: number
  firstPrice: boolean
  placement: number
  shape: number
  zone: number
  facts: Facts
  key: number
  /** Ads that fit it; of a line whose ads are all alike none is told. */
  fits?: readonly AdRules[]
  group: number
  clickChance: number
  viewChance: number
}

export function* plainRows(tape: Tape, market: ForecastMarket): Generator<PlainRow> {
  const { inventory, benchmarks } = market
  for (let row = 0; row < tape.rowCount; row++) {
    const person = tape.rows.person[row]
    const path = tape.rows.path[row]
    const placement = Math.floor(path / SOURCES.length)
    const city = CITIES[POSTALS[postalOf(tape.words[person * 4])].city]
    const isHeldBack = (tape.rows.state[row] & 1) === 1
    const group = isHeldBack ? HELD_BACK : benchmarks.groupOf[placement]
    const type = deviceModel(tape.rows.device[row]).type
    const click = isHeldBack
      ? 0
      : SHAPE_FORMAT[inventory.placements[placement].shape] === FORMATS.indexOf('pop')
        ? 1_000_000
        : benchmarks.clicks[(group * DEVICE_TYPES.length + type) * 24 + city.country]
    yield {
      row,
      person,
      minute: tape.rows.minute[row],
      floor: inventory.floors[path],
      rival: tape.rows.rival[row],
      second: tape.rows.second[row],
      firstPrice: SOURCES[path % SOURCES.length].auction === 'first price',
      placement,
      shape: inventory.placements[placement].shape,
      zone: REGIONS[city.region].zone,
      facts: factsOf(market, tape.words, person, tape.rows, row),
      key: tape.rows.key[row],
      group: tape.group[person],
      clickChance: click,
      viewChance: benchmarks.views[group]
    }
  }
}

const NOTHING_KNOWN = {} as Facts

/** Bid in micros an impression and as typed, step by step in the order of the design. */
function bidOf(
  q: ForecastQuestion,
  row: PlainRow,
  hour: number,
  seen: number,
  ad?: AdRules
): { event: number; impression: number; p: number } {
  const units = (micros: number) => (q.price.model === 'CPM' ? Math.floor(micros / 1000) : micros)
  const fits = (q.price.adjustments ?? []).filter(({ dimension, value }) =>
    holds({ dimension, mode: 'include', values: [value] }, row.facts)
  )
  const place = (dimension: string) => DIMENSIONS.indexOf(dimension as 'where')
  const owns = fits.filter((adjustment) => adjustment.ownMicros !== null).sort((a, b) => place(b.dimension) - place(a.dimension))
  let micros = units(owns[0]?.ownMicros ?? ad?.bidMicros ?? q.price.bidMicros)
  for (const dimension of DIMENSIONS) {
    const first = fits.find((adjustment) => adjustment.dimension === dimension && adjustment.perMille !== null)
    if (first) micros = Math.floor((micros * (first.perMille as number)) / 1000)
  }
  micros = Math.floor((micros * hour) / 1000)
  for (let n = 0; n < seen; n++) micros = Math.floor((micros * (1000 - (q.price.repeatDiscount ?? 0))) / 1000)
  if (q.price.maxMicros !== null) micros = Math.min(micros, units(q.price.maxMicros))
  const p = q.price.model === 'CPC' ? row.clickChance : q.price.model === 'view' ? row.viewChance : 1e6
  return { event: micros, impression: q.price.model === 'CPC' || q.price.model === 'view' ? Math.floor((micros * p) / 1e6) : micros, p }
}

/** The ad that a row draws among those that fit it and are free; alike ones are drawn as one. Null where none is free. */
function drawnAd(row: PlainRow, isFree: (ad: AdRules) => boolean = () => true): AdRules | null {
  const groups: { name: string; weight: number; ad: AdRules }[] = []
  for (const ad of row.fits ?? []) {
    const name = JSON.stringify([ad.bidMicros ?? null, ad.caps?.length ? ad.ad : null])
    const known = groups.find((group) => group.name === name)
    if (known) known.weight += ad.weight
    else groups.push({ name, weight: ad.weight, ad })
  }
  const free = groups.filter(({ ad }) => isFree(ad))
  if (free.length === 0) return null
  let left = draw(row.key, STREAM.ad) % free.reduce((sum, { weight }) => sum + weight, 0)
  return free.find(({ weight }) => (left -= weight) < 0)?.ad ?? null
}

/** What a row is sold for at a bid, or null when it is lost. */
function saleOf(q: ForecastQuestion, row: PlainRow, bid: number): number | null {
  for (const deal of q.buys.deals) {
    if (!deal.placements.includes(row.placement)) continue
    if (deal.kind === 'fixed' && bid >= deal.price) return deal.price
    if (deal.kind === 'floor' && bid >= deal.price && bid > row.rival) return row.firstPrice ? bid : Math.max(deal.price, row.rival)
    break
  }
  if (!q.buys.open || bid < row.floor || bid <= row.rival) return null
  return row.firstPrice ? bid : Math.max(row.floor, row.rival)
}

export interface PlainTotals {
  wins: number
  spend: number
  reach: number
  clearing: number
  /** People by exposures, up to ten and more. */
  frequency: number[]
  winsByGroup: number[]
}

/** Runs won rows in order of time, all people at once, windows counted from lists. */
function run(q: ForecastQuestion, entries: { row: PlainRow; minute: number }[], hourOf: (row: PlainRow) => number): PlainTotals {
  const seen = new Map<number, number[]>()
  /** What people saw of ads with caps of their own, and of all others. */
  const ofAds = new Map<string, number[]>()
  const isSpent = (times: readonly number[], caps: readonly Cap[], minute: number) =>
    caps.some((cap) => times.filter((other) => other > minute - cap.hours * 60).length >= cap.times)
  const totals: PlainTotals = {
    wins: 0,
    spend: 0,
    reach: 0,
    clearing: 0,
    frequency: new Array<number>(10).fill(0),
    winsByGroup: new Array<number>(32).fill(0)
  }
  for (const { row, minute } of [...entries].sort((a, b) => a.minute - b.minute || a.row.row - b.row.row)) {
    const times = seen.get(row.person) ?? []
    if (q.gapMinutes > 0 && times.some((other) => minute - other < q.gapMinutes)) continue
    if (isSpent(times, q.campaignCaps, minute)) continue
    const place = (ad: AdRules) => `${row.person} ${ad.caps?.length ? ad.ad : 'line'}`
    const ad = row.fits
      ? drawnAd(row, (one) => !isSpent(ofAds.get(place(one)) ?? [], one.caps?.length ? one.caps : q.caps, minute))
      : undefined
    if (ad === null || (ad === undefined && isSpent(times, q.caps, minute))) continue
    const { event, impression, p } = bidOf(q, row, hourOf(row), times.filter((other) => other > minute - 43_200).length, ad)
    const clearing = saleOf(q, row, impression)
    if (clearing === null || (impression === 0 && clearing === 0)) continue
    const charge =
      q.price.model === 'CPC' || q.price.model === 'view'
        ? p === 0
          ? 0
          : (p / 1e6) * Math.min(event, Math.ceil((clearing * 1e6) / p))
        : clearing
    seen.set(row.person, [...times, minute])
    if (ad) ofAds.set(place(ad), [...(ofAds.get(place(ad)) ?? []), minute])
    totals.wins++
    totals.spend += charge + q.dataMicros
    totals.clearing += charge
    totals.winsByGroup[row.group]++
  }
  totals.reach = seen.size
  for (const times of seen.values()) totals.frequency[Math.min(10, times.length) - 1]++
  return totals
}

/** The answer once more, row by row: what matches, and three replays. In the sample, weeks and flight as totals. */
export function plainForecast(q: ForecastQuestion, rows: Iterable<PlainRow>, tape: Tape) {
  const noon = (tape.firstDay + 14) * 24 - 12
  const own = offsetMinutes(zoneIndex(q.zone), noon)
  const ofWeek = (minute: number, offset: number) =>
    (((weekdayOf(tape.firstDay) * 1440 + (minute % 10_080) + offset) % 10_080) + 10_080) % 10_080
  const hourOf = (row: PlainRow) =>
    q.hours ? q.hours.perMille[Math.floor(ofWeek(row.minute, q.hours.clock === 'viewer' ? offsetMinutes(row.zone, noon) : own) / 60)] : 1000
  const buyable = (row: PlainRow) => q.buys.open || q.buys.deals.some((deal) => deal.placements.includes(row.placement))
  const failing: number[][] = []
  const matched: PlainRow[] = []
  for (const row of rows) {
    if (!q.shapes.includes(row.shape) || !buyable(row)) continue
    const fits = q.ads?.filter(
      (ad) => ad.shape === row.shape && (ad.targeting?.restrictions ?? []).every((restriction) => holds(restriction, row.facts))
    )
    const held = [...q.targeting.restrictions.map((r) => holds(r, row.facts)), hourOf(row) > 0, fits?.length !== 0]
    const fails = held.flatMap((holdsHere, place) => (holdsHere ? [] : [place]))
    failing.push(fails)
    if (fails.length === 0) matched.push({ ...row, ...((q.price.adjustments ?? []).length > 0 ? {} : { facts: NOTHING_KNOWN }), fits })
  }
  const ranks = { eligible: 0, first: 0, second: 0 }
  for (const row of matched) {
    const bid = bidOf(q, row, hourOf(row), 0, drawnAd(row) ?? undefined).impression
    const deal = q.buys.deals.find((one) => one.placements.includes(row.placement))
    if (bid > 0 && bid >= Math.min(q.buys.open ? row.floor : Infinity, deal?.price ?? Infinity)) ranks.eligible++
    if (bid > 0 && saleOf(q, row, bid) !== null) ranks.first++
    else if (bid > row.second && bid <= row.rival) ranks.second++
  }
  const weeks = [0, 1].map((week) =>
    run(
      q,
      matched.filter((row) => Math.floor(row.minute / 10_080) === week).map((row) => ({ row, minute: row.minute })),
      hourOf
    )
  )
  const start = Math.max(q.startHour, q.nowHour)
  const zone = zoneIndex(q.zone)
  const firstDay = localDayOf(zone, start)
  const firstMinute = (start - startOfLocalDay(zone, firstDay)) * 60
  const days = Math.min(28, q.endHour === null ? 28 : localDayOf(zone, q.endHour - 1) - firstDay + 1)
  const lastMinute = q.endHour === null ? Infinity : (q.endHour - startOfLocalDay(zone, firstDay)) * 60
  const entries: { row: PlainRow; minute: number }[] = []
  for (let day = 0; day < days; day++) {
    for (const row of matched) {
      const local = ofWeek(row.minute, own)
      if (Math.floor(row.minute / 10_080) !== Math.floor(day / 7) % 2 || Math.floor(local / 1440) !== weekdayOf(firstDay + day)) continue
      const minute = day * 1440 + (local % 1440)
      if (minute >= firstMinute && minute < lastMinute) entries.push({ row, minute })
    }
  }
  const left = q.targeting.restrictions.map((_, place) => failing.filter((fails) => !fails.some((failed) => failed <= place)).length)
  const lifted = q.targeting.restrictions.map((_, place) => failing.filter((fails) => fails.length === 1 && fails[0] === place).length)
  return { matched: matched.length, fitting: failing.length, ranks, weeks, flight: run(q, entries, hourOf), left, lifted }
}
