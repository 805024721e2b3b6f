import type { Express, Request, Response } from 'express'
import type { yup } from '@tin-harbor/core/input'
import { hasRight, parseInput, type Right } from '@tin-harbor/core/buying'
import { notAllowed, notSignedIn, unknownObject } from './errors.js'
import { actorOf, may, maySee, type Actor } from '../security/sessions.js'
import { TokenGuard } from '../security/token-guard.js'
import { bearerOf } from '../security/tokens.js'
import { requireSameOrigin } from '../security/origin.js'
import { readJson } from './bodies.js'
import { askedOf, keptOnce, keyOf } from './kept-answers.js'
import { sessionToken } from '../security/cookies.js'

export type Params = Readonly<Record<string, number>>

/** What a handler is given: everything is checked already. */
export interface Call<B, Q> {
  actor: Actor
  params: Params
  body: B
  query: Q
  req: Request
  res: Response
}

/** Whose an object is: an advertiser's, several advertisers' at once, an organisation's as a whole, or a user's alone. */
export type Owner = number | { advertisers: readonly number[] } | { organisation: number } | { user: number }

/** What a call names its objects by, before the body and the query are checked. */
interface Named {
  actor: Actor
  params: Params
  body: unknown
  query: Readonly<Record<string, unknown>>
}

/**
 * One route: data, not code. A route without a right or a scope is refused when the server starts.
 * `right`: what a user must be allowed; `public` needs nobody signed in.
 * `scope`: whose the named object is; null where the call names none. `seen`: nothing is named, and the answer holds only what the user
 * sees. `market`: what is there for everybody alike.
 */
export interface Route<B = unknown, Q = unknown, A = unknown> {
  method: 'get' | 'post' | 'put' | 'patch' | 'head' | 'delete'
  path: string
  right: Right | 'public'
  /** That it is about whoever asks: their password, sessions, tokens, and who is let in. No token may. */
  isPersonal?: boolean
  scope: 'seen' | 'market' | ((named: Named) => Promise<Owner | null>)
  /** That it is answered with a secret, which is told once: no answer of it is kept under a key. */
  tellsSecret?: boolean
  /** That what is sent is signed by its sender, who is no page of ours. */
  isSigned?: boolean
  body?: yup.Schema<B>
  /** Bytes of its body at most. */
  limit?: number
  query?: yup.Schema<Q>
  /** What is sent as JSON, `NOTHING` for an empty answer; or that the handler answers itself, with a file or a stream. */
  answers: yup.Schema<A> | 'file' | 'stream'
  /** Returns what is sent; `SENT` when it answered itself. */
  handle: (call: Call<B, Q>) => Promise<NoInfer<A> | typeof SENT>
}

/** Who holds answers against what is said of them. */
export interface AnswerCheck {
  /** @throws naming the fields, where an answer is otherwise */
  check: (route: Pick<Route, 'method' | 'path'>, answer: unknown) => void
}

export const SENT: unique symbol = Symbol('sent')

/** Bytes of a body whose route says nothing: room for a few fields. */
export const FEW_FIELDS = 16 * 1024
/** For what holds a whole line, whose restrictions and lists have up to 10,000 values each. */
export const WHOLE_LINE_BYTES = 512 * 1024

/** Keeps the types of body and query together with their schemas. */
export function route<A, B = undefined, Q = undefined>(definition: Route<B, Q, A>): Route {
  return definition as unknown as Route
}

function checkRoute(definition: Route, seen: Set<string>): void {
  const name = `${definition.method} ${definition.path}`
  if (!definition.right) throw new Error(`Route ${name} states no right.`)
  if (!definition.scope) throw new Error(`Route ${name} states no scope.`)
  if (!definition.answers) throw new Error(`Route ${name} does not say what it answers.`)
  if (definition.path.includes(':') && typeof definition.scope !== 'function')
    throw new Error(`Route ${name} names an object but no scope.`)
  if (seen.has(name)) throw new Error(`Route ${name} is there twice.`)
  seen.add(name)
}

/** Ids in a path are positive whole numbers; anything else is an object we do not have. */
function paramsOf(req: Request): Params {
  return Object.fromEntries(
    Object.entries(req.params).map(([name, text]) => {
      if (typeof text !== 'string' || !/^[1-9]\d{0,8}$/.test(text)) throw unknownObject(name.replace(/Id$/, ''))
      return [name, Number(text)]
    })
  )
}

