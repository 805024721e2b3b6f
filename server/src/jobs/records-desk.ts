import type { Worker } from 'node:worker_threads'
import { AppError, failed } from '../errors.js'
import type { FromRecords, SharedWorld, ToRecords } from './messages.js'
import { startWorker } from './threads.js'

type Asked = ToRecords extends infer M ? (M extends { job: number } ? Omit<M, 'job'> : never) : never
type Found<K extends FromRecords['kind']> = Extract<FromRecords, { kind: K }>

/** The thread that reads the past; one question after the other. It is started when first asked, and anew when it dies. */
export class RecordsDesk {
  private worker: Worker | null = null
  private next = 1
  private readonly waiting = new Map<number, { resolve: (answer: FromRecords) => void; reject: (error: Error) => void }>()

  /** @param ready settles once the world's people are filled in */
  constructor(
    private readonly world: SharedWorld,
    private readonly ready: Promise<void>
  ) {}

  async ask<K extends 'report' | 'opportunity' | 'shops'>(kind: K, message: Extract<Asked, { kind: K }>): Promise<Found<K>> {
    await this.ready
    const worker = (this.worker ??= this.start())
    const job = this.next++
    const answer = await new Promise<FromRecords>((resolve, reject) => {
      this.waiting.set(job, { resolve, reject })
      // Hours of the log are handed over, not copied.
      worker.postMessage(
        { ...message, job },
        'logs' in message ? message.logs.flatMap((log) => [log.data.buffer as ArrayBuffer, log.events.buffer as ArrayBuffer]) : []
      )
    })
    if (answer.kind === 'failed') throw failed('records-failed', answer.told ?? 'The past could not be read.', new Error(answer.message))
    if (answer.kind !== kind) throw new Error('The thread answered another question.')
    return answer as Found<K>
  }

  private start(): Worker {
    const worker = startWorker('records', this.world)
    worker.on('message', (answer: FromRecords) => {
      this.waiting.get(answer.job)?.resolve(answer)
      this.waiting.delete(answer.job)
    })
    worker.on('error', () => undefined)
    worker.on('exit', () => {
      if (this.worker === worker) this.worker = null
      for (const { reject } of this.waiting.values())
        reject(new AppError(500, 'records-failed', 'The thread that reads the past ended; try again.'))
      this.waiting.clear()
    })
    return worker
  }

  async close(): Promise<void> {
    await this.worker?.terminate()
  }
}
