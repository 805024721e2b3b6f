import { flagsOf, type LogColumns } from './log.js'

/** Totals of one hour by line, ad and device: a row of `line_hour`. */
export interface HourTotal {
  line: number
  ad: number
  device: number
  wins: number
  viewable: number
  clicks: number
  spendMicros: number
}

/** Totals by line, placement and ad, to be added to a row of `line_day`. */
export interface PlacementTotal {
  line: number
  placement: number
  ad: number
  wins: number
  viewable: number
  clicks: number
  spendMicros: number
}

function collect<T extends { wins: number; viewable: number; clicks: number; spendMicros: number }>(log: LogColumns, key: (i: number) => string, make: (i: number) => T): T[] {
  const totals = new Map<string, T>()
  for (let i = 0; i < log.count; i++) {
    const name = key(i)
    let total = totals.get(name)
    if (!total) totals.set(name, (total = make(i)))
    const flags = flagsOf(log.flags[i])
    total.wins++
    total.viewable += flags.viewable ? 1 : 0
    total.clicks += flags.clicked ? 1 : 0
    total.spendMicros += log.price[i]
  }
  return [...totals.values()]
}

const NONE = { wins: 0, viewable: 0, clicks: 0, spendMicros: 0 }

/** The hour's totals, made from the log alone. */
export function rollUpHour(log: LogColumns): HourTotal[] {
  return collect(log, (i) => `${log.line[i]}.${log.ad[i]}.${log.device[i]}`, (i) => ({ line: log.line[i], ad: log.ad[i], device: log.device[i], ...NONE }))
}

/** The hour's totals by placement, made from the log alone. */
export function rollUpPlacements(log: LogColumns): PlacementTotal[] {
  return collect(log, (i) => `${log.line[i]}.${log.placement[i]}.${log.ad[i]}`, (i) => ({ line: log.line[i], placement: log.placement[i], ad: log.ad[i], ...NONE }))
}
