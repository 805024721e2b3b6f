import { SequelizeStorage, Umzug } from 'umzug'
import { migrations } from './migrations/index.js'
import { connect } from './connection.js'
import { withNamedLock } from './named-lock.js'

/** Brings the tables up to date. Two servers that start at once take turns by a named lock. @returns names of what was applied */
export async function migrate(url: string): Promise<string[]> {
  return withNamedLock(url, 'tin_harbor_migrate', 60, async () => {
    const sequelize = connect(url, { unlimited: true })
    try {
      const umzug = new Umzug({
        migrations,
        context: sequelize,
        storage: new SequelizeStorage({ sequelize, tableName: 'migration' }),
        logger: undefined
      })
      return (await umzug.up()).map((migration) => migration.name)
    } finally {
      await sequelize.close()
    }
  })
}
