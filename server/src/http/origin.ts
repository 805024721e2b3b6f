import type { Request } from 'express'

/** Where this server is, as whoever asks sees it. */
export const originOf = (req: Request) => `${req.protocol}://${req.get('host') ?? 'localhost'}`
