import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    root: import.meta.dirname,
    include: ['src/**/*.e2e.ts'],
    globalSetup: 'src/global-setup.ts',
    testTimeout: 180_000,
    hookTimeout: 60_000,
    // One browser at a time: audio and workers want the cores for themselves.
    fileParallelism: false,
    // What is looked for comes with the next picture, which a slow machine draws late.
    expect: { poll: { timeout: 10_000, interval: 50 } },
  },
})
