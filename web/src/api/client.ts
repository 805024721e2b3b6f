import type { FieldIssue } from '@tin-harbor/core/buying'

/** A failure told by the server as a problem (RFC 9457). Views branch on `code`, never on text. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly issues: readonly FieldIssue[] = [],
    readonly details: Readonly<Record<string, unknown>> = {}
  ) {
    super(message)
  }

  /** All that is wrong; where no field is, what was said. */
  get messages(): string[] {
    return this.issues.length > 0 ? this.issues.map(({ message }) => message) : [this.message]
  }

  /** The message for a field, if it has one. */
  of(field: string): string | undefined {
    return this.issues.find((issue) => issue.field === field)?.message
  }
}

export interface RequestOptions {
  signal?: AbortSignal
}

async function problemOf(response: Response): Promise<ApiError> {
  try {
    const { code, title, issues, detail, ...details } = (await response.json()) as {
      code: string
      title: string
      issues?: FieldIssue[]
      detail?: string
    }
    return new ApiError(response.status, code, detail ? `${title} ${detail}` : title, issues ?? [], details)
  } catch {
    return new ApiError(response.status, 'unreadable', 'The server answered with something that is not an answer.')
  }
}

/** Called when the server says that nobody is signed in. */
let onSignedOut: () => void = () => undefined

export function whenSignedOut(handler: () => void): void {
  onSignedOut = handler
}

async function send(method: string, path: string, body?: unknown, { signal }: RequestOptions = {}): Promise<Response> {
  const isForm = body instanceof FormData
  let response: Response
  try {
    response = await fetch(`/api${path}`, {
      method,
      signal,
      body: body === undefined ? undefined : isForm ? body : JSON.stringify(body),
      headers: body === undefined || isForm ? {} : { 'content-type': 'application/json' }
    })
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') throw error
    throw new ApiError(0, 'away', 'The server does not answer. What you typed is kept; try again in a moment.')
  }
  if (!response.ok) {
    const problem = await problemOf(response)
    if (problem.code === 'not-signed-in') onSignedOut()
    throw problem
  }
  return response
}

async function request<T>(method: string, path: string, body?: unknown, options: RequestOptions = {}): Promise<T> {
  const response = await send(method, path, body, options)
  return response.status === 204 ? (undefined as T) : ((await response.json()) as T)
}

export const get = <T>(path: string, options?: RequestOptions) => request<T>('GET', path, undefined, options)
export const post = <T>(path: string, body?: unknown, options?: RequestOptions) => request<T>('POST', path, body, options)
export const put = <T>(path: string, body: unknown) => request<T>('PUT', path, body)
export const remove = <T>(path: string) => request<T>('DELETE', path)

/** An answer of many lines, each handed on as soon as it is whole. */
export async function postLines<T>(path: string, body: unknown, onLine: (line: T) => void, options: RequestOptions = {}): Promise<void> {
  const response = await send('POST', path, body, options)
  const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader()
  let rest = ''
  for (let part = await reader?.read(); part && !part.done; part = await reader?.read()) {
    const lines = (rest + part.value).split('\n')
    rest = lines.pop() ?? ''
    for (const line of lines) if (line) onLine(JSON.parse(line) as T)
  }
}

/** Whether an error only says that a request was given up. */
export function isAbort(error: unknown): boolean {
  return (error instanceof DOMException && error.name === 'AbortError') || (error instanceof ApiError && error.code === 'superseded')
}
