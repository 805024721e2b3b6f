import { Model, type Sequelize } from 'sequelize'
import { flag, int, text, key, type Row, type New } from '../database/columns.js'
import { documentColumn } from '../database/connection.js'

export class IdempotentAnswer extends Model<Row<IdempotentAnswer>, New<IdempotentAnswer>> {
  declare userId: number
  declare token: string
  declare route: string
  declare answer: unknown
  declare at: number
}

/** What was answered under a script's key. */
export class KeptAnswer extends Model<Row<KeptAnswer>, New<KeptAnswer>> {
  declare who: string
  declare name: string
  /** Digest of the request. */
  declare asked: string
  declare isDone: boolean
  declare answer: unknown
  declare at: number
}

/** Ties the models to a connection. */
export function defineAnswers(sequelize: Sequelize): void {
  IdempotentAnswer.init(
    { userId: key(), token: { ...text(), primaryKey: true }, route: text(), answer: documentColumn('answer'), at: int() },
    { sequelize, tableName: 'idempotent_answer' }
  )
  KeptAnswer.init(
    {
      who: { ...text(), primaryKey: true },
      name: { ...text(), primaryKey: true },
      asked: text(),
      isDone: flag(false),
      answer: documentColumn('answer', true),
      at: int()
    },
    { sequelize, tableName: 'kept_answer' }
  )
}
