import { connectAlone } from './connection.js'

/**
 * Does something while it holds a lock that servers on one database share. The lock has a connection of its own, which nothing ends for
 * being idle; the database lets it go when its holder is gone.
 * @param seconds to wait for it
 * @throws when another server still holds it then
 */
export async function withNamedLock<T>(url: string, name: string, seconds: number, work: () => Promise<T>): Promise<T> {
  const connection = await connectAlone(url, { connectTimeout: 5_000 })
  try {
    // Whoever waits for hours of a run is not kept waiting by the server's own limit on idle connections.
    await connection.query('SET SESSION wait_timeout = 86400')
    const [{ got }] = (await connection.query('SELECT GET_LOCK(?, ?) AS got', [name, seconds])) as [{ got: number | null }]
    if (got !== 1) throw new Error(`Another server still holds the lock "${name}" of this database.`)
    return await work()
  } finally {
    await connection.end().catch(() => undefined)
  }
}
