import type { Sequelize } from 'sequelize'
import { plainAds, type LineDraft } from '@tin-harbor/core/buying'
import { OUTCOMES, learnedEvent, ownHistory, soldBy, type OwnHistory, type PassedDay, type TrackerRules } from '@tin-harbor/core/exchange'
import { SHAPES, shapesOf } from '@tin-harbor/core/taxonomy'
import { HOURS_PER_DAY, localDayOf, zoneIndex } from '@tin-harbor/core/time'
import { factsFrom } from '../delivery/stored.js'
import { LineRevision } from '../lines/line-model.js'
import { factsOf } from '../delivery/line-facts.js'
import { outcomesByDay } from '../delivery/outcomes.js'

/** Outcomes of what passed a line's price tests and was not bought by another of ours: whatever stopped it then. */
const PASSED = OUTCOMES.slice(OUTCOMES.indexOf('no_money')).filter((outcome) => outcome !== 'own_line')
/** Days that are looked back on. */
const LOOK_BACK_DAYS = 7
/** Revisions that are looked at for when the terms were last changed. */
const MOST_REVISIONS = 30

/** What of a draft decides which opportunities pass its price tests. */
export const termsOf = ({ format, targeting, price, hours, buys, zone, ads }: LineDraft) =>
  JSON.stringify([
    format,
    targeting,
    price,
    hours,
    buys,
    zone,
    plainAds(ads).map(({ ad, off, bidMicros, targeting: own }) => [ad, off, bidMicros, own])
  ])

/** A line in force, or what was in force last: since which hour it has been so without a break. */
interface InForce {
  line: number
  liveFromHour: number | null
}

/**
 * What a line's results say of a draft of it; null without any. How much passes its price tests is read where the draft's terms are those
 * that it ran under.
 */
export async function historyOf(
  sequelize: Sequelize,
  { line, liveFromHour }: InForce,
  draft: LineDraft,
  { trackers, nowHour }: { trackers: readonly TrackerRules[]; nowHour: number }
): Promise<OwnHistory | null> {
  const revisions = await LineRevision.findAll({
    // Not their forecasts and rules, which are large.
    attributes: ['draft', 'marketHour'],
    where: { lineId: line },
    order: [['id', 'DESC']],
    limit: MOST_REVISIONS
  })
  if (revisions.length === 0) return null
  const zone = zoneIndex(draft.zone)
  const { model, bidMicros, maxMicros, aim, follow } = draft.price
  const terms = { price: { model, bidMicros: bidMicros ?? 0, maxMicros }, aim: aim ?? null, follow: follow === true }
  const shapes = shapesOf(draft.format).map((shape) => SHAPES.indexOf(shape))
  return ownHistory(terms, factsFrom(await factsOf(sequelize, line, zone, learnedEvent(terms) !== null)), {
    today: localDayOf(zone, nowHour),
    sold: soldBy({ ads: [], shapes }, trackers),
    passed: await passedOf(sequelize, { line, liveFromHour }, draft, revisions, nowHour)
  })
}

async function passedOf(
  sequelize: Sequelize,
  { line, liveFromHour }: InForce,
  draft: LineDraft,
  revisions: readonly Pick<LineRevision, 'draft' | 'marketHour'>[],
  nowHour: number
): Promise<PassedDay[]> {
  const terms = termsOf(draft)
  const changed = revisions.findIndex((revision) => termsOf(revision.draft) !== terms)
  if (changed === 0 || liveFromHour === null) return []
  const since = Math.max(liveFromHour, revisions[(changed < 0 ? revisions.length : changed) - 1].marketHour)
  const today = Math.floor(nowHour / HOURS_PER_DAY)
  const from = Math.max(today - LOOK_BACK_DAYS, Math.ceil(since / HOURS_PER_DAY))
  if (from >= today) return []
  const counts = await outcomesByDay(sequelize, line, PASSED, from * HOURS_PER_DAY, today * HOURS_PER_DAY)
  return Array.from({ length: today - from }, (_, n) => ({ day: from + n, count: counts.get(from + n) ?? 0 }))
}
