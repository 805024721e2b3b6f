import { readFileSync, writeFileSync } from 'node:fs'
import { buildServer } from './compile.mjs'
import { installPackages } from './install.mjs'
import { inProject } from './project.mjs'
import { say } from './console.mjs'

/** npm run api: writes the description for scripts into `docs/`, from the routes as they are. A test fails where it is not current. */
await installPackages()
await buildServer()
const { apiText, routeTable } = await import(inProject('server/dist/api-docs.js'))
writeFileSync(inProject('docs/openapi.json'), apiText())
const path = inProject('docs/api.md')
const [before, , after] = readFileSync(path, 'utf8').split(/<!-- routes -->\n/)
writeFileSync(path, `${before}<!-- routes -->\n${routeTable()}<!-- routes -->\n${after}`)
say('docs/openapi.json and docs/api.md are current')
