import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

const ADDING = 'test/adding/**/*.test.ts'

export default defineConfig({
  test: {
    setupFiles: 'test/support/seeded.ts',
    testTimeout: 180_000,
    hookTimeout: 180_000,
    pool: 'threads',
    maxWorkers: 2,
    projects: [
      // As it was built, not as the runner would wrap each of its modules: what computes takes twice as long in there.
      // Nothing in core keeps state that one file could leave to another: its modules are loaded once a thread.
      {
        extends: true,
        resolve: { alias: [{ find: /^(\.\.\/)+src\//, replacement: fileURLToPath(new URL('./dist/', import.meta.url)) }] },
        test: {
          name: 'core',
          include: ['test/**/*.test.ts'],
          exclude: [ADDING],
          isolate: false,
          server: { deps: { external: [/\/core\/dist\//] } }
        }
      },
      // One of each is added to tables that others read as they are: from source, so that the runner can put something else there.
      { extends: true, test: { name: 'adding', include: [ADDING], isolate: true } }
    ]
  }
})
