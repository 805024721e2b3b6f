import { createHash, randomBytes } from 'node:crypto'
import { Op, type Sequelize } from 'sequelize'
import { Session, User, UserAdvertiser } from '../models/index.js'
import { wrongSignIn } from '../errors.js'
import { passwordFits } from './passwords.js'
import type { Role } from '@tin-harbor/core/buying'

const SESSION_SECONDS = 14 * 86_400

/** The signed-in user, as routes see them. */
export interface Actor {
  id: number
  name: string
  email: string
  role: Role
  organisationId: number
  /** Numbers of the advertisers they may see, or all of them. */
  advertisers: readonly number[] | 'all'
}

export const now = () => Math.floor(Date.now() / 1000)
const digest = (token: string) => createHash('sha256').update(token).digest('hex')

/** Signs in; only the token's digest is stored. */
export async function signIn(sequelize: Sequelize, email: string, password: string): Promise<{ token: string; maxAge: number }> {
  const user = await User.findOne({ where: { email: email.trim().toLowerCase() } })
  if (!(await passwordFits(user?.passwordHash ?? null, password)) || !user) throw wrongSignIn()
  const token = randomBytes(32).toString('base64url')
  await sequelize.transaction(async (transaction) => {
    await Session.destroy({ where: { expiresAt: { [Op.lt]: now() } }, transaction })
    await Session.create({ tokenHash: digest(token), userId: user.id, expiresAt: now() + SESSION_SECONDS }, { transaction })
  })
  return { token, maxAge: SESSION_SECONDS }
}

export async function signOut(sequelize: Sequelize, token: string): Promise<void> {
  await sequelize.transaction((transaction) => Session.destroy({ where: { tokenHash: digest(token) }, transaction }))
}

/** The user a cookie belongs to, or null. */
export async function actorOf(token: string | undefined): Promise<Actor | null> {
  if (!token) return null
  const session = await Session.findByPk(digest(token))
  if (!session || session.expiresAt < now()) return null
  const user = await User.findByPk(session.userId)
  if (!user) return null
  const advertisers = user.allAdvertisers ? 'all' as const
    : (await UserAdvertiser.findAll({ where: { userId: user.id } })).map((row) => row.advertiserId)
  return { id: user.id, name: user.name, email: user.email, role: user.role, organisationId: user.organisationId, advertisers }
}

export function maySee(actor: Actor, advertiserId: number): boolean {
  return actor.advertisers === 'all' || actor.advertisers.includes(advertiserId)
}
