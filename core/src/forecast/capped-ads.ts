import { stoppedBy, type Cap } from '../exchange/index.js'
import { ExposureList } from './exposure-list.js'
import type { Matched, MatchedAds } from './matched.js'

/**
 * Which ad a person is shown, for one person after the other: those with caps of their own neither count in their line's nor obey them.
 * What somebody saw before a replay counts as of ads without.
 */
export class CappedAds {
  readonly bids: boolean
  /** Adjustments of the ad drawn last; undefined where it bids as its match has it. */
  chain: number | undefined
  private readonly ofLine: ExposureList
  private readonly lists: readonly ExposureList[]
  private drawn = -1

  constructor(
    private readonly ads: MatchedAds,
    private readonly matched: Pick<Matched, 'programme'>,
    private readonly caps: readonly Cap[],
    room: number
  ) {
    this.bids = ads.choice.bids
    this.ofLine = new ExposureList(room)
    this.lists = ads.choice.caps.map(() => new ExposureList(room))
  }

  start(before: readonly number[]): void {
    this.ofLine.start(before)
    for (const list of this.lists) list.start([])
  }

  /** Draws one of the ads that fit a match and are free; false for none. */
  draw(match: number, minute: number, key: number): boolean {
    const { choice, set, chain } = this.ads
    const isLineFree = !stoppedBy(this.ofLine, minute, this.caps, 0)
    const place = choice.drawnAmong(set[match], key, ({ capped }) =>
      capped < 0 ? isLineFree : !stoppedBy(this.lists[capped], minute, choice.caps[capped], 0)
    )
    if (place < 0) return false
    const { base, capped } = choice.sets[set[match]].classes[place]
    this.drawn = capped
    if (this.bids) this.chain = base < 0 ? (chain?.[match] ?? 0) : this.matched.programme.withOwn(chain?.[match] ?? 0, base)
    return true
  }

  shown(minute: number): void {
    ;(this.drawn < 0 ? this.ofLine : this.lists[this.drawn]).add(minute)
  }
}
