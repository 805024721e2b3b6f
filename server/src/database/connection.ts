import mariadb, { type Connection, type ConnectionConfig } from 'mariadb'
import { DataTypes, Sequelize, type ModelAttributeColumnOptions, type Transaction } from 'sequelize'

/** Longest that a statement may take: the server ends it then. */
const QUERY_MS = 30_000
/** A server that says nothing for so long is frozen or gone. Idle connections are closed before. */
const SILENCE_MS = 32_000
const IDLE_MS = 25_000

/**
 * The one place that makes database connections. BIGINT comes back as a number or, past 2^53, as an error: the
 * driver is told to check, and `moneyColumn` refuses anything that is not a whole number on the way in.
 * @param unlimited statements may take as long as they need, as changes of tables do
 */
export function connect(url: string, { unlimited = false } = {}): Sequelize {
  return new Sequelize(url, {
    dialect: 'mariadb',
    dialectModule: mariadb,
    logging: false,
    timezone: '+00:00',
    pool: { max: 8, idle: IDLE_MS, evict: 1_000, acquire: 15_000 },
    define: { timestamps: false, underscored: true, freezeTableName: true, charset: 'utf8mb4' },
    dialectOptions: {
      bigIntAsNumber: true,
      checkNumberRange: true,
      decimalAsNumber: true,
      insertIdAsNumber: true,
      connectTimeout: 5_000,
      ...(unlimited ? {} : { queryTimeout: QUERY_MS, socketTimeout: SILENCE_MS })
    }
  })
}

/** A connection beside the pool, for what must not wait in it or be ended with it. @param url as of the pool */
export function connectAlone(url: string, options: ConnectionConfig): Promise<Connection> {
  const { hostname, port, username, password, pathname } = new URL(url)
  return mariadb.createConnection({
    host: hostname,
    port: Number(port || 3306),
    user: decodeURIComponent(username),
    password: decodeURIComponent(password),
    database: pathname.slice(1),
    bigIntAsNumber: true,
    ...options
  })
}

/** A write that is not part of a transaction is a mistake: half of a use case could stay behind. */
export function refuseLooseWrites(sequelize: Sequelize): void {
  const check = (kind: string) => (options: { transaction?: Transaction | null }) => {
    if (!options.transaction) throw new Error(`A ${kind} was tried outside a transaction.`)
  }
  sequelize.addHook('beforeSave', (_, options) => check('save')(options))
  sequelize.addHook('beforeDestroy', (_, options) => check('delete')(options))
  sequelize.addHook('beforeBulkCreate', (_, options) => check('bulk insert')(options))
  sequelize.addHook('beforeBulkUpdate', (options) => check('bulk update')(options))
  sequelize.addHook('beforeBulkDestroy', (options) => check('bulk delete')(options))
}

/** Throws unless a database value is a number a double holds exactly. */
export function wholeNumber(value: unknown, name: string): number {
  if (typeof value !== 'number' || !Number.isSafeInteger(value))
    throw new Error(`${name} came from the database as ${typeof value} ${String(value)}.`)
  return value
}

/** A BIGINT column of micros. */
export function moneyColumn(name: string, allowNull: boolean): ModelAttributeColumnOptions {
  return {
    type: DataTypes.BIGINT,
    allowNull,
    get() {
      const value: unknown = this.getDataValue(name as never)
      return value === null || value === undefined ? null : wholeNumber(value, name)
    },
    set(value: unknown) {
      if (value !== null && !Number.isSafeInteger(value)) throw new Error(`${name} must be whole micros, got ${String(value)}.`)
      this.setDataValue(name as never, value as never)
    }
  }
}

/** A JSON document kept as text. */
export function documentColumn(name: string, allowNull = false): ModelAttributeColumnOptions {
  return {
    type: DataTypes.TEXT('long'),
    allowNull,
    get() {
      const text = this.getDataValue(name as never) as string | null
      return text === null || text === undefined ? null : (JSON.parse(text) as unknown)
    },
    set(value: unknown) {
      this.setDataValue(name as never, (value === null ? null : JSON.stringify(value)) as never)
    }
  }
}

/**
 * Inserts many rows on the transaction's own connection: nine times faster than one statement a row.
 * @param rows positional values for the placeholders of `sql`
 */
export async function insertBatch(transaction: Transaction, sql: string, rows: readonly (readonly unknown[])[]): Promise<void> {
  if (rows.length === 0) return
  const { connection } = transaction as unknown as { connection: Connection }
  await connection.batch(sql, rows as unknown[][])
}

/** Runs a use case again when the database had to break a deadlock or a lock wait; nothing was kept of it then. */
export async function retrying<T>(useCase: () => Promise<T>, tries = 3): Promise<T> {
  for (let attempt = 1; ; attempt++) {
    try {
      return await useCase()
    } catch (error) {
      const errno = (error as { original?: { errno?: number } }).original?.errno
      if (attempt >= tries || (errno !== 1213 && errno !== 1205)) throw error
    }
  }
}
