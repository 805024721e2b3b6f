import type { Request } from 'express'

/** Where this server is, as whoever asks sees it. */
export const originOf = (req: Request) => `${req.protocol}://${req.get('host') ?? 'localhost'}`

/**
 * Where this server is, whatever whoever asks calls it: what a letter leads to is not for its sender to say.
 * @param named the address that it was configured with; null for where it listens
 */
export const ownAddress = (req: Request, named: string | null): string => named ?? `http://127.0.0.1:${req.socket.localPort ?? 0}`
