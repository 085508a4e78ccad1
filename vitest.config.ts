import { availableParallelism } from 'node:os'
import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  resolve: {
    alias: {
      '#core': fileURLToPath(new URL('./core', import.meta.url)),
      '#demo': fileURLToPath(new URL('./demo', import.meta.url)),
    },
  },
  test: {
    include: ['tests/unit/**/*.test.ts', 'tests/server/**/*.test.ts'],
    // The built command line runs as it is.
    server: { deps: { external: [/\/dist\//] } },
    testTimeout: 60_000,
    // All cores: while one file waits for commands and servers, another computes.
    maxWorkers: availableParallelism(),
  },
})
