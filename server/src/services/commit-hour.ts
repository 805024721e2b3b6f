import { QueryTypes, type Sequelize, type Transaction } from 'sequelize'
import { OUTCOMES, type HourFacts, type PublicationRules } from '@tin-harbor/core/exchange'
import { localDayOf, zoneIndex } from '@tin-harbor/core/time'
import { insertBatch } from '../database/connection.js'
import { TALLY_ADDED, TALLY_COLUMNS, TALLY_MARKS, tallyValues } from './tallies.js'

/** The clock or the publication moved while the hour was run; nothing of it was kept. */
export class HourOvertakenError extends Error {}

/** Spend of the hour by advertiser. */
async function spendByAdvertiser(
  sequelize: Sequelize,
  facts: HourFacts,
  transaction: Transaction
): Promise<{ advertiser: number; organisation: number; micros: number }[]> {
  if (facts.hourTotals.length === 0) return []
  const owners = await sequelize.query<{ line: number; advertiser: number; organisation: number }>(
    `SELECT l.id AS line, a.id AS advertiser, a.organisation_id AS organisation FROM line l JOIN campaign c ON c.id = l.campaign_id JOIN advertiser a ON a.id = c.advertiser_id WHERE l.id IN (?)`,
    { type: QueryTypes.SELECT, replacements: [[...new Set(facts.hourTotals.map((total) => total.line))]], transaction }
  )
  const ownerOf = new Map(owners.map((owner) => [owner.line, owner]))
  const sums = new Map<number, { advertiser: number; organisation: number; micros: number }>()
  for (const { line, spendMicros } of facts.hourTotals) {
    const owner = ownerOf.get(line)
    if (!owner) throw new Error(`Line ${line} spent money but has no advertiser.`)
    const sum = sums.get(owner.advertiser) ?? { advertiser: owner.advertiser, organisation: owner.organisation, micros: 0 }
    sum.micros += spendMicros
    sums.set(owner.advertiser, sum)
  }
  return [...sums.values()].sort((a, b) => a.advertiser - b.advertiser)
}

/** What `delivery_hour` holds: logs of other formats are refused. */
export const LOG_FORMAT = 2

/** The two roll-ups of an hour. Days are of each line's own calendar. */
export async function writeRollups(
  { lines, owners = [] }: PublicationRules,
  { hour, hourTotals, placementTotals }: Pick<HourFacts, 'hour' | 'hourTotals' | 'placementTotals'>,
  transaction: Transaction
): Promise<void> {
  await insertBatch(
    transaction,
    `INSERT INTO line_hour (line_id, hour, ad_id, device, ${TALLY_COLUMNS}) VALUES (?, ?, ?, ?, ${TALLY_MARKS})`,
    hourTotals.map((t) => [t.line, hour, t.ad, t.device, ...tallyValues(t)])
  )
  // Of a line that is no longer in force what comes later lands on its days too.
  const zoneOf = new Map([...owners, ...lines].map((line) => [line.line, zoneIndex(line.zone)]))
  await insertBatch(
    transaction,
    `INSERT INTO line_day (line_id, day, placement, ad_id, ${TALLY_COLUMNS}) VALUES (?, ?, ?, ?, ${TALLY_MARKS}) ON DUPLICATE KEY UPDATE ${TALLY_ADDED}`,
    placementTotals.map((t) => [t.line, localDayOf(zoneOf.get(t.line) ?? 0, hour), t.placement, t.ad, ...tallyValues(t)])
  )
}

async function writeFacts(sequelize: Sequelize, rules: PublicationRules, facts: HourFacts, transaction: Transaction): Promise<void> {
  const { hour } = facts
  await insertBatch(
    transaction,
    'INSERT INTO delivery_hour (hour, publication_id, opportunities, n, crc32, data, format, event_n, event_crc32, events) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)',
    [
      [
        hour,
        facts.publication,
        facts.opportunities,
        facts.wins,
        facts.crc,
        Buffer.from(facts.log),
        LOG_FORMAT,
        facts.eventCount,
        facts.eventsCrc,
        Buffer.from(facts.events)
      ]
    ]
  )
  await writeRollups(rules, facts, transaction)
  await insertBatch(
    transaction,
    'INSERT INTO outcome_hour (line_id, hour, outcome, n) VALUES (?, ?, ?, ?)',
    facts.outcomes.flatMap(({ line, counts }) => counts.flatMap((n, o) => (n > 0 ? [[line, hour, OUTCOMES[o], n]] : [])))
  )
  await insertBatch(
    transaction,
    'INSERT INTO short_hour (line_id, hour, bin, n) VALUES (?, ?, ?, ?)',
    facts.shorts.flatMap(({ line, counts }) => counts.flatMap((n, bin) => (n > 0 ? [[line, hour, bin, n]] : [])))
  )
  await insertBatch(
    transaction,
    `INSERT INTO line_state (line_id, supply_micros, supply_shown, correction, so_far) VALUES (?, ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE supply_micros = VALUES(supply_micros), supply_shown = VALUES(supply_shown), correction = VALUES(correction),
       so_far = VALUES(so_far)`,
    facts.lineStates.map(({ line, supply, correction, soFar }) => [line, supply.micros, supply.shown, correction, JSON.stringify(soFar)])
  )
  const spends = await spendByAdvertiser(sequelize, facts, transaction)
  await insertBatch(
    transaction,
    "INSERT INTO ledger_entry (organisation_id, kind, hour, advertiser_id, amount_micros, note) VALUES (?, 'spend', ?, ?, ?, '')",
    spends.filter(({ micros }) => micros > 0).map(({ organisation, advertiser, micros }) => [organisation, hour, advertiser, -micros])
  )
}

/** Lines whose flight begins or is over at the hour that comes next. */
async function moveStates(sequelize: Sequelize, hour: number, transaction: Transaction): Promise<void> {
  await sequelize.query("UPDATE line SET state = 'live' WHERE state = 'cleared' AND released AND start_hour <= ?", {
    replacements: [hour],
    transaction
  })
  await sequelize.query(
    "UPDATE line SET state_before_end = state, state = 'ended' WHERE state IN ('live', 'paused', 'cleared') AND end_hour IS NOT NULL AND end_hour <= ?",
    { replacements: [hour], transaction }
  )
}

/**
 * Keeps one market hour, all of it or nothing, and moves the clock. With the last hour of a run its goal is cleared,
 * so that no kill can leave a run that is over and still wanted.
 * @throws HourOvertakenError when clock or publication are no longer those the hour was run under
 */
export async function commitHour(sequelize: Sequelize, rules: PublicationRules, facts: HourFacts): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const [, moved] = await sequelize.query(
      'UPDATE market_state SET hour = ?, target_hour = IF(target_hour <= ?, NULL, target_hour) WHERE id = 1 AND hour = ? AND publication_id = ?',
      { replacements: [facts.hour + 1, facts.hour + 1, facts.hour, rules.publication], type: QueryTypes.UPDATE, transaction }
    )
    if (moved !== 1) throw new HourOvertakenError(`Hour ${facts.hour} was overtaken.`)
    await writeFacts(sequelize, rules, facts, transaction)
    await moveStates(sequelize, facts.hour + 1, transaction)
  })
}
