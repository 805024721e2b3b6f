import { mkdirSync, writeFileSync } from 'node:fs'
import { say } from './console.mjs'
import { buildServer } from './compile.mjs'
import { installDatabase, installPackages } from './install.mjs'
import { killRun } from './kill-run.mjs'
import { inProject } from './project.mjs'

/** npm run kills -- N: kills server and database N times during a run, and compares its facts with a calm run's. */
const kills = Number(process.argv[2] ?? 25)
await installPackages()
await installDatabase()
await buildServer()
const report = await killRun({ kills, hours: 120, seed: Number(process.argv[3] ?? 1), say })
mkdirSync(inProject('.bench'), { recursive: true })
writeFileSync(inProject('.bench/kills.json'), JSON.stringify(report))
say(
  `kills ${report.kills}, hours lost ${report.lost}, doubled ${report.doubled}, ledger off by ${report.ledgerOffMicros} micros, facts ${report.equal ? 'equal' : 'DIFFER'}`
)
process.exit(report.equal && report.kills === kills ? 0 : 1)
