import type { Logger } from 'pino'
import type { Sequelize, Transaction } from 'sequelize'
import { Ad } from '../creatives/creative-model.js'
import { putOf } from '../going-live/claims.js'
import { isSomeInForce, lockMarket, publish, readMarket } from '../going-live/publications.js'
import { retrying } from '../database/connection.js'
import type { Reviews } from '../deps.js'
import { Line } from '../lines/line-model.js'
import type { ReviewAnswer, Reviewer } from '../standins/reviewer.js'
import { AdReview } from './review-model.js'
import { settleLine } from './sending.js'

const ANSWERED_WITHIN_MS = 8000
const MOST_AT_ONCE = 200

/** Asks the reviewer, and publishers of deals, for what is due; what they answer acts from the next market hour. */
export class ReviewDesk implements Reviews {
  /** Whether it could not be asked the last time. */
  isAway = false
  private asking: Promise<void> = Promise.resolve()

  constructor(
    private readonly sequelize: Sequelize,
    readonly reviewer: Reviewer,
    private readonly log: Logger
  ) {}

  /** Asks for all that waits; settles when it is known what was answered by now. One asks after the other. */
  ask(): Promise<void> {
    const asked = this.asking.then(() => this.askNow())
    this.asking = asked.catch(() => undefined)
    return asked
  }

  private async askNow(): Promise<void> {
    const rows = await AdReview.findAll({ where: { state: 'waits' }, order: [['id', 'ASC']] })
    if (rows.length === 0) return
    const { hour } = await readMarket()
    const byId = new Map(rows.map((row) => [row.id, row]))
    const answers: ReviewAnswer[] = []
    try {
      for (let n = 0; n < rows.length; n += MOST_AT_ONCE) answers.push(...(await this.post(rows.slice(n, n + MOST_AT_ONCE), hour)))
      this.isAway = false
    } catch (error) {
      // Nothing is lost: what waits is asked about at the next hour.
      if (!this.isAway) this.log.warn({ err: error }, 'the reviewer is away')
      this.isAway = true
    }
    const byLine = new Map<number, ReviewAnswer[]>()
    for (const answer of answers) {
      const line = byId.get(answer.review)?.lineId
      if (line !== undefined) byLine.set(line, [...(byLine.get(line) ?? []), answer])
    }
    for (const [line, own] of byLine) await retrying(() => this.apply(line, own))
  }

  private async post(rows: readonly AdReview[], hour: number): Promise<ReviewAnswer[]> {
    const response = await fetch(`${this.reviewer.address}/reviews`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({
        hour,
        ads: rows.map(({ id, sentHour, publisher, reviewed }) => ({ review: id, sentHour, publisher, reviewed }))
      }),
      signal: AbortSignal.timeout(ANSWERED_WITHIN_MS)
    })
    if (response.status !== 200) throw new Error(`The reviewer answered ${response.status}.`)
    return ((await response.json()) as { answers: ReviewAnswer[] }).answers
  }

  /** All answers about one line at once: its ads, its state, and what is in force of it. */
  private async apply(lineId: number, answers: readonly ReviewAnswer[]): Promise<void> {
    await this.sequelize.transaction(async (transaction) => {
      const state = await lockMarket(transaction)
      const line = await Line.findByPk(lineId, { transaction, lock: transaction.LOCK.UPDATE })
      const changed = new Set<number>()
      for (const { review, state: became, findings } of answers) {
        const row = await AdReview.findByPk(review, { transaction, lock: transaction.LOCK.UPDATE })
        if (row?.state !== 'waits') continue
        await row.update({ state: became, findings, answeredHour: state.hour }, { transaction })
        changed.add(row.adId)
      }
      for (const ad of changed) await settleAd(ad, transaction)
      if (!line || changed.size === 0) return
      const was = line.state
      await settleLine(line, state.hour, transaction)
      if (line.state !== was) line.version++
      const put = putOf(line, state.hour)
      await line.save({ transaction })
      if (put || (await isSomeInForce(state, [lineId], transaction)))
        await publish(state, { ...(put ? { puts: new Map([[lineId, put]]) } : {}), madeBy: null }, transaction)
    })
  }
}

/** What an ad is by all that was answered of it: cleared once the reviewer cleared it and no publisher is still to answer. */
async function settleAd(adId: number, transaction: Transaction): Promise<void> {
  const ad = await Ad.findByPk(adId, { transaction })
  const rows = await AdReview.findAll({ where: { adId }, order: [['id', 'DESC']], transaction })
  const own = rows.filter(({ state }) => state !== 'withdrawn')
  const last = own.find(({ publisher }) => publisher === null)
  if (!ad || !last) return
  if (last.state === 'refused') await ad.update({ review: 'refused' }, { transaction })
  else if (last.state === 'cleared' && own.every(({ state }) => state !== 'waits'))
    await ad.update({ review: 'cleared', clearedLandings: last.landings }, { transaction })
}
