import { defineConfig } from 'vitest/config'

const KERNELS = 'core/src/testing/setup.ts'

export default defineConfig({
  test: {
    testTimeout: 60_000,
    // Vitest's own choice leaves one core idle, which on two cores is half of the machine.
    maxWorkers: '100%',
    projects: [
      {
        extends: true,
        test: {
          name: 'computing',
          include: ['{core,cli,server,demo,bench}/src/**/*.test.ts'],
          setupFiles: [KERNELS],
          // Nothing there changes what others see: modules and compiled kernels serve one file after the other.
          isolate: false,
        },
      },
      {
        extends: true,
        test: {
          name: 'page',
          include: ['{engine,app}/src/**/*.test.{ts,tsx}'],
          setupFiles: [KERNELS, 'app/src/testing/setup.ts'],
        },
      },
    ],
  },
})
