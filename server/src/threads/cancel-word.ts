/** A word in shared memory that tells a job to stop. */
export class CancelWord {
  private hears: (() => void)[] = []

  constructor(readonly buffer: SharedArrayBuffer = new SharedArrayBuffer(4)) {}

  set(): void {
    if (this.isSet) return
    Atomics.store(new Int32Array(this.buffer), 0, 1)
    for (const hear of this.hears) hear()
    this.hears = []
  }

  get isSet(): boolean {
    return Atomics.load(new Int32Array(this.buffer), 0) === 1
  }

  /** Calls when the word is set; at once when it is already. */
  onSet(hear: () => void): void {
    if (this.isSet) hear()
    else this.hears.push(hear)
  }
}
