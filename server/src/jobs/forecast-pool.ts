import type { Worker } from 'node:worker_threads'
import { sieveKey, type Company, type ForLive, type ForecastPart, type ForecastQuestion, type GoalMeasure, type Sieve, type Survey, type SurveyQuestion } from '@tin-harbor/core/forecast'
import { AppError, notReady, superseded } from '../errors.js'
import type { FromForecast, SharedTape, SharedWorld, ToForecast } from './messages.js'
import { KeptAnswers } from './kept-answers.js'
import { CancelWord, startWorker } from './threads.js'

type Asked = Extract<ToForecast, { job: number }>
type Answer = Extract<FromForecast, { kind: 'done' | 'survey' | 'live' | 'sieve' | 'company' }>
export type OnPart = (part: ForecastPart, milliseconds: number) => void

interface Job {
  message: Asked
  word: CancelWord
  /** Names the page that asked; a newer question of it cancels this one. */
  page: string
  tries: number
  onPart: OnPart
  resolve: (answer: Answer) => void
  reject: (error: Error) => void
}

interface Seat {
  worker: Worker
  job: Job | null
}

const SEATS = 2
/** Answers that are shared, of those asked last. */
const KEPT = 100
/** Pages whose newest number is remembered. */
const MOST_PAGES = 2000

/**
 * Two forecast workers and a queue. A newer question of a page cancels the older, in the worker too, by a word in
 * shared memory: killing the thread would lose its warm code and its tape. A worker that dies is started anew and its
 * question asked once more.
 */
export class ForecastPool {
  private readonly seats: Seat[] = []
  private queue: Job[] = []
  private next = 1
  /** Newest question number of each page: one that arrives late was superseded on its way. */
  private readonly newest = new Map<string, number>()
  private kept = new KeptAnswers<Answer>(KEPT)
  private closed = false

  constructor(private readonly world: SharedWorld, private tape: SharedTape | null = null) {
    for (let n = 0; n < SEATS; n++) this.seats.push(this.seat())
  }

  private seat(): Seat {
    const seat: Seat = { worker: startWorker('forecast', this.world), job: null }
    seat.worker.on('message', (message: FromForecast) => this.onMessage(seat, message))
    seat.worker.on('exit', () => this.onExit(seat))
    seat.worker.on('error', () => undefined)
    if (this.tape) seat.worker.postMessage({ kind: 'tape', tape: this.tape } satisfies ToForecast)
    return seat
  }

  setTape(tape: SharedTape): void {
    this.tape = tape
    this.kept = new KeptAnswers(KEPT)
    for (const seat of this.seats) seat.worker.postMessage({ kind: 'tape', tape } satisfies ToForecast)
  }

  get isReady(): boolean {
    return this.tape !== null
  }

  /** What is kept with a line that goes live. @param follow whether its bids follow the market */
  async live(question: ForecastQuestion, follow: boolean): Promise<ForLive> {
    const answer = await this.shared(['live', question, follow], (job, cancel) => ({ kind: 'live', job, cancel, question, follow }))
    if (answer.kind !== 'live') throw new Error('A worker answered another question.')
    return answer.live
  }

  /** What each restriction of a line leaves of a day, and of all traffic. */
  async sieve(question: ForecastQuestion): Promise<Sieve> {
    const answer = await this.shared(['sieve', sieveKey(question)], (job, cancel) => ({ kind: 'sieve', job, cancel, question }))
    if (answer.kind !== 'sieve') throw new Error('A worker answered another question.')
    return answer.sieve
  }

  /** Questions that no page names: all who ask the same of one tape share an answer, and none takes the place of another's. */
  private shared(asked: readonly unknown[], make: (job: number, cancel: SharedArrayBuffer) => Asked): Promise<Answer> {
    const name = JSON.stringify(asked)
    return this.kept.of(name, () => this.submit(name, make))
  }

