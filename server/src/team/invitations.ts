import { Op, type Sequelize } from 'sequelize'
import { plainEmail, type Invitation as Asked } from '@tin-harbor/core/buying'
import type { InvitationOpened } from '@tin-harbor/core/contract'
import { AppError, conflict, invalidField, unknownObject } from '../http/errors.js'
import { hashPassword } from '../security/passwords.js'
import { digestOf, newSecret } from '../security/secrets.js'
import { now, type Actor } from '../security/sessions.js'
import { audit } from './audit.js'
import { requireOwnAdvertisers } from './people.js'
import { Invitation } from './team-models.js'
import { Organisation, User, UserAdvertiser } from './user-model.js'

const DAYS = 7

export async function findInvitation(id: number): Promise<Invitation> {
  const invitation = await Invitation.findByPk(id)
  if (!invitation) throw unknownObject('invitation')
  return invitation
}

/** Asks somebody in, by a link that is good once. Who is asked in already is asked anew: the link before is good no more. */
export async function invite(sequelize: Sequelize, actor: Actor, asked: Asked): Promise<{ id: number; secret: string }> {
  const { organisationId } = actor
  const { role, allAdvertisers } = asked
  const email = plainEmail(asked.email)
  const { secret, digest } = newSecret()
  const id = await sequelize.transaction(async (transaction) => {
    if (await User.findOne({ where: { organisationId, email }, transaction }))
      throw invalidField('email', 'Somebody with this address is here already.')
    const advertisers = allAdvertisers ? [] : [...new Set(asked.advertisers)]
    await requireOwnAdvertisers(organisationId, advertisers, transaction)
    await Invitation.update({ revokedAt: now() }, { where: { organisationId, email, usedAt: null, revokedAt: null }, transaction })
    const made = await Invitation.create(
      {
        organisationId,
        email,
        role,
        allAdvertisers,
        advertisers,
        tokenHash: digest,
        madeBy: actor.id,
        madeAt: now(),
        expiresAt: now() + DAYS * 86_400
      },
      { transaction }
    )
    await audit(
      actor,
      'invite',
      { kind: 'invitation', id: made.id, advertiserId: null },
      null,
      { email, role, allAdvertisers, advertisers },
      transaction
    )
    return made.id
  })
  return { id, secret }
}

export async function revokeInvitation(sequelize: Sequelize, actor: Actor, id: number): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const [revoked] = await Invitation.update({ revokedAt: now() }, { where: { id, usedAt: null, revokedAt: null }, transaction })
    if (revoked === 0) throw conflict('This invitation was used, or taken back before.')
    await audit(actor, 'take back', { kind: 'invitation', id, advertiserId: null }, null, null, transaction)
  })
}

const good = (secret: string) => ({ tokenHash: digestOf(secret), usedAt: null, revokedAt: null, expiresAt: { [Op.gte]: now() } })
const gone = () => new AppError(410, 'gone', 'This invitation was used, taken back, or is too old. Ask for another.')

/** What a link says before it is used. */
export async function openInvitation(secret: string): Promise<InvitationOpened> {
  const found = await Invitation.findOne({ where: good(secret) })
  if (!found) throw gone()
  const { name } = await Organisation.findByPk(found.organisationId, { rejectOnEmpty: true })
  return { email: found.email, role: found.role, organisation: name }
}

/** Makes the user whom a link asks in. The link is spent in one statement: of several who use it at once one is let in. */
export async function acceptInvitation(
  sequelize: Sequelize,
  { secret, name, password }: { secret: string; name: string; password: string }
): Promise<{ email: string }> {
  const passwordHash = await hashPassword(password)
  return sequelize.transaction(async (transaction) => {
    const [spent] = await Invitation.update({ usedAt: now() }, { where: good(secret), transaction })
    if (spent === 0) throw gone()
    const invitation = await Invitation.findOne({ where: { tokenHash: digestOf(secret) }, transaction, rejectOnEmpty: true })
    const { organisationId, email, role, allAdvertisers, advertisers } = invitation
    if (await User.findOne({ where: { email }, transaction })) throw conflict('Somebody with this address is here already.')
    const user = await User.create({ organisationId, name: name.trim(), email, role, passwordHash, allAdvertisers }, { transaction })
    await UserAdvertiser.bulkCreate(
      advertisers.map((advertiserId) => ({ userId: user.id, advertiserId })),
      { transaction }
    )
    await audit({ id: user.id }, 'come in', { kind: 'user', id: user.id, advertiserId: null }, null, { name, email, role }, transaction)
    return { email }
  })
}
