import {
  type Company,
  type ForLive,
  type ForecastPart,
  type ForecastQuestion,
  type GoalMeasure,
  type Advice,
  type LiveQuestion,
  type MainFigures,
  type OwnTaker,
  type Sieve,
  type Survey,
  type SurveyQuestion
} from '@tin-harbor/core/forecast'
import { LRUCache } from 'lru-cache'
import { failed, notReady, superseded, tooBusy } from '../http/errors.js'
import { CancelWord } from '../threads/cancel-word.js'
import { FairQueue } from './fair-queue.js'
import { KeptAnswers } from './kept-answers.js'
import type { CompanyQuestion, ForecastWork } from './messages.js'
import type { SharedTape, SharedWorld } from '../threads/shared-world.js'
import type { Thread } from '../threads/thread.js'
import type { Answers, Asks, Requests } from '../threads/thread-messages.js'
import type { Threads } from '../threads/threads.js'

/** What binds a line, what each restriction leaves, and the better uses of its money. */
export interface Advised {
  figures: MainFigures
  sieve: Sieve
  advice: Advice[]
  /** What the line gets of the best that its money could buy, 0 to 1; null where too little is known. */
  possible: number | null
}

export type OnPart = (part: ForecastPart, milliseconds: number) => void

/** Who asks: a newer question of a page cancels the older; people take turns; whoever gives up sets the word. */
export interface Asker {
  person: string
  page: string
  word: CancelWord
}

/** What a job does on a seat. It ends with `later` when the rest of it waits behind others' first parts. */
type Work<T> = (thread: Thread<ForecastWork>, othersWait: boolean) => Promise<{ answer: T } | 'later'>

interface Job extends Asker {
  work: Work<unknown>
  resolve: (answer: never) => void
  reject: (error: Error) => void
}

interface Seat {
  thread: Thread<ForecastWork>
  job: Job | null
  /** Page that was answered last: what its question matched is still at hand. */
  page: string
  /** When that was, in jobs. */
  served: number
}

const SEATS = 2
/** Answers that are shared, of those asked last. */
const KEPT = 100
/** Counts of the market that are kept: one by placement has some megabytes. */
const KEPT_SURVEYS = 24
/** Pages whose newest number is remembered. */
const MOST_PAGES = 2000
/** Questions that wait at most; beyond, whoever has most of them gives way. */
const MOST_WAITING = 240
/** First parts that go before one of the rests that wait. */
const FIRSTS_BEFORE_REST = 12
/** Milliseconds: longer than a page that is opened takes from one question to the next. */
const QUIET_MS = 1500
/** Times a question is asked when the thread dies over it. */
const TRIES = 2
const FAILED = 'The forecast failed; change something and try again.'

/**
 * Two forecast workers and those who wait for them. A newer question of a page cancels the older, in the worker too, by a word in
 * shared memory: killing the thread would lose its warm code and its tape. While others wait, an answer gives way after its main
 * figures, so that nobody waits for anybody's details.
 */
export class ForecastPool {
  private readonly seats: Seat[] = []
  private readonly firsts = new FairQueue<Job>()
  private readonly rests = new FairQueue<Job>()
  /**
   * What no page waits for: begun only while every seat is free and nobody has asked for a while, so that a page that is just opened,
   * and asks for one thing after the other, has the machine for itself.
   */
  private readonly leisure = new FairQueue<Job>()
  private quiet: ReturnType<typeof setTimeout> | null = null
  private lastAsked = -Infinity
  private firstsInTurn = 0
  /** Jobs that were begun. */
  private served = 0
  /** Questions that no page named. */
  private pageless = 0
  /** Newest question number of each page: one that arrives late was superseded on its way. */
  private readonly newest = new LRUCache<string, number>({ max: MOST_PAGES })
  private own: readonly OwnTaker[] | null = null
  private readonly surveys = new LRUCache<string, Survey>({ max: KEPT_SURVEYS })
  private kept = new KeptAnswers<unknown>(KEPT)
  private keptFigures = new KeptAnswers<MainFigures>(KEPT)

  /** @param most questions that wait at most @param quietMs how long nobody has asked before what nobody waits for is begun */
  constructor(
    threads: Threads,
    world: SharedWorld,
    private tape: SharedTape | null = null,
    private readonly most = MOST_WAITING,
    private readonly quietMs = QUIET_MS
  ) {
    const greet = () => [
      ...(this.tape ? [{ kind: 'tape' as const, body: this.tape }] : []),
      ...(this.own ? [{ kind: 'own' as const, body: this.own }] : [])
    ]
    for (let n = 0; n < SEATS; n++)
      this.seats.push({
        thread: threads.make<ForecastWork>('forecast', { data: world, isKept: true, greet }),
        job: null,
        page: '',
        served: 0
      })
  }

  setTape(tape: SharedTape): void {
    this.tape = tape
    // Rows have other places on another tape.
    this.own = null
    this.surveys.clear()
    this.forget()
    for (const { thread } of this.seats) thread.notify('tape', tape)
  }

