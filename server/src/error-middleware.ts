import { randomUUID } from 'node:crypto'
import type { NextFunction, Request, Response } from 'express'
import { ConnectionError, DatabaseError, ForeignKeyConstraintError, TimeoutError, UniqueConstraintError } from 'sequelize'
import type { Logger } from 'pino'
import { InputError, TransitionError } from '@tin-harbor/core/buying'
import { AppError, conflict, invalid, notReady } from './errors.js'

/** The one place that knows both HTTP and the database's errors. */
function appError(error: unknown): AppError | null {
  if (error instanceof AppError) return error
  if (error instanceof InputError) return invalid(error.issues)
  if (error instanceof TransitionError) return conflict(error.message)
  if (error instanceof UniqueConstraintError) return conflict('Something with this name or number exists already.')
  if (error instanceof ForeignKeyConstraintError) return conflict('Something else still refers to this, or what it refers to is gone.')
  if (error instanceof ConnectionError || error instanceof TimeoutError || isLost(error)) return notReady('The database is away; try again in a moment.')
  const { type, status } = error as { type?: string; status?: number }
  if (type === 'entity.too.large') return new AppError(413, 'too-large', 'The request is larger than this takes.')
  if (type === 'entity.parse.failed') return new AppError(400, 'not-json', 'The request is not valid JSON.')
  if (status === 400 || status === 415) return new AppError(status, 'bad-request', 'The request could not be read.')
  return null
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
      res.status(500).type('application/problem+json').json({ type: 'about:blank', status: 500, code: 'unexpected', title: 'Something went wrong on our side.', detail: `It is noted under ${id}.` })
      return
    }
    const { status, code, message, issues, details } = known
    res.status(status).type('application/problem+json').json({ type: 'about:blank', status, code, title: message, issues, ...details })
  }
}
