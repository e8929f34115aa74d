import { DelayLine, Ramp } from '../../audio'
import type { TreatmentProcessor } from '../kind'
import { CONTROL_FRAMES, RunningBand } from './band'
import type { FollowDesign, FollowParams } from './params'

/** Bands that are drawn by a key or by the sound itself. */
export class FollowProcessor implements TreatmentProcessor<FollowParams, FollowDesign> {
  #bands: RunningBand[] = []
  #delay: DelayLine | null = null
  #keyGain = 1
  readonly #blend = new Ramp(1)
  readonly #output = new Ramp(1)
  #started = false
  /** Frames of the control step at hand that have been heard. */
  #heard = 0
  readonly #work: Float64Array[]
  readonly #mid = new Float64Array(CONTROL_FRAMES)
  readonly #side = new Float64Array(CONTROL_FRAMES)
  readonly #justMid = [this.#mid]
  readonly #justSide = [this.#side]
  #ownMid = new Float64Array(0)
  #ownSide = new Float64Array(0)

  constructor(
    private readonly sampleRateHz: number,
    private readonly channels: number,
  ) {
    this.#work = Array.from({ length: channels }, () => new Float64Array(CONTROL_FRAMES))
  }

  get latency(): number {
    return this.#delay?.frames ?? 0
  }

  get idle(): boolean {
    return (
      this.#bands.length === 0 &&
      this.#delay === null &&
      this.#output.settled &&
      this.#output.value === 1
    )
  }

  readGains(out: Float32Array): number {
    let count = 0
    for (const band of this.#bands)
      if (!band.leaving && count < out.length) out[count++] = band.gainDb
    return count
  }

  fits(_: FollowParams, { lookAheadFrames }: FollowDesign): boolean {
    return lookAheadFrames === this.latency
  }

  set({ bands, blend, keyDb, outputDb }: FollowParams, design: FollowDesign): void {
    const frames = design.lookAheadFrames
    if (frames !== this.latency) {
      this.#delay = frames > 0 ? new DelayLine(this.channels, frames) : null
    }
    this.#keyGain = 10 ** (keyDb / 20)
    const output = 10 ** (outputDb / 20)
    if (this.#started) {
      this.#blend.moveTo(blend, this.sampleRateHz)
      this.#output.moveTo(output, this.sampleRateHz)
    } else {
      this.#blend.jumpTo(blend)
      this.#output.jumpTo(output)
    }
    const next = bands
      .filter((b) => this.channels === 2 || b.channel !== 'side')
      .map((band) => {
        const known = this.#bands.find((b) => b.fits(band))
        if (!known) {
          return new RunningBand(
            band,
            this.sampleRateHz,
            band.channel === 'stereo' ? this.channels : 1,
          )
        }
        known.set(band)
        return known
      })
    for (const band of this.#bands) {
      if (next.includes(band) || !this.#started || band.idle) continue
      band.leaving = true
      next.push(band)
    }
    this.#bands = next
  }

  process(
    channels: readonly Float32Array[],
    frames: number,
    key: readonly Float32Array[] | null,
  ): void {
    this.#started = true
    this.#hearItself(channels, frames)
    this.#delay?.process(channels, frames)
    for (let from = 0; from < frames; ) {
      const count = Math.min(CONTROL_FRAMES - this.#heard, frames - from)
      this.#listen(key, from, count)
      this.#treat(channels, from, count)
      this.#heard += count
      from += count
      if (this.#heard < CONTROL_FRAMES) continue
      this.#heard = 0
      this.#decide(key !== null)
    }
  }

  /** What bands hear of the sound itself, before it is held back. */
  #hearItself(channels: readonly Float32Array[], frames: number): void {
    if (!this.#bands.some((b) => b.listensToItself)) return
    if (this.#ownMid.length < frames) {
      this.#ownMid = new Float64Array(frames)
      this.#ownSide = new Float64Array(frames)
    }
    const [left, right = left] = channels
    for (let i = 0; i < frames; i++) {
      this.#ownMid[i] = 0.5 * (left[i] + right[i])
      this.#ownSide[i] = 0.5 * (left[i] - right[i])
    }
  }

  #decide(hasKey: boolean): void {
    let gone = false
    for (const band of this.#bands) {
      if (hasKey || band.listensToItself) band.decide()
      else band.rest()
      gone ||= band.leaving && band.idle
    }
    if (gone) this.#bands = this.#bands.filter((b) => !b.leaving || !b.idle)
  }

  #listen(key: readonly Float32Array[] | null, from: number, count: number): void {
    for (const band of this.#bands) {
      if (band.listensToItself) {
        band.listen(band.channel === 'side' ? this.#ownSide : this.#ownMid, from, count, 1)
      } else if (key) {
        // A key in middle and sides is heard on the band's own side of the two.
        const heard = key.length > 1 && band.channel === 'side' ? key[1] : key[0]
        band.listen(heard, from, count, this.#keyGain)
      }
    }
  }

  #treat(channels: readonly Float32Array[], from: number, count: number): void {
    const isPlain = this.#output.settled && this.#output.value === 1
    if (isPlain && this.#bands.every((b) => b.idle)) return
    const work = this.#work
    for (let c = 0; c < channels.length; c++) {
      for (let i = 0; i < count; i++) work[c][i] = channels[c][from + i]
    }
    for (const band of this.#bands) {
      if (band.channel === 'stereo' || channels.length === 1) band.run(work, count)
      else this.#midSide(band, count)
    }
    for (let i = 0; i < count; i++) {
      const blend = this.#blend.next()
      const output = this.#output.next()
      for (let c = 0; c < channels.length; c++) {
        const dry = channels[c][from + i]
        channels[c][from + i] = output * (dry + blend * (work[c][i] - dry))
      }
    }
    this.#guard(channels, from, count)
  }

  #guard(channels: readonly Float32Array[], from: number, count: number): void {
    for (const channel of channels) {
      if (Number.isFinite(channel[from + count - 1])) continue
      for (const all of channels) all.fill(0, from, from + count)
      for (const band of this.#bands) band.reset()
      return
    }
  }

  #midSide(band: RunningBand, count: number): void {
    if (band.idle) return
    const [left, right] = this.#work
    for (let i = 0; i < count; i++) {
      this.#mid[i] = (left[i] + right[i]) / 2
      this.#side[i] = (left[i] - right[i]) / 2
    }
    band.run(band.channel === 'mid' ? this.#justMid : this.#justSide, count)
    for (let i = 0; i < count; i++) {
      left[i] = this.#mid[i] + this.#side[i]
      right[i] = this.#mid[i] - this.#side[i]
    }
  }

  reset(): void {
    this.#delay?.reset()
    this.#heard = 0
    for (const band of this.#bands) band.reset()
    this.#blend.jumpTo(this.#blend.target)
    this.#output.jumpTo(this.#output.target)
    this.#started = false
  }

  dispose(): void {}
}
