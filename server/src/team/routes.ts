import {
  acceptSchema,
  accessTokenSchema,
  changePasswordSchema,
  forgottenSchema,
  formatsSchema,
  invitationSchema,
  isDate,
  memberSchema,
  newPasswordSchema,
  plainEmail,
  secretSchema
} from '@tin-harbor/core/buying'
import * as told from '@tin-harbor/core/contract'
import { idField, yup } from '@tin-harbor/core/input'
import { TRAIL_KINDS } from '@tin-harbor/core/wording'
import type { Deps } from '../deps.js'
import { retrying } from '../database/connection.js'
import { versionField } from '../http/fields.js'
import { ownAddress } from '../http/origin.js'
import { invitationLetter, passwordLetter } from '../mail/letters.js'
import { route, type Params, type Route } from '../http/registry.js'
import { setSession, sessionToken } from '../security/cookies.js'
import { SignInGuard } from '../security/sign-in-guard.js'
import { sessionName, signIn, signOut } from '../security/sessions.js'
import { acceptInvitation, findInvitation, invite, openInvitation, revokeInvitation } from './invitations.js'
import { askForReset, changePassword, endSession, ownSessions, ownerOfSession, resetPassword, saveFormats } from './own-account.js'
import { endSessionsOf, findUser, saveMember, teamOf } from './people.js'
import { makeToken, ownerOfToken, revokeToken, tokensOf } from './tokens.js'
import { trailOf } from './trail.js'
import { User } from './user-model.js'

const signInSchema = yup
  .object({
    email: yup.string().required('Type your e-mail address.').max(190, 'An e-mail address has at most 190 letters.'),
    password: yup.string().required('Type your password.').max(200, 'A password has at most 200 letters.')
  })
  .noUnknown()
const dateField = () => yup.string().test('date', 'A date is written as 2026-03-02.', (text) => text === undefined || isDate(text))
const trailSchema = yup
  .object({
    who: idField('Who?').optional() as yup.NumberSchema<number | undefined>,
    kind: yup.string().oneOf(TRAIL_KINDS, 'There is no such kind.'),
    advertiser: idField('Which advertiser?').optional() as yup.NumberSchema<number | undefined>,
    from: dateField(),
    to: dateField(),
    after: yup.string().max(40, 'This is no mark of a page.'),
    limit: yup.number().integer('A whole number.').min(1, 'At least one.').max(500, 'At most 500 at once.')
  })
  .noUnknown()

const userScope = async ({ params: { userId } }: { params: Params }) => ({ organisation: (await findUser(userId)).organisationId })
const invitationScope = async ({ params }: { params: Params }) => ({
  organisation: (await findInvitation(params.invitationId)).organisationId
})

/** Who is here and what they may, who they are to themselves, and what everybody did. */
export function teamRoutes(deps: Deps): Route[] {
  return [...sessionRoutes(deps), ...ownRoutes(deps), ...memberRoutes(deps), ...doorRoutes(deps)]
}

function sessionRoutes({ sequelize, configuration, events }: Deps): Route[] {
  const { instance } = configuration
  const guard = new SignInGuard()
  return [
    route({
      method: 'post',
      path: '/session',
      right: 'public',
      scope: 'seen',
      body: signInSchema,
      limit: 4096,
      answers: told.NOTHING,
      handle: async ({ body, req, res }) => {
        const agent = req.get('user-agent') ?? ''
        const { token, maxAge } = await guard.try(body.email, () => signIn(sequelize, body.email, body.password, agent))
        setSession(res, instance, token, maxAge)
      }
    }),
    route({
      method: 'delete',
      path: '/session',
      right: 'read',
      isPersonal: true,
      scope: 'seen',
      answers: told.NOTHING,
      handle: async ({ req, res }) => {
        const token = sessionToken(req, instance) ?? ''
        await signOut(sequelize, token)
        events.endSession(sessionName(token))
        setSession(res, instance, '', 0)
      }
    }),
    route({
      method: 'get',
      path: '/me',
      right: 'read',
      scope: 'seen',
      answers: told.userView,
      handle: async ({ actor: { id, name, email, role } }) => ({
        id,
        name,
        email,
        role,
        formats: (await User.findByPk(id, { rejectOnEmpty: true })).formats ?? null
      })
    })
  ]
}

