import { basename } from 'node:path'
import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'
import { BaseSequencer, type TestSpecification } from 'vitest/node'

/** Small files that take long: begun last, one of them would run alone. */
const SLOW = [
  'kills.test.ts',
  'payment-kills.test.ts',
  'database-away.test.ts',
  'killed-threads.test.ts',
  'files-broken.test.ts',
  'made-to-fit.test.ts'
]

class SlowFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const place = ({ moduleId }: TestSpecification) => {
      const known = SLOW.indexOf(basename(moduleId))
      return known < 0 ? SLOW.length : known
    }
    return (await super.sort(files)).sort((a, b) => place(a) - place(b))
  }
}

// One schema a file on the database that the test command started; two files at a time, as there are two cores. A process loads the
// server once for all of its files: each closes what it started.
export default defineConfig({
  // As it was built, not as the runner would wrap each of its modules.
  resolve: { alias: [{ find: /^(\.\.\/)+src\//, replacement: fileURLToPath(new URL('./dist/', import.meta.url)) }] },
  test: {
    include: ['test/**/*.test.ts'],
    testTimeout: 180_000,
    hookTimeout: 240_000,
    pool: 'forks',
    isolate: false,
    maxWorkers: 2,
    server: { deps: { external: [/\/(core|server)\/dist\//] } },
    globalSetup: 'test/support/template.ts',
    sequence: { sequencer: SlowFirst }
  }
})
