import { smoothStep } from '../audio'
import { BandFilter, sameStructure } from './band-filter'
import type { ChannelMode } from './band-names'
import type { Biquad } from './biquad'
import type { EqBand } from './eq-band'
import { KERNEL_FRAMES, kernelPasses, runInKernel } from './section-kernel'
import { PlainPasses, runSections, type SvfChannels, type SvfSection } from './svf'

/** Frames in which moving values take one step; at rest, longer stretches are run at once. */
const STEP_FRAMES = 64
const REST_FRAMES = 128
const FADE_SECONDS = 0.03

/** A band with the identity by which changes to it are followed. */
export interface KeyedBand {
  readonly id: string
  readonly band: EqBand
  /** Its exact sections, designed ahead; without them they are designed when the band is set. */
  readonly sections?: readonly Biquad[]
}

interface Slot {
  readonly id: string
  readonly filter: BandFilter
  /** Share of the filtered signal, 0 to 1, and where it is going. */
  wet: number
  goal: 0 | 1
}

/**
 * An equaliser of any number of bands in series, in place, without latency. Bands that change glide;
 * bands that come, go or change their type fade, so that nothing clicks.
 */
export class Equaliser {
  readonly latency = 0
  #rateHz = 48000
  #channels = 2
  #slots: Slot[] = []
  #fadeStep = 0
  #started = false
  /** Sections of all bands in one row, while every band rests and acts on all channels; else `null`. */
  #row: SvfSection[] | null = null
  /** Every band acts on all channels and none is fading, though some may move. */
  #uniform = false
  #rowStands = false
  /** Scratch for the channels a band acts on and for the unfiltered signal during a fade. */
  readonly #mid = new Float64Array(REST_FRAMES)
  readonly #side = new Float64Array(REST_FRAMES)
  readonly #dry = [new Float64Array(REST_FRAMES), new Float64Array(REST_FRAMES)]
  readonly #work = [new Float64Array(REST_FRAMES), new Float64Array(REST_FRAMES)]
  readonly #passes = new PlainPasses()
  readonly #justMid = [this.#mid]
  readonly #justSide = [this.#side]
  readonly #justLeft = [this.#work[0]]
  readonly #justRight = [this.#work[1]]

  /** True when there is nothing to do, not even a band to fade out. */
  get idle(): boolean {
    return this.#slots.length === 0
  }

  prepare(sampleRateHz: number, channels: number): void {
    this.#rateHz = sampleRateHz
    this.#channels = channels
    this.#fadeStep = STEP_FRAMES / (FADE_SECONDS * sampleRateHz)
    this.#slots = []
    this.#started = false
  }

