import { defineConfig } from 'vitest/config'

// One browser at a time against one server: the market has one clock. What comes after a failure mostly fails because of it.
export default defineConfig({
  test: {
    include: ['**/*.test.ts'],
    setupFiles: 'support/on-failure.ts',
    testTimeout: 240_000,
    hookTimeout: 120_000,
    pool: 'forks',
    fileParallelism: false,
    bail: 1
  }
})
