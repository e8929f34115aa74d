import { type AudioSource, Ramp } from '../audio'
import { type PlaybackLevels, type PlaybackResponse, PlaybackRun } from '../playback'
import type { KindRegistry } from '../treatments'
import { MAX_BLOCK_FRAMES, Mixer, type MixTaps, type ReadAudio } from './mixer'
import type { MixPlan } from './plan'

/** One of the states that are heard together, with its gain; -1 beside 1 gives the difference of two. */
export interface HeardPart {
  readonly name: string
  readonly gain: number
}

/** Going from one rendition to another takes this long. */
const SWITCH_SECONDS = 0.02
/** Sound that filters of a new rendition hear before it is heard itself. */
const SETTLE_SECONDS = 0.06

interface Rendition {
  readonly mixer: Mixer
  readonly weight: Ramp
  readonly left: Float32Array
  readonly right: Float32Array
  /** Frames until it may be heard. */
  cold: number
  /** It goes when it is not heard any more. */
  leaving: boolean
}

/** A playback that something is heard through, or was. */
interface Played {
  readonly key: string
  readonly run: PlaybackRun
  readonly weight: Ramp
  /** Frames that it is to hear before it may be heard. */
  cold: number
}

/**
 * How the output is listened to: as it is, folded to mono, only what differs between left and right, one channel on both
 * sides, both exchanged, or the right one turned in polarity; and 20 dB lower, to talk over it.
 */
export interface Listening {
  readonly position: 'stereo' | 'mono' | 'sides' | 'left' | 'right' | 'exchanged' | 'turned'
  readonly dim: boolean
}

/** What of the left and of the right channel comes out at the left, then at the right. */
const POSITIONS: Readonly<
  Record<Listening['position'], readonly [number, number, number, number]>
> = {
  stereo: [1, 0, 0, 1],
  mono: [0.5, 0.5, 0.5, 0.5],
  sides: [0.5, -0.5, -0.5, 0.5],
  left: [1, 0, 1, 0],
  right: [0, 1, 0, 1],
  exchanged: [0, 1, 1, 0],
  turned: [1, 0, 0, -1],
}
const DIM_GAIN = 0.1

/**
 * Several states of a session at once, all run in step, so that one can go from any of them to any other within
 * 20 ms, in time and without a click. What is heard is a weighted sum: one state, or the difference of two.
 */
export class Renditions {
  readonly #renditions = new Map<string, Rendition>()
  readonly #audio = new Map<string, AudioSource>()
  /** What of left and right comes out at the left, then at the right. */
  readonly #ways = POSITIONS.stereo.map((gain) => new Ramp(gain))
  /** What it is heard through, with what is still fading out; and how much comes as it is. */
  #played: Played[] = []
  /** What was asked for last, until another is. */
  #entering: Played | null = null
  readonly #direct = new Ramp(1, SWITCH_SECONDS)
  readonly #passing: readonly [Float32Array, Float32Array]
  readonly #through: readonly [Float32Array, Float32Array]
  #heard: readonly HeardPart[] = []
  /** Parts that wait until all of them have run in. */
  #wanted: readonly HeardPart[] | null = null
  #started = false
  /** Called when what was asked for begins to be heard. */
  onHeard: (parts: readonly HeardPart[]) => void = () => {}

  constructor(
    readonly sampleRateHz: number,
    private readonly maxFrames = MAX_BLOCK_FRAMES,
    private readonly kinds?: KindRegistry,
  ) {
    this.#passing = [new Float32Array(maxFrames), new Float32Array(maxFrames)]
    this.#through = [new Float32Array(maxFrames), new Float32Array(maxFrames)]
  }

