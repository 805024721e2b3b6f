import type { NextFunction, Request, Response } from 'express'
import { notAllowed } from '../http/errors.js'

/** Requests that change something must come from our own pages: the Origin must be the host that was asked. */
export function sameOrigin(req: Request, _res: Response, next: NextFunction): void {
  if (req.method === 'GET' || req.method === 'HEAD') return next()
  const { origin, host } = req.headers
  let from: string | null
  try {
    from = origin ? new URL(origin).host : null
  } catch {
    from = null
  }
  next(from !== null && from === host ? undefined : notAllowed('The request does not come from this application.'))
}
