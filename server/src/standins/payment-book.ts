import { closeSync, existsSync, fsyncSync, mkdirSync, openSync, readFileSync, statSync, truncateSync, writeSync } from 'node:fs'
import { dirname } from 'node:path'
import { yup } from '@tin-harbor/core/input'

/** What the service says of a payment: its last word is `accepted`, `refused` or `cancelled`. */
export interface PaymentWord {
  state: 'waits' | 'accepted' | 'refused' | 'cancelled'
  says: string
}

/** What is asked of the service. */
export const paySchema = yup
  .object({
    method: yup.string().oneOf(['card', 'transfer', 'refund']).required(),
    amountMicros: yup.number().integer().min(1).required(),
    currency: yup.string().required(),
    /** Of a card: its number, or the name that the service gave it. */
    number: yup.string().optional(),
    card: yup.string().optional(),
    /** Of a transfer: the market hour in which it was sent. */
    hour: yup.number().integer().optional(),
    /** Of a refund: the payment that goes back. */
    of: yup.string().optional()
  })
  .noUnknown()
export type Asked = yup.InferType<typeof paySchema>

interface Kept extends PaymentWord {
  reference: string
  asked: Omit<Asked, 'number'> | null
}

/** What was asked and said, the last word of each; a line of a file for each word. */
export class Book {
  private readonly words = new Map<string, Kept>()
  private readonly file: number

  constructor(path: string) {
    mkdirSync(dirname(path), { recursive: true })
    const lines = existsSync(path) ? readFileSync(path, 'utf8').split('\n') : ['']
    // A last line without its end was being written when the power went: nobody was answered by it.
    const cut = lines.pop() ?? ''
    for (const line of lines.filter(Boolean)) {
      const kept = JSON.parse(line) as Kept
      this.words.set(kept.reference, kept)
    }
    if (cut !== '') truncateSync(path, statSync(path).size - Buffer.byteLength(cut))
    this.file = openSync(path, 'a')
  }

  of(reference: string): Kept | undefined {
    return this.words.get(reference)
  }

  keep(reference: string, asked: Asked | Kept['asked'], { state, says }: PaymentWord): Kept {
    // Of a card's number nothing stays.
    const { number: _, ...rest } = (asked ?? {}) as Asked
    const kept: Kept = { reference, asked: asked && rest, state, says }
    writeSync(this.file, `${JSON.stringify(kept)}\n`)
    fsyncSync(this.file)
    this.words.set(reference, kept)
    return kept
  }

  waiting(): Kept[] {
    return [...this.words.values()].filter(({ state }) => state === 'waits')
  }

  refundedOf(reference: string): number {
    let sum = 0
    for (const { state, asked } of this.words.values())
      if (state === 'accepted' && asked?.method === 'refund' && asked.of === reference) sum += asked.amountMicros
    return sum
  }

  moved(): number {
    let sum = 0
    for (const { state, asked } of this.words.values())
      if (state === 'accepted' && asked) sum += asked.method === 'refund' ? -asked.amountMicros : asked.amountMicros
    return sum
  }

  close(): void {
    closeSync(this.file)
  }
}
