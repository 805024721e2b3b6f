import { valueWords, withAdsInOrder, type FixableFinding, type FixEdit, type LineDraft } from '../buying/index.js'
import { CPM_STEP, type Left } from '../money/index.js'
import { COUNTRIES, placeCountry, placeKind } from '../places/index.js'
import { SOURCES } from '../market/index.js'
import { valuesOf } from '../targeting/index.js'
import { euros, nameSaysMore, plainLine, schemeName } from '../wording/index.js'
import { adSlots, adTerms } from './ads.js'
import { landing } from './landing.js'
import { review } from './review.js'
import type { PreflightContext } from './context.js'
import { Findings, fixed } from './collecting.js'
import { sayValues, without } from './values.js'
import { provenFixes } from './findings.js'
import { coveredPlaces } from './places.js'
import { dimensionTitle } from '../dimensions/index.js'
import { offered } from './offered.js'
import { flight, hours } from './when.js'

/** Limits of which one at least must bound what is spent. */
const BOUNDS_MONEY = ['dailyMicros', 'weeklyMicros', 'monthlyMicros', 'totalMicros'] as const
const SPENT_OF = { dailyMicros: 'day', weeklyMicros: 'week', monthlyMicros: 'month', totalMicros: 'total' } as const
const PERIOD_WORDS = { dailyMicros: 'today', weeklyMicros: 'this week', monthlyMicros: 'this month', totalMicros: 'in all' } as const
/** The checks a line must pass before it goes live, with what one click could do about each. */
export function preflight(line: LineDraft, context: PreflightContext): FixableFinding[] {
  return provenFixes(line, (draft) => {
    const findings = new Findings()
    // The reach of the draft itself is known; that of a draft with a fix would have to be asked for.
    const reach = draft.targeting === line.targeting && draft.format === line.format ? (context.reach ?? null) : null
    for (const check of [places, offered, restrictions, price, budget, flight, hours, adSlots, adTerms, landing, review, besideMates])
      check(draft, { ...context, reach }, findings)
    return findings.found.sort((a, b) => Number(a.severity === 'warns') - Number(b.severity === 'warns'))
  })
}

type Check = (line: LineDraft, context: PreflightContext, findings: Findings) => void

const places: Check = (line, _, { stops, warns }) => {
  const where = valuesOf(line.targeting, 'where')
  if (where.length === 0)
    stops(
      'targeting.where',
      'Choose at least one country or region.',
      fixed('Choose the whole world', { field: 'targeting.where.include', value: COUNTRIES.map(({ code }) => code) })
    )
  const covered = coveredPlaces(where)
  if (covered.length > 0)
    warns(
      'targeting.where',
      `${sayValues(
        'where',
        covered.map(({ value }) => value)
      )} ${covered.length === 1 ? 'adds' : 'add'} nothing: ${valueWords('where', covered[0].by)} is chosen.`,
      fixed('Take what adds nothing out', {
        field: 'targeting.where.include',
        value: without(
          where,
          covered.map(({ value }) => value)
        )
      })
    )
  const countries = [...new Set(where.flatMap((value) => placeCountry(value) ?? []))]
  const chosen = new Set(
    where.filter((value) => placeKind(value) === 'country' || placeKind(value) === 'region').flatMap((value) => placeCountry(value) ?? [])
  )
  const strays = chosen.size === 0 ? [] : where.filter((value) => placeKind(value) === 'postal' && !chosen.has(placeCountry(value) ?? -1))
  if (strays.length > 0)
    warns(
      'targeting.where',
      `${sayValues('where', strays)} ${strays.length === 1 ? 'lies' : 'lie'} in no chosen country.`,
      fixed('Leave these postal codes out', { field: 'targeting.where.include', value: without(where, strays) })
    )
  if (countries.length > 1) warns('targeting.where', 'Several countries on one line cannot be told apart by bid or budget.')
  if (valuesOf(line.targeting, 'device').length !== 1)
    warns('targeting.device', 'Several device classes on one line cannot be told apart by bid or budget.')
}

