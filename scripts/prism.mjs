// Runs `prism`: its code is bundled into one file when it has changed, so that it starts at once.
import { mkdirSync, renameSync, rmSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { newest, root } from './steps.mjs'

const bundle = join(root, '.cache', 'prism', 'main.mjs')
const sources = ['cli/src', 'core/src', 'package-lock.json']

function isFresh() {
  try {
    return statSync(bundle).mtimeMs > newest(sources)
  } catch {
    return false
  }
}

if (!isFresh()) {
  const { buildSync } = await import('esbuild')
  const made = join(root, '.cache', `prism-${process.pid}`)
  mkdirSync(join(root, '.cache', 'prism'), { recursive: true })
  buildSync({
    entryPoints: ['main.ts', 'beside-thread.ts'].map((name) => join(root, 'cli', 'src', name)),
    outdir: made,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    // It brings workers and WebAssembly of its own, and is asked for only by FLAC files.
    external: ['@wasm-audio-decoders/flac'],
    banner: {
      js: "import { createRequire as __r } from 'node:module'; const require = __r(import.meta.url);",
    },
    logLevel: 'error',
  })
  // The program last: with it the bundle is whole.
  for (const name of ['beside-thread.mjs', 'main.mjs']) {
    renameSync(join(made, name), join(root, '.cache', 'prism', name))
  }
  rmSync(made, { recursive: true })
}
await import(pathToFileURL(bundle).href)
