import type { Request } from 'express'
import { Sequelize } from 'sequelize'
import { RIGHTS, TOKEN_RIGHTS, hasRight, type Right } from '@tin-harbor/core/buying'
import { AppError } from '../http/errors.js'
import { AccessToken } from '../team/team-models.js'
import { User } from '../team/user-model.js'
import { digestOf } from './secrets.js'
import { actorFor, now, type Actor } from './sessions.js'

/** Says to whoever finds one what it is. */
export const TOKEN_PREFIX = 'tinharbor_'
/** Between two notes of when a token was last used. */
const USED_SECONDS = 60

/** The token that a call brings, without looking at it; null where it brings none. @throws for other ways to say who asks */
export function bearerOf(req: Request): string | null {
  const { authorization } = req.headers
  if (authorization === undefined) return null
  const found = /^Bearer ([\w-]{1,200})$/i.exec(authorization)
  if (!found) throw wrongToken()
  return found[1]
}

const wrongToken = () => new AppError(401, 'wrong-token', 'This token is unknown, has ended or was taken back.')

/** Who a token acts for: its owner as they are now, with what of their rights and advertisers the token has. */
export async function actorOfToken(secret: string): Promise<Actor> {
  const token = await AccessToken.findOne({ where: { tokenHash: digestOf(secret) } })
  if (!token || token.revokedAt !== null || token.expiresAt < now()) throw wrongToken()
  const user = await User.findByPk(token.userId)
  if (!user?.active) throw wrongToken()
  if (now() - (token.usedAt ?? 0) >= USED_SECONDS) await noteUsed(token)
  const actor = await actorFor(user)
  return {
    ...actor,
    advertisers: actor.advertisers.filter((id) => token.advertisers === null || token.advertisers.includes(id)),
    token: { id: token.id, rights: token.rights }
  }
}

async function noteUsed({ id, sequelize }: AccessToken): Promise<void> {
  if (!(sequelize instanceof Sequelize)) return
  await sequelize.transaction((transaction) => AccessToken.update({ usedAt: now() }, { where: { id }, transaction }))
}

/** Those of some rights that somebody can give to a token now. */
export const givable = ({ role }: Pick<Actor, 'role'>, rights: readonly Right[] = Object.keys(RIGHTS) as Right[]): Right[] =>
  rights.filter((right) => TOKEN_RIGHTS.includes(right) && hasRight(role, right))
