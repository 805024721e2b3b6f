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
      // Nothing in core keeps state that one file could leave to another: its modules are loaded once a thread.
      { extends: true, test: { name: 'core', include: ['test/**/*.test.ts'], exclude: [ADDING], isolate: false } },
      // One of each is added to tables that others read as they are.
      { extends: true, test: { name: 'adding', include: [ADDING], isolate: true } }
    ]
  }
})
