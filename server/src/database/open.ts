import type { Sequelize } from 'sequelize'
import { defineModels } from './models.js'
import { connect, refuseLooseWrites } from './connection.js'
import { migrate } from './migrate.js'

/** A connection with its tables up to date. The migrations' own record is the one thing written without a transaction. */
export async function openDatabase(url: string): Promise<{ sequelize: Sequelize; applied: string[] }> {
  const applied = await migrate(url)
  const sequelize = connect(url)
  defineModels(sequelize)
  refuseLooseWrites(sequelize)
  return { sequelize, applied }
}
