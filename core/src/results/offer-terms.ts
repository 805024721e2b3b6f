import type { Offer } from '../buying/index.js'
import type { Seen } from '../dimensions/index.js'
import { DEVICE_TYPE, connectionOf, deviceModel, postalOf } from '../market/index.js'
import { COUNTRIES, POSTAL_COUNTRY } from '../places/index.js'
import { CONNECTIONS, DEVICE_TYPES, SYSTEMS } from '../taxonomy/index.js'
import { HOURS_PER_DAY, localDayOf, localHourOf, weekdayOf } from '../time/index.js'

type Terms = Offer['terms']
/** What an advertiser may not pay for. */
export const TERM_NAMES = ['country', 'device', 'system', 'connection', 'hour'] as const
export type TermName = (typeof TERM_NAMES)[number]

/** Whether terms leave anything out. */
export const areOpen = ({ countries, devices, systems, connections, hours }: Terms): boolean =>
  countries.length + devices.length + systems.length + connections.length === 0 && (hours === null || hours.every((one) => one === 1))

/**
 * Tells of an impression which term of an offer it is outside of, the first in the order of `TERM_NAMES`; null where it is paid for.
 * @param zone of the advertiser: its hours are of its week
 */
export function termOf(terms: Terms, zone: number): (seen: Seen) => TermName | null {
  const { countries, devices, systems, connections, hours } = terms
  const leavesOut = (values: readonly string[], value: string) => values.length > 0 && !values.includes(value)
  return (seen) => {
    if (leavesOut(countries, COUNTRIES[POSTAL_COUNTRY[postalOf(seen.word0)]].code)) return 'country'
    if (leavesOut(devices, DEVICE_TYPES[DEVICE_TYPE[seen.device]])) return 'device'
    if (leavesOut(systems, SYSTEMS[deviceModel(seen.device).system])) return 'system'
    if (leavesOut(connections, CONNECTIONS[connectionOf(seen.state)])) return 'connection'
    const weekHour = weekdayOf(localDayOf(zone, seen.hour)) * HOURS_PER_DAY + localHourOf(zone, seen.hour)
    return hours?.[weekHour] === 0 ? 'hour' : null
  }
}
