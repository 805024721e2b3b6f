import { randomUUID } from 'node:crypto'
import type { NextFunction, Request, Response } from 'express'
import { ConnectionError, DatabaseError, ForeignKeyConstraintError, TimeoutError, UniqueConstraintError } from 'sequelize'
import type { Logger } from 'pino'
import { InputError, TransitionError } from '@tin-harbor/core/buying'
import { AppError, conflict, invalid, noRoom, notReady } from './errors.js'

/** The one place that knows both HTTP and the database's errors. */
function appError(error: unknown): AppError | null {
  if (error instanceof AppError) return error
  if (error instanceof InputError) return invalid(error.issues)
  if (error instanceof TransitionError) return conflict(error.message)
  if (error instanceof UniqueConstraintError) return conflict('Something with this name or number exists already.')
  if (error instanceof ForeignKeyConstraintError) return conflict('Something else still refers to this, or what it refers to is gone.')
  if (errnoOf(error) === 1969) return notReady('The database took too long over this and was stopped; try again in a moment.')
  if (isDeadlock(error)) return conflict('Somebody else saved at the same moment; nothing was kept of this one. Try again.')
  if (error instanceof ConnectionError || error instanceof TimeoutError || isLost(error))
    return notReady('The database is away; try again in a moment.')
  if ((error as NodeJS.ErrnoException).code === 'ENOSPC') return noRoom()
  const { status } = error as { status?: number }
  if (status === 404) return new AppError(404, 'unknown', 'There is no such address.')
  if (status !== undefined && status >= 400 && status < 500) return new AppError(status, 'bad-request', 'The request could not be read.')
  return null
}

const errnoOf = (error: unknown) => (error as { original?: { errno?: number } }).original?.errno

/** Two who wait for each other, or one who waited too long for a lock (1213, 1205): the database has rolled back already. */
function isDeadlock(error: unknown): boolean {
  const errno = errnoOf(error)
  return errno === 1213 || errno === 1205
}

function isLost(error: unknown): boolean {
  if (!(error instanceof DatabaseError)) return false
  const { code } = error.original as { code?: string }
  return /ECONN|EPIPE|SOCKET|CONNECTION/.test(code ?? '')
}

/** Renders every failure as an RFC 9457 problem; what is not known to us is logged in full and told by a number only. */
export function errorMiddleware(log: Logger) {
  return (error: unknown, req: Request, res: Response, next: NextFunction): void => {
    if (res.headersSent) return next(error)
    const known = appError(error)
    if (!known) {
      const id = randomUUID()
      log.error({ err: error, id, url: req.originalUrl }, 'a request failed')
      res
        .status(500)
        .type('application/problem+json')
        .json({
          type: 'about:blank',
          status: 500,
          code: 'unexpected',
          title: 'Something went wrong on our side.',
          detail: `It is noted under ${id}.`
        })
      return
    }
    const { status, code, message, issues, details } = known
    if (known.cause !== undefined) log.error({ err: known.cause, url: req.originalUrl }, message)
    res.set('cache-control', 'no-store')
    res
      .status(status)
      .type('application/problem+json')
      .json({ type: 'about:blank', status, code, title: message, issues, ...details })
  }
}
