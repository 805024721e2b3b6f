import { defineConfig } from 'vitest/config'

// One schema a file on the database that the test command started; two files at a time, as there are two cores.
export default defineConfig({
  test: {
    include: ['test/**/*.test.ts'],
    testTimeout: 60_000,
    hookTimeout: 120_000,
    pool: 'forks',
    maxWorkers: 2,
    globalSetup: 'test/support/template.ts'
  }
})
