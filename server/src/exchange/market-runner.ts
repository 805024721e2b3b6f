import { EventEmitter } from 'node:events'
import type { Sequelize } from 'sequelize'
import type { Logger } from 'pino'
import type { HourFacts, HourMoney, PublicationRules, ToldInput } from '@tin-harbor/core/exchange'
import type { RunStatus } from '@tin-harbor/core/contract'
import { conflict } from '../http/errors.js'
import { commitHour, HourOvertakenError } from './commit-hour.js'
import { toEnter } from '../hits/entering.js'
import type { Impressions } from '../hits/impressions.js'
import { loadOpening } from './opening.js'
import { moneyOfHour } from '../money/terms.js'
import { lockMarket, publicationRules, readMarket } from '../going-live/publications.js'
import { CancelWord } from '../threads/cancel-word.js'
import type { MarketWork } from './messages.js'
import type { TapeBuilder } from '../tape/tape-builder.js'
import type { Thread } from '../threads/thread.js'
import { GivenUpError, ThreadDiedError } from '../threads/thread-errors.js'
import type { Threads } from '../threads/threads.js'

const RETRY_MS = 500
/** Times an hour is tried when the thread dies over it: an hour that kills it is not tried for ever, whatever else it answers. */
const TRIES = 3
const LOOK_MS = 2_000
/** How soon a played market notices that it was stopped. */
const LOOK_UP_MS = 50

/** Where what was told since the hour before comes from. */
export interface ToldBefore {
  impressions: Impressions
  /** Brings what waits into the database. */
  take: () => Promise<void>
}

/**
 * Runs the market from the clock to an hour, one hour a transaction. It keeps the goal of the run in the database, so
 * that a server that was killed goes on from the last whole hour. Events: `status` (RunStatus), `hour` (market hour).
 */
export class MarketRunner extends EventEmitter {
  private readonly thread: Thread<MarketWork>
  private word = new CancelWord()
  private stopping = false
  private closing = false
  private current: Promise<void> | null = null
  private watching: ReturnType<typeof setInterval> | undefined
  private opened: { publication: number; hour: number; rules: PublicationRules } | null = null
  /** What the run bought, in all; what a user is told of it is `statusFor`. */
  status: RunStatus
  private readonly bought = new Map<number, { wins: number; spendMicros: number }>()

  constructor(
    threads: Threads,
    private readonly sequelize: Sequelize,
    private readonly tapes: Pick<TapeBuilder, 'world' | 'ready'>,
    private readonly log: Logger,
    private readonly told: ToldBefore,
    hour: number
  ) {
    super()
    this.thread = threads.make<MarketWork>('market', { data: tapes.world, onDeath: () => (this.opened = null) })
    this.status = { running: false, hour, fromHour: hour, targetHour: hour, wins: 0, spendMicros: 0, trouble: null, playing: false }
  }

  /** Starts a run; throws a conflict when one is under way. @param pauseMs that each hour takes at least, when the market is played */
  async start(targetHour: number, pauseMs = 0): Promise<void> {
    if (this.current) throw conflict('The market is running already; stop it first.')
    // Taken before the first await, so that two requests cannot both start.
    let ready = (): void => undefined
    this.current = new Promise((resolve) => (ready = resolve))
    try {
      await this.sequelize.transaction(async (transaction) => {
        const state = await lockMarket(transaction)
        if (targetHour <= state.hour) throw conflict('The clock is past that hour already.')
        state.targetHour = targetHour
        state.pauseMs = pauseMs
        await state.save({ transaction })
        this.status = {
          running: true,
          hour: state.hour,
          fromHour: state.hour,
          targetHour,
          wins: 0,
          spendMicros: 0,
          trouble: null,
          playing: pauseMs > 0
        }
      })
    } catch (error) {
      this.current = null
      ready()
      throw error
    }
    this.stopping = false
    this.bought.clear()
    this.word = new CancelWord()
    void this.run(targetHour, pauseMs).finally(() => {
      this.current = null
      ready()
    })
  }

  /** Goes on with a run that a killed server left unfinished. */
  async resume(): Promise<void> {
    const state = await readMarket()
    if (state.targetHour === null) return
    if (state.targetHour > state.hour) await this.start(state.targetHour, state.pauseMs)
    else await this.clearTarget()
  }

  /** Stops at once; the unfinished hour is discarded. */
  async stop(): Promise<void> {
    this.stopping = true
    this.word.set()
    await this.current
  }

  /** Looks at the clock now and then: another server on the same database may have moved it. */
  watch(): void {
    this.watching = setInterval(() => void this.look(), LOOK_MS)
    this.watching.unref()
  }

  private async look(): Promise<void> {
    if (this.current) return
    const state = await readMarket().catch(() => null)
    if (!state || this.current || state.hour === this.status.hour) return
    this.say({ hour: state.hour, fromHour: state.hour, targetHour: state.hour })
    this.emit('finished', this.status)
  }

  /** The run as a user is told of it: with what it bought for the advertisers that they see. */
  statusFor({ advertisers }: { advertisers: readonly number[] }): RunStatus {
    const sum = { wins: 0, spendMicros: 0 }
    for (const advertiser of advertisers) {
      const { wins, spendMicros } = this.bought.get(advertiser) ?? { wins: 0, spendMicros: 0 }
      sum.wins += wins
      sum.spendMicros += spendMicros
    }
    return { ...this.status, ...sum }
  }

  /** Settles when no run is under way. */
  async idle(): Promise<void> {
    await this.current
  }

