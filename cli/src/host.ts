import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { installArrayKernel, installHalveKernel } from '@sober-prism/core/audio'
import { installSectionKernel } from '@sober-prism/core/filters'
import { installSpreadKernel } from '@sober-prism/core/hearing'
import { installEnergyKernel, installPeakKernel } from '@sober-prism/core/loudness'
import { installPffft, loadPffft, type WasmHost } from '@sober-prism/core/spectrum'

/** Gives the core the fast Fourier transform of this host. */
export function prepareHost(): void {
  const path = createRequire(import.meta.url)
    .resolve('@echogarden/pffft-wasm/simd')
    .replace(/\.js$/, '.wasm')
  installPffft(loadPffft(WebAssembly as unknown as WasmHost, new Uint8Array(readFileSync(path))))
  installSectionKernel(WebAssembly as unknown as WasmHost)
  installPeakKernel(WebAssembly as unknown as WasmHost)
  installEnergyKernel(WebAssembly as unknown as WasmHost)
  installHalveKernel(WebAssembly as unknown as WasmHost)
  installArrayKernel(WebAssembly as unknown as WasmHost)
  installSpreadKernel(WebAssembly as unknown as WasmHost)
}