  /** {@link Mixer.readGains} of the rendition that plays the session as it is. */
  readGains(node: string, treatment: string, out: Float32Array): number {
    for (const { mixer } of this.#renditions.values()) return mixer.readGains(node, treatment, out)
    return 0
  }

  /** Frames by which the earliest input of any rendition stands ahead of what is heard. */
  get lead(): number {
    let most = 0
    for (const { mixer } of this.#renditions.values()) most = Math.max(most, mixer.lead)
    return most
  }

  /** What is heard, or is going to be. */
  get heard(): readonly HeardPart[] {
    return this.#wanted ?? this.#heard
  }

  has(name: string): boolean {
    return this.#renditions.get(name)?.leaving === false
  }

  setAudio(hash: string, source: AudioSource | null): void {
    if (source) this.#audio.set(hash, source)
    else this.#audio.delete(hash)
    for (const { mixer } of this.#renditions.values()) mixer.setAudio(hash, source)
  }

  /** True when a plan can be taken over while sounding. */
  fits(name: string, plan: MixPlan): boolean {
    const rendition = this.#renditions.get(name)
    return !rendition || rendition.leaving || rendition.mixer.fits(plan)
  }

  /** Holds a state ready, or changes it. The first one is heard at once. */
  set(name: string, plan: MixPlan): void {
    let rendition = this.#renditions.get(name)
    if (!rendition || rendition.leaving) {
      rendition?.mixer.dispose()
      rendition = this.#make()
      this.#renditions.set(name, rendition)
    }
    rendition.mixer.set(plan)
    if (this.#started && rendition.cold > 0) {
      rendition.cold = rendition.mixer.lead + Math.round(SETTLE_SECONDS * this.sampleRateHz)
    }
    if (this.#heard.length === 0) this.hear([{ name, gain: 1 }])
  }

  #make(): Rendition {
    const mixer = new Mixer(this.sampleRateHz, this.maxFrames, this.kinds)
    for (const [hash, source] of this.#audio) mixer.setAudio(hash, source)
    return {
      mixer,
      weight: new Ramp(0, SWITCH_SECONDS),
      left: new Float32Array(this.maxFrames),
      right: new Float32Array(this.maxFrames),
      cold: this.#started ? 1 : 0,
      leaving: false,
    }
  }

  /** Lets a state go; if it is heard, when it has been faded out. */
  drop(name: string): void {
    const rendition = this.#renditions.get(name)
    if (!rendition) return
    rendition.leaving = true
    if (!this.#started || (rendition.weight.settled && rendition.weight.value === 0)) {
      this.#remove(name, rendition)
    }
  }

  #remove(name: string, rendition: Rendition): void {
    rendition.mixer.dispose()
    this.#renditions.delete(name)
  }

  /** Lets states be heard that are held; while it sounds, as soon as all of them have run in. */
  hear(parts: readonly HeardPart[]): void {
    this.#wanted = parts
    if (!this.#started) this.#turn()
  }

  #turn(): void {
    const parts = this.#wanted
    if (!parts) return
    for (const { name } of parts) {
      const rendition = this.#renditions.get(name)
      if (rendition && this.#started && rendition.cold > 0) return
    }
    this.#wanted = null
    this.#heard = parts
    for (const [name, { weight }] of this.#renditions) {
      const gain = parts.find((p) => p.name === name)?.gain ?? 0
      if (this.#started) weight.moveTo(gain, this.sampleRateHz)
      else weight.jumpTo(gain)
    }
    this.onHeard(parts)
  }

  /** Nothing sounds any more: what was asked for stands at once, and what was to go is gone. */
  rest(): void {
    if (!this.#started) return
    this.#started = false
    this.#turn()
    for (const [name, rendition] of this.#renditions) {
      rendition.weight.jumpTo(rendition.weight.target)
      if (rendition.leaving && rendition.weight.value === 0) this.#remove(name, rendition)
    }
  }

  /** How the output is listened to; it glides from one way to another. */
  listen({ position, dim }: Listening): void {
    const gain = dim ? DIM_GAIN : 1
    POSITIONS[position].forEach((way, i) => {
      const ramp = this.#ways[i]
      if (this.#started) ramp.moveTo(gain * way, this.sampleRateHz)
      else ramp.jumpTo(gain * way)
    })
  }

  /**
   * Lets everything be heard as through another playback; it fades from one to another. Under the same key only its
   * levels change. Null is as it is. Not for use within `process`.
   */
  playThrough(
    through: {
      readonly key: string
      readonly response: PlaybackResponse
      readonly levels: PlaybackLevels
    } | null,
  ): void {
    const known = this.#played.find((p) => p.key === through?.key && p === this.#entering)
    if (known && through) {
      known.run.setLevels(through.levels)
      return
    }
    this.#entering = null
    if (!through) {
      this.#goThrough(null)
      return
    }
    const { key, response, levels } = through
    const run = new PlaybackRun(response, levels, this.sampleRateHz)
    const seconds = this.#started ? SETTLE_SECONDS : 0
    const cold = run.latency + Math.round(seconds * this.sampleRateHz)
    this.#entering = { key, run, weight: new Ramp(0, SWITCH_SECONDS), cold }
    this.#played.push(this.#entering)
    if (!this.#started) this.#goThrough(this.#entering)
  }

  /** From here on one of them is heard, or none. */
  #goThrough(heard: Played | null): void {
    const move = (ramp: Ramp, to: number) =>
      this.#started ? ramp.moveTo(to, this.sampleRateHz) : ramp.jumpTo(to)
    for (const played of this.#played) move(played.weight, played === heard ? 1 : 0)
    move(this.#direct, heard ? 0 : 1)
    if (heard) heard.cold = 0
    if (!this.#started) this.#dropPlayed()
  }

  #dropPlayed(): void {
    for (let i = this.#played.length - 1; i >= 0; i--) {
      const played = this.#played[i]
      const { run, weight } = played
      if (played === this.#entering || !weight.settled || weight.value !== 0) continue
      run.dispose()
      this.#played.splice(i, 1)
    }
  }

  /** Forgets past sound; parameters stand where they were going. */
  reset(): void {
    this.#started = false
    for (const { run } of this.#played) run.reset()
    this.#goThrough(this.#entering)
    for (const [name, rendition] of this.#renditions) {
      rendition.mixer.reset()
      rendition.cold = 0
      rendition.weight.jumpTo(rendition.weight.target)
      if (rendition.leaving && rendition.weight.value === 0) this.#remove(name, rendition)
    }
    this.#turn()
    for (const ramp of this.#ways) ramp.jumpTo(ramp.target)
  }

  /** See {@link Mixer.prime}. */
  prime(read: ReadAudio): void {
    for (const { mixer } of this.#renditions.values()) mixer.prime(read)
  }

  /** The next `frames` of what is heard. @param taps listen to the state that is heard most. */
  process(
    left: Float32Array,
    right: Float32Array,
    frames: number,
    read: ReadAudio,
    taps?: MixTaps,
  ): void {
    this.#started = true
    if (this.#wanted) this.#turn()
    left.fill(0, 0, frames)
    right.fill(0, 0, frames)
    const tapped = this.#tapped()
    for (const [name, rendition] of this.#renditions) {
      const { mixer, weight } = rendition
      mixer.process(
        rendition.left,
        rendition.right,
        frames,
        read,
        rendition === tapped ? taps : undefined,
      )
      if (rendition.cold > 0) rendition.cold = Math.max(0, rendition.cold - frames)
      if (weight.settled && weight.value === 0) {
        if (rendition.leaving) this.#remove(name, rendition)
        continue
      }
      this.#add(rendition, left, right, frames)
    }
    if (this.#played.length > 0) this.#pass(left, right, frames)
    this.#fold(left, right, frames)
  }

  /** What comes as it is, and what comes through playbacks. */
  #pass(left: Float32Array, right: Float32Array, frames: number): void {
    const a = this.#passing[0]
    const b = this.#passing[1]
    for (let i = 0; i < frames; i++) {
      a[i] = left[i]
      b[i] = right[i]
    }
    for (let i = 0; i < frames; i++) {
      const gain = this.#direct.next()
      left[i] *= gain
      right[i] *= gain
    }
    let isGone = false
    for (let p = 0; p < this.#played.length; p++) {
      const played = this.#played[p]
      this.#playOne(played.run, played.weight, left, right, frames)
      if (played.cold > 0) {
        played.cold -= frames
        if (played.cold <= 0 && played === this.#entering) this.#goThrough(played)
      }
      isGone ||= played.weight.settled && played.weight.value === 0
    }
    if (isGone) this.#dropPlayed()
  }

  #playOne(
    run: PlaybackRun,
    weight: Ramp,
    left: Float32Array,
    right: Float32Array,
    frames: number,
  ): void {
    const a = this.#through[0]
    const b = this.#through[1]
    for (let i = 0; i < frames; i++) {
      a[i] = this.#passing[0][i]
      b[i] = this.#passing[1][i]
    }
    run.process(a, b, frames)
    for (let i = 0; i < frames; i++) {
      const gain = weight.next()
      left[i] += gain * a[i]
      right[i] += gain * b[i]
    }
  }

  #tapped(): Rendition | undefined {
    let most: Rendition | undefined
    for (const rendition of this.#renditions.values()) {
      if (!most || rendition.weight.target > most.weight.target) most = rendition
    }
    return most
  }

  #add(
    { weight, left: a, right: b }: Rendition,
    left: Float32Array,
    right: Float32Array,
    frames: number,
  ): void {
    if (weight.settled) {
      const gain = weight.value
      for (let i = 0; i < frames; i++) {
        left[i] += gain * a[i]
        right[i] += gain * b[i]
      }
      return
    }
    for (let i = 0; i < frames; i++) {
      const gain = weight.next()
      left[i] += gain * a[i]
      right[i] += gain * b[i]
    }
  }

  #fold(left: Float32Array, right: Float32Array, frames: number): void {
    if (this.#isPlain()) return
    const leftLeft = this.#ways[0]
    const rightLeft = this.#ways[1]
    const leftRight = this.#ways[2]
    const rightRight = this.#ways[3]
    for (let i = 0; i < frames; i++) {
      const l = left[i]
      const r = right[i]
      left[i] = leftLeft.next() * l + rightLeft.next() * r
      right[i] = leftRight.next() * l + rightRight.next() * r
    }
  }

  /** Left and right come out as they are, without a glide. */
  #isPlain(): boolean {
    for (let i = 0; i < this.#ways.length; i++) {
      const ramp = this.#ways[i]
      if (!ramp.settled || ramp.value !== POSITIONS.stereo[i]) return false
    }
    return true
  }
}
