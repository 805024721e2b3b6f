import { defineConfig } from 'vitest/config'

// One schema a file on the database that the test command started; two files at a time, as there are two cores. A process loads the
// server once for all of its files: each closes what it started.
export default defineConfig({
  test: {
    include: ['test/**/*.test.ts'],
    testTimeout: 180_000,
    hookTimeout: 240_000,
    pool: 'forks',
    isolate: false,
    maxWorkers: 2,
    globalSetup: 'test/support/template.ts'
  }
})
