import { Op, type Transaction } from 'sequelize'
import { adRules, flightHours, termsOfAd, type LineDraft } from '@tin-harbor/core/buying'
import type { AdView } from '@tin-harbor/core/contract'
import { NO_LIMITS, type LineRules } from '@tin-harbor/core/exchange'
import type { ForLive } from '@tin-harbor/core/forecast'
import { SHAPES, shapesOf } from '@tin-harbor/core/taxonomy'
import { grantedDeals } from '../deals/granted.js'
import { dataCost } from '../forecasts/questions.js'
import { conflict } from '../http/errors.js'
import { Ad } from '../creatives/creative-model.js'
import { LineRevision, type Line, type StoredRules } from '../lines/line-model.js'
import { adView, adsOf, adsShown } from '../lines/ads-shown.js'
import { meanViewPoint, viewPointOf } from '../lines/view-points.js'
import { now, type Actor } from '../security/sessions.js'

/** What the exchange buys by: a line as it goes live. */
async function rulesOf(
  line: Line,
  draft: LineDraft,
  organisationId: number,
  ads: readonly AdView[],
  { forecast, traffic, landscape, correction }: ForLive
): Promise<Omit<LineRules, 'revision' | 'liveFromHour'>> {
  const { model, maxMicros, adjustments, repeatDiscount, steps, aim } = draft.price
  const bidMicros = draft.price.bidMicros ?? maxMicros
  if (bidMicros === null) throw conflict('A line without a bid cannot go live.')
  return {
    line: line.id,
    campaign: line.campaignId,
    targeting: draft.targeting,
    shapes: shapesOf(draft.format).map((shape) => SHAPES.indexOf(shape)),
    price: { model, bidMicros, maxMicros, adjustments, repeatDiscount, steps },
    aim: aim ?? null,
    ...(correction === null ? {} : { firstCorrection: correction }),
    follow: landscape,
    zone: draft.zone,
    ...flightHours(draft.flight, draft.zone),
    limits: { ...NO_LIMITS, ...Object.fromEntries(Object.entries(draft.budget).map(([name, value]) => [name, value ?? null])) },
    pacing: draft.pacing,
    rotation: draft.rotation,
    caps: draft.caps,
    hours: draft.hours ?? null,
    gapMinutes: draft.gapMinutes ?? 0,
    dataMicros: dataCost(draft),
    viewPoint: meanViewPoint(draft, ads),
    buys: draft.buys ? { open: draft.buys.open, deals: await grantedDeals(draft.buys.deals, organisationId) } : undefined,
    traffic,
    demandMicros: forecast.demandMicros,
    ads: ads.flatMap((ad) =>
      ad.shapes.map((shape) =>
        adRules(draft, { ad: ad.id, shape: (SHAPES as readonly string[]).indexOf(shape), viewPoint: viewPointOf(draft, ad.seconds) })
      )
    )
  }
}

/** Ads in whose places others of the draft stand that are not cleared yet: they go on as they were, by what is said of the new ones. */
async function earlierOf(line: Line, draft: LineDraft, transaction: Transaction): Promise<Pick<StoredRules, 'earlier'>> {
  const fresh = await Ad.findAll({ where: { lineId: line.id, removed: false, replaces: { [Op.not]: null } }, transaction })
  const waiting = fresh.filter(({ clearedLandings }) => clearedLandings === null)
  const old = await Ad.findAll({
    where: { id: waiting.flatMap(({ replaces }) => replaces ?? []), clearedLandings: { [Op.not]: null } },
    order: [['id', 'ASC']],
    transaction
  })
  if (old.length === 0) return {}
  const shown = await adsShown(old, transaction)
  return {
    earlier: shown.map(adView).flatMap((ad) => {
      const by = waiting.find(({ replaces }) => replaces === ad.id)?.id ?? ad.id
      const terms = { ads: [{ ...termsOfAd(draft, by), ad: ad.id }] }
      return ad.shapes.map((shape) =>
        adRules(terms, { ad: ad.id, shape: (SHAPES as readonly string[]).indexOf(shape), viewPoint: viewPointOf(draft, ad.seconds) })
      )
    })
  }
}

/** Makes an immutable revision; it is in force only as part of a publication. */
export async function makeRevision(
  actor: Actor,
  line: Line,
  { draft, live, hour, kept }: { draft: LineDraft; live: ForLive; hour: number; kept?: StoredRules },
  transaction: Transaction
): Promise<LineRevision> {
  const ads = await adsOf(line.id, transaction)
  const made = (await rulesOf(line, draft, actor.organisationId, ads, live)) as LineRules
  const rules: StoredRules = kept
    ? { ...made, ads: kept.ads.map((ad) => adRules(draft, ad)), ...(kept.earlier ? { earlier: kept.earlier } : {}) }
    : { ...made, ...(await earlierOf(line, draft, transaction)) }
  return LineRevision.create(
    { lineId: line.id, draft, rules, forecast: live.forecast, madeBy: actor.id, madeAt: now(), marketHour: hour },
    { transaction }
  )
}