/** What everybody does about themselves. */
function ownRoutes({ sequelize, configuration, events }: Deps): Route[] {
  const tokenIn = (req: Parameters<typeof sessionToken>[0]) => sessionToken(req, configuration.instance) ?? ''
  const own = { right: 'read', isPersonal: true, scope: 'seen' } as const
  return [
    route({
      ...own,
      method: 'put',
      path: '/me/password',
      body: changePasswordSchema,
      answers: told.NOTHING,
      handle: ({ actor, body, req }) => changePassword(sequelize, actor, tokenIn(req), body)
    }),
    route({
      ...own,
      method: 'put',
      path: '/me/formats',
      body: formatsSchema,
      answers: told.NOTHING,
      handle: ({ actor, body }) => saveFormats(sequelize, actor, body)
    }),
    route({
      ...own,
      method: 'get',
      path: '/me/sessions',
      answers: told.list(told.sessionView),
      handle: ({ actor, req }) => ownSessions(actor, tokenIn(req))
    }),
    route({
      ...own,
      method: 'delete',
      path: '/me/sessions/:sessionId',
      scope: ({ params: { sessionId } }) => ownerOfSession(sessionId),
      answers: told.list(told.sessionView),
      handle: async ({ actor, params, req }) => {
        events.endSession(await endSession(sequelize, actor, params.sessionId))
        return ownSessions(actor, tokenIn(req))
      }
    }),
    route({
      ...own,
      method: 'get',
      path: '/me/tokens',
      answers: told.list(told.accessTokenView),
      handle: ({ actor }) => tokensOf(actor)
    }),
    route({
      ...own,
      method: 'post',
      path: '/me/tokens',
      body: accessTokenSchema,
      answers: told.accessTokenMade,
      handle: ({ actor, body }) => makeToken(sequelize, actor, body)
    }),
    route({
      ...own,
      method: 'delete',
      path: '/me/tokens/:tokenId',
      scope: ({ params: { tokenId } }) => ownerOfToken(tokenId),
      answers: told.list(told.accessTokenView),
      handle: async ({ actor, params }) => {
        await revokeToken(sequelize, actor, params.tokenId)
        return tokensOf(actor)
      }
    })
  ]
}

/** What admins do about others. */
function memberRoutes({ sequelize, mail, configuration }: Deps): Route[] {
  const admins = { right: 'team', isPersonal: true, scope: 'seen' } as const
  const team = async (organisationId: number) => ({ ...(await teamOf(organisationId)), outbox: mail.outbox })
  return [
    route({
      ...admins,
      method: 'get',
      path: '/team',
      answers: told.teamView,
      handle: ({ actor }) => team(actor.organisationId)
    }),
    route({
      ...admins,
      method: 'put',
      path: '/team/people/:userId',
      scope: userScope,
      body: memberSchema.shape({ version: versionField }),
      answers: told.teamView,
      handle: async ({ actor, params, body: { version, ...member } }) => {
        await retrying(() => saveMember(sequelize, actor, params.userId, version, member))
        return team(actor.organisationId)
      }
    }),
    route({
      ...admins,
      method: 'delete',
      path: '/team/people/:userId/sessions',
      scope: userScope,
      answers: told.teamView,
      handle: async ({ actor, params }) => {
        await endSessionsOf(sequelize, actor, params.userId)
        return team(actor.organisationId)
      }
    }),
    route({
      ...admins,
      method: 'post',
      path: '/team/invitations',
      body: invitationSchema,
      answers: told.invitationMade,
      handle: async ({ actor, body, req }) => {
        const { id, secret } = await retrying(() => invite(sequelize, actor, body))
        const link = `${ownAddress(req, configuration.address)}/invitation#${secret}`
        return { id, link, mailed: await mail.send(plainEmail(body.email), invitationLetter(actor.name, link)) }
      }
    }),
    route({
      ...admins,
      method: 'delete',
      path: '/team/invitations/:invitationId',
      scope: invitationScope,
      answers: told.teamView,
      handle: async ({ actor, params }) => {
        await revokeInvitation(sequelize, actor, params.invitationId)
        return team(actor.organisationId)
      }
    }),
    route({
      ...admins,
      method: 'get',
      path: '/team/trail',
      query: trailSchema,
      answers: told.trailView,
      handle: ({ actor, query }) => trailOf(actor, query)
    })
  ]
}

/** What is open to whoever has the right link, and to who forgot a password. */
function doorRoutes({ sequelize, mail, configuration, log }: Deps): Route[] {
  const open = { right: 'public', scope: 'seen', limit: 4096 } as const
  return [
    route({
      ...open,
      method: 'post',
      path: '/invitations/opened',
      body: secretSchema,
      answers: told.invitationOpened,
      handle: ({ body }) => openInvitation(body.secret)
    }),
    route({
      ...open,
      method: 'post',
      path: '/invitations/accepted',
      body: acceptSchema,
      answers: told.NOTHING,
      handle: async ({ body, req, res }) => {
        const { email } = await retrying(() => acceptInvitation(sequelize, body))
        const { token, maxAge } = await signIn(sequelize, email, body.password, req.get('user-agent') ?? '')
        setSession(res, configuration.instance, token, maxAge)
      }
    }),
    route({
      ...open,
      method: 'post',
      path: '/passwords/forgotten',
      body: forgottenSchema,
      answers: told.outboxView,
      handle: async ({ body, req }) => {
        const home = ownAddress(req, configuration.address)
        const letter = async () => {
          const asked = await askForReset(sequelize, body.email)
          if (!asked) return
          const { user, secret } = asked
          await mail.send(user.email, passwordLetter(user.email, `${home}/new-password#${secret}`))
        }
        // Whether somebody has this address is told neither by the answer nor by how long it takes.
        letter().catch((err: unknown) => log.error({ err }, 'no letter for a forgotten password'))
        return Promise.resolve({ outbox: mail.outbox })
      }
    }),
    route({
      ...open,
      method: 'post',
      path: '/passwords/new',
      body: newPasswordSchema,
      answers: told.NOTHING,
      handle: ({ body }) => retrying(() => resetPassword(sequelize, body))
    })
  ]
}
