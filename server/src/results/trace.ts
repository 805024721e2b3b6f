import type { Sought } from '@tin-harbor/core/exchange'
import type { MainFigures } from '@tin-harbor/core/forecast'
import { lossesOf, matchedOf, stairOf, type StairStep } from '@tin-harbor/core/results'
import { changeWords, namesApart, restrictionWords } from '@tin-harbor/core/buying'
import { dimensionTitle } from '@tin-harbor/core/dimensions'
import type { OpportunityTrace, TraceView } from '@tin-harbor/core/contract'
import { COUNTRIES, POSTAL_COUNTRY } from '@tin-harbor/core/places'
import { BROWSERS, CATEGORIES, CONNECTIONS, DEVICE_TYPES, SHAPES } from '@tin-harbor/core/taxonomy'
import { DEVICE_BROWSER, DEVICE_TYPE, SOURCES, connectionOf, isBot, postalOf, toldCategory } from '@tin-harbor/core/market'
import { STEP_WORDS, bindingSentence } from '@tin-harbor/core/wording'
import { conflict, notReady } from '../http/errors.js'
import { Line, LineRevision } from '../lines/line-model.js'
import { may, personOf, type Actor } from '../security/sessions.js'
import { placementName } from '../market/catalogue.js'
import { findCampaign, listAdvertisers } from '../campaigns/campaigns.js'
import type { Deps } from '../deps.js'
import { findLine } from '../lines/lines.js'
import { offeredTo, publicationOf, readStoredLogs } from '../delivery/log.js'
import { outcomesOf, shortsOf } from '../delivery/outcomes.js'
import { knownOf } from '../exchange/opening.js'
import { publicationRules, readMarket } from '../going-live/publications.js'
import { measureOf, questionOf } from '../forecasts/questions.js'
import { readCampaign, readLine } from '../forecasts/reading.js'

/** The falling stair of a line: what its restrictions leave, counted on the tape; then, exactly, what became of all it matched. */
export async function traceOf(deps: Deps, actor: Actor, lineId: number, from: number | null, to: number | null): Promise<TraceView> {
  const { sequelize, pool, tapes } = deps
  const line = await findLine(lineId)
  const revision = line.revisionId === null ? null : await LineRevision.findByPk(line.revisionId)
  if (!revision) throw conflict('This line was never live: there is nothing to trace yet.')
  const { hour } = await readMarket()
  const until = Math.min(to ?? hour, hour)
  const since = from ?? Math.max(until - 7 * 24, revision.rules.startHour)
  const counts = await outcomesOf(sequelize, lineId, since, until)
  const short = await shortsOf(sequelize, lineId, since, until)
  const { opportunities: offered, hours } = await offeredTo(sequelize, lineId, since, until)
  if (!tapes.current) throw notReady('The recorded days are being read; the trace comes in a moment.')
  const campaign = await findCampaign(line.campaignId)
  const reading = await readLine(sequelize, line, await readCampaign(sequelize, campaign))
  const question = await questionOf(deps, revision.draft, reading)
  const { figures, sieve, advice } = await pool.advice(personOf(actor), question, measureOf(campaign))
  const days = hours / 24
  const { day } = revision.forecast
  return {
    line: lineId,
    from: since,
    to: until,
    offered,
    hours: Number(hours),
    tapeFirstDay: tapes.current.head.firstDay,
    // The tape tells shares; the hours that were run tell how many there were.
    sieve: [
      'in slots that its ads fit',
      // Slots that no ad may be shown in are among what it matched, and counted after it.
      ...sieve.steps
        .filter(({ restriction }) => restriction !== 'ads')
        .map((step) =>
          typeof step.restriction === 'string'
            ? STEP_WORDS[step.restriction]
            : `${dimensionTitle(step.restriction.dimension)}: ${restrictionWords(step.restriction)}`
        )
    ].map((name, n) => ({
      name,
      left: sieve.shares[n].value * offered,
      low: sieve.shares[n].low * offered,
      high: sieve.shares[n].high * offered
    })),
    matched: matchedOf(counts),
    counts,
    short,
    losses: lossesOf(counts),
    binds: bindingSentence(figures),
    advice: advice.map(({ changes, wins, spendMicros, takesMore }) => ({
      words: changeWords(revision.draft, changes),
      wins,
      spendMicros,
      takesMore
    })),
    stair: stairOf(counts).map((step) => ({ ...step, forecast: forecastAt(step, day, days) })),
    forecast: { wins: day.wins.value * days, low: day.wins.low * days, high: day.wins.high * days }
  }
}

