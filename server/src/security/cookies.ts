import { parse, serialize } from 'cookie'
import type { Request, Response } from 'express'

/** Cookies ignore ports, so the name carries the installation's id. */
const cookieName = (instance: string) => `tin-harbor-${instance}`

export function sessionToken(req: Request, instance: string): string | undefined {
  return parse(req.headers.cookie ?? '')[cookieName(instance)]
}

export function setSession(res: Response, instance: string, token: string, maxAge: number): void {
  res.append('set-cookie', serialize(cookieName(instance), token, { httpOnly: true, sameSite: 'strict', path: '/', maxAge }))
}
