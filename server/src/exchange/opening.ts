import type { Sequelize } from 'sequelize'
import { learnedEvent, type LineRules, type PublicationRules } from '@tin-harbor/core/exchange'
import { zoneIndex } from '@tin-harbor/core/time'
import { factsOf, recentOf } from '../delivery/line-facts.js'
import { lineStates } from '../delivery/line-states.js'
import { readStoredLogs } from '../delivery/log.js'
import { spentSoFar } from '../delivery/spent.js'
import type { StoredKnowledge } from '../delivery/stored.js'
import { enteredBefore } from '../hits/entering.js'
import type { StoredOpening } from './messages.js'

/** Hours of the log that caps may look back on. */
const LOOK_BACK_HOURS = 30 * 24

/** What lines that learn know now. */
export async function knownOf(
  sequelize: Sequelize,
  lines: readonly LineRules[],
  { owners = [], trackers = [] }: PublicationRules
): Promise<StoredKnowledge[]> {
  const states = await lineStates(sequelize)
  const advertiserOf = new Map(owners.map(({ line, advertiser }) => [line, advertiser]))
  const known: StoredKnowledge[] = []
  for (const line of lines)
    if (learnedEvent(line) !== null)
      known.push([
        line.line,
        {
          facts: await factsOf(sequelize, line.line, zoneIndex(line.zone)),
          // None is known of a line whose first hour is still to come.
          correction: states.get(line.line)?.correction || (line.firstCorrection ?? 1000),
          trackers: trackers.filter(({ advertiser }) => advertiser === advertiserOf.get(line.line))
        }
      ])
  return known
}

/** Whether the next hour of a line depends on what its results were by part. */
const learns = (line: LineRules) => learnedEvent(line) !== null || line.rotation === 'learning'

/** The state at an hour's start, from stored facts alone: the log of the last 30 days and a small row a line. */
export async function loadOpening(sequelize: Sequelize, rules: PublicationRules, hour: number): Promise<StoredOpening> {
  const states = await lineStates(sequelize)
  const lines: StoredOpening['lines'] = []
  for (const line of rules.lines)
    lines.push([
      line.line,
      {
        ...(states.get(line.line) ?? { supply: { micros: 0, shown: 0 }, correction: 0, soFar: undefined }),
        spent: await spentSoFar(sequelize, { line: line.line }, line.zone, hour),
        facts: learns(line) ? await factsOf(sequelize, line.line, zoneIndex(line.zone)) : null,
        recent: line.aim ? await recentOf(sequelize, line.line, line.aim, hour) : []
      }
    ])
  const campaigns: StoredOpening['campaigns'] = []
  for (const { campaign, zone } of rules.campaigns) campaigns.push([campaign, await spentSoFar(sequelize, { campaign }, zone, hour)])
  return {
    hour,
    lines,
    campaigns,
    logs: await readStoredLogs(sequelize, hour - LOOK_BACK_HOURS, hour),
    told: await enteredBefore(hour)
  }
}