  /**
   * All parts of an answer, as they are ready. A worker that dies is asked once more, so that parts may come twice.
   * @param whole false for the main figures alone
   */
  async stream(page: string, question: ForecastQuestion, measure: GoalMeasure, number: number, onPart: OnPart, onWord?: (word: CancelWord) => void, whole = true): Promise<void> {
    if (number < (this.newest.get(page) ?? 0)) throw superseded()
    this.remember(page, number)
    await this.submit(page, (job, cancel) => ({ kind: 'ask', job, cancel, question, measure, whole }), onWord, onPart)
  }

  /** Traffic of a sentence of the Market. @param zone in which hours are counted */
  async survey(page: string, question: SurveyQuestion, zone: string, onWord?: (word: CancelWord) => void): Promise<Survey> {
    const answer = await this.submit(page, (job, cancel) => ({ kind: 'survey', job, cancel, question, zone }), onWord)
    if (answer.kind !== 'survey') throw new Error('A worker answered another question.')
    return answer.survey
  }

  /** What shares of a day's money buy each of some lines, and what they both match. */
  async company(lines: { line: number; question: ForecastQuestion }[], totalMicros: number, measure: GoalMeasure): Promise<Company> {
    const answer = await this.shared(['company', lines, totalMicros, measure], (job, cancel) => ({ kind: 'company', job, cancel, lines, totalMicros, measure }))
    if (answer.kind !== 'company') throw new Error('A worker answered another question.')
    return answer.company
  }

  private remember(page: string, number: number): void {
    this.newest.delete(page)
    this.newest.set(page, number)
    const [oldest] = this.newest.keys()
    if (this.newest.size > MOST_PAGES) this.newest.delete(oldest)
  }

  private submit(page: string, make: (job: number, cancel: SharedArrayBuffer) => Asked, onWord?: (word: CancelWord) => void, onPart: OnPart = () => undefined): Promise<Answer> {
    if (!this.tape) return Promise.reject(notReady('The tape is being built; forecasts come in a moment.'))
    this.cancelPage(page)
    const word = new CancelWord()
    onWord?.(word)
    return new Promise((resolve, reject) => {
      this.queue.push({ message: make(this.next++, word.buffer), word, page, tries: 0, onPart, resolve, reject })
      this.pump()
    })
  }

  private cancelPage(page: string): void {
    for (const seat of this.seats) if (seat.job?.page === page) seat.job.word.set()
    const [older, others] = [this.queue.filter((job) => job.page === page), this.queue.filter((job) => job.page !== page)]
    this.queue = others
    for (const job of older) job.reject(superseded())
  }

  private pump(): void {
    for (const seat of this.seats) {
      if (seat.job) continue
      const job = this.queue.shift()
      if (!job) return
      seat.job = job
      job.tries++
      seat.worker.postMessage(job.message)
    }
  }

  private onMessage(seat: Seat, message: FromForecast): void {
    const { job } = seat
    if (!job || job.message.job !== message.job) return
    if (message.kind === 'part') {
      if (!job.word.isSet) job.onPart(message.part, message.milliseconds)
      return
    }
    seat.job = null
    if (message.kind === 'cancelled' || job.word.isSet) job.reject(superseded())
    else if (message.kind === 'failed') job.reject(new AppError(500, 'forecast-failed', `The forecast failed: ${message.message}`))
    else job.resolve(message)
    this.pump()
  }

  private onExit(seat: Seat): void {
    if (this.closed) return
    const { job } = seat
    const place = this.seats.indexOf(seat)
    this.seats[place] = this.seat()
    if (job && job.tries < 2) this.queue.unshift(job)
    else job?.reject(new AppError(500, 'forecast-failed', 'The forecast failed twice; change something and try again.'))
    this.pump()
  }

  async close(): Promise<void> {
    this.closed = true
    await Promise.all(this.seats.map((seat) => seat.worker.terminate()))
  }
}