  /** What the lines in force take of the present tape: every question that competes with them is answered by it from now on. */
  setOwn(takers: readonly OwnTaker[]): void {
    this.own = takers
    this.forget()
    for (const { thread } of this.seats) thread.notify('own', takers)
  }

  private forget(): void {
    this.kept = new KeptAnswers(KEPT)
    this.keptFigures = new KeptAnswers(KEPT)
  }

  get isReady(): boolean {
    return this.tape !== null
  }

  /** Questions that wait. */
  get waiting(): number {
    return this.firsts.size + this.rests.size
  }

  /** What is kept with a line that goes live. */
  live(person: string, question: ForecastQuestion): Promise<ForLive> {
    return this.shared(person, 'live', question)
  }

  /** The main figures of a question alone. */
  figures(person: string, question: ForecastQuestion, measure: GoalMeasure): Promise<MainFigures> {
    const name = JSON.stringify(question)
    return this.keptFigures.of(name, () => {
      const asker = this.askerOfAll(person)
      return this.submit(asker, async (thread) => {
        let figures: MainFigures | null = null
        const onTold = ({ part }: { part: ForecastPart }) => {
          if (part.part === 'figures') ({ figures } = part)
        }
        await thread.request('ask', { question, measure, whole: false }, { cancel: asker.word, tries: TRIES, onTold })
        if (!figures) throw new Error('A worker answered without figures.')
        return { answer: figures }
      })
    })
  }

  /** What binds a line, and the better uses of its money: what its own page is told. */
  advice(person: string, question: ForecastQuestion, measure: GoalMeasure): Promise<Advised> {
    return this.kept.of(`advice ${measure} ${JSON.stringify(question)}`, () =>
      this.adviseOn(this.askerOfAll(person), question, measure, this.firsts)
    ) as Promise<Advised>
  }

  /** The same for nobody's page: it waits until nobody else asks. */
  adviceAtLeisure(question: ForecastQuestion, measure: GoalMeasure): Promise<Advised> {
    return this.adviseOn(this.askerOfAll('nobody'), question, measure, this.leisure)
  }

  private adviseOn(asker: Asker, question: ForecastQuestion, measure: GoalMeasure, queue: FairQueue<Job>): Promise<Advised> {
    return this.submit(
      asker,
      async (thread) => {
        const told: Partial<Advised> = {}
        const onTold = ({ part }: { part: ForecastPart }) => {
          if (part.part === 'figures') told.figures = part.figures
          if (part.part === 'sieve') told.sieve = part.sieve
          if (part.part === 'advice') Object.assign(told, { advice: part.advice, possible: part.possible })
        }
        await thread.request('ask', { question, measure, whole: true }, { cancel: asker.word, tries: TRIES, onTold })
        if (!told.figures || !told.sieve || !told.advice) throw new Error('A worker answered without advice.')
        return { answer: told as Advised }
      },
      queue
    )
  }

  /** What a line in force takes of the tape. */
  taker(live: LiveQuestion): Promise<OwnTaker> {
    return this.ask(this.askerOfAll('the market'), 'taker', live)
  }

  /** What shares of a day's money buy each of some lines, and what they both match. */
  company(person: string, asked: CompanyQuestion): Promise<Company> {
    return this.shared(person, 'company', asked)
  }

  /**
   * Traffic of a sentence of the Market. Everybody begins with the same few, whose answers are kept while the tape is the same; only
   * whole ones, since whoever asks may give up.
   * @param zone in which hours are counted
   */
  async survey(asker: Asker, question: SurveyQuestion, zone: string): Promise<Survey> {
    const name = JSON.stringify([zone, question])
    const known = this.surveys.get(name)
    if (known) {
      this.cancelPage(asker.page)
      return known
    }
    const { tape } = this
    const found = await this.ask(asker, 'survey', { question, zone })
    if (tape === this.tape) this.surveys.set(name, found)
    return found
  }

  /** All parts of an answer, as they are ready. A worker that dies is asked once more, so that parts may come twice. */
  async stream(asker: Asker, question: ForecastQuestion, measure: GoalMeasure, number: number, onPart: OnPart): Promise<void> {
    if (number < (this.newest.get(asker.page) ?? 0)) throw superseded()
    this.newest.set(asker.page, number)
    // Tape whose main figures were sent already, when the rest waits behind others' first parts.
    let sentOf: SharedTape | null = null
    const onTold = ({ part, milliseconds }: { part: ForecastPart; milliseconds: number }) => {
      if (asker.word.isSet || (part.part === 'figures' && sentOf !== null && sentOf === this.tape)) return
      if (part.part === 'figures') sentOf = this.tape
      onPart(part, milliseconds)
    }
    await this.submit(asker, async (thread, othersWait) => {
      const whole = sentOf !== null || !othersWait
      await thread.request('ask', { question, measure, whole }, { cancel: asker.word, tries: TRIES, onTold })
      return whole ? { answer: undefined } : 'later'
    })
  }

