import { defineConfig } from 'vitest/config'

// One browser at a time against one server: the market has one clock.
export default defineConfig({
  test: { include: ['**/*.test.ts'], testTimeout: 120_000, hookTimeout: 120_000, pool: 'forks', fileParallelism: false }
})
