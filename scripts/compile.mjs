import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs'
import { basename, join } from 'node:path'
import { say } from './console.mjs'
import { run } from './install.mjs'
import { ROOT, inProject } from './project.mjs'

/** @param {string} folder @param {string[]} into */
function walk(folder, into) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (entry.name === 'node_modules' || entry.name === 'dist' || entry.name.endsWith('.tsbuildinfo')) continue
    const path = join(folder, entry.name)
    if (entry.isDirectory()) walk(path, into)
    else into.push(path)
  }
}

/**
 * A checksum of sources by name, size and time of change: reading them all would take longer than the warm start may.
 * @param {string[]} folders
 */
function sourcesOf(folders) {
  /** @type {string[]} */
  const files = [inProject('package-lock.json'), inProject('tsconfig.base.json')]
  for (const folder of folders) walk(inProject(folder), files)
  const sum = createHash('sha256')
  for (const file of files.sort()) {
    const { size, mtimeMs } = statSync(file)
    sum.update(`${file.slice(ROOT.length)} ${size} ${mtimeMs}\n`)
  }
  return sum.digest('hex')
}

/**
 * Builds one part unless its sources are those of the last build.
 * @param {string} name @param {string[]} folders @param {string} product @param {() => Promise<void>} make
 */
async function unlessBuilt(name, folders, product, make) {
  const stamps = inProject('.stamps')
  mkdirSync(stamps, { recursive: true })
  const stamp = join(stamps, name)
  const sum = sourcesOf(folders)
  if (existsSync(inProject(product)) && existsSync(stamp) && readFileSync(stamp, 'utf8') === sum) return
  say(`building ${name} ...`)
  await make()
  writeFileSync(stamp, sum)
}

/** What the loops and their memory agree on, written out for the loops from the one place that defines it. */
async function writeKernelLayout() {
  // Not before packages are installed.
  const { runnerImport } = await import('vite')
  const { module } = await runnerImport(inProject('core/src/forecast/kernel-layout.ts'))
  writeChanged(inProject('core/kernel/layout.ts'), module.kernelLayoutSource())
}

/** @param {string} path @param {string} text */
function writeChanged(path, text) {
  if (!existsSync(path) || readFileSync(path, 'utf8') !== text) writeFileSync(path, text)
}

/** The forecast's loops as WebAssembly, from source, kept as text in a module so that every thread can load it alike. */
async function buildKernel() {
  await writeKernelLayout()
  const product = inProject('core/src/forecast/kernel-bytes.ts')
  const wasm = inProject('.stamps/kernel.wasm')
  await run(process.execPath, [
    inProject('node_modules/assemblyscript/bin/asc.js'),
    inProject('core/kernel/kernel.ts'),
    '-O3',
    '--enable',
    'simd',
    '--noAssert',
    '--runtime',
    'stub',
    '--importMemory',
    '--initialMemory',
    '1',
    '--maximumMemory',
    '65536',
    '-o',
    wasm
  ])
  const text = `/** Made by the build from core/kernel/kernel.ts. */\nexport const KERNEL_BASE64 = '${readFileSync(wasm).toString('base64')}'\n`
  writeChanged(product, text)
}

/** Each thread in a few files: it is started often, and reading two hundred would take longer than what it is asked for. */
async function bundleThreads() {
  const { build } = await import('vite')
  const dist = inProject('server/dist')
  const threads = readdirSync(dist, { recursive: true, encoding: 'utf8' }).filter(
    (file) => file.endsWith('.worker.js') && !file.startsWith('bundled')
  )
  await build({
    root: inProject('server'),
    configFile: false,
    logLevel: 'warn',
    ssr: { noExternal: ['@tin-harbor/core'] },
    build: {
      ssr: true,
      target: 'node20',
      // As deep as what it is made of: paths to what ships with the server stay right.
      outDir: join(dist, 'bundled'),
      emptyOutDir: true,
      minify: false,
      rollupOptions: {
        input: Object.fromEntries(threads.map((file) => [basename(file, '.js'), join(dist, file)])),
        output: { entryFileNames: '[name].js', chunkFileNames: '[name]-[hash].js' }
      }
    }
  })
}

/** Core and server: type check and build in one. */
export const buildServer = () =>
  unlessBuilt('server', ['core/src', 'core/kernel', 'server/src'], 'server/dist/bundled/market.worker.js', async () => {
    await buildKernel()
    await run(inProject('node_modules/.bin/tsc'), ['-b'])
    await bundleThreads()
  })

/**
 * The pages, for production whatever this process was told: what imports the kernel's layout above tells it that it is for development,
 * and pages would come with all of Vue's warnings.
 */
export const buildPages = () =>
  unlessBuilt('pages', ['core/src', 'web'], 'web/dist/index.html', () =>
    run(inProject('node_modules/.bin/vite'), ['build', 'web', '--logLevel', 'warn'], { ...process.env, NODE_ENV: 'production' })
  )