/** What the forecast had left at a step of the stair, over so many days; null where it does not tell. */
function forecastAt({ outcomes }: StairStep, day: MainFigures['day'], days: number): number | null {
  if (outcomes.length === 0) return day.matched.value * days
  if (outcomes.includes('below_floor')) return day.eligible.value * days
  if (outcomes.includes('outbid')) return day.matched.value * day.winRate.value * days
  return outcomes.includes('own_line') ? day.wins.value * days : null
}

/** Which opportunity of an hour: its number, or the next after one that became so for a line. */
export type Which = { nth: number } | { line: number; sought: Sought; after: number }

/** One opportunity of an hour that was run, with the verdict of every line in force then that the user may see. */
export async function opportunityAt(
  { sequelize, records, catalogue, hits }: Deps,
  actor: Actor,
  hour: number,
  which: Which
): Promise<OpportunityTrace> {
  const ranUnder = await publicationOf(sequelize, hour)
  if (ranUnder === null) throw conflict('The market has not run that hour.')
  const publication = await publicationRules(ranUnder)
  const { owners = [], lines } = publication
  const advertiserOf = new Map(owners.map((owner) => [owner.line, owner.advertiser]))
  const advertisers = new Set((await listAdvertisers(actor)).map((advertiser) => advertiser.id))
  const seen = lines.filter((line) => advertisers.has(advertiserOf.get(line.line) ?? -1))
  if ('line' in which && !seen.some((line) => line.line === which.line)) throw conflict('That line was not in force in that hour.')
  const [log] = await readStoredLogs(sequelize, hour, hour + 1)
  const { count, found } = await records.ask('opportunity', {
    hour,
    nth: 'nth' in which ? which.nth : which.after,
    seek: 'line' in which ? which : null,
    logs: [log],
    lines: [...lines],
    seen: seen.map(({ line }) => line),
    known: await knownOf(sequelize, seen, publication)
  })
  if (!found)
    throw conflict(
      'line' in which ? 'There are no more of these in that hour.' : `That hour had ${count.toLocaleString('en-GB')} opportunities.`
    )
  const { offered, nth, device, page, state, words, bought, verdicts } = found
  // Who it was is nobody's to know, and a path is a number of ours.
  const { person: _, path, ...told } = offered
  const placement = Math.floor(path / SOURCES.length)
  const { placement: code, property, position } = placementName(catalogue, placement)
  const rows = await Line.findAll({ where: { id: seen.map(({ line }) => line) } })
  const names = namesApart(rows.map(({ id, draft }) => ({ id, name: draft.name })))
  return {
    hour,
    nth,
    count,
    ...told,
    placement: code,
    property,
    position,
    size: SHAPES[catalogue.inventory.placements[placement].shape],
    source: SOURCES[path % SOURCES.length].name,
    device: DEVICE_TYPES[DEVICE_TYPE[device]],
    browser: BROWSERS[DEVICE_BROWSER[device]],
    country: COUNTRIES[POSTAL_COUNTRY[postalOf(words[0])]].name,
    category: CATEGORIES[toldCategory(catalogue.inventory, page)]?.name ?? null,
    connection: CONNECTIONS[connectionOf(state)],
    robot: isBot(state),
    verdicts: verdicts.map(({ failing, ...verdict }) => ({
      ...verdict,
      name: names.get(verdict.line) ?? `L-${verdict.line}`,
      failing: failing.map((restriction) => `${dimensionTitle(restriction.dimension)}: ${restrictionWords(restriction)}`)
    })),
    // What a line that the user does not see paid is not told.
    bought:
      bought &&
      (names.has(bought.line)
        ? {
            priceMicros: bought.priceMicros,
            mediaMicros: bought.mediaMicros,
            nth: bought.nth,
            name: names.get(bought.line) as string,
            click: may(actor, 'live') ? hits.clickOn(hour, bought.place) : null
          }
        : { name: null })
  }
}
