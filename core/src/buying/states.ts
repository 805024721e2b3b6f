/** States of a line and of an ad's review, and what moves them. */
export const LINE_STATES = ['draft', 'in review', 'cleared', 'live', 'paused', 'ended', 'refused'] as const
export type LineState = (typeof LINE_STATES)[number]

export const LINE_EVENTS = [
  'put live',
  'ad cleared',
  'all ads refused',
  'edit',
  'start',
  'pause',
  'resume',
  'flight over',
  'end',
  'flight extended',
  'answer'
] as const
export type LineEvent = (typeof LINE_EVENTS)[number]

const MOVES: Readonly<Record<LineState, Partial<Record<LineEvent, LineState>>>> = {
  draft: { 'put live': 'in review' },
  'in review': { 'ad cleared': 'cleared', 'all ads refused': 'refused', 'flight over': 'ended', end: 'ended' },
  cleared: { start: 'live', 'flight over': 'ended', end: 'ended' },
  live: { pause: 'paused', 'flight over': 'ended', end: 'ended' },
  paused: { resume: 'live', 'flight over': 'ended', end: 'ended' },
  ended: {},
  refused: { edit: 'draft', answer: 'in review' }
}

/** What became of an attempt to move a line. */
export class TransitionError extends Error {}

/**
 * The state after an event.
 * @param before state before it ended, for a flight that was extended
 * @throws TransitionError when the event cannot happen in this state
 */
export function nextState(state: LineState, event: LineEvent, before: LineState | null = null): LineState {
  if (state === 'ended' && event === 'flight extended' && before !== null) return before
  const next = MOVES[state][event]
  if (next === undefined) throw new TransitionError(`A line that is ${state} cannot ${EVENT_WORDS[event]}.`)
  return next
}

const EVENT_WORDS: Readonly<Record<LineEvent, string>> = {
  'put live': 'be put live',
  'ad cleared': 'have an ad cleared',
  'all ads refused': 'have its ads refused',
  edit: 'go back to draft',
  start: 'start',
  pause: 'be paused',
  resume: 'go on',
  'flight over': 'run out',
  end: 'be ended',
  'flight extended': 'be extended',
  answer: 'have its refusal answered'
}

export const REVIEW_STATES = ['draft', 'in review', 'cleared', 'refused'] as const
export type ReviewState = (typeof REVIEW_STATES)[number]

/** What a line does once one of its ads is cleared. */
export const ONCE_CLEARED = ['start', 'wait'] as const
export type OnceCleared = (typeof ONCE_CLEARED)[number]
