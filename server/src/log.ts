import { pino, stdSerializers, type DestinationStream, type Logger } from 'pino'

/** What statements and requests carry of secrets: a statement's values, passwords, sign-ins. */
const SECRETS = ['password', 'passwordHash', 'token', 'cookie', 'authorization', 'parameters']
/** Where they may stand: in what is logged, in an error, in what caused it. */
const PLACES = [
  '',
  'err.',
  'err.parent.',
  'err.original.',
  'err.cause.',
  'err.cause.parent.',
  'err.cause.original.',
  'req.headers.',
  'body.'
]

/** The server's log: an error is told with all that caused it, secrets are not. */
export const makeLog = (level: string, destination?: DestinationStream): Logger =>
  pino(
    {
      level,
      serializers: { err: stdSerializers.errWithCause, error: stdSerializers.errWithCause },
      redact: { paths: PLACES.flatMap((place) => SECRETS.map((secret) => place + secret)), censor: 'not told' }
    },
    destination
  )
