import type { Transaction } from 'sequelize'
import type { AdView } from '@tin-harbor/core/contract'
import { fittingShapes } from '@tin-harbor/core/creative'
import { Ad, Creative } from '../creatives/creative-model.js'
import { MadeCreative } from '../creatives/made-creative-model.js'

/** An ad on a line with what it shows: a picture of a fixed size, or a creative that was made. */
export interface AdShown {
  ad: Ad
  picture: Creative | undefined
  made: MadeCreative | undefined
}

/** Ads of a line, or of several, in the order in which they were put there. */
export async function adsShownOn(lineId: number | number[], transaction?: Transaction): Promise<AdShown[]> {
  return adsShown(await Ad.findAll({ where: { lineId, removed: false }, order: [['id', 'ASC']], transaction }), transaction)
}

/** What some ads show. */
export async function adsShown(ads: readonly Ad[], transaction?: Transaction): Promise<AdShown[]> {
  const pictures = await Creative.findAll({ where: { id: ads.flatMap((ad) => ad.creativeId ?? []) }, transaction })
  const made = await MadeCreative.findAll({ where: { id: ads.flatMap((ad) => ad.madeCreativeId ?? []) }, transaction })
  const pictureOf = new Map(pictures.map((one) => [one.id, one]))
  const madeOf = new Map(made.map((one) => [one.id, one]))
  return ads.map((ad) => ({ ad, picture: pictureOf.get(ad.creativeId ?? 0), made: madeOf.get(ad.madeCreativeId ?? 0) }))
}

export const adsOf = async (lineId: number | number[], transaction?: Transaction): Promise<AdView[]> =>
  (await adsShownOn(lineId, transaction)).map(adView)

export function adView({ ad: { id, creativeId, madeCreativeId, review, stopped }, picture, made }: AdShown): AdView {
  const common = { id, creativeId, madeCreativeId, review, stopped: stopped ?? null }
  if (picture) {
    const { name, slotSize, width, height, bytes, type } = picture
    return { ...common, name, size: slotSize, shapes: [slotSize], width, height, bytes, type }
  }
  if (!made) throw new Error(`Ad ${id} has no creative.`)
  const shapes = [...fittingShapes(made)]
  const seconds = 'seconds' in made.parts ? (made.parts.seconds as number) : undefined
  return { ...common, name: made.name, size: shapes.join(', '), shapes, width: 0, height: 0, bytes: 0, type: made.kind, seconds }
}
