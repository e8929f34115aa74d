import { dbToAmplitude } from '../audio'
import { type MixPlan, panGains, type TrackPlan } from './mix-plan'
import { Ramp } from './ramp'
import { TrackChain } from './track-chain'

/** Samples of a track: one or two channels at the mixer's rate. */
export type TrackAudio = readonly Float32Array[]

/** Whose moves are passed by, for comparing: nobody's, everybody's, or one track's (`mix` for the mix). */
export type Bypass = { readonly of: 'none' } | { readonly of: 'all' } | { readonly of: string }

/** Listens to what each track and the mix put out; called once per block with arrays that are reused. */
export interface MixTaps {
  track(id: string, left: Float32Array, right: Float32Array, frames: number): void
  mix(left: Float32Array, right: Float32Array, frames: number): void
}

/**
 * Copies what a track's channel has to play into `out`, `ahead` frames later on the time line than where
 * the mix stands: chains with latency are fed early, so that everything comes out in time.
 */
export type ReadAudio = (
  channel: Float32Array,
  offsetFrames: number,
  ahead: number,
  out: Float32Array,
  frames: number,
) => void

/** A channel that goes into the mix as it is, with a gain. */
export interface Addend {
  readonly channel: Float32Array
  readonly offsetFrames: number
  readonly gain: number
}

/** Adds to `out` what {@link ReadAudio} would copy of each channel, times its gain. */
export type AddAudio = (
  addends: readonly Addend[],
  ahead: number,
  out: Float32Array,
  frames: number,
) => void

/** Longest block that {@link Mixer.process} takes. */
export const MAX_BLOCK_FRAMES = 4096

interface Lane {
  readonly id: string
  readonly audio: TrackAudio
  readonly chain: TrackChain
  readonly left: Ramp
  readonly right: Ramp
  offsetFrames: number
}

/**
 * Mixes tracks → mix, each through its chain, in blocks. It runs unchanged in the audio worklet, in
 * render workers and in Node: what is heard is what is rendered.
 */
export class Mixer {
  readonly #rateHz: number
  readonly #audio = new Map<string, TrackAudio>()
  #lanes: Lane[] = []
  readonly #mixChain = new TrackChain()
  readonly #fader = new Ramp(1)
  readonly #compareGain = new Ramp(1, 0.03)
  readonly #mono = new Ramp(0)
  readonly #scratch = [new Float32Array(MAX_BLOCK_FRAMES), new Float32Array(MAX_BLOCK_FRAMES)]
  readonly #mix = [new Float32Array(MAX_BLOCK_FRAMES), new Float32Array(MAX_BLOCK_FRAMES)]
  readonly #monoView = [this.#scratch[0]]
  readonly #bypassed = { all: false, id: '' }
  #started = false

  constructor(sampleRateHz: number) {
    this.#rateHz = sampleRateHz
    this.#mixChain.prepare(sampleRateHz, 2, MAX_BLOCK_FRAMES)
  }