const restrictions: Check = ({ targeting, name, format }, { reach }, { stops, warns }) => {
  for (const { dimension, values } of targeting.restrictions.filter(({ mode }) => mode === 'include')) {
    const out = new Set(valuesOf(targeting, dimension, 'exclude'))
    const both = values.filter((value) => out.has(value))
    if (both.length > 0)
      stops(
        `targeting.${dimension}`,
        `${sayValues(dimension, both)} ${both.length === 1 ? 'is' : 'are'} both wanted and left out: what is left out wins.`,
        fixed('No longer leave it out', {
          field: `targeting.${dimension}.exclude`,
          value: without(valuesOf(targeting, dimension, 'exclude'), both)
        })
      )
  }
  const fieldOf = (place: number) => targeting.restrictions[place]?.dimension ?? ''
  const named = (place: number) => (targeting.restrictions[place] ? dimensionTitle(targeting.restrictions[place].dimension) : '')
  for (const { first, second, empty } of reach?.conflicts ?? []) {
    const drop = targeting.restrictions[second]
    if (empty && drop)
      stops(
        `targeting.${fieldOf(second)}`,
        `${named(first)} and ${named(second)} never meet: nothing can match both.`,
        fieldOf(second) === 'where'
          ? null
          : fixed(`Lift ${named(second)}`, { field: `targeting.${drop.dimension}.${drop.mode}`, value: [] })
      )
  }
  for (const { place, values } of reach?.unknown ?? []) {
    const { dimension, mode, values: all } = targeting.restrictions[place]
    stops(
      `targeting.${dimension}`,
      `${sayValues(dimension, values)}: no ${dimension} of the market is called that.`,
      values.length === all.length
        ? null
        : fixed('Take what is not there out', { field: `targeting.${dimension}.${mode}`, value: without(all, values) })
    )
  }
  for (const place of reach?.impossible ?? []) stops(`targeting.${fieldOf(place)}`, `Nothing in the market is of that ${named(place)}.`)
  if (reach?.floors === null && reach.conflicts.length === 0 && reach.impossible.length === 0)
    stops('targeting', 'No slot of the market fits this line’s format, ads and inventory together.')
  const more = nameSaysMore({ name, format, targeting })
  if (more.length > 0)
    warns(
      'name',
      `The name says ${more.join(', ')}, which the line does not buy.`,
      fixed(`Call it “${schemeName({ format, targeting })}”`, { field: 'name', value: schemeName({ format, targeting }) })
    )
}

/** A price in whole steps, a twentieth over another. */
const over = (micros: number) => Math.ceil((micros * 1.05) / CPM_STEP) * CPM_STEP
const raised = (line: LineDraft, micros: number): FixEdit[] => [
  ...(line.price.aim ? [] : [{ field: 'price.bidMicros', value: micros }]),
  ...(line.price.maxMicros !== null && line.price.maxMicros < micros ? [{ field: 'price.maxMicros', value: micros }] : [])
]

const leftWords = ({ micros, by }: Left) =>
  by === 'balance' ? `the balance of ${euros(micros)}` : `the ${euros(micros)} that its advertiser may still spend this month`

const price: Check = (line, { trackers = 0, deals = [], reach, left, campaign }, { stops, warns }) => {
  const { bidMicros, maxMicros, aim, model } = line.price
  if (bidMicros === null && !aim) stops('price.bidMicros', 'A bid is needed.')
  if (aim && (aim.event === 'conversion' || aim.event === 'value') && trackers === 0)
    stops('price.aim', 'An aim at conversions needs a tracker of the advertiser.')
  else if (trackers === 0 && (campaign.goal === 'conversions' || campaign.goal === 'revenue'))
    warns('price.bidMicros', `The goal is ${campaign.goal}, and the advertiser has no tracker: nothing will be counted towards it.`)
  const daily = line.budget.dailyMicros
  if (aim?.event === 'conversion' && daily !== null && daily < 2 * aim.micros)
    warns(
      'budget.dailyMicros',
      `A daily budget under twice the ${euros(aim.micros)} aimed at rarely brings a conversion a day to learn from.`,
      fixed(`Make it ${euros(2 * aim.micros)}`, { field: 'budget.dailyMicros', value: 2 * aim.micros })
    )
  const bid = aim ? maxMicros : bidMicros
  if (bid !== null && model !== 'CPM' && left && bid > left.micros)
    stops('price.bidMicros', `The bid is over ${leftWords(left)}: not one could be paid.`)
  const dearest = Math.max(
    ...(line.price.adjustments ?? []).map(({ perMille, ownMicros }) => ownMicros ?? ((bid ?? 0) * (perMille ?? 1000)) / 1000),
    bid ?? 0
  )
  const top = model === 'CPM' && bid !== null ? Math.min(dearest, maxMicros ?? Infinity) : null
  const open = line.buys?.open ?? true
  const mine = deals.filter(({ id }) => line.buys?.deals.includes(id))
  if (top !== null && open && reach?.floors && top < reach.floors.least)
    stops(
      aim ? 'price.maxMicros' : 'price.bidMicros',
      `${euros(top)} is under every floor of what could match; the lowest is ${euros(reach.floors.least)}.`,
      fixed(
        `Bid the dearest floor + 5 %, ${euros(over(reach.floors.most))}`,
        ...raised(line, over(reach.floors.most)),
        ...(aim ? [{ field: 'price.maxMicros', value: over(reach.floors.most) }] : [])
      )
    )
  for (const deal of mine) {
    if (deal.isExpired)
      stops(
        'buys',
        `The deal "${deal.name}" has ended.`,
        fixed('Buy without it', {
          field: 'buys',
          value:
            open && mine.length === 1
              ? undefined
              : { open: open || mine.length === 1, deals: line.buys?.deals.filter((id) => id !== deal.id) ?? [] }
        })
      )
    else if (top !== null && top < deal.priceMicros)
      warns(
        'price.bidMicros',
        `The deal "${deal.name}" asks for ${euros(deal.priceMicros)}, more than this line bids.`,
        fixed(`Bid ${euros(over(deal.priceMicros))}`, ...raised(line, over(deal.priceMicros)))
      )
    if (deal.leastSpendMicros !== null && daily !== null && daily < deal.leastSpendMicros)
      warns(
        'budget.dailyMicros',
        `The deal "${deal.name}" asks for at least ${euros(deal.leastSpendMicros)} a day.`,
        fixed(`Spend up to ${euros(deal.leastSpendMicros)}`, { field: 'budget.dailyMicros', value: deal.leastSpendMicros })
      )
  }
  const wanted = new Set(valuesOf(line.targeting, 'source'))
  const asks = SOURCES.filter((source) => wanted.has(source.name) && daily !== null && source.leastSpend > daily)
  if (asks.length > 0)
    warns(
      'budget.dailyMicros',
      `${asks.map(({ name, leastSpend }) => `${name} asks for at least ${euros(leastSpend)} a day`).join(', ')}.`,
      fixed(`Spend up to ${euros(Math.max(...asks.map(({ leastSpend }) => leastSpend)))}`, {
        field: 'budget.dailyMicros',
        value: Math.max(...asks.map(({ leastSpend }) => leastSpend))
      })
    )
}

