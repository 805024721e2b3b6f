import type { Sequelize } from 'sequelize'
import { Payment } from '../../src/money/payment-model.js'
import { AccessToken, Invitation } from '../../src/team/team-models.js'
import { Session, User } from '../../src/team/user-model.js'

/** Numbers of what is an organisation's as a whole, or one of its users': one of each that a path may name. */
export async function organisationNumbers(
  sequelize: Sequelize,
  organisationId: number
): Promise<Record<'paymentId' | 'userId' | 'invitationId' | 'sessionId' | 'tokenId', number>> {
  return sequelize.transaction(async (transaction) => {
    const moved = { kind: 'card' as const, amountMicros: 10_000_000, state: 'accepted' as const, askedHour: 0, askedAt: 0, askedBy: null }
    const { id: paymentId } = await Payment.create(
      { organisationId, reference: `theirs-${organisationId}-0001`, ...moved },
      { transaction }
    )
    const email = `theirs-${organisationId}@tarnwater.example`
    const { id: userId } = await User.create(
      { organisationId, name: 'Theirs', email, role: 'reader', passwordHash: 'x', allAdvertisers: true },
      { transaction }
    )
    const seen = { role: 'reader' as const, allAdvertisers: true, advertisers: [] }
    const { id: invitationId } = await Invitation.create(
      { organisationId, email: `new-${email}`, ...seen, tokenHash: email, madeBy: userId, madeAt: 1, expiresAt: 2 ** 31 - 1 },
      { transaction }
    )
    const { tokenHash } = await Session.create(
      { tokenHash: email, userId, madeAt: 1, seenAt: 1, expiresAt: 2 ** 31 - 1, passwordMark: '' },
      { transaction }
    )
    const { id: sessionId } = await Session.findByPk(tokenHash, { transaction, rejectOnEmpty: true })
    const { id: tokenId } = await AccessToken.create(
      { userId, name: 'Theirs', tokenHash: email, rights: ['read'], advertisers: null, madeAt: 1, expiresAt: 2 ** 31 - 1 },
      { transaction }
    )
    return { paymentId, userId, invitationId, sessionId, tokenId }
  })
}
