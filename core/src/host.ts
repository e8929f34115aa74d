import { installArrayKernel } from './audio/arrays'
import { installHalveKernel } from './audio/decimate'
import { installSectionKernel } from './filters/section-kernel'
import { installSpreadKernel } from './hearing/excitation'
import { installEnergyKernel } from './loudness/k-weighting'
import { installPeakKernel } from './loudness/true-peak'
import { installAddKernel } from './mix/add-stretches'
import { installPffft } from './spectrum/fft'
import { loadPffft } from './spectrum/pffft'
import type { WasmHost } from './wasm'

const KERNELS = {
  add: installAddKernel,
  array: installArrayKernel,
  energy: installEnergyKernel,
  halve: installHalveKernel,
  peak: installPeakKernel,
  section: installSectionKernel,
  spread: installSpreadKernel,
} satisfies Record<string, (wasm: WasmHost) => void>

/** A kernel by what it does; `fft` comes from outside, all others are assembled here. */
export type KernelName = keyof typeof KERNELS | 'fft'

/**
 * Gives the core of this realm (page, worker, worklet, Node, test) its compiled kernels. What has none runs in plain
 * code, with the same results to rounding.
 * @param pffft the build of `@echogarden/pffft-wasm`, SIMD; without it a transform in plain code is used.
 * @returns which kernels there are now, by name.
 */
export function installKernels(pffft: ArrayBuffer | Uint8Array | null): readonly KernelName[] {
  // The core is compiled without a host's types; all of its hosts have WebAssembly.
  const { WebAssembly: wasm } = globalThis as unknown as { WebAssembly: WasmHost }
  for (const install of Object.values(KERNELS)) install(wasm)
  const names = Object.keys(KERNELS) as KernelName[]
  if (!pffft) return names
  installPffft(loadPffft(wasm, new Uint8Array(pffft)))
  return [...names, 'fft']
}
