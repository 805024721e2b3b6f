import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { LineDraft, LineState } from '@tin-harbor/core/buying'
import type { LineRules } from '@tin-harbor/core/exchange'
import type { MainFigures } from '@tin-harbor/core/forecast'
import { int, maybe, text, maybeText, flag, version, id, keepAsMade, type Row, type New } from '../database/columns.js'
import { documentColumn } from '../database/connection.js'

export class Line extends Model<Row<Line>, New<Line>> {
  declare id: CreationOptional<number>
  declare campaignId: number
  declare draft: LineDraft
  declare state: LineState
  declare stateBeforeEnd: CreationOptional<LineState | null>
  /** Whether a cleared line may start; false while it waits for release. */
  declare released: CreationOptional<boolean>
  declare revisionId: CreationOptional<number | null>
  /** Flight of the revision in force, market hours. */
  declare startHour: CreationOptional<number | null>
  declare endHour: CreationOptional<number | null>
  declare liveFromHour: CreationOptional<number | null>
  /** The line that it was copied from. */
  declare copiedFrom: CreationOptional<number | null>
  declare tags: CreationOptional<string[] | null>
  /** A draft that others start from: it never goes live itself. */
  declare template: CreationOptional<boolean>
  declare version: CreationOptional<number>
}

/** What the exchange buys by, and the ads that serve until those that take their places are cleared. */
export type StoredRules = LineRules & { earlier?: LineRules['ads'] }

export class LineRevision extends Model<Row<LineRevision>, New<LineRevision>> {
  declare id: CreationOptional<number>
  declare lineId: number
  declare draft: LineDraft
  declare rules: StoredRules
  declare forecast: MainFigures
  declare madeBy: number | null
  declare madeAt: number
  declare marketHour: number
}

/** Ties the models to a connection. */
export function defineLines(sequelize: Sequelize): void {
  Line.init(
    {
      id: id(),
      campaignId: int(),
      draft: documentColumn('draft'),
      state: text(),
      stateBeforeEnd: maybeText(),
      released: flag(false),
      revisionId: maybe(),
      startHour: maybe(),
      endHour: maybe(),
      liveFromHour: maybe(),
      copiedFrom: maybe(),
      tags: documentColumn('tags', true),
      template: flag(false),
      version: version()
    },
    { sequelize, tableName: 'line' }
  )
  LineRevision.init(
    {
      id: id(),
      lineId: int(),
      draft: documentColumn('draft'),
      rules: documentColumn('rules'),
      forecast: documentColumn('forecast'),
      madeBy: maybe(),
      madeAt: int(),
      marketHour: int()
    },
    { sequelize, tableName: 'line_revision' }
  )
  keepAsMade(LineRevision)
}