  /** Gives a track its samples; `null` takes them away. Not for use within `process`. */
  setAudio(id: string, audio: TrackAudio | null): void {
    if (audio) this.#audio.set(id, audio)
    else this.#audio.delete(id)
    this.#lanes = this.#lanes.filter((lane) => {
      if (lane.id !== id) return true
      lane.chain.dispose()
      return false
    })
  }

  /** Takes over a plan. Tracks that stay glide to their new values; tracks without audio are silent. */
  set(plan: MixPlan): void {
    const old = new Map(this.#lanes.map((lane) => [lane.id, lane]))
    this.#lanes = plan.tracks.flatMap((track) => {
      const audio = this.#audio.get(track.id)
      if (!audio) return []
      const lane = old.get(track.id) ?? this.#newLane(track, audio)
      lane.offsetFrames = track.offsetFrames
      lane.chain.set({ chain: track.chain, kernels: track.kernels ?? null })
      const gain = track.audible ? dbToAmplitude(track.faderDb) : 0
      const [left, right] = panGains(track.pan, audio.length)
      this.#move(lane.left, gain * left)
      this.#move(lane.right, gain * right)
      old.delete(track.id)
      return [lane]
    })
    for (const lane of old.values()) lane.chain.dispose()
    this.#mixChain.set({ chain: plan.chain, kernels: plan.kernels ?? null })
    this.#move(this.#fader, dbToAmplitude(plan.faderDb))
    this.#applyBypass()
  }

  /** True when a plan can be taken over while sounding, because no latency changes. */
  keepsLatency(plan: MixPlan): boolean {
    return (
      this.#mixChain.keepsLatency(plan.kernels ?? null) &&
      this.#lanes.every((lane) => {
        const track = plan.tracks.find((t) => t.id === lane.id)
        return !track || lane.chain.keepsLatency(track.kernels ?? null)
      })
    )
  }

  /** Folds the output to mono or opens it again. */
  setMono(on: boolean): void {
    this.#move(this.#mono, on ? 1 : 0)
  }

  /** Passes moves by. `gainDb` is added at the output meanwhile, to compare at equal loudness. */
  setBypass(bypass: Bypass, gainDb: number): void {
    this.#bypassed.all = bypass.of === 'all'
    this.#bypassed.id = bypass.of
    this.#applyBypass()
    this.#move(this.#compareGain, dbToAmplitude(bypass.of === 'none' ? 0 : gainDb))
  }

  /** Forgets past sound; parameters stand where they were going. */
  reset(): void {
    for (const lane of this.#lanes) {
      lane.chain.reset()
      lane.left.jumpTo(lane.left.target)
      lane.right.jumpTo(lane.right.target)
    }
    this.#mixChain.reset()
    for (const ramp of [this.#fader, this.#compareGain, this.#mono]) ramp.jumpTo(ramp.target)
    this.#started = false
  }

  /**
   * Feeds chains with latency what comes before their first output. To be called after
   * {@link Mixer.reset}, before the first block.
   */
  prime(read: ReadAudio): void {
    const mixLatency = this.#mixChain.latency
    for (const lane of this.#lanes) {
      const { latency } = lane.chain
      for (let at = 0; at < latency; at += MAX_BLOCK_FRAMES) {
        this.#feedLane(lane, at, Math.min(MAX_BLOCK_FRAMES, latency - at), read)
      }
    }
    for (let at = 0; at < mixLatency; at += MAX_BLOCK_FRAMES) {
      this.#mixLanes(at, Math.min(MAX_BLOCK_FRAMES, mixLatency - at), read)
    }
  }

  /**
   * Renders the next `frames` (at most {@link MAX_BLOCK_FRAMES}) into `left` and `right`.
   * @param read gives the tracks' samples.
   * @param add adds them right into the mix, for tracks that are left as they are and that nobody taps.
   */
  process(
    left: Float32Array,
    right: Float32Array,
    frames: number,
    read: ReadAudio,
    taps?: MixTaps,
    add?: AddAudio,
  ): void {
    this.#started = true
    this.#mixLanes(this.#mixChain.latency, frames, read, taps, add)
    this.#finish(left, right, frames)
    taps?.mix(left, right, frames)
  }

  /** Runs all lanes and the mix's chain, `ahead` frames before the mix comes out. */
  #mixLanes(ahead: number, frames: number, read: ReadAudio, taps?: MixTaps, add?: AddAudio): void {
    const [mixLeft, mixRight] = this.#mix
    mixLeft.fill(0, 0, frames)
    mixRight.fill(0, 0, frames)
    const asTheyAre = add && !taps ? this.#addPlainLanes(ahead, frames, add) : null
    for (let l = 0; l < this.#lanes.length; l++) {
      const lane = this.#lanes[l]
      if (asTheyAre?.has(lane)) continue
      this.#runLane(lane, ahead + lane.chain.latency, frames, read)
      const [a, b] = this.#scratch
      for (let i = 0; i < frames; i++) {
        mixLeft[i] += a[i]
        mixRight[i] += b[i]
      }
      taps?.track(lane.id, a, b, frames)
    }
    this.#mixChain.process(this.#mix, frames)
  }

  /** Adds all lanes that nothing but gains is done to, and tells which they were. */
  #addPlainLanes(ahead: number, frames: number, add: AddAudio): ReadonlySet<Lane> {
    const plain = new Set<Lane>()
    const left: Addend[] = []
    const right: Addend[] = []
    for (const lane of this.#lanes) {
      const gain = lane.chain.plainGain
      if (gain === null || !lane.left.settled || !lane.right.settled) continue
      const [first, second = first] = lane.audio
      const { offsetFrames } = lane
      left.push({ channel: first, offsetFrames, gain: gain * lane.left.value })
      right.push({ channel: second, offsetFrames, gain: gain * lane.right.value })
      plain.add(lane)
    }
    add(left, ahead, this.#mix[0], frames)
    add(right, ahead, this.#mix[1], frames)
    return plain
  }

  #runLane(lane: Lane, ahead: number, frames: number, read: ReadAudio): void {
    const [a, b] = this.#scratch
    this.#feedLane(lane, ahead, frames, read)
    const stereo = lane.audio.length === 2
    const second = stereo ? b : a
    lane.right.applyTo(second, b, frames)
    lane.left.applyTo(a, a, frames)
  }

  /** Reads a lane's audio and treats it; what comes out stands in the scratch channels. */
  #feedLane(lane: Lane, ahead: number, frames: number, read: ReadAudio): void {
    const [a, b] = this.#scratch
    const stereo = lane.audio.length === 2
    read(lane.audio[0], lane.offsetFrames, ahead, a, frames)
    if (stereo) read(lane.audio[1], lane.offsetFrames, ahead, b, frames)
    lane.chain.process(stereo ? this.#scratch : this.#monoView, frames)
  }

  #finish(left: Float32Array, right: Float32Array, frames: number): void {
    const [a, b] = this.#mix
    if (this.#fader.settled && this.#compareGain.settled && this.#mono.settled) {
      const gain = this.#fader.value * this.#compareGain.value
      const mono = this.#mono.value
      for (let i = 0; i < frames; i++) {
        const l = a[i] * gain
        const r = b[i] * gain
        const middle = (l + r) / 2
        left[i] = l + mono * (middle - l)
        right[i] = r + mono * (middle - r)
      }
      return
    }
    for (let i = 0; i < frames; i++) {
      const gain = this.#fader.next() * this.#compareGain.next()
      const mono = this.#mono.next()
      const l = a[i] * gain
      const r = b[i] * gain
      const middle = (l + r) / 2
      left[i] = l + mono * (middle - l)
      right[i] = r + mono * (middle - r)
    }
  }

  #newLane(track: TrackPlan, audio: TrackAudio): Lane {
    const chain = new TrackChain()
    chain.prepare(this.#rateHz, audio.length, MAX_BLOCK_FRAMES)
    return {
      id: track.id,
      audio,
      chain,
      // A track that joins while others play fades in from silence.
      left: new Ramp(0),
      right: new Ramp(0),
      offsetFrames: track.offsetFrames,
    }
  }

  #applyBypass(): void {
    const { all, id } = this.#bypassed
    for (const lane of this.#lanes) lane.chain.setBypass(all || lane.id === id)
    this.#mixChain.setBypass(all || id === 'mix')
  }

  #move(ramp: Ramp, target: number): void {
    if (this.#started) ramp.moveTo(target, this.#rateHz)
    else ramp.jumpTo(target)
  }
}
