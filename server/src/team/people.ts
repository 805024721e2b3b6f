import { Op, type Sequelize, type Transaction } from 'sequelize'
import type { Member } from '@tin-harbor/core/buying'
import type { TeamView } from '@tin-harbor/core/contract'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { conflict, invalidField, stale, unknownObject } from '../http/errors.js'
import { now, type Actor } from '../security/sessions.js'
import { audit } from './audit.js'
import { AccessToken, Invitation } from './team-models.js'
import { Session, User, UserAdvertiser } from './user-model.js'

export async function findUser(id: number): Promise<User> {
  const user = await User.findByPk(id)
  if (!user) throw unknownObject('user')
  return user
}

/** Everybody of an organisation, and who is asked in. */
export async function teamOf(organisationId: number): Promise<Omit<TeamView, 'outbox'>> {
  const users = await User.findAll({ where: { organisationId }, order: [['id', 'ASC']] })
  const userId = users.map(({ id }) => id)
  const given = await UserAdvertiser.findAll({ where: { userId } })
  const sessions = await Session.findAll({ where: { userId, expiresAt: { [Op.gte]: now() } } })
  const tokens = await AccessToken.findAll({ where: { userId, revokedAt: null, expiresAt: { [Op.gte]: now() } } })
  const open = { organisationId, usedAt: null, revokedAt: null, expiresAt: { [Op.gte]: now() } }
  const names = new Map(users.map(({ id, name }) => [id, name]))
  return {
    people: users.map(({ id, version, name, email, role, allAdvertisers, active }) => {
      const own = sessions.filter((session) => session.userId === id)
      const last = Math.max(0, ...own.map(({ seenAt }) => seenAt))
      return {
        id,
        version,
        name,
        email,
        role,
        allAdvertisers,
        advertisers: given.filter((one) => one.userId === id).map(({ advertiserId }) => advertiserId),
        active,
        seenAt: last === 0 ? null : last,
        sessions: own.length,
        tokens: tokens.filter((token) => token.userId === id).length
      }
    }),
    invitations: (await Invitation.findAll({ where: open, order: [['id', 'DESC']] })).map((one) => ({
      id: one.id,
      email: one.email,
      role: one.role,
      allAdvertisers: one.allAdvertisers,
      advertisers: one.advertisers,
      madeBy: names.get(one.madeBy) ?? 'somebody who left',
      madeAt: one.madeAt,
      expiresAt: one.expiresAt
    })),
    advertisers: (await Advertiser.findAll({ where: { organisationId }, order: [['id', 'ASC']] })).map(({ id, name }) => ({ id, name }))
  }
}

/** Refuses advertisers of others. */
export async function requireOwnAdvertisers(
  organisationId: number,
  advertisers: readonly number[],
  transaction?: Transaction
): Promise<void> {
  const own = await Advertiser.count({ where: { organisationId, id: [...advertisers] }, transaction })
  if (own !== new Set(advertisers).size) throw invalidField('advertisers', 'One of these is no advertiser of this organisation.')
}

/** Sets what somebody may. Somebody stays who may say so: the last admin is never made anything else. */
export async function saveMember(sequelize: Sequelize, actor: Actor, userId: number, version: number, member: Member): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const { organisationId } = actor
    // All admins are held, so that two who demote each other at once do not both.
    const admins = await User.findAll({
      where: { organisationId, role: 'admin', active: true },
      order: [['id', 'ASC']],
      transaction,
      lock: transaction.LOCK.UPDATE
    })
    const user = await User.findByPk(userId, { transaction, lock: transaction.LOCK.UPDATE, rejectOnEmpty: true })
    const was = await memberOf(user, transaction)
    if (user.version !== version) throw stale('user', was)
    const staysAdmin = member.role === 'admin' && member.active
    if (!staysAdmin && admins.every(({ id }) => id === userId) && admins.length > 0)
      throw conflict(`${user.name} is the last admin: make somebody else one first.`)
    const { role, active, allAdvertisers } = member
    const advertisers = allAdvertisers ? [] : [...new Set(member.advertisers)]
    await requireOwnAdvertisers(organisationId, advertisers, transaction)
    await user.update({ role, active, allAdvertisers, version: version + 1 }, { transaction })
    await UserAdvertiser.destroy({ where: { userId }, transaction })
    await UserAdvertiser.bulkCreate(
      advertisers.map((advertiserId) => ({ userId, advertiserId })),
      { transaction }
    )
    if (!active) await Session.destroy({ where: { userId }, transaction })
    const became = { role, active, allAdvertisers, advertisers }
    await audit(actor, 'save', { kind: 'user', id: userId, advertiserId: null }, was, became, transaction)
  })
}

async function memberOf({ id, role, active, allAdvertisers }: User, transaction: Transaction): Promise<Member> {
  const given = await UserAdvertiser.findAll({ where: { userId: id }, order: [['advertiserId', 'ASC']], transaction })
  return { role, active, allAdvertisers, advertisers: given.map(({ advertiserId }) => advertiserId) }
}

/** Signs somebody out everywhere. */
export async function endSessionsOf(sequelize: Sequelize, actor: Actor, userId: number): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const sessions = await Session.destroy({ where: { userId }, transaction })
    await audit(actor, 'end sessions', { kind: 'user', id: userId, advertiserId: null }, { sessions }, { sessions: 0 }, transaction)
  })
}
