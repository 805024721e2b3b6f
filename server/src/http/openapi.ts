import * as told from '@tin-harbor/core/contract'
import { TOKEN_RIGHTS } from '@tin-harbor/core/buying'
import { yup } from '@tin-harbor/core/input'
import { SchemaWriter, type JsonSchema } from './json-schema.js'
import { MEDIA, SUMMARIES } from './summaries.js'
import { takesKey, type Route } from './registry.js'

/** A description of the interface: OpenAPI 3.1. */
export interface ApiDescription {
  openapi: '3.1.0'
  info: { title: string; version: string; description: string }
  servers: { url: string }[]
  paths: Record<string, Record<string, Operation>>
  components: { schemas: Record<string, JsonSchema>; responses: Record<string, JsonSchema>; securitySchemes: Record<string, JsonSchema> }
}
interface Operation {
  operationId: string
  summary: string
  description: string
  tags: string[]
  security: Record<string, string[]>[]
  parameters: JsonSchema[]
  requestBody?: JsonSchema
  responses: Record<string, JsonSchema>
}

export const nameOf = ({ method, path }: Pick<Route, 'method' | 'path'>) => `${method} ${path}`
/** A path as OpenAPI writes it. */
export const templateOf = (path: string) => `/api${path.replace(/:(\w+)/g, '{$1}')}`

/** Schemas that the contract names, each by its export. */
function contractNames(): Map<unknown, string> {
  const names = new Map<unknown, string>()
  for (const [name, value] of Object.entries(told))
    if (value !== told.NOTHING && yup.isSchema(value)) names.set(value, name[0].toUpperCase() + name.slice(1))
  return names
}

const PROBLEM: JsonSchema = {
  type: 'object',
  description: 'A problem as RFC 9457 has it. Branch on `code`, never on words.',
  properties: {
    type: { type: 'string' },
    status: { type: 'integer' },
    code: { type: 'string' },
    title: { type: 'string' },
    detail: { type: 'string' },
    issues: {
      type: 'array',
      items: {
        type: 'object',
        properties: { field: { type: 'string' }, message: { type: 'string' } },
        required: ['field', 'message']
      }
    }
  },
  required: ['type', 'status', 'code', 'title']
}

/** Describes routes. @throws where one has no summary, or one that answers itself does not say how */
export function describeApi(routes: readonly Route[]): ApiDescription {
  const writer = new SchemaWriter(contractNames())
  const paths: ApiDescription['paths'] = {}
  for (const definition of routes) (paths[templateOf(definition.path)] ??= {})[definition.method] = operationOf(definition, writer)
  return {
    openapi: '3.1.0',
    info: {
      title: 'Tin Harbor',
      version: '1',
      description:
        'All that the pages do, scripts can do with an access token. Money is in micros, 1/1,000,000 of the account’s currency; ' +
        'a market hour is an hour since 2026-01-01T00:00Z.'
    },
    servers: [{ url: '/' }],
    paths,
    components: {
      schemas: { ...writer.named, Problem: PROBLEM },
      responses: {
        Problem: {
          description: 'Why it was not done; nothing of it was kept.',
          content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } }
        }
      },
      securitySchemes: {
        token: { type: 'http', scheme: 'bearer', description: 'An access token: no more than its owner may now.' },
        session: { type: 'apiKey', in: 'cookie', name: 'tin-harbor', description: 'The cookie of a page that is signed in.' }
      }
    }
  }
}

function operationOf(definition: Route, writer: SchemaWriter): Operation {
  const { method, path, right, body, query, answers } = definition
  const name = nameOf(definition)
  const summary = (SUMMARIES as Readonly<Record<string, string>>)[name]
  if (!summary) throw new Error(`Route ${name} has no summary.`)
  const takesToken = right !== 'public' && !definition.isPersonal && TOKEN_RIGHTS.includes(right)
  return {
    operationId: name.replace(/[^a-z]+(\w?)/gi, (_, letter: string) => letter.toUpperCase()),
    summary,
    description: right === 'public' ? 'Open to everybody.' : `Needs the right \`${right}\`${takesToken ? '.' : '; no token may.'}`,
    tags: [path.split('/')[1]],
    security: right === 'public' ? [] : [...(takesToken ? [{ token: [] }] : []), { session: [] }],
    parameters: parametersOf(definition, writer),
    ...(body || method === 'patch'
      ? {
          requestBody: {
            required: true,
            content: body ? { 'application/json': { schema: writer.of(body, 'sent') } } : { 'application/offset+octet-stream': {} }
          }
        }
      : {}),
    responses: { ...answersOf(name, answers, writer), default: { $ref: '#/components/responses/Problem' } }
  }

  function parametersOf({ path: from }: Route, by: SchemaWriter): JsonSchema[] {
    const named = [...from.matchAll(/:(\w+)/g)].map(([, one]) => ({
      name: one,
      in: 'path',
      required: true,
      schema: { type: 'integer', minimum: 1 }
    }))
    const asked = query ? by.of(query, 'sent') : {}
    const { properties = {}, required = [] } = asked as { properties?: Record<string, JsonSchema>; required?: string[] }
    const typed = Object.entries(properties).map(([one, schema]) => ({ name: one, in: 'query', required: required.includes(one), schema }))
    return [...named, ...typed, ...(takesKey(definition) ? [IDEMPOTENCY] : [])]
  }
}

const IDEMPOTENCY: JsonSchema = {
  name: 'Idempotency-Key',
  in: 'header',
  required: false,
  description: 'Sent again under the same key within a day, the same request is answered as before and done once.',
  schema: { type: 'string', pattern: '^[\\w-]{8,80}$' }
}

function answersOf(name: string, answers: Route['answers'], writer: SchemaWriter): Record<string, JsonSchema> {
  if (answers === told.NOTHING) return { 204: { description: 'It was done.' } }
  if (typeof answers !== 'string')
    return { 200: { description: 'The answer.', content: { 'application/json': { schema: writer.of(answers, 'answered') } } } }
  const media = (MEDIA as Readonly<Record<string, string>>)[name]
  if (!media) throw new Error(`Route ${name} answers itself and does not say with what.`)
  return media === 'nothing' ? { 204: { description: 'It was done.' } } : { 200: { description: 'The answer.', content: { [media]: {} } } }
}