  private async run(targetHour: number, pauseMs: number): Promise<void> {
    this.say({})
    let failures = 0
    let deaths = 0
    while (!this.stopping && this.status.hour < targetHour) {
      try {
        const began = performance.now()
        const { hour } = this.status
        await this.oneHour()
        failures = 0
        if (this.status.hour > hour) deaths = 0
        await this.pause(pauseMs - (performance.now() - began))
      } catch (error) {
        this.opened = null
        // The next turn reads the clock anew, and is tried again itself when the database is away.
        if (error instanceof HourOvertakenError) continue
        // Nothing of the hour was booked.
        if (error instanceof ThreadDiedError && ++deaths < TRIES) continue
        failures++
        if (!isAway(error)) {
          this.log.error({ err: error }, 'the run stopped')
          this.say({ trouble: 'The run stopped at a whole hour: something went wrong on our side, and is noted in the log.' })
          break
        }
        if (failures === 1) {
          this.log.warn({ err: error }, 'the database is away')
          this.say({ trouble: 'The database is away or full. The market stands at the last whole hour and goes on when it is back.' })
        }
        await new Promise((resolve) => setTimeout(resolve, RETRY_MS))
      }
    }
    await this.finish()
  }

  /** Waits, but not longer than somebody wants it. */
  private async pause(milliseconds: number): Promise<void> {
    for (let left = milliseconds; left > 0 && !this.stopping; left -= LOOK_UP_MS)
      await new Promise((resolve) => setTimeout(resolve, Math.min(left, LOOK_UP_MS)))
  }

  private async clearTarget(): Promise<void> {
    await this.sequelize.transaction(async (transaction) => {
      const state = await lockMarket(transaction)
      state.targetHour = null
      await state.save({ transaction })
      this.status.hour = state.hour
    })
  }

  /** Notes that nothing is to be run any more. A run that reached its end has that noted with its last hour. */
  private async finish(): Promise<void> {
    for (;;) {
      try {
        await this.clearTarget()
        break
      } catch (error) {
        if (this.closing || !isAway(error)) {
          this.log.error({ err: error }, 'the end of a run could not be noted')
          break
        }
        await new Promise((resolve) => setTimeout(resolve, RETRY_MS))
      }
    }
    this.say({ running: false })
    this.emit('finished', this.status)
  }

  private async oneHour(): Promise<void> {
    const state = await readMarket()
    this.status.hour = state.hour
    if (state.hour >= this.status.targetHour) return
    if (this.opened?.publication !== state.publicationId || this.opened.hour !== state.hour)
      await this.open(state.publicationId, state.hour)
    const { opened } = this
    if (!opened) throw new Error('The market could not be opened.')
    await this.told.take()
    const entering = await toEnter(this.told.impressions)
    const facts = await this.nextHour(entering.input, await moneyOfHour(this.sequelize, state.hour))
    if (!facts) return
    await commitHour(this.sequelize, opened.rules, facts, entering)
    opened.hour++
    this.tell(facts, opened.rules)
  }

  /** What the thread's next hour brought; null when nobody wants it any more, or when the thread must be opened first. */
  private async nextHour(told: ToldInput, money: HourMoney): Promise<HourFacts | null> {
    try {
      const facts = await this.thread.request('hour', { target: this.status.targetHour, told, money }, { cancel: this.word })
      if (!facts) this.opened = null
      return facts
    } catch (error) {
      this.opened = null
      if (error instanceof GivenUpError) return null
      throw error
    }
  }

  private tell(facts: HourFacts, { owners = [] }: PublicationRules): void {
    const advertiserOf = new Map(owners.map(({ line, advertiser }) => [line, advertiser]))
    for (const { line, wins, spendMicros } of facts.hourTotals) {
      const advertiser = advertiserOf.get(line) ?? -1
      const sum = this.bought.get(advertiser) ?? { wins: 0, spendMicros: 0 }
      this.bought.set(advertiser, { wins: sum.wins + wins, spendMicros: sum.spendMicros + spendMicros })
    }
    this.say({
      hour: facts.hour + 1,
      wins: this.status.wins + facts.wins,
      spendMicros: this.status.spendMicros + facts.spendMicros,
      trouble: null
    })
    this.emit('hour', facts.hour + 1)
  }

  private async open(publication: number, hour: number): Promise<void> {
    await this.tapes.ready
    const rules = await publicationRules(publication)
    const opening = await loadOpening(this.sequelize, rules, hour)
    await this.thread.request('open', { publication: rules, opening })
    this.opened = { publication, hour, rules }
  }

  private say(change: Partial<RunStatus>): void {
    this.status = { ...this.status, ...change }
    this.emit('status', this.status)
  }

  async close(): Promise<void> {
    clearInterval(this.watching)
    this.closing = true
    this.stopping = true
    this.word.set()
    await Promise.race([this.current, new Promise((resolve) => setTimeout(resolve, 2000))])
    await this.thread.close()
  }
}

/** Whether an error means that the database could not be reached or had no room (1021, 1030, 1041, 1114), and may be back soon. */
function isAway(error: unknown): boolean {
  const { name, original } = error as { name?: string; original?: { code?: string; errno?: number; fatal?: boolean } }
  if (name?.startsWith('SequelizeConnection') || original?.fatal === true) return true
  const code = original?.code ?? (error as { code?: string }).code ?? ''
  return /ECONN|EPIPE|CONN|SOCKET|ER_SERVER_SHUTDOWN|ER_CMD_CONNECTION_CLOSED|1213|1205|1969|\b(1021|1030|1041|1114)\b/.test(
    `${code} ${original?.errno ?? ''}`
  )
}
