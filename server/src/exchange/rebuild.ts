import type { Sequelize, Transaction } from 'sequelize'
import { benchmarksOf, openEvents, openLog, rollUp, viewPointsOf, type ViewPoints } from '@tin-harbor/core/exchange'
import type { World } from '@tin-harbor/core/market'
import { clearRollups, writeRollups } from '../delivery/roll-ups.js'
import { lockMarket, publicationRules, rulesInForce } from '../going-live/publications.js'
import { hoursRun, readStoredLogs } from '../delivery/log.js'

/** Hours read at a time. */
const STRIDE = 48

/**
 * Sums every hour of the delivery log anew, one after the other.
 * @returns hours read
 * @throws naming an hour whose checksum fails
 */
export async function sumLogAnew(
  sequelize: Sequelize,
  world: World,
  transaction: Transaction,
  take: (hour: { hour: number } & ReturnType<typeof rollUp>) => Promise<void>,
  onHour: (share: number) => void = () => undefined
): Promise<number> {
  const ran = await hoursRun(sequelize, transaction)
  if (!ran) return 0
  const { first, last } = ran
  let read = 0
  // Lines are as they were in force in each hour.
  let known = -1
  let viewPoints: ViewPoints = new Map()
  for (let from = first; from <= last; from += STRIDE) {
    for (const { hour, n, crc, data, eventCount, eventCrc, events, publication } of await readStoredLogs(
      sequelize,
      from,
      Math.min(last + 1, from + STRIDE)
    )) {
      if (publication !== known) {
        viewPoints = viewPointsOf((await rulesInForce(publication)).lines)
        known = publication
      }
      const totals = rollUpOf(hour, () =>
        rollUp(openLog(data, n, crc), openEvents(events, eventCount, eventCrc), world.persons.words, benchmarksOf(world), viewPoints)
      )
      await take({ hour, ...totals })
      read++
    }
    onHour(Math.min(1, (from + STRIDE - first) / (last - first + 1)))
  }
  return read
}

/**
 * Makes both roll-ups anew from the delivery log, in one transaction: until it ends the old ones are read. An hour whose
 * checksum fails is named and nothing is changed.
 * @returns hours read
 */
export async function rebuildRollups(
  sequelize: Sequelize,
  world: World,
  onHour: (share: number) => void = () => undefined
): Promise<number> {
  return sequelize.transaction(async (transaction) => {
    const state = await lockMarket(transaction)
    const rules = await publicationRules(state.publicationId)
    await clearRollups(sequelize, transaction)
    return sumLogAnew(sequelize, world, transaction, (totals) => writeRollups(rules, totals, transaction), onHour)
  })
}

function rollUpOf<T>(hour: number, make: () => T): T {
  try {
    return make()
  } catch (error) {
    throw new Error(`Hour ${hour} of the delivery log is damaged: ${(error as Error).message}`, { cause: error })
  }
}
