import { DEVICE_TYPE, PERSON_WORDS, SOURCES, isBlocked, isBot, postalOf, profileOf, type World } from '../market/index.js'
import { POSTAL_COUNTRY, POSTAL_ZONE } from '../places/index.js'
import type { Shown } from '../response/index.js'
import { HOURS_PER_DAY, MINUTES_PER_DAY, ZONES, offsetMinutes } from '../time/index.js'
import type { LogColumns } from './log.js'
import { benchmarksOf } from './market-facts.js'
import { branchOf } from './running.js'

/** A win, as it is made or as the log has it. */
export interface ShownRow {
  key: number
  line: number
  ad: number
  path: number
  person: number
  device: number
  state: number
  /** Of the market. */
  minute: number
  /** Earlier exposures of the person to the line in 30 days. */
  seen: number
  /** Share of the ad at which it counts as viewed, in thousandths; its end where it is left out. */
  viewPoint?: number
}

/** A win as the log has it. @param minute of the market */
export const loggedRow = (log: LogColumns, i: number, minute: number): ShownRow => ({
  key: log.key[i],
  line: log.line[i],
  ad: log.ad[i],
  path: log.path[i],
  person: log.person[i],
  device: log.device[i],
  state: log.state[i],
  minute,
  seen: log.nth[i] - 1
})

/** Offset of each zone from UTC in a market hour, minutes. */
export function zoneOffsets(hour: number, into = new Int32Array(ZONES.length)): Int32Array {
  for (let zone = 0; zone < into.length; zone++) into[zone] = offsetMinutes(zone, hour)
  return into
}

/** What responses are drawn from. @param offsets of the zones in the hour */
export function shownOf(
  world: World,
  { key, line, ad, path, person, device, state, minute, seen, viewPoint = 1000 }: ShownRow,
  offsets: Int32Array
): Shown {
  const placement = world.inventory.placements[Math.floor(path / SOURCES.length)]
  const postal = postalOf(world.persons.words[person * PERSON_WORDS])
  return {
    key,
    line,
    ad,
    placement,
    branch: branchOf(benchmarksOf(world).groupOf, placement.index),
    television: world.inventory.properties[placement.property].class === 'channel',
    person,
    profile: profileOf(world.persons.words[person * PERSON_WORDS + 1]),
    postal,
    device: DEVICE_TYPE[device],
    country: POSTAL_COUNTRY[postal],
    bot: isBot(state),
    blocked: isBlocked(state) && placement.blocked > 0,
    seen,
    viewPoint,
    hour: Math.floor((((minute + offsets[POSTAL_ZONE[postal]]) % MINUTES_PER_DAY) + MINUTES_PER_DAY) / 60) % HOURS_PER_DAY
  }
}
