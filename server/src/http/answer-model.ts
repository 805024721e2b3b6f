import { Model, type Sequelize } from 'sequelize'
import { int, text, key, type Row, type New } from '../database/columns.js'
import { documentColumn } from '../database/connection.js'

export class IdempotentAnswer extends Model<Row<IdempotentAnswer>, New<IdempotentAnswer>> {
  declare userId: number
  declare token: string
  declare route: string
  declare answer: unknown
  declare at: number
}

/** Ties the model to a connection. */
export function defineAnswers(sequelize: Sequelize): void {
  IdempotentAnswer.init(
    { userId: key(), token: { ...text(), primaryKey: true }, route: text(), answer: documentColumn('answer'), at: int() },
    { sequelize, tableName: 'idempotent_answer' }
  )
}
