import type { FieldIssue } from '@tin-harbor/core/buying'

/** What the interface tells a caller about a failure: an RFC 9457 problem with a code that views branch on. */
export class AppError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly issues: readonly FieldIssue[] = [],
    readonly details: Readonly<Record<string, unknown>> = {},
    /** What is logged and never told. */
    options?: ErrorOptions
  ) {
    super(message, options)
  }
}

export const invalid = (issues: readonly FieldIssue[]) =>
  new AppError(422, 'invalid', issues.length === 1 ? issues[0].message : `${issues.length} fields need another look.`, issues)
export const invalidField = (field: string, message: string) => invalid([{ field, message }])
export const notSignedIn = () => new AppError(401, 'not-signed-in', 'Sign in first.')
export const wrongSignIn = () =>
  new AppError(401, 'wrong-sign-in', 'No user has this e-mail and password.', [
    { field: 'password', message: 'No user has this e-mail and password.' }
  ])
export const notAllowed = (what: string) => new AppError(403, 'not-allowed', what)
export const unknownObject = (what: string) => new AppError(404, 'unknown', `There is no ${what} with this number.`)
export const notCalled = (what: string, name: string) => new AppError(404, 'unknown', `There is no ${what} called “${name}”.`)
export const stale = (what: string, current: unknown) =>
  new AppError(409, 'stale', `The ${what} was changed in the meantime; your edit was not saved.`, [], { current })
export const conflict = (message: string) => new AppError(409, 'conflict', message)
export const superseded = () => new AppError(409, 'superseded', 'A newer question of this page took the place of this one.')
export const tooLarge = (message: string) => new AppError(413, 'too-large', message, [{ field: 'file', message }])
/** Something of ours failed; the caller is told what, the log why. */
export const failed = (code: string, message: string, cause: unknown) => new AppError(500, code, message, [], {}, { cause })
export const tooBusy = (message: string) => new AppError(503, 'too-busy', message)
export const noRoom = () => new AppError(507, 'no-room', 'There is no room left on the disk of the server; nothing of it was kept.')
export const notReady = (message: string) => new AppError(503, 'not-ready', message)
