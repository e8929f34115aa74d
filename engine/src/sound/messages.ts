import type { Bypass, Loop, MixPlan, TrackAudio } from '@sober-prism/core/chain'

/** Messages from the page to the mixer in the audio worklet. */
export type ToMixer =
  | { readonly kind: 'audio'; readonly id: string; readonly channels: TrackAudio | null }
  | { readonly kind: 'plan'; readonly plan: MixPlan }
  | { readonly kind: 'play' }
  | { readonly kind: 'pause' }
  | { readonly kind: 'seek'; readonly frame: number }
  | { readonly kind: 'loop'; readonly loop: Loop | null }
  | { readonly kind: 'mono'; readonly on: boolean }
  | { readonly kind: 'bypass'; readonly bypass: Bypass; readonly gainDb: number }
  | { readonly kind: 'taps'; readonly rings: SharedArrayBuffer; readonly ids: readonly string[] }
  | { readonly kind: 'record'; readonly left: Float32Array; readonly right: Float32Array }

/** Options the worklet is started with. */
export interface MixerOptions {
  readonly state: SharedArrayBuffer
  /** The Fourier transform module, compiled on the audio thread: a worklet cannot fetch. */
  readonly pffft: ArrayBuffer
}

/** Places in the shared state, 32-bit integers. */
export const STATE = { position: 0, playing: 1, recorded: 2, blocks: 3, length: 4 } as const
