import * as told from '@tin-harbor/core/contract'
import { yup } from '@tin-harbor/core/input'
import { setSession, sessionToken } from '../security/cookies.js'
import { SignInGuard } from '../security/sign-in-guard.js'
import { sessionName, signIn, signOut } from '../security/sessions.js'
import type { Deps } from '../deps.js'
import { route, type Route } from '../http/registry.js'

const signInSchema = yup
  .object({
    email: yup.string().required('Type your e-mail address.').max(190, 'An e-mail address has at most 190 letters.'),
    password: yup.string().required('Type your password.').max(200, 'A password has at most 200 letters.')
  })
  .noUnknown()

export function sessionRoutes({ sequelize, configuration, events }: Deps): Route[] {
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
      handle: async ({ body, res }) => {
        const { token, maxAge } = await guard.try(body.email, () => signIn(sequelize, body.email, body.password))
        setSession(res, instance, token, maxAge)
      }
    }),
    route({
      method: 'delete',
      path: '/session',
      right: 'read',
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
      handle: ({ actor }) => Promise.resolve({ name: actor.name, email: actor.email, role: actor.role })
    })
  ]
}
