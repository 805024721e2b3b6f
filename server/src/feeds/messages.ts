import type { BrokenItem, Feed, FeedItem, FeedRole } from '@tin-harbor/core/creative'
import type { FeedFound } from '@tin-harbor/core/contract'

/** What a feed was read as. */
export interface FeedRead {
  form: FeedFound['form']
  names: string[]
  guessed: Record<FeedRole, string>
  items: { nth: number; item: FeedItem }[]
  broken: BrokenItem[]
}

export interface FeedWork {
  requests: {
    /** Reads a file as items; with no field named, by those that are guessed. */
    read: { asks: { data: Uint8Array; draft: Feed }; tells: never; answers: FeedRead }
  }
  notices: Record<never, never>
}
