import { readConfiguration } from './configuration.js'
import { makeLog } from './log.js'
import { startServer } from './server.js'

/** The process that the launcher starts. It tells how far it is over the channel to its parent, and ends with it. */
const configuration = readConfiguration()
const log = makeLog(configuration.logLevel)
const say = (message: object) => process.send?.(message)

try {
  const server = await startServer(configuration, (step, share) => say({ step, share }), log)
  say({ ready: server.address })
  log.info({ address: server.address }, 'ready')
  let closing = false
  const end = () => {
    if (closing) return
    closing = true
    void server.close().finally(() => process.exit(0))
    setTimeout(() => process.exit(0), 5000).unref()
  }
  process.on('SIGINT', end).on('SIGTERM', end).on('disconnect', end)
} catch (error) {
  log.fatal({ err: error }, 'the server could not start')
  say({ failed: error instanceof Error ? error.message : String(error), code: (error as { code?: string }).code })
  process.exit(1)
}
