import * as yup from 'yup'
import { setSession, sessionToken } from '../security/cookies.js'
import { signIn, signOut } from '../security/sessions.js'
import type { Deps } from '../services/deps.js'
import { route, type Route } from './registry.js'

const signInSchema = yup.object({
  email: yup.string().required('Type your e-mail address.').max(190),
  password: yup.string().required('Type your password.').max(200)
}).noUnknown()

export function sessionRoutes({ sequelize, configuration }: Deps): Route[] {
  const { instance } = configuration
  return [
    route({
      method: 'post', path: '/session', right: 'public', scope: 'none', body: signInSchema,
      handle: async ({ body, res }) => {
        const { token, maxAge } = await signIn(sequelize, body.email, body.password)
        setSession(res, instance, token, maxAge)
      }
    }),
    route({
      method: 'delete', path: '/session', right: 'read', scope: 'none',
      handle: async ({ req, res }) => {
        await signOut(sequelize, sessionToken(req, instance) ?? '')
        setSession(res, instance, '', 0)
      }
    }),
    route({
      method: 'get', path: '/me', right: 'read', scope: 'none',
      handle: ({ actor }) => Promise.resolve({ name: actor.name, email: actor.email, role: actor.role })
    })
  ]
}
