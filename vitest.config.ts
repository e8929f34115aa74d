import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['{core,engine,app,cli,server,demo,bench}/src/**/*.test.{ts,tsx}'],
    testTimeout: 60_000,
    setupFiles: ['core/src/testing/setup.ts'],
  },
})
