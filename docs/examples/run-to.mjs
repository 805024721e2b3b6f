import { randomUUID } from 'node:crypto'
import { ask } from './ask.mjs'

// node run-to.mjs 2026-03-02T12:00Z: runs the market to a moment, and waits until it is there.
const [moment] = process.argv.slice(2)
const hour = Math.floor((Date.parse(moment) - Date.UTC(2026, 0, 1)) / 3_600_000)
await ask('POST', '/market/run', { to: hour }, { 'idempotency-key': randomUUID() })
for (;;) {
  const { run, funds } = await ask('GET', '/market')
  if (!run.running) {
    console.log(`market hour ${run.hour}; ${(funds.balanceMicros / 1e6).toFixed(2)} left${run.trouble ? `; ${run.trouble}` : ''}`)
    break
  }
  await new Promise((resolve) => setTimeout(resolve, 250))
}
