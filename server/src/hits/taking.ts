import { QueryTypes, type Sequelize, type Transaction } from 'sequelize'
import { insertBatch } from '../database/connection.js'
import { subjectText, type HitSubject } from './ids.js'

/** A hit as the journal has it. */
export interface ToldHit {
  subject: HitSubject
  event: string
  /** Seconds since 1970. */
  toldAt: number
}

export const hitLine = (hit: ToldHit): string => JSON.stringify(hit)
export const hitOf = (line: string): ToldHit => JSON.parse(line) as ToldHit

// One that is there already is left as it is: an event counts once, however often it is told, or read from a journal again.
const PUT = 'INSERT IGNORE INTO hit (subject, event, ad_id, hour, place, told_at, counts) VALUES (?, ?, ?, ?, ?, ?, ?)'

/** Keeps hits, each once. One whose id names no impression that was bought is kept, and does not count. */
export async function keepHits(sequelize: Sequelize, hits: readonly ToldHit[]): Promise<void> {
  if (hits.length === 0) return
  await sequelize.transaction(async (transaction) => {
    const bought = await impressionsOf(sequelize, hits, transaction)
    const rows = hits.map(({ subject, event, toldAt }) =>
      subject.kind === 'impression'
        ? [subjectText(subject), event, null, subject.hour, subject.place, toldAt, subject.place < (bought.get(subject.hour) ?? 0)]
        : [subjectText(subject), event, subject.ad, null, null, toldAt, false]
    )
    await insertBatch(transaction, PUT, rows)
  })
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
