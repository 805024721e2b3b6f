import type { Sequelize } from 'sequelize'
import { nextState } from '@tin-harbor/core/buying'
import { Ad } from '../creatives/creative-model.js'
import { lockMarket } from '../going-live/publications.js'
import { conflict, unknownObject } from '../http/errors.js'
import { findLine } from '../lines/lines.js'
import type { Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { AdReview } from './review-model.js'
import { byHourOf } from './sending.js'

export async function findReview(id: number): Promise<AdReview> {
  const review = await AdReview.findByPk(id)
  if (!review) throw unknownObject('review')
  return review
}

/** Answers a refusal: the ad is looked at once more, with what is written beside it. */
export async function answerRefusal(sequelize: Sequelize, actor: Actor, id: number, text: string): Promise<number> {
  return sequelize.transaction(async (transaction) => {
    const { hour } = await lockMarket(transaction)
    const row = await AdReview.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE, rejectOnEmpty: true })
    const { adId, lineId, advertiserId, publisher, desk, reviewed, landings } = row
    const newer = await AdReview.findOne({ where: { adId, publisher }, order: [['id', 'DESC']], transaction })
    if (row.state !== 'refused' || newer?.id !== id) throw conflict('Only a refusal that is the last word on an ad is answered.')
    const ad = await Ad.findByPk(adId, { transaction, rejectOnEmpty: true })
    if (ad.removed) throw conflict('The ad is not on its line any more.')
    await AdReview.create(
      {
        adId,
        lineId,
        advertiserId,
        publisher,
        desk,
        reviewed: { ...reviewed, note: [reviewed.note, text].filter(Boolean).join('\n') },
        landings,
        state: 'waits',
        findings: [],
        sentHour: hour,
        byHour: byHourOf(hour, publisher),
        sentBy: actor.id
      },
      { transaction }
    )
    if (publisher === null) await ad.update({ review: 'in review' }, { transaction })
    const line = await findLine(lineId, transaction)
    if (line.state === 'refused') await line.update({ state: nextState(line.state, 'answer'), version: line.version + 1 }, { transaction })
    await audit(actor, 'answer', { kind: 'ad', id: adId, advertiserId }, { findings: row.findings }, { text }, transaction)
    return lineId
  })
}
