import type { Worker } from 'node:worker_threads'
import {
  sieveKey,
  type Company,
  type ForLive,
  type ForecastPart,
  type ForecastQuestion,
  type GoalMeasure,
  type MainFigures,
  type Sieve,
  type Survey,
  type SurveyQuestion
} from '@tin-harbor/core/forecast'
import { failed, notReady, superseded, tooBusy } from '../errors.js'
import { FairQueue } from './fair-queue.js'
import type { FromForecast, SharedTape, SharedWorld, ToForecast } from './messages.js'
import { KeptAnswers } from './kept-answers.js'
import { CancelWord, startWorker } from './threads.js'

type Asked = Extract<ToForecast, { job: number }>
type Answer = Extract<FromForecast, { kind: 'done' | 'survey' | 'live' | 'sieve' | 'company' }>
export type OnPart = (part: ForecastPart, milliseconds: number) => void

/** Who asks: a newer question of a page cancels the older; people take turns; whoever gives up sets the word. */
export interface Asker {
  person: string
  page: string
  word: CancelWord
}

interface Job extends Asker {
  message: Asked
  tries: number
  onPart: OnPart
  /** Tape whose main figures were sent already, when the rest waits behind others' first parts. */
  sent: SharedTape | null
  resolve: (answer: Answer) => void
  reject: (error: Error) => void
}

interface Seat {
  worker: Worker
  job: Job | null
  /** Page that was answered last: what its question matched is still at hand. */
  page: string
}

const SEATS = 2
/** Answers that are shared, of those asked last. */
const KEPT = 100
/** Pages whose newest number is remembered. */
const MOST_PAGES = 2000
/** Questions that wait at most; beyond, whoever has most of them gives way. */
const MOST_WAITING = 240
/** First parts that go before one of the rests that wait. */
const FIRSTS_BEFORE_REST = 12
const FAILED = 'The forecast failed; change something and try again.'

/**
 * Two forecast workers and those who wait for them. A newer question of a page cancels the older, in the worker too, by a word in
 * shared memory: killing the thread would lose its warm code and its tape. While others wait, an answer gives way after its main
 * figures, so that nobody waits for anybody's details. A worker that dies is started anew and its question asked once more.
 */
export class ForecastPool {
  private readonly seats: Seat[] = []
  private readonly firsts = new FairQueue<Job>()
  private readonly rests = new FairQueue<Job>()
  private firstsInTurn = 0
  private next = 1
  /** Newest question number of each page: one that arrives late was superseded on its way. */
  private readonly newest = new Map<string, number>()
  private kept = new KeptAnswers<Answer>(KEPT)
  private keptFigures = new KeptAnswers<MainFigures>(KEPT)
  private closed = false

  /** @param most questions that wait at most */
  constructor(
    private readonly world: SharedWorld,
    private tape: SharedTape | null = null,
    private readonly most = MOST_WAITING
  ) {
    for (let n = 0; n < SEATS; n++) this.seats.push(this.seat())
  }

  private seat(): Seat {
    const seat: Seat = { worker: startWorker('forecast', this.world), job: null, page: '' }
    seat.worker.on('message', (message: FromForecast) => this.onMessage(seat, message))
    seat.worker.on('exit', () => this.onExit(seat))
    seat.worker.on('error', () => undefined)
    if (this.tape) seat.worker.postMessage({ kind: 'tape', tape: this.tape } satisfies ToForecast)
    return seat
  }

  setTape(tape: SharedTape): void {
    this.tape = tape
    this.kept = new KeptAnswers(KEPT)
    this.keptFigures = new KeptAnswers(KEPT)
    for (const seat of this.seats) seat.worker.postMessage({ kind: 'tape', tape } satisfies ToForecast)
  }

  get isReady(): boolean {
    return this.tape !== null
  }

  /** Questions that wait. */
  get waiting(): number {
    return this.firsts.size + this.rests.size
  }

  /** What is kept with a line that goes live. @param follow whether its bids follow the market */
  async live(person: string, question: ForecastQuestion, follow: boolean): Promise<ForLive> {
    const answer = await this.shared(person, ['live', question, follow], (job, cancel) => ({ kind: 'live', job, cancel, question, follow }))
    if (answer.kind !== 'live') throw new Error('A worker answered another question.')
    return answer.live
  }

  /** The main figures of a question alone. */
  figures(person: string, question: ForecastQuestion, measure: GoalMeasure): Promise<MainFigures> {
    const name = JSON.stringify(question)
    return this.keptFigures.of(name, async () => {
      let figures: MainFigures | null = null
      await this.submit(
        { person, page: `figures ${name}`, word: new CancelWord() },
        (job, cancel) => ({ kind: 'ask', job, cancel, question, measure, whole: false }),
        (part) => {
          if (part.part === 'figures') ({ figures } = part)
        }
      )
      if (!figures) throw new Error('A worker answered without figures.')
      return figures
    })
  }

  /** What each restriction of a line leaves of a day, and of all traffic. */
  async sieve(person: string, question: ForecastQuestion): Promise<Sieve> {
    const answer = await this.shared(person, ['sieve', sieveKey(question)], (job, cancel) => ({ kind: 'sieve', job, cancel, question }))
    if (answer.kind !== 'sieve') throw new Error('A worker answered another question.')
    return answer.sieve
  }

