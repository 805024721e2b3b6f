import type { Request } from 'express'
import { notAllowed } from '../http/errors.js'

/** Requests that change something, and that a cookie signs, must come from our own pages: the Origin must be the host that was asked. */
export function requireSameOrigin({ method, headers: { origin, host } }: Request): void {
  if (method === 'GET' || method === 'HEAD') return
  let from: string | null
  try {
    from = origin ? new URL(origin).host : null
  } catch {
    from = null
  }
  if (from === null || from !== host) throw notAllowed('The request does not come from this application.')
}
