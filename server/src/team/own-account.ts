import { Op, type Sequelize } from 'sequelize'
import { plainEmail, type Formats } from '@tin-harbor/core/buying'
import type { SessionView } from '@tin-harbor/core/contract'
import { AppError, invalidField, unknownObject } from '../http/errors.js'
import { hashPassword, passwordFits } from '../security/passwords.js'
import { digestOf, newSecret } from '../security/secrets.js'
import { markOf, now, sessionName, type Actor } from '../security/sessions.js'
import { audit } from './audit.js'
import { PasswordReset } from './team-models.js'
import { Session, User } from './user-model.js'

const RESET_SECONDS = 3_600

/** Where somebody is signed in, the last used first. @param token of the session that asks */
export async function ownSessions({ id: userId }: Actor, token: string): Promise<SessionView[]> {
  const user = await User.findByPk(userId, { rejectOnEmpty: true })
  const sessions = await Session.findAll({
    where: { userId, passwordMark: markOf(user), expiresAt: { [Op.gte]: now() } },
    order: [['seenAt', 'DESC']]
  })
  return sessions.map(({ id, madeAt, seenAt, agent, tokenHash }) => ({
    id,
    madeAt,
    seenAt,
    agent,
    isThis: tokenHash === sessionName(token)
  }))
}

/** Whose a session is. */
export async function ownerOfSession(id: number): Promise<{ user: number }> {
  const session = await Session.findOne({ where: { id } })
  if (!session) throw unknownObject('session')
  return { user: session.userId }
}

/** @returns its name, by which open streams of it end */
export async function endSession(sequelize: Sequelize, actor: Actor, id: number): Promise<string> {
  const session = await Session.findOne({ where: { id, userId: actor.id } })
  if (!session) throw unknownObject('session')
  await sequelize.transaction((transaction) => Session.destroy({ where: { id, userId: actor.id }, transaction }))
  return session.tokenHash
}

export async function saveFormats(sequelize: Sequelize, actor: Actor, formats: Formats): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const user = await User.findByPk(actor.id, { transaction, rejectOnEmpty: true })
    await user.update({ formats }, { transaction })
  })
}

/** Changes somebody's password; all their sessions end but the one that asked. */
export async function changePassword(
  sequelize: Sequelize,
  actor: Actor,
  token: string,
  { old, password }: { old: string; password: string }
): Promise<void> {
  const user = await User.findByPk(actor.id, { rejectOnEmpty: true })
  if (!(await passwordFits(user.passwordHash, old))) throw invalidField('old', 'This is not your password.')
  requireNew(user, password)
  const passwordHash = await hashPassword(password)
  await sequelize.transaction(async (transaction) => {
    const locked = await User.findByPk(actor.id, { transaction, lock: transaction.LOCK.UPDATE, rejectOnEmpty: true })
    if (locked.passwordHash !== user.passwordHash) throw invalidField('old', 'This is not your password any more.')
    await locked.update({ passwordHash }, { transaction })
    const tokenHash = sessionName(token)
    await Session.destroy({ where: { userId: actor.id, tokenHash: { [Op.ne]: tokenHash } }, transaction })
    await Session.update({ passwordMark: markOf(locked) }, { where: { tokenHash }, transaction })
    await audit(actor, 'change password', { kind: 'user', id: actor.id, advertiserId: null }, null, null, transaction)
  })
}

function requireNew({ email }: User, password: string): void {
  if (password.trim().toLowerCase() === email) throw invalidField('password', 'A password is not your address.')
}

/** A secret for whoever forgot their password; null where nobody here has the address. Earlier ones are good no more. */
export async function askForReset(sequelize: Sequelize, email: string): Promise<{ user: User; secret: string } | null> {
  const user = await User.findOne({ where: { email: plainEmail(email), active: true } })
  if (!user) return null
  const { secret, digest } = newSecret()
  await sequelize.transaction(async (transaction) => {
    await PasswordReset.update({ usedAt: now() }, { where: { userId: user.id, usedAt: null }, transaction })
    await PasswordReset.create({ tokenHash: digest, userId: user.id, expiresAt: now() + RESET_SECONDS }, { transaction })
  })
  return { user, secret }
}

/** Sets a forgotten password by the secret of a letter, which is spent in one statement; all sessions end. */
export async function resetPassword(sequelize: Sequelize, { secret, password }: { secret: string; password: string }): Promise<void> {
  const passwordHash = await hashPassword(password)
  await sequelize.transaction(async (transaction) => {
    const tokenHash = digestOf(secret)
    const [spent] = await PasswordReset.update(
      { usedAt: now() },
      { where: { tokenHash, usedAt: null, expiresAt: { [Op.gte]: now() } }, transaction }
    )
    if (spent === 0) throw new AppError(410, 'gone', 'This link was used, or is too old. Ask for another letter.')
    const { userId } = await PasswordReset.findByPk(tokenHash, { transaction, rejectOnEmpty: true })
    const user = await User.findByPk(userId, { transaction, lock: transaction.LOCK.UPDATE, rejectOnEmpty: true })
    requireNew(user, password)
    await user.update({ passwordHash }, { transaction })
    await Session.destroy({ where: { userId }, transaction })
    await audit({ id: userId }, 'set a forgotten password anew', { kind: 'user', id: userId, advertiserId: null }, null, null, transaction)
  })
}