  /** Questions that no page names: all who ask the same of one tape share an answer, and none takes the place of another's. */
  private shared<K extends 'live' | 'company'>(
    person: string,
    kind: K,
    asks: Asks<ForecastWork, K>,
    key = JSON.stringify(asks)
  ): Promise<Answers<ForecastWork, K>> {
    return this.kept.of(`${kind} ${key}`, () => this.ask(this.askerOfAll(person), kind, asks)) as Promise<Answers<ForecastWork, K>>
  }

  /** Stands for all who wait for a shared answer: a page of its own, so that none is cancelled by the same question asked anew. */
  private askerOfAll(person: string): Asker {
    return { person, page: `shared ${++this.pageless}`, word: new CancelWord() }
  }

  private ask<K extends Requests<ForecastWork>>(asker: Asker, kind: K, asks: Asks<ForecastWork, K>): Promise<Answers<ForecastWork, K>> {
    return this.submit(asker, async (thread) => ({
      answer: await thread.request(kind, asks, { cancel: asker.word, tries: TRIES })
    }))
  }

  private submit<T>(asker: Asker, work: Work<T>, queue = this.firsts): Promise<T> {
    if (!this.tape) return Promise.reject(notReady('The recorded days are being read; forecasts come in a moment.'))
    this.cancelPage(asker.page)
    if (asker.word.isSet) return Promise.reject(superseded())
    return new Promise((resolve, reject) => {
      const job: Job = { ...asker, work, resolve, reject }
      queue.push(job)
      if (queue !== this.leisure) this.lastAsked = performance.now()
      asker.word.onSet(() => this.giveUp(job))
      this.shed()
      this.pump()
    })
  }

  /** What nobody waits for any more is not begun. */
  private giveUp(job: Job): void {
    for (const queue of [this.firsts, this.rests, this.leisure])
      if (queue.takeOut((other) => other === job).length > 0) job.reject(superseded())
  }

  private cancelPage(page: string): void {
    for (const seat of this.seats) if (seat.job?.page === page) seat.job.word.set()
    for (const queue of [this.firsts, this.rests]) for (const job of queue.takeOut((other) => other.page === page)) job.reject(superseded())
  }

  /** Beyond the bound somebody is refused: of whoever asked most, what has waited longest. */
  private shed(): void {
    while (this.waiting > this.most) {
      const heaviest = [this.firsts, this.rests]
        .map((queue) => ({ queue, most: queue.heaviest() }))
        .sort((a, b) => (b.most?.jobs ?? 0) - (a.most?.jobs ?? 0))[0]
      if (!heaviest.most) return
      heaviest.queue
        .takeOldestOf(heaviest.most.person)
        ?.reject(tooBusy(`${this.most} forecasts are waited for already, most of them yours; try again in a moment.`))
    }
  }

  private pump(): void {
    for (;;) {
      const free = this.seats.filter((seat) => !seat.job)
      if (free.length === 0) return
      const job = this.nextJob() ?? (free.length === this.seats.length ? this.leisureJob() : undefined)
      if (!job) return
      // Another page's match is left where it is while there is a seat that served longer ago.
      const seat = free.find(({ page }) => page === job.page) ?? free.reduce((a, b) => (b.served < a.served ? b : a))
      void this.run(seat, job)
    }
  }

  private leisureJob(): Job | undefined {
    if (this.leisure.size === 0) return undefined
    const wait = this.lastAsked + this.quietMs - performance.now()
    if (wait <= 0) return this.leisure.take()
    this.quiet ??= setTimeout(() => {
      this.quiet = null
      this.pump()
    }, wait)
    return undefined
  }

  private async run(seat: Seat, job: Job): Promise<void> {
    seat.job = job
    seat.page = job.page
    seat.served = ++this.served
    try {
      // While others wait for their first parts, this one is asked for its own alone.
      const done = await job.work(seat.thread, this.firsts.size > 0)
      if (job.word.isSet) job.reject(superseded())
      else if (done === 'later') this.rests.push(job)
      else job.resolve(done.answer as never)
    } catch (error) {
      job.reject(job.word.isSet ? superseded() : failed('forecast-failed', FAILED, error))
    }
    seat.job = null
    this.pump()
  }

  private nextJob(): Job | undefined {
    const restsTurn = this.rests.size > 0 && (this.firsts.size === 0 || this.firstsInTurn >= FIRSTS_BEFORE_REST)
    this.firstsInTurn = restsTurn ? 0 : this.firstsInTurn + 1
    return restsTurn ? this.rests.take() : this.firsts.take()
  }

  async close(): Promise<void> {
    if (this.quiet) clearTimeout(this.quiet)
    await Promise.all(this.seats.map(({ thread }) => thread.close()))
  }
}
