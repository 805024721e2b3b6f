import { buildPages, buildServer } from './compile.mjs'
import { installPackages } from './install.mjs'

await installPackages()
await buildServer()
await buildPages()
