import type { SharedWorld, SharedTape } from '../threads/shared-world.js'

/** What the tape thread is started with. */
export interface TapeThread extends SharedWorld {
  folder: string | null
}

/** Fills in a part of a world's people. */
export interface PeopleWork {
  requests: { fill: { asks: { from: number; to: number }; tells: never; answers: void } }
  notices: Record<never, never>
}

export interface TapeWork {
  requests: {
    build: {
      asks: { lastDay: number }
      tells:
        | { kind: 'progress'; done: number; of: number }
        | { kind: 'tape'; tape: SharedTape; milliseconds: number; how: 'built' | 'a day added' | 'opened' }
        /** A file that was refused, and why; the tape is built anew. */
        | { kind: 'refused'; reason: string }
      answers: void
    }
  }
  /** `people`: they are filled in now; until then only a tape from its file can be had. */
  notices: { people: null }
}
