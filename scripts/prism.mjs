// Runs `prism`: its code is bundled into one file when it has changed, so that it starts at once.
import { mkdirSync, renameSync, statSync } from 'node:fs'
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
  const made = `${bundle}.${process.pid}.mjs`
  mkdirSync(join(root, '.cache', 'prism'), { recursive: true })
  buildSync({
    entryPoints: [join(root, 'cli', 'src', 'main.ts')],
    outfile: made,
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
  renameSync(made, bundle)
}
await import(pathToFileURL(bundle).href)
