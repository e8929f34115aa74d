import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { installKernels, type KernelName } from '@sober-prism/core/host'

/** Gives the core the kernels of this host. */
export function prepareHost(): readonly KernelName[] {
  const path = createRequire(import.meta.url)
    .resolve('@echogarden/pffft-wasm/simd')
    .replace(/\.js$/, '.wasm')
  return installKernels(readFileSync(path))
}
