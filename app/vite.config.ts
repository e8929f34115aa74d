import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

const isolation = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
}

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react()],
  html: { cspNonce: '__NONCE__' },
  worker: { format: 'es' },
  build: { target: 'es2023', assetsInlineLimit: 0, chunkSizeWarningLimit: 1500 },
  server: { headers: isolation },
  preview: { headers: isolation },
})
