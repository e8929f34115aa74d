import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { installArrayKernel, installHalveKernel } from '../audio'
import { installSectionKernel } from '../filters'
import { installSpreadKernel } from '../hearing'
import { installEnergyKernel, installPeakKernel } from '../loudness'
import { installAddKernel } from '../mix'
import { installPffft, loadPffft, type WasmHost } from '../spectrum'

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
installAddKernel(WebAssembly as unknown as WasmHost)
