import { withModel, type LineDraft } from '@tin-harbor/core/buying'
import { MODELS_OF, shapesOf, type Format, isWatched } from '@tin-harbor/core/taxonomy'
import { DIMENSION_KINDS } from '@tin-harbor/core/dimensions'

/** A line of another format: what still applies stays, what does not is dropped and named. */
export function withFormat(draft: LineDraft, format: Format): { draft: LineDraft; dropped: string } {
  const dropped: string[] = []
  const shapes: readonly string[] = shapesOf(format)
  const restrictions = draft.targeting.restrictions.flatMap((restriction) => {
    const { dimension, values } = restriction
    if (dimension === 'size') {
      const kept = values.filter((value) => shapes.includes(value))
      if (kept.length < values.length) dropped.push(kept.length === 0 ? 'its slots' : `${values.length - kept.length} slots`)
      return kept.length === 0 ? [] : [{ ...restriction, values: kept }]
    }
    if (DIMENSION_KINDS[dimension].formats?.includes(format) === false) {
      dropped.push(dimension)
      return []
    }
    return [restriction]
  })
  let paid: Pick<LineDraft, 'price' | 'ads'> = { price: draft.price, ads: draft.ads }
  if (!MODELS_OF[format].includes(draft.price.model)) {
    dropped.push(`paying by the ${draft.price.model === 'CPC' ? 'click' : draft.price.model}, with its amounts`)
    // Nothing is known yet of the other format that could convert them.
    const { price, ads } = withModel(draft, MODELS_OF[format][0], null)
    paid = { price, ads }
  }
  if (draft.viewSeconds != null && !isWatched(format)) dropped.push('its view point')
  if (draft.buys?.deals.length) dropped.push(`${draft.buys.deals.length} ${draft.buys.deals.length === 1 ? 'deal' : 'deals'}`)
  // Deals are of one format.
  return {
    draft: {
      ...draft,
      format,
      targeting: { restrictions },
      ...paid,
      viewSeconds: isWatched(format) ? draft.viewSeconds : undefined,
      buys: undefined
    },
    dropped: dropped.join(', ')
  }
}
