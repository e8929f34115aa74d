// Runs `prism`: its code is bundled into one file when it has changed, so that it starts at once.
import { mkdirSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs'
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
  buildSync({
    entryPoints: ['main.ts', 'beside-thread.ts'].map((name) => join(root, 'cli', 'src', name)),
    outdir: made,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    splitting: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    // It brings WebAssembly of its own, and is asked for only by FLAC files.
    external: ['libflacjs'],
    banner: {
      js: "import { createRequire as __r } from 'node:module'; const require = __r(import.meta.url);",
    },
    logLevel: 'error',
  })
  // The program last: with it the bundle is whole.
  const folder = join(root, '.cache', 'prism')
  mkdirSync(folder, { recursive: true })
  const names = readdirSync(made).filter((name) => name !== 'main.mjs')
  for (const name of [...names, 'main.mjs']) renameSync(join(made, name), join(folder, name))
  for (const name of readdirSync(folder)) {
    if (name !== 'main.mjs' && !names.includes(name)) rmSync(join(folder, name))
  }
  rmSync(made, { recursive: true })
}
await import(pathToFileURL(bundle).href)
