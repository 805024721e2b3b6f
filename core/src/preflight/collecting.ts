import type { Fix, FixableFinding, FixEdit } from '../buying/index.js'

/** Collects findings; a fix says what it does and sets fields. */
export class Findings {
  readonly found: FixableFinding[] = []
  stops = (field: string, message: string, fix: Omit<Fix, 'adds'> | null = null) => this.add('stops', field, message, fix)
  warns = (field: string, message: string, fix: Omit<Fix, 'adds'> | null = null) => this.add('warns', field, message, fix)
  private add(severity: 'stops' | 'warns', field: string, message: string, fix: Omit<Fix, 'adds'> | null) {
    this.found.push({ severity, field, message, fix: fix && { ...fix, adds: [] } })
  }
}

export const fixed = (words: string, ...edits: FixEdit[]) => ({ words, edits })
