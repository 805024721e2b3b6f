import { QueryTypes, type Sequelize, type Transaction } from 'sequelize'
import { OUTCOMES, type HourFacts, type PublicationRules } from '@tin-harbor/core/exchange'
import { localDayOf, zoneIndex } from '@tin-harbor/core/time'
import { insertBatch } from '../database/connection.js'

/** The clock or the publication moved while the hour was run; nothing of it was kept. */
export class HourOvertakenError extends Error {}

/** Spend of the hour by advertiser. */
async function spendByAdvertiser(sequelize: Sequelize, facts: HourFacts, transaction: Transaction): Promise<{ advertiser: number; organisation: number; micros: number }[]> {
  if (facts.hourTotals.length === 0) return []
  const owners = await sequelize.query<{ line: number; advertiser: number; organisation: number }>(
    `SELECT l.id AS line, a.id AS advertiser, a.organisation_id AS organisation FROM line l JOIN campaign c ON c.id = l.campaign_id JOIN advertiser a ON a.id = c.advertiser_id WHERE l.id IN (?)`,
    { type: QueryTypes.SELECT, replacements: [[...new Set(facts.hourTotals.map((total) => total.line))]], transaction })
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

async function writeFacts(sequelize: Sequelize, rules: PublicationRules, facts: HourFacts, transaction: Transaction): Promise<void> {
  const { hour } = facts
  await insertBatch(transaction, 'INSERT INTO delivery_hour (hour, publication_id, opportunities, n, crc32, data) VALUES (?, ?, ?, ?, ?, ?)',
    [[hour, facts.publication, facts.opportunities, facts.wins, facts.crc, Buffer.from(facts.log)]])
  await insertBatch(transaction, 'INSERT INTO line_hour (line_id, hour, ad_id, device, wins, viewable, clicks, spend_micros) VALUES (?, ?, ?, ?, ?, ?, ?, ?)',
    facts.hourTotals.map((t) => [t.line, hour, t.ad, t.device, t.wins, t.viewable, t.clicks, t.spendMicros]))
  const zoneOf = new Map(rules.lines.map((line) => [line.line, zoneIndex(line.zone)]))
  await insertBatch(transaction,
    `INSERT INTO line_day (line_id, day, placement, ad_id, wins, viewable, clicks, spend_micros) VALUES (?, ?, ?, ?, ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE wins = wins + VALUES(wins), viewable = viewable + VALUES(viewable), clicks = clicks + VALUES(clicks), spend_micros = spend_micros + VALUES(spend_micros)`,
    facts.placementTotals.map((t) => [t.line, localDayOf(zoneOf.get(t.line) ?? 0, hour), t.placement, t.ad, t.wins, t.viewable, t.clicks, t.spendMicros]))
  await insertBatch(transaction, 'INSERT INTO outcome_hour (line_id, hour, outcome, n) VALUES (?, ?, ?, ?)',
    facts.outcomes.flatMap(({ line, counts }) => counts.flatMap((n, o) => (n > 0 ? [[line, hour, OUTCOMES[o], n]] : []))))
  await insertBatch(transaction, 'INSERT INTO line_state (line_id, supply_micros) VALUES (?, ?) ON DUPLICATE KEY UPDATE supply_micros = VALUES(supply_micros)',
    facts.supplies.map(({ line, supply }) => [line, supply]))
  const spends = await spendByAdvertiser(sequelize, facts, transaction)
  await insertBatch(transaction, "INSERT INTO ledger_entry (organisation_id, kind, hour, advertiser_id, amount_micros, note) VALUES (?, 'spend', ?, ?, ?, '')",
    spends.map(({ organisation, advertiser, micros }) => [organisation, hour, advertiser, -micros]))
}

/** Lines whose flight begins or is over at the hour that comes next. */
async function moveStates(sequelize: Sequelize, hour: number, transaction: Transaction): Promise<void> {
  await sequelize.query("UPDATE line SET state = 'live' WHERE state = 'cleared' AND released AND start_hour <= ?", { replacements: [hour], transaction })
  await sequelize.query("UPDATE line SET state_before_end = state, state = 'ended' WHERE state IN ('live', 'paused', 'cleared') AND end_hour IS NOT NULL AND end_hour <= ?", { replacements: [hour], transaction })
}

/**
 * Keeps one market hour, all of it or nothing, and moves the clock. With the last hour of a run its goal is cleared,
 * so that no kill can leave a run that is over and still wanted.
 * @throws HourOvertakenError when clock or publication are no longer those the hour was run under
 */
export async function commitHour(sequelize: Sequelize, rules: PublicationRules, facts: HourFacts): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const [, moved] = await sequelize.query('UPDATE market_state SET hour = ?, target_hour = IF(target_hour <= ?, NULL, target_hour) WHERE id = 1 AND hour = ? AND publication_id = ?',
      { replacements: [facts.hour + 1, facts.hour + 1, facts.hour, rules.publication], type: QueryTypes.UPDATE, transaction })
    if (moved !== 1) throw new HourOvertakenError(`Hour ${facts.hour} was overtaken.`)
    await writeFacts(sequelize, rules, facts, transaction)
    await moveStates(sequelize, facts.hour + 1, transaction)
  })
}
