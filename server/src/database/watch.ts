import { EventEmitter } from 'node:events'
import mariadb, { type Connection } from 'mariadb'

/** How often the database is asked whether it is there, and how long it may take to say so: together under three seconds. */
const EVERY_MS = 1_000
const PATIENCE_MS = 1_400

/** Watches whether the database answers, over a connection of its own. Events: `away`, `back`. */
export class DatabaseWatch extends EventEmitter {
  isAway = false
  private connection: Connection | null = null
  private next: ReturnType<typeof setTimeout> | undefined
  private ended = false

  constructor(private readonly url: string) {
    super()
  }

  start(): void {
    void this.look()
  }

  private async look(): Promise<void> {
    const isThere = await this.answers()
    if (this.ended) return
    if (isThere === this.isAway) {
      this.isAway = !isThere
      this.emit(this.isAway ? 'away' : 'back')
    }
    this.next = setTimeout(() => void this.look(), EVERY_MS)
  }

  private async answers(): Promise<boolean> {
    let late: ReturnType<typeof setTimeout> | undefined
    try {
      return await Promise.race([this.ask(), new Promise<boolean>((resolve) => (late = setTimeout(() => resolve(false), PATIENCE_MS)))]).then((isThere) => {
        if (!isThere) this.drop()
        return isThere
      })
    } finally {
      clearTimeout(late)
    }
  }

  private async ask(): Promise<boolean> {
    try {
      this.connection ??= await this.connect()
      await this.connection.ping()
      return true
    } catch {
      return false
    }
  }

  private async connect(): Promise<Connection> {
    const { hostname, port, username, password, pathname } = new URL(this.url)
    const connection = await mariadb.createConnection({ host: hostname, port: Number(port || 3306), user: decodeURIComponent(username), password: decodeURIComponent(password), database: pathname.slice(1), connectTimeout: PATIENCE_MS })
    connection.on('error', () => undefined)
    return connection
  }

  private drop(): void {
    this.connection?.destroy()
    this.connection = null
  }

  close(): void {
    this.ended = true
    clearTimeout(this.next)
    this.drop()
  }
}
