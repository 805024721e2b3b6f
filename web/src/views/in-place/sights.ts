import { surroundingsOf, type Surrounding } from '@tin-harbor/core/creative'
import type { AdPreview, LinePreview } from '@tin-harbor/core/contract'
import { shapesOf, type Shape } from '@tin-harbor/core/taxonomy'

/** A slot in one of the places where it is met. */
export interface Place {
  shape: Shape
  surrounding: Surrounding
}

/** All places of the slots that some of the ads fit, in the market's order. */
export function placesOf({ format, ads }: LinePreview): Place[] {
  const shapes = shapesOf(format).filter((shape) => ads.some((ad) => ad.shapes.includes(shape)))
  return shapes.flatMap((shape) => surroundingsOf(shape).map((surrounding) => ({ shape, surrounding })))
}

/** Ads that fit a slot. */
export const adsFor = (ads: readonly AdPreview[], shape: Shape) => ads.filter((ad) => ad.shapes.includes(shape))

/** What an ad says, by its parts. */
export const saidBy = ({ said }: AdPreview): Readonly<Record<string, string>> =>
  Object.fromEntries(said.map(({ part, value }) => [part, value]))
