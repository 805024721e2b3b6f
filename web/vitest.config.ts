import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [vue()],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  test: {
    include: ['test/**/*.test.ts'],
    environment: 'happy-dom',
    setupFiles: ['test/leaving.ts'],
    css: false,
    testTimeout: 90_000,
    maxWorkers: 2,
    isolate: false,
    server: { deps: { inline: ['element-plus'] } }
  }
})
