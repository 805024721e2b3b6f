import { defineConfig } from 'vitest/config'

// Nothing in core keeps state that one file could leave to another: its modules are loaded once a thread.
export default defineConfig({
  test: {
    include: ['test/**/*.test.ts'],
    setupFiles: 'test/support/seeded.ts',
    testTimeout: 180_000,
    hookTimeout: 180_000,
    pool: 'threads',
    maxWorkers: 2,
    isolate: false
  }
})
