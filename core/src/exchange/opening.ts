import { SOURCES, type World } from '../market/index.js'
import { limitsPlaces, notePlace } from './allocation.js'
import { localDayOf, zoneIndex } from '../time/index.js'
import { DID } from '../response/index.js'
import { Conversions, responsesOf, type Pending } from './conversions.js'
import { EXPOSED, ExposureBook } from './exposures.js'
import type { LogColumns } from './log.js'
import type { PublicationRules } from './rules.js'
import { loggedRow, shownOf, zoneOffsets } from './shown.js'

/**
 * What the log of the last 30 days says of an hour's start: who saw what, what was spent on which placement today, and
 * what is still to come.
 */
export interface FromLog {
  exposures: ExposureBook
  pending: Pending[]
  onPlacement: Map<number, Map<number, number>>
}

/**
 * Reads hours of the log in order.
 * @param hour the market hour to begin
 */
export function readLogs(
  world: World,
  publication: PublicationRules,
  hour: number,
  logs: Iterable<{ hour: number; log: LogColumns }>
): FromLog {
  const exposures = new ExposureBook()
  const conversions = new Conversions(world, responsesOf(world, publication), publication, [])
  const found: FromLog = { exposures, pending: [], onPlacement: new Map() }
  const byLine = new Map(publication.lines.map((line) => [line.line, line]))
  const campaigns = new Map(publication.campaigns.map((campaign) => [campaign.campaign, campaign]))
  const campaignOf = new Map((publication.owners ?? []).map((owner) => [owner.line, owner.campaign]))
  for (const line of publication.lines) campaignOf.set(line.line, line.campaign)
  const ownCaps = new Map<number, Set<number>>()
  for (const { line, ads } of publication.lines) {
    const capped = ads.filter((ad) => (ad.caps?.length ?? 0) > 0)
    if (capped.length > 0) ownCaps.set(line, new Set(capped.map((ad) => ad.ad)))
  }
  for (const { hour: logHour, log } of logs) {
    const offsets = zoneOffsets(logHour)
    for (let i = 0; i < log.count; i++) {
      const line = log.line[i]
      const person = log.person[i]
      const minute = logHour * 60 + log.minute[i]
      const did = log.did[i]
      exposures.add(EXPOSED.line(line), person, minute, { index: i, did, ad: log.ad[i], path: log.path[i], device: log.device[i] })
      const own = ownCaps.get(line)
      if (own && !own.has(log.ad[i])) exposures.add(EXPOSED.lineCapped(line), person, minute)
      if (own?.has(log.ad[i])) exposures.add(EXPOSED.ad(log.ad[i]), person, minute)
      const campaign = campaignOf.get(line)
      if (campaign !== undefined && (campaigns.get(campaign)?.caps?.length ?? 0) > 0)
        exposures.add(EXPOSED.campaign(campaign), person, minute)
      if ((did & (DID.viewable | DID.visited)) !== 0) {
        for (const pending of conversions.drawn(shownOf(world, loggedRow(log, i, minute), offsets), did, person, minute))
          if (pending.minute >= hour * 60) found.pending.push(pending)
      }
      const rules = byLine.get(line)
      if (rules && limitsPlaces(rules.limits) && localDayOf(zoneIndex(rules.zone), logHour) === localDayOf(zoneIndex(rules.zone), hour))
        notePlace(
          ownOf(found.onPlacement, line),
          rules.limits,
          { placement: Math.floor(log.path[i] / SOURCES.length), source: log.path[i] % SOURCES.length },
          log.media[i] + log.data[i]
        )
    }
  }
  return found
}

function ownOf(all: FromLog['onPlacement'], line: number): Map<number, number> {
  let own = all.get(line)
  if (!own) all.set(line, (own = new Map()))
  return own
}
