import { DIMENSION_KINDS, type Dimension } from '../dimensions/index.js'
import { valuesOf, withRestriction, withValues } from '../targeting/index.js'
import type { LineDraft } from './line.js'

/** What a line does at some values of a dimension, whatever it did there before. */
export type AtValues =
  /** It buys these, beside those that it named already; no others. */
  | { buys: true }
  /** It leaves them out, or takes them in again. */
  | { out: boolean }
  /** It bids a price of its own there, micros in the line's way of paying; null for none, multipliers stay. */
  | { ownMicros: number | null }
  /** It bids so many thousandths of its bid there. */
  | { perMille: number }

/**
 * A copy of a draft that does so; it is not checked here: see `lineSchema`.
 * @param list the saved list whose values they are, where the line is to follow it: they take the place of what it named
 */
export function changedAt(draft: LineDraft, dimension: Dimension, values: readonly string[], change: AtValues, list?: number): LineDraft {
  const { targeting, price } = draft
  if ('buys' in change || 'out' in change) {
    const mode = 'buys' in change ? 'include' : 'exclude'
    if (list !== undefined) return { ...draft, targeting: withRestriction(targeting, { dimension, mode, values: [...values], list }) }
    const next = new Set(valuesOf(targeting, dimension, mode))
    for (const value of values) {
      if ('out' in change && !change.out) next.delete(value)
      else next.add(value)
    }
    return { ...draft, targeting: withValues(targeting, dimension, mode, [...next]) }
  }
  const wanted = new Set(values)
  const isUsual = 'ownMicros' in change && change.ownMicros === null
  const others = (price.adjustments ?? []).filter(
    (one) => one.dimension !== dimension || !wanted.has(one.value) || (isUsual && one.ownMicros === null)
  )
  const own = [...wanted].map((value) => ({
    dimension,
    value,
    perMille: 'perMille' in change ? change.perMille : null,
    ownMicros: 'ownMicros' in change ? change.ownMicros : null
  }))
  return { ...draft, price: { ...price, adjustments: isUsual ? others : [...others, ...own] } }
}

/** What a draft does at values, in words: `buys 12 properties`. */
export function atValuesWords(draft: LineDraft, dimension: Dimension, change: AtValues): string {
  const { noun, counted } = DIMENSION_KINDS[dimension]
  const many = (count: number) => `${count} ${count === 1 ? (counted?.[0] ?? noun) : (counted?.[1] ?? `values of ${noun}`)}`
  if ('buys' in change) return `buys ${many(valuesOf(draft.targeting, dimension).length)}`
  if ('out' in change) return `leaves ${many(valuesOf(draft.targeting, dimension, 'exclude').length)} out`
  return `bids apart at ${many((draft.price.adjustments ?? []).filter((one) => one.dimension === dimension).length)}`
}
