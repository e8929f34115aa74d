import { type Clip, makeClip } from '../audio'
import type { Chain } from '../session'
import { chainKernels, withKernels } from './kernels'
import type { MixPlan } from './mix-plan'
import { type AddAudio, type Bypass, Mixer, type ReadAudio, type TrackAudio } from './mixer'
import { TrackChain } from './track-chain'
import { addStretches, readStretch } from './transport'

const BLOCK_FRAMES = 1024
/** Sound before a stretch that filters hear first, so that they are in swing when it begins. */
const PRE_ROLL_SECONDS = 0.5

/** A stretch of the time line, in frames. */
export interface Stretch {
  readonly fromFrame: number
  readonly toFrame: number
}

export interface RenderOptions {
  readonly bypass?: Bypass
  /** Called now and then with the share done; may throw to give up. */
  readonly onProgress?: (share: number) => void
}

/** Renders a stretch of the mix, stereo, by the same mixer that plays it. */
export function renderMix(
  plan: MixPlan,
  audio: ReadonlyMap<string, TrackAudio>,
  sampleRateHz: number,
  stretch: Stretch,
  options: RenderOptions = {},
): Clip {
  const mixer = new Mixer(sampleRateHz)
  for (const [id, channels] of audio) mixer.setAudio(id, channels)
  mixer.set(withKernels(plan, (chain) => chainKernels(chain, sampleRateHz)))
  if (options.bypass) mixer.setBypass(options.bypass, 0)
  const frames = stretch.toFrame - stretch.fromFrame
  const left = new Float32Array(frames)
  const right = new Float32Array(frames)
  const blockLeft = new Float32Array(BLOCK_FRAMES)
  const blockRight = new Float32Array(BLOCK_FRAMES)
  let position = startOf(stretch, sampleRateHz)
  const read: ReadAudio = (channel, offset, ahead, out, n) =>
    readStretch(channel, position + ahead - offset, out, n)
  const add: AddAudio = (addends, ahead, out, n) => addStretches(addends, position + ahead, out, n)
  mixer.prime(read)
  while (position < stretch.toFrame) {
    if (position % (BLOCK_FRAMES * 32) < BLOCK_FRAMES) {
      options.onProgress?.(Math.max(0, position - stretch.fromFrame) / frames)
    }
    const count = Math.min(BLOCK_FRAMES, stretch.toFrame - position)
    mixer.process(blockLeft, blockRight, count, read, undefined, add)
    const at = position - stretch.fromFrame
    for (let i = Math.max(0, -at); i < count; i++) {
      left[at + i] = blockLeft[i]
      right[at + i] = blockRight[i]
    }
    position += count
  }
  return makeClip(sampleRateHz, [left, right])
}

/** Renders a stretch of one track through its chain: treated, before fader and pan, channels as they came. */
export function renderTrack(
  chain: Chain,
  audio: TrackAudio,
  offsetFrames: number,
  sampleRateHz: number,
  stretch: Stretch,
  onProgress: (share: number) => void = () => {},
): Clip {
  const treat = new TrackChain()
  treat.prepare(sampleRateHz, audio.length, BLOCK_FRAMES)
  treat.set({ chain, kernels: chainKernels(chain, sampleRateHz) })
  const ahead = treat.latency
  const frames = stretch.toFrame - stretch.fromFrame
  const out = audio.map(() => new Float32Array(frames))
  const block = audio.map(() => new Float32Array(BLOCK_FRAMES))
  const treatBlock = (position: number, count: number) => {
    audio.forEach((channel, c) => {
      readStretch(channel, position - offsetFrames, block[c], count)
    })
    treat.process(block, count)
  }
  const start = startOf(stretch, sampleRateHz)
  for (let at = 0; at < ahead; at += BLOCK_FRAMES) {
    treatBlock(start + at, Math.min(BLOCK_FRAMES, ahead - at))
  }
  for (let position = start; position < stretch.toFrame; ) {
    if (position % (BLOCK_FRAMES * 128) < BLOCK_FRAMES) {
      onProgress(Math.max(0, position - stretch.fromFrame) / frames)
    }
    const count = Math.min(BLOCK_FRAMES, stretch.toFrame - position)
    treatBlock(position + ahead, count)
    const at = position - stretch.fromFrame
    for (let c = 0; c < out.length; c++) {
      for (let i = Math.max(0, -at); i < count; i++) out[c][at + i] = block[c][i]
    }
    position += count
  }
  return makeClip(sampleRateHz, out)
}

/** Where rendering begins: some pre-roll ahead, on the block grid that playback from zero has. */
function startOf(stretch: Stretch, rateHz: number): number {
  const early = Math.max(0, stretch.fromFrame - PRE_ROLL_SECONDS * rateHz)
  return Math.floor(early / BLOCK_FRAMES) * BLOCK_FRAMES
}
