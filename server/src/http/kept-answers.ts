import { createHash } from 'node:crypto'
import type { Request } from 'express'
import { Op, Sequelize, UniqueConstraintError } from 'sequelize'
import { retrying } from '../database/connection.js'
import { now, type Actor } from '../security/sessions.js'
import { KeptAnswer } from './answer-model.js'
import { AppError, conflict } from './errors.js'

/** How long an answer is kept. */
const KEPT_SECONDS = 86_400
const KEY = /^[\w-]{8,80}$/

/**
 * The key under which a request may be sent again; null without one, and where nothing is changed.
 * @throws where it cannot be one, or where no answer is kept: a secret is told once, and a file or a stream is no answer to keep
 */
export function keyOf(req: Request, isTaken: boolean): string | null {
  const key = req.get('idempotency-key')
  if (key === undefined || req.method === 'GET' || req.method === 'HEAD') return null
  if (!isTaken) throw new AppError(400, 'no-key', 'No answer of this is kept: it takes no Idempotency-Key.')
  if (!KEY.test(key)) throw new AppError(400, 'bad-key', 'An Idempotency-Key has 8 to 80 letters, digits, - or _.')
  return key
}

/** Tells one request from another under the same key. */
export const askedOf = (method: string, url: string, body: unknown): string =>
  createHash('sha256')
    .update(JSON.stringify([method, url, body ?? null]))
    .digest('hex')

const whoOf = ({ id, token }: Actor) => (token ? `t${token.id}` : `u${id}`)

/**
 * Does what is asked under a key once. Sent again it is answered as before; while it is done, and after a server was stopped in the middle
 * of it, that is said: then nobody knows whether it was done, and doing it again would be worse than asking. What failed was not done, and
 * may be tried again under its key.
 */
export async function keptOnce(
  actor: Actor,
  key: string,
  asked: string,
  work: () => Promise<unknown>
): Promise<{ answer: unknown; isAgain: boolean }> {
  const { sequelize } = KeptAnswer
  if (!(sequelize instanceof Sequelize)) throw new Error('There is no database yet.')
  const name = { who: whoOf(actor), name: key }
  try {
    await retrying(() =>
      sequelize.transaction((transaction) => KeptAnswer.create({ ...name, asked, isDone: false, answer: null, at: now() }, { transaction }))
    )
  } catch (error) {
    if (!(error instanceof UniqueConstraintError)) throw error
    return { answer: await before(name, asked), isAgain: true }
  }
  let answer: unknown
  try {
    answer = await work()
  } catch (error) {
    await sequelize.transaction((transaction) => KeptAnswer.destroy({ where: name, transaction }))
    throw error
  }
  await sequelize.transaction(async (transaction) => {
    const kept = await KeptAnswer.findOne({ where: name, transaction, rejectOnEmpty: true })
    await kept.update({ isDone: true, answer: answer ?? null }, { transaction })
  })
  return { answer, isAgain: false }
}

/** Answers that are older than they are kept go. */
export const sweepKept = (sequelize: Sequelize): Promise<number> =>
  sequelize.transaction((transaction) => KeptAnswer.destroy({ where: { at: { [Op.lt]: now() - KEPT_SECONDS } }, transaction }))

/** What was answered under a key before. */
async function before(where: { who: string; name: string }, asked: string): Promise<unknown> {
  const kept = await KeptAnswer.findOne({ where })
  if (!kept) throw conflict('This was tried at the same moment and failed; try it again.')
  if (kept.asked !== asked) throw new AppError(422, 'other-request', 'This key was used for another request; take a new one.')
  if (!kept.isDone)
    throw new AppError(
      409,
      'under-way',
      'This is being done, or was cut off while it was: look whether it was done before you ask under another key.'
    )
  return kept.answer ?? undefined
}