const budget: Check = (line, { campaign, spent, left }, { stops, warns }) => {
  if (!BOUNDS_MONEY.some((name) => line.budget[name] != null || campaign.budget[name] != null))
    stops('budget.dailyMicros', 'Neither the line nor its campaign has a budget.')
  if (line.flight.endDate === null && line.budget.totalMicros !== null && line.budget.dailyMicros === null)
    warns('budget.dailyMicros', 'An open flight has no days to spread the total over: it may all be spent at once.')
  if (line.caps.length === 0)
    warns(
      'caps',
      'Without a cap one person may see it any number of times.',
      fixed('Cap at 3 a day', { field: 'caps', value: [{ times: 3, hours: 24 }] })
    )
  for (const name of spent ? BOUNDS_MONEY : []) {
    const limit = line.budget[name]
    const was = spent?.[SPENT_OF[name]] ?? 0
    if (limit != null && was > 0 && limit < was)
      warns(
        `budget.${name}`,
        `${euros(was)} was spent ${PERIOD_WORDS[name]}, more than ${euros(limit)}: nothing more would be bought${name === 'totalMicros' ? '' : ` ${PERIOD_WORDS[name]}`}.`
      )
  }
  if (left && line.budget.dailyMicros !== null && line.budget.dailyMicros > left.micros)
    warns('budget.dailyMicros', `A day of it is more than ${leftWords(left)}.`)
}

const unnamed = (line: LineDraft) => JSON.stringify({ ...plainLine(withAdsInOrder(line)), name: '' })

/** Lines that this one would get in the way of, and the one it was made from. */
const besideMates: Check = (line, { mates = [], original }, { warns }) => {
  const meets = mates.filter(
    ({ draft }) =>
      draft.format === line.format &&
      line.targeting.restrictions.every(({ dimension, mode, values, group }) => {
        const theirs = draft.targeting.restrictions.find((other) => other.dimension === dimension && other.mode === mode)
        if (!theirs || mode === 'exclude' || group || theirs.group) return true
        const said = (all: readonly string[]) =>
          new Set(dimension === 'where' ? all.map((value) => COUNTRIES[placeCountry(value) ?? -1]?.code ?? value) : all)
        const wanted = said(values)
        return [...said(theirs.values)].some((value) => wanted.has(value))
      })
  )
  if (meets.length > 0)
    warns(
      'targeting',
      `${meets.map(({ name }) => `“${name}”`).join(' and ')} of this campaign ${meets.length === 1 ? 'looks' : 'look'} for the same people: the dearer bid takes what both match.`
    )
  if (original && unnamed(line) === unnamed(original.draft))
    warns('name', `It differs from “${original.name}”, of which it is a copy, by name only.`)
}
