import type { ProbeSettings } from './probe-spectrum'

/** What is sounding right now. Row t of `levels` and `peaks` is track t, the last row is the mix. */
export interface LiveReading {
  /** Level of each sixth-octave band in dB, `(tracks + 1) × bands`. */
  readonly levels: Float32Array
  /** Largest absolute sample since the last reading. */
  readonly peaks: Float32Array
  readonly momentaryLufs: number | null
  readonly shortTermLufs: number | null
  /** What goes into the probed chain and what comes out of it, in dB per band of the probe's resolution. */
  readonly probe: { readonly before: Float32Array; readonly after: Float32Array } | null
  /** Levels of the sides of the two nodes that are compared, sixth-octave bands in dB. */
  readonly sides: readonly [Float32Array, Float32Array] | null
}

/** Messages to the worker that measures what sounds. */
export type ToLive =
  | { readonly kind: 'start'; readonly pffft: ArrayBuffer }
  | {
      readonly kind: 'watch'
      readonly taps: SharedArrayBuffer
      readonly tracks: number
      readonly sampleRateHz: number
    }
  | { readonly kind: 'probe'; readonly settings: ProbeSettings | null }
  | { readonly kind: 'sides'; readonly shown: boolean }
