import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import { flag, id, int, maybe, text, type New, type Row } from '../database/columns.js'

/** A link by which somebody without a sign-in sees the ads of a line. */
export class PreviewLink extends Model<Row<PreviewLink>, New<PreviewLink>> {
  declare id: CreationOptional<number>
  declare lineId: number
  /** Of the link, which itself is told once and never kept. */
  declare digest: string
  /** Seconds since 1970. */
  declare expiresAt: number
  declare madeBy: number | null
  declare madeAt: number
  declare revoked: CreationOptional<boolean>
}

/** Ties the model to a connection. */
export function definePreviewLinks(sequelize: Sequelize): void {
  PreviewLink.init(
    { id: id(), lineId: int(), digest: text(), expiresAt: int(), madeBy: maybe(), madeAt: int(), revoked: flag(false) },
    { sequelize, tableName: 'preview_link' }
  )
}
