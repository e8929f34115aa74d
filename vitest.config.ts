import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['{core,engine,app,cli,server,demo,bench}/src/**/*.test.{ts,tsx}'],
    testTimeout: 60_000,
    // Vitest's own choice leaves one core idle, which on two cores is half of the machine.
    maxWorkers: '100%',
    setupFiles: ['core/src/testing/setup.ts', 'app/src/testing/setup.ts'],
  },
})
