import {
  EVENT_LAYOUT,
  PERIODS,
  eventsOf,
  noFacts,
  openLog,
  openRows,
  readLogs,
  takeHour,
  takePlacement,
  type HourFacts,
  type LineFacts,
  type OpeningState,
  type PublicationRules,
  type SpentSoFar
} from '../../src/exchange/index.js'
import type { World } from '../../src/market/index.js'
import { dateOfDay, dayOfDate, localDayOf, localHourOf, startOfLocalDay, weekdayOf, zoneIndex } from '../../src/time/index.js'

/** What was spent and shown in the periods that an hour stands in, of some hours' totals. */
function spentAt(hours: readonly HourFacts[], hour: number, zone: string, isOwn: (line: number) => boolean): SpentSoFar {
  const index = zoneIndex(zone)
  const day = localDayOf(index, hour)
  const since = {
    day: startOfLocalDay(index, day),
    week: startOfLocalDay(index, day - weekdayOf(day)),
    month: startOfLocalDay(index, dayOfDate(`${dateOfDay(day).slice(0, 8)}01`)),
    total: -Infinity
  }
  return Object.fromEntries(
    PERIODS.map((period) => {
      const totals = hours
        .filter((facts) => facts.hour >= since[period])
        .flatMap((facts) => facts.hourTotals.filter((total) => isOwn(total.line)))
      return [
        period,
        {
          micros: totals.reduce((sum, total) => sum + total.spendMicros, 0),
          impressions: totals.reduce((sum, total) => sum + total.wins, 0)
        }
      ]
    })
  ) as unknown as SpentSoFar
}

function factsOf(hours: readonly HourFacts[], line: number, zone: string): LineFacts {
  const facts = noFacts()
  for (const hour of hours) {
    const local = localHourOf(zoneIndex(zone), hour.hour)
    for (const total of hour.hourTotals) if (total.line === line) takeHour(facts, total, local, localDayOf(zoneIndex(zone), hour.hour))
    for (const total of hour.placementTotals) if (total.line === line) takePlacement(facts, total)
  }
  return facts
}

/** The state that stored facts give at the hour after them, as the server reads it. */
export function reopen(world: World, publication: PublicationRules, hours: readonly HourFacts[], balance: number): OpeningState {
  const last = hours[hours.length - 1]
  const hour = last.hour + 1
  const fromLog = readLogs(
    world,
    publication,
    hour,
    hours.map((facts) => ({ hour: facts.hour, log: openLog(facts.log, facts.wins, facts.crc) }))
  )
  const states = new Map(last.lineStates.map((state) => [state.line, state]))
  return {
    hour,
    ...fromLog,
    balanceMicros: balance - hours.reduce((sum, facts) => sum + facts.spendMicros, 0),
    lines: new Map(
      publication.lines.map(({ line, zone, aim }) => [
        line,
        {
          spent: spentAt(hours, hour, zone, (other) => other === line),
          supply: states.get(line)?.supply,
          correction: states.get(line)?.correction,
          soFar: states.get(line)?.soFar,
          facts: factsOf(hours, line, zone),
          recent: hours.slice(-24).map((facts) => {
            const own = facts.hourTotals.filter((total) => total.line === line)
            return {
              spend: own.reduce((sum, total) => sum + total.spendMicros, 0),
              predicted: own.reduce((sum, total) => sum + total.predicted, 0),
              events: own.reduce((sum, total) => sum + (aim ? eventsOf(total, aim.event) : 0), 0)
            }
          })
        }
      ])
    ),
    campaigns: new Map(
      publication.campaigns.map(({ campaign, zone }) => {
        const own = new Set(publication.lines.filter((line) => line.campaign === campaign).map((line) => line.line))
        return [campaign, spentAt(hours, hour, zone, (line) => own.has(line))]
      })
    )
  }
}

/** Conversions of hours, in order. */
export function eventsIn(hours: readonly HourFacts[]) {
  return hours.flatMap((facts) => {
    const events = openRows(EVENT_LAYOUT, facts.events, facts.eventCount, facts.eventsCrc)
    return Array.from({ length: events.count }, (_, i) => ({
      landed: facts.hour * 60 + events.minute[i],
      line: events.line[i],
      ad: events.ad[i],
      tracker: events.tracker[i],
      hour: events.hour[i],
      index: events.index[i],
      value: events.value[i],
      by: events.by[i]
    }))
  })
}
