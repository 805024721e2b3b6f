import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [vue()],
  resolve: {
    alias: [
      { find: '@', replacement: fileURLToPath(new URL('./src', import.meta.url)) },
      // In one file: a thousand modules would be read by each process.
      { find: /^element-plus$/, replacement: 'element-plus/dist/index.full.mjs' }
    ]
  },
  test: {
    include: ['test/**/*.test.ts'],
    environment: 'happy-dom',
    setupFiles: ['test/leaving.ts'],
    css: false,
    testTimeout: 90_000,
    maxWorkers: 2,
    isolate: false,
    // What is built already is read as it is.
    server: { deps: { external: [/\/core\/dist\//] } }
  }
})
