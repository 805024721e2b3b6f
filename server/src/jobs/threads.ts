import { Worker } from 'node:worker_threads'
import { fileURLToPath } from 'node:url'

/**
 * Starts a worker, always from the compiled file: workers do not start from TypeScript under a test runner. The
 * compiled folder is named in full, so that it is found from `src` as well.
 */
export function startWorker(name: 'people' | 'day' | 'tape' | 'forecast' | 'market' | 'records', workerData: unknown): Worker {
  const path = fileURLToPath(new URL(`../../dist/jobs/${name}.worker.js`, import.meta.url))
  return new Worker(path, { workerData, execArgv: [] })
}

/** A word in shared memory that tells a job to stop. */
export class CancelWord {
  constructor(readonly buffer: SharedArrayBuffer = new SharedArrayBuffer(4)) {}

  set(): void {
    Atomics.store(new Int32Array(this.buffer), 0, 1)
  }

  get isSet(): boolean {
    return Atomics.load(new Int32Array(this.buffer), 0) === 1
  }
}
