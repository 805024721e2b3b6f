import type { yup } from '@tin-harbor/core/input'

/** A schema as JSON has it (2020-12, as OpenAPI 3.1 takes it). */
export type JsonSchema = Record<string, unknown>

/** The parts of a Yup schema that are walked. Its `describe()` loses names, and whether unknown fields are refused. */
interface Walked {
  type: string
  spec: { nullable?: boolean; optional?: boolean; default?: unknown; noUnknown?: boolean; types?: yup.Schema[] }
  fields?: Record<string, yup.Schema>
  innerType?: yup.Schema
  describe: () => { oneOf: unknown[]; tests: { name?: string; params?: Record<string, unknown> }[] }
}

/** Which way values go: what is sent may leave out what has a default, what is answered has it. */
export type Way = 'sent' | 'answered'

/** Says a Yup schema as JSON Schema; one that has a name is referred to by it. */
export class SchemaWriter {
  /** Those that were referred to, by name. */
  readonly named: Record<string, JsonSchema> = {}

  /** @param names of schemas that stand on their own */
  constructor(private readonly names: ReadonlyMap<unknown, string>) {}

  of(schema: yup.Schema, way: Way): JsonSchema {
    const name = this.names.get(schema)
    if (name === undefined || way === 'sent') return this.written(schema, way)
    if (!(name in this.named)) {
      // Before it is written: it may hold itself.
      this.named[name] = {}
      this.named[name] = this.written(schema, way)
    }
    return { $ref: `#/components/schemas/${name}` }
  }

  private written(schema: yup.Schema, way: Way): JsonSchema {
    const walked = schema as unknown as Walked
    if (walked.type === 'lazy' || walked.type === 'mixed') return this.mixed(walked)
    const { oneOf, tests } = walked.describe()
    const known = oneOf.filter((value) => value !== undefined)
    const isNull = walked.spec.nullable === true
    const is = this.bare(walked, way, tests)
    const type = isNull && typeof is.type === 'string' ? [is.type, 'null'] : is.type
    const values = known.length === 0 ? {} : { enum: isNull && !known.includes(null) ? [...known, null] : known }
    const { default: standard } = walked.spec
    const isPlain = way === 'sent' && ['string', 'number', 'boolean'].includes(typeof standard)
    return { ...is, ...(type === undefined ? {} : { type }), ...values, ...(isPlain ? { default: standard } : {}) }
  }

  private mixed(walked: Walked): JsonSchema {
    const known = walked.type === 'lazy' ? [] : walked.describe().oneOf.filter((value) => value !== undefined)
    return known.length > 0 ? { enum: known } : {}
  }

  private bare({ type, fields, innerType, spec }: Walked, way: Way, tests: ReturnType<Walked['describe']>['tests']): JsonSchema {
    const bound = (name: string) => tests.find((test) => test.name === name)?.params?.[name]
    const bounds = (least: string, most: string): JsonSchema => ({
      ...(typeof bound('min') === 'number' ? { [least]: bound('min') } : {}),
      ...(typeof bound('max') === 'number' ? { [most]: bound('max') } : {})
    })
    if (type === 'object') return this.object(fields ?? {}, spec.noUnknown === true, way)
    if (type === 'array')
      return { type, items: innerType ? this.of(innerType, way) : {}, ...(way === 'sent' ? bounds('minItems', 'maxItems') : {}) }
    if (type === 'tuple') {
      const parts = (spec.types ?? []).map((part) => this.of(part, way))
      return { type: 'array', prefixItems: parts, minItems: parts.length, maxItems: parts.length }
    }
    if (type === 'number') {
      const isWhole = tests.some((test) => test.name === 'integer')
      return { type: isWhole ? 'integer' : 'number', ...(way === 'sent' ? bounds('minimum', 'maximum') : {}) }
    }
    if (type === 'string') {
      const regex = tests.find((test) => test.name === 'matches')?.params?.regex
      const pattern = regex instanceof RegExp && regex.flags === '' ? { pattern: regex.source } : {}
      return { type, ...(way === 'sent' ? { ...bounds('minLength', 'maxLength'), ...pattern } : {}) }
    }
    return { type }
  }

  private object(fields: Record<string, yup.Schema>, isClosed: boolean, way: Way): JsonSchema {
    const needed = Object.entries(fields).flatMap(([name, field]) => {
      const { spec, type } = field as unknown as Walked
      if (type === 'lazy') return []
      return spec.optional === false && (way === 'answered' || spec.default === undefined) ? [name] : []
    })
    return {
      type: 'object',
      properties: Object.fromEntries(Object.entries(fields).map(([name, field]) => [name, this.of(field, way)])),
      ...(needed.length > 0 ? { required: needed } : {}),
      ...(isClosed ? { additionalProperties: false } : {})
    }
  }
}
