import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { installKernels } from '../host'

const path = createRequire(import.meta.url)
  .resolve('@echogarden/pffft-wasm/simd')
  .replace(/\.js$/, '.wasm')
installKernels(readFileSync(path))
