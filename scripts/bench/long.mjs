import { readFileSync } from 'node:fs'
import { readdir, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { startDatabase } from '../database.mjs'
import { dataFolder } from '../install.mjs'
import { demoTrader, startTestServer } from '../test-server.mjs'
import { report } from './measure.mjs'

/** Bytes of the files below a folder. @param {string} folder @returns {Promise<number>} */
async function bytesBelow(folder) {
  const sizes = await Promise.all(
    (await readdir(folder, { recursive: true })).map(async (name) => {
      try {
        const file = await stat(join(folder, name))
        return file.isFile() ? file.size : 0
      } catch {
        // A file that the database dropped between two looks.
        return 0
      }
    })
  )
  return sizes.reduce((sum, size) => sum + size, 0)
}

/** Memory of a process, MB. @param {number} pid */
const memoryMb = (pid) => Math.round(Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? NaN) / 1024)

/** The demo run for many days: memory of the server, and disk of the database, after each run of `atOnce` of them. */
export async function benchLong(days = 60, atOnce = 30) {
  const folder = dataFolder('bench')
  const database = await startDatabase(folder, { schema: 'bench_long', bufferMb: 256, forTests: true })
  const server = await startTestServer(database.url, '', { checks: false })
  try {
    const trader = await demoTrader(server.address)
    const files = join(folder, 'files', 'bench_long')
    const look = async () => ({ memoryMb: memoryMb(server.pid), diskMb: Math.round((await bytesBelow(files)) / 1e6) })
    const steps = [{ days: 0, seconds: 0, ...(await look()) }]
    for (let run = 0; run < days;) {
      const part = Math.min(atOnce, days - run)
      const ms = await trader.run(part * 24)
      run += part
      steps.push({ days: run, seconds: Math.round(ms / 100) / 10, ...(await look()) })
      console.log(`after ${run} days: ${JSON.stringify(steps[steps.length - 1])}`)
    }
    report('long', { days, atOnce, steps })
  } finally {
    await server.stop()
    await database.stop()
  }
}