  /** Questions that no page names: all who ask the same of one tape share an answer, and none takes the place of another's. */
  private shared(person: string, asked: readonly unknown[], make: (job: number, cancel: SharedArrayBuffer) => Asked): Promise<Answer> {
    const name = JSON.stringify(asked)
    return this.kept.of(name, () => this.submit({ person, page: name, word: new CancelWord() }, make))
  }

  /** All parts of an answer, as they are ready. A worker that dies is asked once more, so that parts may come twice. */
  async stream(asker: Asker, question: ForecastQuestion, measure: GoalMeasure, number: number, onPart: OnPart): Promise<void> {
    if (number < (this.newest.get(asker.page) ?? 0)) throw superseded()
    this.remember(asker.page, number)
    await this.submit(asker, (job, cancel) => ({ kind: 'ask', job, cancel, question, measure, whole: true }), onPart)
  }

  /** Traffic of a sentence of the Market. @param zone in which hours are counted */
  async survey(asker: Asker, question: SurveyQuestion, zone: string): Promise<Survey> {
    const answer = await this.submit(asker, (job, cancel) => ({ kind: 'survey', job, cancel, question, zone }))
    if (answer.kind !== 'survey') throw new Error('A worker answered another question.')
    return answer.survey
  }

  /** What shares of a day's money buy each of some lines, and what they both match. */
  async company(
    person: string,
    lines: { line: number; question: ForecastQuestion }[],
    totalMicros: number,
    measure: GoalMeasure
  ): Promise<Company> {
    const answer = await this.shared(person, ['company', lines, totalMicros, measure], (job, cancel) => ({
      kind: 'company',
      job,
      cancel,
      lines,
      totalMicros,
      measure
    }))
    if (answer.kind !== 'company') throw new Error('A worker answered another question.')
    return answer.company
  }

  private remember(page: string, number: number): void {
    this.newest.delete(page)
    this.newest.set(page, number)
    const [oldest] = this.newest.keys()
    if (this.newest.size > MOST_PAGES) this.newest.delete(oldest)
  }

  private submit(asker: Asker, make: (job: number, cancel: SharedArrayBuffer) => Asked, onPart: OnPart = () => undefined): Promise<Answer> {
    if (!this.tape) return Promise.reject(notReady('The tape is being built; forecasts come in a moment.'))
    this.cancelPage(asker.page)
    if (asker.word.isSet) return Promise.reject(superseded())
    return new Promise((resolve, reject) => {
      const job: Job = { ...asker, message: make(this.next++, asker.word.buffer), tries: 0, onPart, sent: null, resolve, reject }
      this.firsts.push(job)
      asker.word.onSet(() => this.giveUp(job))
      this.shed()
      this.pump()
    })
  }

  /** What nobody waits for any more is not begun. */
  private giveUp(job: Job): void {
    for (const queue of [this.firsts, this.rests]) if (queue.takeOut((other) => other === job).length > 0) job.reject(superseded())
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
      const job = this.nextJob()
      if (!job) return
      const seat = free.find(({ page }) => page === job.page) ?? free[0]
      seat.job = job
      seat.page = job.page
      job.tries++
      // While others wait for their first parts, this one is asked for its own alone.
      seat.worker.postMessage(
        job.message.kind === 'ask' && job.message.whole && job.sent === null && this.firsts.size > 0
          ? { ...job.message, whole: false }
          : job.message
      )
    }
  }

  private nextJob(): Job | undefined {
    const restsTurn = this.rests.size > 0 && (this.firsts.size === 0 || this.firstsInTurn >= FIRSTS_BEFORE_REST)
    this.firstsInTurn = restsTurn ? 0 : this.firstsInTurn + 1
    return restsTurn ? this.rests.take() : this.firsts.take()
  }

  private onMessage(seat: Seat, message: FromForecast): void {
    const { job } = seat
    if (!job || job.message.job !== message.job) return
    if (message.kind === 'part') {
      if (job.word.isSet || (message.part.part === 'figures' && job.sent !== null && job.sent === this.tape)) return
      if (message.part.part === 'figures') job.sent = this.tape
      job.onPart(message.part, message.milliseconds)
      return
    }
    seat.job = null
    if (message.kind === 'cancelled' || job.word.isSet) job.reject(superseded())
    else if (message.kind === 'failed') job.reject(failed('forecast-failed', FAILED, new Error(message.message)))
    else if (message.kind === 'done' && job.message.kind === 'ask' && job.message.whole && !message.whole) {
      job.tries = 0
      this.rests.push(job)
    } else job.resolve(message)
    this.pump()
  }

  private onExit(seat: Seat): void {
    if (this.closed) return
    const { job } = seat
    const place = this.seats.indexOf(seat)
    this.seats[place] = this.seat()
    if (job && job.tries < 2) this.firsts.putBack(job)
    else job?.reject(failed('forecast-failed', FAILED, new Error('The forecast thread died twice over one question.')))
    this.pump()
  }

  async close(): Promise<void> {
    this.closed = true
    await Promise.all(this.seats.map((seat) => seat.worker.terminate()))
  }
}
