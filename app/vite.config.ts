import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'
import { notices, noticesFile } from './notices-plugin.ts'

const isolation = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
}

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react(), noticesFile()],
  html: { cspNonce: '__NONCE__' },
  worker: { format: 'es', plugins: () => [notices()] },
  build: { target: 'es2023', assetsInlineLimit: 0, chunkSizeWarningLimit: 1500 },
  server: { headers: isolation },
  preview: { headers: isolation },
})
