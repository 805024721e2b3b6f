import { DataTypes, Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { FileFacts, Medium, plateParts } from '@tin-harbor/core/creative'
import type { Shape } from '@tin-harbor/core/taxonomy'
import { flag, id, int, maybe, maybeText, text, version, type New, type Row } from '../database/columns.js'
import { documentColumn } from '../database/connection.js'

/** What a picture was built of. */
export interface BuiltOf {
  plate: number
  shape: Shape
  /** Its words and what it shows, which people respond to whatever its size. */
  parts: ReturnType<typeof plateParts>
}

/** A file of an advertiser's library: what is known of its content, which the store has by its hash. */
export class StoredFile extends Model<Row<StoredFile>, New<StoredFile>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare name: string
  declare sha256: string
  declare bytes: number
  declare medium: Medium
  declare facts: FileFacts
  /** What somebody hears who does not see it; empty where nobody wrote it. */
  declare altText: CreationOptional<string>
  declare tags: CreationOptional<string[]>
  /** No longer offered; what ran with it still has it. */
  declare retired: CreationOptional<boolean>
  /** What it was made of, and how, in words. */
  declare madeFrom: CreationOptional<number | null>
  declare madeHow: CreationOptional<string | null>
  /** The plate that it was built of, in which size, and what it says; null for any other. */
  declare built: CreationOptional<BuiltOf | null>
  /** Content that stands in where browsers do not play it. */
  declare proxy: CreationOptional<string | null>
  /** The file that took its place. */
  declare replacedBy: CreationOptional<number | null>
  /** Market hour. */
  declare addedHour: number
  declare version: CreationOptional<number>
}

/** An upload that is under way; its bytes are in the uploads folder. */
export class Upload extends Model<Row<Upload>, New<Upload>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare userId: number
  declare name: string
  declare bytes: number
  declare begun: CreationOptional<Date>
}

/** Ties the models to a connection. */
export function defineFiles(sequelize: Sequelize): void {
  StoredFile.init(
    {
      id: id(),
      advertiserId: int(),
      name: text(),
      sha256: text(),
      bytes: int(),
      medium: text(),
      facts: documentColumn('facts'),
      altText: { ...text(), defaultValue: '' },
      tags: { ...documentColumn('tags'), defaultValue: [] },
      retired: flag(false),
      madeFrom: maybe(),
      madeHow: maybeText(),
      built: documentColumn('built', true),
      proxy: maybeText(),
      replacedBy: maybe(),
      addedHour: int(),
      version: version()
    },
    { sequelize, tableName: 'stored_file' }
  )
  Upload.init(
    {
      id: id(),
      advertiserId: int(),
      userId: int(),
      name: text(),
      bytes: int(),
      begun: { type: DataTypes.DATE, allowNull: false, defaultValue: DataTypes.NOW }
    },
    { sequelize, tableName: 'upload' }
  )
}
