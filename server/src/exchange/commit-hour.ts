import { QueryTypes, type Sequelize, type Transaction } from 'sequelize'
import type { HourFacts, PublicationRules } from '@tin-harbor/core/exchange'
import { writeLineStates } from '../delivery/line-states.js'
import { writeLog } from '../delivery/log.js'
import { writeOutcomes } from '../delivery/outcomes.js'
import { writeRollups } from '../delivery/roll-ups.js'
import { noteEntered, type Entering } from '../hits/entering.js'
import { balance, bookSpend } from '../money/ledger.js'

/** The clock, the publication or the money moved while the hour was run; nothing of it was kept. */
export class HourOvertakenError extends Error {}

/** Lines whose flight begins or is over at the hour that comes next. */
async function moveStates(sequelize: Sequelize, hour: number, transaction: Transaction): Promise<void> {
  await sequelize.query("UPDATE line SET state = 'live' WHERE state = 'cleared' AND released AND start_hour <= ?", {
    replacements: [hour],
    transaction
  })
  await sequelize.query(
    "UPDATE line SET state_before_end = state, state = 'ended' WHERE state IN ('live', 'paused', 'cleared', 'in review') AND end_hour IS NOT NULL AND end_hour <= ?",
    { replacements: [hour], transaction }
  )
}

/**
 * Keeps one market hour, all of it or nothing, and moves the clock. With the last hour of a run its goal is cleared,
 * so that no kill can leave a run that is over and still wanted.
 * @throws HourOvertakenError when clock or publication are no longer those the hour was run under, or the money is gone
 */
export async function commitHour(sequelize: Sequelize, rules: PublicationRules, facts: HourFacts, entering: Entering): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const [, moved] = await sequelize.query(
      'UPDATE market_state SET hour = ?, target_hour = IF(target_hour <= ?, NULL, target_hour) WHERE id = 1 AND hour = ? AND publication_id = ?',
      { replacements: [facts.hour + 1, facts.hour + 1, facts.hour, rules.publication], type: QueryTypes.UPDATE, transaction }
    )
    if (moved !== 1) throw new HourOvertakenError(`Hour ${facts.hour} was overtaken.`)
    await writeLog(facts, transaction)
    await writeRollups(rules, facts, transaction)
    await writeOutcomes(facts, transaction)
    await writeLineStates(facts, transaction)
    await noteEntered(facts, entering, transaction)
    for (const organisation of await bookSpend(sequelize, facts, transaction))
      // Some of it went back to its payer while the hour was run.
      if ((await balance(sequelize, organisation, transaction)) < 0) throw new HourOvertakenError(`Hour ${facts.hour} lost its money.`)
    await moveStates(sequelize, facts.hour + 1, transaction)
  })
}
