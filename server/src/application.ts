import express, { type Express } from 'express'
import helmet from 'helmet'
import { rateLimit } from 'express-rate-limit'
import { pinoHttp } from 'pino-http'
import { join } from 'node:path'
import { AppError } from './http/errors.js'
import { errorMiddleware } from './http/error-middleware.js'
import { AnswerChecker } from './http/answer-checker.js'
import { describeApi } from './http/openapi.js'
import { register } from './http/registry.js'
import { allRoutes } from './all-routes.js'
import type { Deps } from './deps.js'

/** Wrong sign-ins allowed from one address in five minutes. */
const MOST_WRONG_SIGN_INS = 30
/** Letters that one address may ask for in five minutes. */
const MOST_LETTERS = 10

/** The web application over services that are running already. */
export function makeApplication(deps: Deps): Express {
  const app = express()
  app.disable('x-powered-by')
  app.use(
    helmet({
      contentSecurityPolicy: {
        // Element Plus places its floating parts by style attributes; scripts stay limited to our own files.
        directives: {
          defaultSrc: ["'self'"],
          // What reads a film before it is sent is compiled in the page.
          scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
          // A frame that leads itself away is stopped, and heard of.
          frameSrc: ["'self'"],
          styleSrc: ["'self'", "'unsafe-inline'"],
          imgSrc: ["'self'", 'data:', 'blob:'],
          fontSrc: ["'self'", 'data:'],
          upgradeInsecureRequests: null
        }
      },
      strictTransportSecurity: false
    })
  )
  app.use(
    pinoHttp({
      logger: deps.log,
      autoLogging: { ignore: (req) => !req.url?.startsWith('/api') },
      serializers: {
        // Who reads the log does not open what a client was given a link to.
        req: ({ method, url }: { method: string; url: string }) => ({ method, url: url.replace(/([?&]link=)[^&]+/, '$1…') }),
        res: ({ statusCode }: { statusCode: number }) => ({ statusCode })
      },
      customLogLevel: (_req, res) => (res.statusCode >= 500 ? 'error' : 'debug')
    })
  )
  app.get('/healthz', (_req, res) => {
    const database = !deps.watch.isAway
    res.status(database ? 200 : 503).json({
      database,
      tape: deps.pool.isReady,
      hour: deps.runner.status.hour,
      running: deps.runner.status.running,
      threads: deps.threads.counts()
    })
  })
  app.use('/sandbox', deps.sandbox.routes())
  app.use('/api', (_req, res, next) => {
    // What one user was told stays with that user.
    res.set('cache-control', 'no-store')
    next()
  })
  app.post(
    '/api/session',
    rateLimit({
      windowMs: 300_000,
      limit: MOST_WRONG_SIGN_INS,
      skipSuccessfulRequests: true,
      standardHeaders: true,
      legacyHeaders: false,
      handler: (_req, _res, next) =>
        next(
          new AppError(429, 'too-many', 'Too many wrong sign-ins; wait five minutes.', [
            { field: 'password', message: 'Too many wrong sign-ins; wait five minutes.' }
          ])
        )
    })
  )
  app.post(
    '/api/passwords/forgotten',
    rateLimit({
      windowMs: 300_000,
      limit: MOST_LETTERS,
      standardHeaders: true,
      legacyHeaders: false,
      handler: (_req, _res, next) => next(new AppError(429, 'too-many', 'Too many letters were asked for; wait five minutes.'))
    })
  )
  const routes = allRoutes(deps)
  register(app, routes, deps.configuration.instance, deps.configuration.checksAnswers ? AnswerChecker.of(describeApi(routes)) : null)
  app.use('/api', () => {
    throw new AppError(404, 'unknown', 'There is no such address.')
  })
  if (deps.configuration.pages) servePages(app, deps.configuration.pages)
  app.use(errorMiddleware(deps.log))
  return app
}

/** Built pages; every other address is the application itself, whose router reads it. */
function servePages(app: Express, pages: string): void {
  app.use('/assets', express.static(join(pages, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }))
  app.use(express.static(pages, { index: false }))
  app.get('/{*path}', (_req, res) => res.set('cache-control', 'no-cache').sendFile(join(pages, 'index.html')))
}
