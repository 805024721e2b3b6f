/** A thread ended while it was asked something, on every try that the request had. */
export class ThreadDiedError extends Error {
  override readonly name = 'ThreadDiedError'
  constructor(thread: string, cause: unknown) {
    super(`The ${thread} thread ended before it answered.`, { cause })
  }
}

/** A thread died so often that it is not started again for a while. */
export class ThreadAwayError extends Error {
  override readonly name = 'ThreadAwayError'
  constructor(thread: string, cause: unknown) {
    super(`The ${thread} thread died too often and stays away for a while.`, { cause })
  }
}

/** A request ended since its cancel word was set. */
export class GivenUpError extends Error {
  override readonly name = 'GivenUpError'
  constructor() {
    super('Nobody waits for this any more.')
  }
}

/** A thread could not do what it was asked. */
export class RequestFailedError extends Error {
  override readonly name = 'RequestFailedError'
  constructor(
    message: string,
    /** A sentence for whoever asked, where there is one; the message is for the log. */
    readonly told: string | null,
    cause: unknown
  ) {
    super(message, { cause })
  }
}

/** An error of a thread that names what whoever asked may be told. */
export class ToldError extends Error {}

/** An error in the form that crosses threads, its causes with it. */
export interface SentError {
  name: string
  message: string
  stack: string
  told: string | null
  cause: SentError | null
}

/** Causes that are sent along, one within the other. */
const MOST_CAUSES = 5

export function sentError(error: unknown, depth = 0): SentError {
  if (!(error instanceof Error)) return { name: 'Error', message: String(error), stack: '', told: null, cause: null }
  return {
    name: error.name,
    message: error.message,
    stack: error.stack ?? '',
    told: error instanceof ToldError ? error.message : null,
    cause: error.cause === undefined || depth >= MOST_CAUSES ? null : sentError(error.cause, depth + 1)
  }
}

export function receivedError({ name, message, stack, cause }: SentError): Error {
  const error = new Error(message, cause ? { cause: receivedError(cause) } : undefined)
  error.name = name
  error.stack = stack
  return error
}
