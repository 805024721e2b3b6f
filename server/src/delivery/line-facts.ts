import type { Sequelize } from 'sequelize'
import {
  TALLIED,
  addTally,
  emptyTally,
  type Aim,
  type LearnedEvent,
  type Recent,
  type Tallied,
  type Tally
} from '@tin-harbor/core/exchange'
import { localDayOf, localHourOf } from '@tin-harbor/core/time'
import { sumsBy } from './roll-ups.js'
import type { StoredFacts } from './stored.js'

/** What of the roll-ups counts what a line learns of. */
export const TALLIED_EVENT = {
  view: 'views',
  click: 'visits',
  stay: 'stays',
  page: 'pages',
  person: 'firsts',
  conversion: 'conversions',
  value: 'conversions'
} as const satisfies Record<LearnedEvent, Tallied>

/** Hours that an aim's correction looks back on. */
const RECENT_HOURS = 24

/**
 * All that a line's results say by hour of its day and by day; and by ad, placement and device.
 * @param parts whether the last three are wanted: nobody tells them apart where no bid follows a rate
 */
export async function factsOf(sequelize: Sequelize, line: number, zone: number, parts = true): Promise<StoredFacts> {
  const by = (what: Parameters<typeof sumsBy>[1]) => sumsBy(sequelize, what, TALLIED, { lines: [line] })
  const byHour = new Map<number, Tally>()
  const byDay = new Map<number, Tally>()
  const into = (map: Map<number, Tally>, key: number, tally: Tally) => {
    const known = map.get(key) ?? emptyTally()
    addTally(known, tally)
    map.set(key, known)
  }
  const total = emptyTally()
  for (const { by: hour, ...tally } of await by('hour')) {
    into(byHour, localHourOf(zone, hour), tally)
    into(byDay, localDayOf(zone, hour), tally)
    addTally(total, tally)
  }
  const apart = async (what: 'ad' | 'device' | 'placement'): Promise<[number, Tally][]> =>
    parts ? (await by(what)).map(({ by: key, ...tally }) => [key, tally]) : []
  return {
    total,
    byHour: [...byHour],
    byDay: [...byDay],
    byAd: await apart('ad'),
    byDevice: await apart('device'),
    byPlacement: await apart('placement')
  }
}

/** What a line with an aim paid and got in the last hours, oldest first. */
export async function recentOf(sequelize: Sequelize, line: number, { event }: Aim, hour: number): Promise<Recent[]> {
  const counted = TALLIED_EVENT[event]
  const rows = await sumsBy(
    sequelize,
    'hour',
    ['spendMicros', 'predicted', counted],
    { lines: [line] },
    { from: hour - RECENT_HOURS, to: hour }
  )
  const byHour = new Map(rows.map((row) => [row.by, { spend: row.spendMicros, predicted: row.predicted, events: row[counted] }]))
  return Array.from({ length: RECENT_HOURS }, (_, n) => byHour.get(hour - RECENT_HOURS + n) ?? { spend: 0, predicted: 0, events: 0 })
}
