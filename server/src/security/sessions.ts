import { createHash, randomBytes } from 'node:crypto'
import { Op, type Sequelize } from 'sequelize'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { Session, User, UserAdvertiser } from '../team/user-model.js'
import { wrongSignIn } from '../http/errors.js'
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
  /** Numbers of the advertisers they may see: none of another organisation. */
  advertisers: readonly number[]
}

/** Names whoever asks where people take turns. */
export const personOf = ({ id }: Pick<Actor, 'id'>) => String(id)

export const now = () => Math.floor(Date.now() / 1000)
/** Names a session without telling its token. */
export const sessionName = (token: string) => digest(token)
const digest = (token: string) => createHash('sha256').update(token).digest('hex')
/** Tells one password from another, and neither from its mark. */
const markOf = ({ passwordHash }: User) => digest(passwordHash).slice(0, 16)

/** Signs in; only the token's digest is stored. */
export async function signIn(sequelize: Sequelize, email: string, password: string): Promise<{ token: string; maxAge: number }> {
  const user = await User.findOne({ where: { email: email.trim().toLowerCase() } })
  if (!(await passwordFits(user?.passwordHash ?? null, password)) || !user) throw wrongSignIn()
  const token = randomBytes(32).toString('base64url')
  await sequelize.transaction(async (transaction) => {
    await Session.destroy({ where: { expiresAt: { [Op.lt]: now() } }, transaction })
    await Session.create(
      { tokenHash: digest(token), userId: user.id, expiresAt: now() + SESSION_SECONDS, passwordMark: markOf(user) },
      { transaction }
    )
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
  if (!user || markOf(user) !== session.passwordMark) return null
  const own = (await Advertiser.findAll({ attributes: ['id'], where: { organisationId: user.organisationId } })).map(({ id }) => id)
  const given = user.allAdvertisers
    ? null
    : new Set((await UserAdvertiser.findAll({ where: { userId: user.id } })).map((row) => row.advertiserId))
  const advertisers = given === null ? own : own.filter((id) => given.has(id))
  return { id: user.id, name: user.name, email: user.email, role: user.role, organisationId: user.organisationId, advertisers }
}

export function maySee(actor: Actor, advertiserId: number): boolean {
  return actor.advertisers.includes(advertiserId)
}
