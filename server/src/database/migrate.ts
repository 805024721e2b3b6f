import { SequelizeStorage, Umzug } from 'umzug'
import { QueryTypes, type Sequelize } from 'sequelize'
import { migrations } from '../migrations/index.js'

/** Brings the tables up to date. Two servers that start at once take turns by a named lock. */
export async function migrate(sequelize: Sequelize): Promise<string[]> {
  return sequelize.transaction(async (transaction) => {
    const [got] = await sequelize.query<{ got: number }>("SELECT GET_LOCK('tin_harbor_migrate', 60) AS got", { type: QueryTypes.SELECT, transaction })
    if (Number(got.got) !== 1) throw new Error('Another server is still migrating the database.')
    try {
      const umzug = new Umzug({ migrations, context: sequelize, storage: new SequelizeStorage({ sequelize, tableName: 'migration' }), logger: undefined })
      const done = await umzug.up()
      return done.map((migration) => migration.name)
    } finally {
      await sequelize.query("SELECT RELEASE_LOCK('tin_harbor_migrate')", { type: QueryTypes.SELECT, transaction })
    }
  })
}
