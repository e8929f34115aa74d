import type { HeardPart, Listening, Loop, NodePlan } from '@sober-prism/core/mix'
import type { PlaybackLevels, PlaybackResponse } from '@sober-prism/core/playback'
import type { SharedWindow } from './window-source'

/** Samples of a recording as the audio thread gets them: all of it, or a window that the feeder fills. */
export type PlayedAudio =
  | { readonly kind: 'memory'; readonly channels: readonly Float32Array[] }
  | { readonly kind: 'window'; readonly window: SharedWindow }

/** Another playback through which everything is heard; under one key only its levels change. */
export interface HeardThrough {
  readonly key: string
  readonly response: PlaybackResponse
  readonly levels: PlaybackLevels
}

/** Messages from the page to the mixer in the audio worklet. */
export type ToMixer =
  | { readonly kind: 'port'; readonly port: MessagePort }
  | { readonly kind: 'audio'; readonly hash: string; readonly audio: PlayedAudio | null }
  /** What of a rendition's plan is new, and the order of all its nodes. */
  | {
      readonly kind: 'plan'
      readonly rendition: string
      readonly changed: readonly NodePlan[]
      readonly order: readonly string[]
    }
  | { readonly kind: 'drop'; readonly rendition: string }
  | { readonly kind: 'hear'; readonly parts: readonly HeardPart[]; readonly turn: number }
  | { readonly kind: 'play' }
  | { readonly kind: 'pause' }
  | { readonly kind: 'jump'; readonly frame: number; readonly jumps: number }
  | { readonly kind: 'loop'; readonly loop: Loop | null; readonly end: number | null }
  | { readonly kind: 'listen'; readonly listening: Listening }
  | { readonly kind: 'through'; readonly through: HeardThrough | null }
  | { readonly kind: 'taps'; readonly taps: SharedArrayBuffer; readonly ids: readonly string[] }
  /** Whose chain is probed; null for none. */
  | { readonly kind: 'probe'; readonly id: string | null }
  /** Two nodes whose sides are shown; null for none. */
  | { readonly kind: 'sides'; readonly of: readonly [string, string] | null }
  /** Whose gains are shown in shared memory; null for none. */
  | { readonly kind: 'gains'; readonly node: string | null; readonly treatment: string }
  | { readonly kind: 'record'; readonly left: Float32Array; readonly right: Float32Array }

/** Events of the audio thread, to the page and to the feeder. */
export type FromMixer =
  /** Where the play head is, a few times a second. */
  | { readonly kind: 'at'; readonly frame: number; readonly jumps: number }
  | { readonly kind: 'playing'; readonly on: boolean }
  /** What was asked for with this turn begins to be heard. */
  | { readonly kind: 'heard'; readonly turn: number }
  | { readonly kind: 'recorded' }
  /** Audio that was not at hand in time: reads so far. */
  | { readonly kind: 'missed'; readonly reads: number }

/** Messages from the page to the feeder. */
export type ToFeeder =
  | { readonly kind: 'port'; readonly port: MessagePort }
  | {
      readonly kind: 'feed'
      readonly recordings: readonly {
        readonly hash: string
        readonly blocks: string
        readonly window: SharedWindow
        readonly offsets: readonly number[]
      }[]
    }
  | { readonly kind: 'jump'; readonly frame: number; readonly jumps: number }
  | { readonly kind: 'loop'; readonly loop: Loop | null }

/** Options the worklet is started with. */
export interface MixerOptions {
  readonly state: SharedArrayBuffer
  /** How many gains there are, then each in dB: see {@link MOST_GAINS}. */
  readonly gains: SharedArrayBuffer
  /** The Fourier transform module, compiled on the audio thread: a worklet cannot fetch. */
  readonly pffft: ArrayBuffer
}

/** Gains of one treatment that are shown. */
export const MOST_GAINS = 127

/** Places in the shared state, 32-bit integers; for drawing, which asks at each frame of the screen. */
export const STATE = { position: 0, playing: 1, blocks: 2, missed: 3, jumps: 4, length: 5 } as const