/** An address has only text: what the schema's field reads of one is taken, and what it cannot read stays for it to refuse. */
function asTyped(schema: yup.Schema, query: Request['query']): Record<string, unknown> {
  const { fields = {} } = schema as unknown as { fields?: Record<string, yup.Schema> }
  return Object.fromEntries(
    Object.entries(query).map(([name, text]) => {
      const read: unknown = typeof text === 'string' && name in fields ? fields[name].cast(text, { assert: false }) : text
      return [name, typeof read === 'number' && !Number.isFinite(read) ? text : read]
    })
  )
}

const NOBODY: Actor = { id: 0, name: '', email: '', role: 'reader', organisationId: 0, advertisers: [] }

function requireSeen(actor: Actor, owner: Owner | null): void {
  if (owner === null) return
  if (typeof owner === 'object' && 'organisation' in owner) {
    if (owner.organisation !== actor.organisationId) throw notAllowed('This belongs to another organisation.')
    return
  }
  if (typeof owner === 'object' && 'user' in owner) {
    if (owner.user !== actor.id) throw notAllowed('This is somebody else’s.')
    return
  }
  const advertisers = typeof owner === 'number' ? [owner] : owner.advertisers
  if (!advertisers.every((advertiser) => maySee(actor, advertiser))) throw notAllowed('You do not see this advertiser.')
}

/** Who asks, and for what: the body is read only of those who may, and only as much as the route takes. */
async function authorise(
  definition: Route,
  req: Request,
  { instance, guard }: { instance: string; guard: TokenGuard }
): Promise<{ actor: Actor; params: Params; body: unknown }> {
  const read = () => (definition.body ? readJson(req, definition.limit ?? FEW_FIELDS) : Promise.resolve(undefined))
  const bearer = definition.right === 'public' ? null : bearerOf(req)
  // A page of another site can send a cookie, but no token.
  if (bearer === null && !definition.isSigned) requireSameOrigin(req)
  if (definition.right === 'public') return { actor: NOBODY, params: {}, body: await read() }
  const actor = bearer === null ? await actorOf(sessionToken(req, instance)) : await guard.actorOf(req, bearer, instance)
  if (!actor) throw notSignedIn()
  if (!hasRight(actor.role, definition.right)) throw notAllowed(`A ${actor.role} may not do this.`)
  if (actor.token && definition.isPersonal) throw notAllowed('No token may do this: sign in.')
  if (!may(actor, definition.right)) throw notAllowed('This token may not do this.')
  const params = paramsOf(req)
  const body = await read()
  if (typeof definition.scope === 'function') requireSeen(actor, await definition.scope({ actor, params, body, query: { ...req.query } }))
  return { actor, params, body }
}

/** Whether answers of a route may be kept under a key that its caller sends. */
export const takesKey = ({ right, method, answers, isPersonal, tellsSecret }: Route): boolean =>
  right !== 'public' && !isPersonal && !tellsSecret && typeof answers !== 'string' && !['get', 'head'].includes(method)

/** Registers all routes under `/api`. @param checks holds answers against the description of the routes, in tests */
export function register(app: Express, routes: readonly Route[], instance: string, checks: AnswerCheck | null = null): void {
  const seen = new Set<string>()
  const guard = new TokenGuard()
  for (const definition of routes) {
    checkRoute(definition, seen)
    app[definition.method](`/api${definition.path}`, async (req, res) => {
      const { actor, params, body: sent } = await authorise(definition, req, { instance, guard })
      const body = definition.body ? parseInput(definition.body, sent) : undefined
      const query = definition.query ? parseInput(definition.query, asTyped(definition.query, req.query), 'query') : undefined
      const work = () => definition.handle({ actor, params, body, query, req, res })
      const key = keyOf(req, takesKey(definition))
      const { answer, isAgain } =
        key === null
          ? { answer: await work(), isAgain: false }
          : await keptOnce(actor, key, askedOf(req.method, req.originalUrl, body), work)
      if (isAgain) res.set('idempotency-replayed', 'true')
      if (answer === SENT) return
      // As it will be read.
      checks?.check(definition, answer === undefined ? undefined : (JSON.parse(JSON.stringify(answer)) as unknown))
      if (answer === undefined) res.status(204).end()
      else res.json(answer)
    })
  }
}
