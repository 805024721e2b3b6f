import { Ajv2020, type ValidateFunction } from 'ajv/dist/2020.js'
import type { ApiDescription } from './openapi.js'
import { nameOf, templateOf } from './openapi.js'
import type { AnswerCheck, Route } from './registry.js'

const pointer = (part: string) => part.replace(/~/g, '~0').replace(/\//g, '~1')

/** Holds answers against the description that scripts are given: in tests, so that it is true. */
export class AnswerChecker implements AnswerCheck {
  private readonly ajv = new Ajv2020({ strict: false, allErrors: true, validateSchema: false, validateFormats: false })
  private static last: { text: string; checker: AnswerChecker } | null = null
  private readonly known = new Map<string, ValidateFunction>()

  private constructor(description: ApiDescription) {
    this.ajv.addSchema(description, 'api')
  }

  /** One for all servers of a process: to compile what they say takes longer than most of them live. */
  static of(description: ApiDescription): AnswerChecker {
    const text = JSON.stringify(description)
    if (AnswerChecker.last?.text !== text) AnswerChecker.last = { text, checker: new AnswerChecker(description) }
    return AnswerChecker.last.checker
  }

  /** @throws naming the fields, where an answer is otherwise than its description says */
  check(route: Pick<Route, 'method' | 'path'>, answer: unknown): void {
    const name = nameOf(route)
    const part = answer === undefined ? '204' : `200/content/${pointer('application/json')}/schema`
    const ref = `api#/paths/${pointer(templateOf(route.path))}/${route.method}/responses/${part}`
    if (answer === undefined) {
      // Compiling it fails where the description promises something.
      if (!this.known.has(ref)) this.known.set(ref, this.ajv.compile({ $ref: ref }))
      return
    }
    const validate = this.known.get(ref) ?? this.ajv.compile({ $ref: ref })
    this.known.set(ref, validate)
    if (validate(answer)) return
    const says = (validate.errors ?? []).slice(0, 5).map(({ instancePath, message = '', params }) => {
      const { additionalProperty } = params as { additionalProperty?: string }
      return `${instancePath || 'the answer'} ${message}${additionalProperty ? ` (${additionalProperty})` : ''}`
    })
    throw new Error(`${name} answers otherwise than it says: ${says.join('; ')}.`)
  }
}
