import type { Sequelize } from 'sequelize'
import type { AccessTokenDraft } from '@tin-harbor/core/buying'
import type { AccessTokenMade, AccessTokenView } from '@tin-harbor/core/contract'
import { conflict, invalidField, unknownObject } from '../http/errors.js'
import { newSecret } from '../security/secrets.js'
import { now, type Actor } from '../security/sessions.js'
import { TOKEN_PREFIX, givable } from '../security/tokens.js'
import { audit } from './audit.js'
import { AccessToken } from './team-models.js'

/** Tokens that somebody has at once. */
const MOST_TOKENS = 50

export async function ownerOfToken(id: number): Promise<{ user: number }> {
  const token = await AccessToken.findByPk(id)
  if (!token) throw unknownObject('token')
  return { user: token.userId }
}

/** A user's tokens, the last made first. */
export async function tokensOf(actor: Actor): Promise<AccessTokenView[]> {
  const tokens = await AccessToken.findAll({ where: { userId: actor.id }, order: [['id', 'DESC']], limit: 2 * MOST_TOKENS })
  return tokens.map((token) => viewOf(token, actor))
}

const viewOf = ({ id, name, rights, advertisers, madeAt, expiresAt, usedAt, revokedAt }: AccessToken, actor: Actor): AccessTokenView => ({
  id,
  name,
  rights,
  now: givable(actor, rights),
  advertisers,
  madeAt,
  expiresAt,
  usedAt: usedAt ?? null,
  state: revokedAt != null ? 'revoked' : expiresAt < now() ? 'expired' : 'good'
})

/** Makes a token that may no more than its owner may now; its secret is told this once. */
export async function makeToken(sequelize: Sequelize, actor: Actor, draft: AccessTokenDraft): Promise<AccessTokenMade> {
  const { advertisers, days } = draft
  const name = draft.name.trim()
  const rights = [...new Set(draft.rights)]
  if (givable(actor, rights).length < rights.length) throw invalidField('rights', `A ${actor.role} cannot give more than they may.`)
  if (advertisers?.some((id) => !actor.advertisers.includes(id)))
    throw invalidField('advertisers', 'You do not see one of these advertisers.')
  const { secret, digest } = newSecret(TOKEN_PREFIX)
  return sequelize.transaction(async (transaction) => {
    const own = { userId: actor.id, revokedAt: null }
    if ((await AccessToken.count({ where: own, transaction })) >= MOST_TOKENS)
      throw conflict(`You have ${MOST_TOKENS} tokens; take one back that nobody uses.`)
    const token = await AccessToken.create(
      { userId: actor.id, name, tokenHash: digest, rights, advertisers, madeAt: now(), expiresAt: now() + days * 86_400 },
      { transaction }
    )
    await audit(actor, 'make', { kind: 'token', id: token.id, advertiserId: null }, null, { name, rights, advertisers, days }, transaction)
    return { secret, token: viewOf(token, actor) }
  })
}

/** Takes a token back; what it is used for from then on is refused. */
export async function revokeToken(sequelize: Sequelize, actor: Actor, id: number): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const [revoked] = await AccessToken.update({ revokedAt: now() }, { where: { id, userId: actor.id, revokedAt: null }, transaction })
    if (revoked > 0) await audit(actor, 'take back', { kind: 'token', id, advertiserId: null }, null, null, transaction)
  })
}
