import { Op, type Sequelize } from 'sequelize'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { Session, User, UserAdvertiser } from '../team/user-model.js'
import { wrongSignIn } from '../http/errors.js'
import { passwordFits } from './passwords.js'
import { digestOf, newSecret } from './secrets.js'
import { hasRight, plainEmail, type Right, type Role } from '@tin-harbor/core/buying'

const SESSION_SECONDS = 14 * 86_400
/** Between two notes of when a session was last used. */
const SEEN_SECONDS = 60
const MOST_AGENT = 200

/** The signed-in user, as routes see them. */
export interface Actor {
  id: number
  name: string
  email: string
  role: Role
  organisationId: number
  /** Numbers of the advertisers they may see: none of another organisation. */
  advertisers: readonly number[]
  /** What a token leaves of their rights; null where they are here themselves. */
  token?: { id: number; rights: readonly Right[] } | null
}

/** Whether somebody may do something now: by their role, and by the token that they sent. */
export const may = ({ role, token }: Pick<Actor, 'role' | 'token'>, right: Right): boolean =>
  hasRight(role, right) && (!token || token.rights.includes(right))

/** Names whoever asks where people take turns. */
export const personOf = ({ id }: Pick<Actor, 'id'>) => String(id)

export const now = () => Math.floor(Date.now() / 1000)
/** Names a session without telling its token. */
export const sessionName = digestOf
/** Tells one password from another, and neither from its mark. */
export const markOf = ({ passwordHash }: Pick<User, 'passwordHash'>) => digestOf(passwordHash).slice(0, 16)

/** Signs in; only the token's digest is stored. */
export async function signIn(
  sequelize: Sequelize,
  email: string,
  password: string,
  agent = ''
): Promise<{ token: string; maxAge: number }> {
  const user = await User.findOne({ where: { email: plainEmail(email) } })
  if (!(await passwordFits(user?.passwordHash ?? null, password)) || !user?.active) throw wrongSignIn()
  const { secret: token, digest: tokenHash } = newSecret()
  await sequelize.transaction(async (transaction) => {
    await Session.destroy({ where: { expiresAt: { [Op.lt]: now() } }, transaction })
    await Session.create(
      {
        tokenHash,
        userId: user.id,
        madeAt: now(),
        seenAt: now(),
        agent: agent.slice(0, MOST_AGENT),
        expiresAt: now() + SESSION_SECONDS,
        passwordMark: markOf(user)
      },
      { transaction }
    )
  })
  return { token, maxAge: SESSION_SECONDS }
}

export async function signOut(sequelize: Sequelize, token: string): Promise<void> {
  await sequelize.transaction((transaction) => Session.destroy({ where: { tokenHash: digestOf(token) }, transaction }))
}

/** The user a cookie belongs to, or null. */
export async function actorOf(token: string | undefined): Promise<Actor | null> {
  if (!token) return null
  const session = await Session.findByPk(digestOf(token))
  if (!session || session.expiresAt < now()) return null
  const user = await User.findByPk(session.userId)
  if (!user?.active || markOf(user) !== session.passwordMark) return null
  if (now() - session.seenAt >= SEEN_SECONDS) await noteSeen(session)
  return actorFor(user)
}

/** Not at each call: when somebody was last here is told by the minute. */
async function noteSeen(session: Session): Promise<void> {
  const { sequelize } = Session
  await sequelize?.transaction((transaction) => Session.update({ seenAt: now() }, { where: { tokenHash: session.tokenHash }, transaction }))
}

/** A user as they act, with what they may see now. */
export async function actorFor(user: User): Promise<Actor> {
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
