import { generalReplay } from './general-replay.js'
import { KernelMatched } from './kernel-matched.js'
import { kernelOf } from './kernel-memory.js'
import type { KernelPlay } from './kernel-rows.js'
import { kernelTerms } from './kernel-terms.js'
import { isOneBase, isPlain, plainBid, type Play, type ReplayOptions } from './play.js'
import { CancelledError } from './question.js'
import type { Timeline } from './timeline.js'
import { NOTHING_WON, type Replay } from './totals.js'

/**
 * Replays the rows that a bid wins: by the compiled loops where they can, by the general ones otherwise. Both give the same answer.
 * @throws CancelledError
 */
export function replay(play: Play, timeline: Timeline, options: ReplayOptions, cancelled: () => boolean): Replay {
  return compiledReplay(play, timeline, options, cancelled) ?? generalReplay(play, timeline, options, cancelled)
}

/** A replay of a plain line on a tape that a kernel holds; null for any other. */
function compiledReplay(play: Play, timeline: Timeline, options: ReplayOptions, cancelled: () => boolean): Replay | null {
  const { question, matched } = play
  const { full, keep = false, every = 1, before } = options
  if (!(matched instanceof KernelMatched) || !isOneBase(play) || keep || (before && before.size > 0)) return null
  if (!isPlain(matched) || question.price.repeatDiscount || question.buys.deals.length > 0 || question.viewPoint !== undefined) return null
  const kernel = Number.isInteger(question.dataMicros) ? kernelOf(play.tape, play.market) : null
  if (!kernel) return null
  if (cancelled()) throw new CancelledError()
  const asked: KernelPlay = { ...kernelTerms(question, plainBid(matched, play.base)), full }
  const early = every === 1 ? matched.kept.earlyOf(timeline, asked) : null
  return { ...(early ?? kernel.replay(matched.kept, asked, timeline, every)), slots: timeline.days * 24, won: NOTHING_WON, aimed: 0 }
}
