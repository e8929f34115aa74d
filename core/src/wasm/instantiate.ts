import type { WasmHost } from './wasm-writer'

/** An exported function of a kernel: three places in its memory. */
export type KernelRun = (first: number, second: number, third: number) => void

/** A kernel as it is used: its memory, and its functions by their names. */
export interface RunningKernel {
  readonly buffer: ArrayBuffer
  readonly run: Readonly<Record<string, KernelRun>>
}

/**
 * Compiles a kernel in this realm. @param make the module, with products and sums in one instruction or without:
 * relaxed SIMD has them, where it is there.
 */
export function instantiate(
  wasm: WasmHost,
  make: (fused: boolean) => Uint8Array<ArrayBuffer>,
): RunningKernel {
  const fused = make(true)
  const module = new wasm.Module(wasm.validate(fused) ? fused : make(false))
  const exports = new wasm.Instance(module, {}).exports as Record<string, unknown>
  const { buffer } = exports.memory as { buffer: ArrayBuffer }
  return { buffer, run: exports as Record<string, KernelRun> }
}
