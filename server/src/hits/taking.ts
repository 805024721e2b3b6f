import { QueryTypes, type Sequelize, type Transaction } from 'sequelize'
import { insertBatch } from '../database/connection.js'
import { subjectText } from './ids.js'
import { keepConversions } from './keeping-conversions.js'
import { isConversion, type Taking, type Told, type ToldHit } from './told.js'

// One that is there already is left as it is: an event counts once, however often it is told, or read from a journal again.
const PUT = 'INSERT IGNORE INTO hit (subject, event, ad_id, hour, place, told_at, counts) VALUES (?, ?, ?, ?, ?, ?, ?)'

/** Keeps what was told, each once. An event whose id names no impression that was bought is kept, and does not count. */
export async function keepTold(taking: Taking, told: readonly Told[]): Promise<void> {
  const hits = told.filter((one): one is ToldHit => !isConversion(one))
  const conversions = told.filter(isConversion)
  if (hits.length > 0)
    await taking.sequelize.transaction(async (transaction) => {
      const bought = await impressionsOf(taking.sequelize, hits, transaction)
      const rows = hits.map(({ subject, event, toldAt }) =>
        subject.kind === 'impression'
          ? [subjectText(subject), event, null, subject.hour, subject.place, toldAt, subject.place < (bought.get(subject.hour) ?? 0)]
          : [subjectText(subject), event, subject.kind === 'preview' ? subject.ad : null, null, null, toldAt, false]
      )
      await insertBatch(transaction, PUT, rows)
    })
  // A click that was told with its conversion is there by now.
  if (conversions.length > 0) await keepConversions(taking, conversions)
}

/** How many impressions each hour's log has. */
async function impressionsOf(sequelize: Sequelize, hits: readonly ToldHit[], transaction: Transaction): Promise<Map<number, number>> {
  const hours = [...new Set(hits.flatMap(({ subject }) => (subject.kind === 'impression' ? [subject.hour] : [])))]
  if (hours.length === 0) return new Map()
  const rows = await sequelize.query<{ hour: number; n: number }>('SELECT hour, n FROM delivery_hour WHERE hour IN (?)', {
    type: QueryTypes.SELECT,
    replacements: [hours],
    transaction
  })
  return new Map(rows.map(({ hour, n }) => [hour, n]))
}
