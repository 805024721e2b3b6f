import { DID } from '../response/index.js'

/** What may be told of an impression, and count: the bit of what was done, and the code of its row among the events of an hour. */
export const TOLD_EVENTS = {
  click: { did: DID.clicked, by: 3 },
  viewable: { did: DID.viewable, by: 4 },
  viewed: { did: DID.viewed, by: 5 }
} as const
export type ToldEventName = keyof typeof TOLD_EVENTS

/** An impression of the log. */
export interface ToldOf {
  /** Hour of its log and place in it. */
  hour: number
  index: number
  line: number
  ad: number
  path: number
  device: number
}

/** Something that a player or a page told of an impression. */
export interface ToldEvent extends ToldOf {
  event: ToldEventName
  /** What the log says was done. */
  did: number
}

/** A conversion that a page or a server told. */
export interface ToldConversion {
  /** Number of its row. */
  told: number
  tracker: number
  advertiser: number
  person: number
  valueMicros: number
}

/** All that was told since the hour before: input of an hour like the market's own, so that the same hour comes out the same. */
export interface ToldInput {
  events: readonly ToldEvent[]
  conversions: readonly ToldConversion[]
}
export const NOTHING_TOLD: ToldInput = { events: [], conversions: [] }

/** What earned a conversion that was told; null where nothing of ours did. */
export interface ToldOutcome {
  told: number
  by: 'click' | 'view' | null
}

/** What was told of impressions beyond what their log says, by impression. */
export class ToldDeeds {
  private readonly bits = new Map<number, number>()

  constructor(earlier: readonly { hour: number; index: number; event: ToldEventName }[] = []) {
    for (const one of earlier) this.note(one)
  }

  of({ hour, index }: { hour: number; index: number }): number {
    return this.bits.size === 0 ? 0 : (this.bits.get(key(hour, index)) ?? 0)
  }

  /** @returns whether it was not told before */
  note({ hour, index, event }: { hour: number; index: number; event: ToldEventName }): boolean {
    const known = this.of({ hour, index })
    const { did } = TOLD_EVENTS[event]
    this.bits.set(key(hour, index), known | did)
    return (known & did) === 0
  }
}

/** Impressions of an hour are far fewer than 2^22. */
const key = (hour: number, index: number) => hour * 2 ** 22 + index
