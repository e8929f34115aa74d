import { defineConfig } from 'vite'

export default defineConfig({
  root: `${import.meta.dirname}/page`,
  build: {
    outDir: '../../.cache/bench',
    emptyOutDir: true,
    target: 'es2023',
    assetsInlineLimit: 0,
  },
})
