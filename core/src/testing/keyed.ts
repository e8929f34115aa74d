import type { TreatmentWorkings } from '../treatments'

/** Runs a sound with its key through a treatment at 48 kHz, in blocks of a size. */
export function runKeyed<Params, Design>(
  workings: TreatmentWorkings<Params, Design>,
  params: Params,
  channels: readonly Float32Array[],
  key: readonly Float32Array[] | null,
  block = 128,
): Float32Array[] {
  const processor = workings.make(48000, channels.length)
  processor.set(params, workings.design(params, 48000))
  const out = channels.map((c) => Float32Array.from(c))
  for (let from = 0; from < out[0].length; from += block) {
    const to = Math.min(out[0].length, from + block)
    processor.process(
      out.map((c) => c.subarray(from, to)),
      to - from,
      key?.map((c) => c.subarray(from, to)) ?? null,
    )
  }
  return out
}
