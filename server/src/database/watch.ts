import { EventEmitter } from 'node:events'
import type { Connection } from 'mariadb'
import { connectAlone } from './connection.js'

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
    const patience = new Promise<boolean>((resolve) => (late = setTimeout(() => resolve(false), PATIENCE_MS)))
    const isThere = await Promise.race([this.ask(), patience])
    clearTimeout(late)
    if (!isThere) this.drop()
    return isThere
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
    const connection = await connectAlone(this.url, { connectTimeout: PATIENCE_MS })
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