  /** Before the first block values stand at once; afterwards they move there. */
  set(bands: readonly KeyedBand[]): void {
    if (this.#started && this.#matches(bands)) {
      for (let i = 0; i < bands.length; i++)
        this.#slots[i].filter.set(bands[i].band, bands[i].sections)
      this.#rowStands = false
      return
    }
    const next: Slot[] = []
    for (const { id, band, sections } of bands) {
      const slot = this.#slots.find((s) => s.id === id && s.goal === 1)
      if (slot && sameStructure(slot.filter.band, band) && this.#started) {
        slot.filter.set(band, sections)
        next.push(slot)
      } else {
        if (slot) slot.goal = 0
        const filter = new BandFilter(band, this.#rateHz, this.#channels, STEP_FRAMES, sections)
        next.push({ id, filter, wet: this.#started ? 0 : 1, goal: 1 })
      }
    }
    if (this.#started) {
      for (const slot of this.#slots) {
        if (next.includes(slot)) continue
        slot.goal = 0
        next.push(slot)
      }
    }
    this.#slots = next
    this.#rowStands = false
  }

  /** True when bands are the present ones, in order, moved at most. */
  #matches(bands: readonly KeyedBand[]): boolean {
    if (bands.length !== this.#slots.length) return false
    for (let i = 0; i < bands.length; i++) {
      const { id, goal, filter } = this.#slots[i]
      if (id !== bands[i].id || goal !== 1 || !sameStructure(filter.band, bands[i].band))
        return false
    }
    return true
  }

  reset(): void {
    for (const slot of this.#slots) {
      slot.filter.reset()
      slot.wet = slot.goal
    }
    this.#slots = this.#slots.filter((s) => s.goal === 1)
    this.#started = false
    this.#rowStands = false
  }

  process(channels: readonly Float32Array[], frames: number): void {
    this.#started = true
    if (this.#slots.length === 0) return
    for (let from = 0; from < frames; ) {
      if (!this.#rowStands) this.#lineUp(channels.length)
      const rest = frames - from
      const many = Math.min(KERNEL_FRAMES, rest)
      if (this.#row && this.#runRow(this.#row, channels, from, many)) {
        from += many
        continue
      }
      const count = Math.min(this.#row ? REST_FRAMES : STEP_FRAMES, rest)
      if (!this.#uniform || !this.#runMoving(channels, from, count)) {
        this.#step(channels, from, count)
      }
      from += count
    }
  }

  /** Runs a row of resting sections over two channels in the fast kernel, if it is there. */
  #runRow(
    row: readonly SvfSection[],
    channels: readonly Float32Array[],
    from: number,
    count: number,
  ): boolean {
    if (channels.length !== 2) return false
    const [left, right] = channels
    if (row.length > 0 && !runInKernel(row, left, right, from, count)) return false
    this.#guard(channels, from, count)
    return true
  }

  /** Runs bands of which some move over two channels in the fast kernel, if it is there. */
  #runMoving(channels: readonly Float32Array[], from: number, count: number): boolean {
    if (channels.length !== 2) return false
    const [left, right] = channels
    if (!kernelPasses.open(left, right, from, count)) return false
    for (let i = 0; i < this.#slots.length; i++) this.#slots[i].filter.run(kernelPasses)
    kernelPasses.close(left, right, from)
    this.#guard(channels, from, count)
    return true
  }

  /** Looks whether all bands can be run as one row of sections. */
  #lineUp(used: number): void {
    this.#row = null
    this.#uniform = false
    let resting = true
    for (let i = 0; i < this.#slots.length; i++) {
      const { filter, wet, goal } = this.#slots[i]
      if (wet !== 1 || goal !== 1) return
      if (used === 2 && filter.band.channel !== 'stereo') return
      if (used === 1 && !actsOnMono(filter.band.channel)) return
      resting = resting && filter.atRest
    }
    this.#uniform = true
    if (!resting) return
    const row: SvfSection[] = []
    for (const { filter } of this.#slots) filter.collect(row)
    this.#row = row
    this.#rowStands = true
  }

  #step(channels: readonly Float32Array[], from: number, count: number): void {
    const work = this.#work
    const used = channels.length
    for (let c = 0; c < used; c++) {
      for (let i = 0; i < count; i++) work[c][i] = channels[c][from + i]
    }
    const together = used === 1 ? this.#justLeft : work
    if (this.#row) runSections(this.#row, together, 0, count)
    else this.#runSlots(used, count)
    for (let c = 0; c < used; c++) {
      for (let i = 0; i < count; i++) channels[c][from + i] = work[c][i]
    }
    this.#guard(channels, from, count)
  }

  #runSlots(used: number, count: number): void {
    let gone = false
    for (const slot of this.#slots) {
      if (slot.wet === 1 && slot.goal === 1) this.#apply(slot.filter, used, count)
      else gone = this.#fade(slot, used, count) || gone
    }
    if (gone) this.#slots = this.#slots.filter((s) => s.goal === 1 || s.wet > 0)
  }

  /** Blends from dry to filtered or back; true when the band has faded out for good. */
  #fade(slot: Slot, used: number, count: number): boolean {
    const from = slot.wet
    const to =
      slot.goal === 1 ? Math.min(1, from + this.#fadeStep) : Math.max(0, from - this.#fadeStep)
    for (let c = 0; c < used; c++) {
      for (let i = 0; i < count; i++) this.#dry[c][i] = this.#work[c][i]
    }
    this.#apply(slot.filter, used, count)
    for (let c = 0; c < used; c++) {
      for (let i = 0; i < count; i++) {
        const wet = smoothStep(from + ((to - from) * (i + 1)) / count)
        this.#work[c][i] = this.#dry[c][i] + wet * (this.#work[c][i] - this.#dry[c][i])
      }
    }
    slot.wet = to
    return to === 0
  }

  #apply(filter: BandFilter, used: number, count: number): void {
    const mode: ChannelMode = filter.band.channel
    if (used === 1) {
      if (actsOnMono(mode)) this.#pass(filter, this.#justLeft, count)
      return
    }
    switch (mode) {
      case 'stereo':
        this.#pass(filter, this.#work, count)
        return
      case 'left':
        this.#pass(filter, this.#justLeft, count)
        return
      case 'right':
        this.#pass(filter, this.#justRight, count)
        return
      case 'mid':
      case 'side':
        this.#midSide(filter, mode, count)
    }
  }

  #pass(filter: BandFilter, channels: SvfChannels, count: number): void {
    this.#passes.channels = channels
    this.#passes.to = count
    filter.run(this.#passes)
  }

  #midSide(filter: BandFilter, mode: 'mid' | 'side', count: number): void {
    const [left, right] = this.#work
    const mid = this.#mid
    const side = this.#side
    for (let i = 0; i < count; i++) {
      mid[i] = (left[i] + right[i]) / 2
      side[i] = (left[i] - right[i]) / 2
    }
    this.#pass(filter, mode === 'mid' ? this.#justMid : this.#justSide, count)
    for (let i = 0; i < count; i++) {
      left[i] = mid[i] + side[i]
      right[i] = mid[i] - side[i]
    }
  }

  /** A value that is not a number stays in recursive filters for good: it is seen at the end of a stretch. */
  #guard(channels: readonly Float32Array[], from: number, count: number): void {
    for (let c = 0; c < channels.length; c++) {
      if (!Number.isFinite(channels[c][from + count - 1])) {
        this.#recover(channels, from, count)
        return
      }
    }
  }

  /** A stage that meets a value that is not a number starts afresh and stays silent for that step. */
  #recover(channels: readonly Float32Array[], from: number, count: number): void {
    for (const channel of channels) channel.fill(0, from, from + count)
    for (const slot of this.#slots) slot.filter.reset()
  }
}

/** A mono signal is all middle and stands for the left; it has no sides and no right of its own. */
function actsOnMono(mode: ChannelMode): boolean {
  return mode !== 'side' && mode !== 'right'
}
