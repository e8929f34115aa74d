import { DelayLine, Ramp } from '../../audio'
import { GainSmoother, LinearBank, MovingBells, UsualLevel } from '../../dynamics'
import { type Band, BandSums, powerSpectrum } from '../../spectrum'
import type { TreatmentProcessor } from '../kind'
import { depthFor } from './depth'
import type { DuckDesign } from './design'
import type { DuckParams } from './params'

/** Frames from one look at both spectra to the next; in linear phase a hop of the bank, which is as long at 48 kHz. */
const HOP = 256
/** Long windows for the lows, short ones for the highs. */
const [LONG, SHORT] = [2048, 512]
const SPLIT_HZ = 1200
/** What -23 LUFS is heard at, against the level of a mean square of 1: 73 dB SPL. */
const CALIBRATION = 10 ** 9.6
/** Under the key's usual level in its loudest band, an even law does nothing any more. */
const EVEN_RANGE_DB = 24
const SILENT = 1e-12
const BLOCK = 64
/** Rounds of Gauss and Seidel, after which nothing moves any more. */
const SWEEPS = 2
/** Bells are added up as at this depth; what neighbours take more of at 24 dB, and how it grows with depth, fits bells of all widths. */
const PROTOTYPE_DEPTH_DB = 6
const WIDENING_AT_24_DB = 0.25
const WIDENING_POWER = 1.4
/** So much of what is taken at a place is its neighbours' where all go equally deep. */
const SHARED_MOST = 0.6

/** A bank of bells that is drawn by the key's spectrum. */
export class DuckProcessor implements TreatmentProcessor<DuckParams, DuckDesign> {
  #params: DuckParams | null = null
  #design: DuckDesign | null = null
  #bells: MovingBells | null = null
  #linear: LinearBank | null = null
  #bands: readonly Band[] = []
  #longSums: BandSums | null = null
  #shortSums: BandSums | null = null
  /** Bands that are read from long windows. */
  #low = 0
  /** From which band to which a filter hears. */
  #reach: Int32Array = new Int32Array(0)
  #smoothers: GainSmoother[] = []
  #delay: DelayLine | null = null
  #usual: UsualLevel
  readonly #blend = new Ramp(1)
  readonly #key = new Float32Array(LONG)
  readonly #own = new Float32Array(LONG)
  #incoming = new Float32Array(0)
  #fresh = 0
  #started = false
  readonly #long = powerSpectrum({ size: LONG, window: 'hann' })
  readonly #short = powerSpectrum({ size: SHORT, window: 'hann' })
  #keyPower = new Float64Array(0)
  #ownPower = new Float64Array(0)
  #wanted = new Float64Array(0)
  #depths = new Float64Array(0)
  readonly #work: Float64Array[]
  readonly #justOne: Float64Array[]
  readonly #other = new Float64Array(BLOCK)

  constructor(
    private readonly sampleRateHz: number,
    private readonly channels: number,
  ) {
    this.#usual = new UsualLevel(HOP / sampleRateHz)
    this.#work = Array.from({ length: channels }, () => new Float64Array(BLOCK))
    this.#justOne = [new Float64Array(BLOCK)]
  }

  get latency(): number {
    return this.#linear?.frames ?? this.#delay?.frames ?? 0
  }

  get idle(): boolean {
    return this.channels === 1 && this.#params?.channel === 'side'
  }

  readGains(out: Float32Array): number {
    const count = Math.min(out.length, this.#wanted.length)
    for (let b = 0; b < count; b++) out[b] = -this.#wanted[b]
    return count
  }

  fits(params: DuckParams, design: DuckDesign): boolean {
    return (
      design.latencyFrames === this.latency &&
      design.key === this.#design?.key &&
      (params.channel === 'stereo') === (this.#params?.channel === 'stereo')
    )
  }

  set(params: DuckParams, design: DuckDesign): void {
    if (!this.#design || !this.fits(params, design)) this.#build(params, design)
    this.#params = params
    if (this.#started) this.#blend.moveTo(params.blend, this.sampleRateHz)
    else this.#blend.jumpTo(params.blend)
    const step = this.#hop / this.sampleRateHz
    this.#smoothers.forEach((smoother, b) => {
      const { hz } = this.#bands[b]
      // A period takes longer in the lows; a gain that follows it faster than that is heard.
      const releaseMs = params.releaseMs * (params.releaseByHz ? (1000 / hz) ** RELEASE_POWER : 1)
      smoother.set({ attackMs: params.attackMs, holdMs: 0, releaseMs }, step)
    })
  }

  /** Frames from one look to the next. */
  get #hop(): number {
    return this.#linear?.hop ?? HOP
  }

  #build({ channel, phase }: DuckParams, design: DuckDesign): void {
    const { places, edgesHz, lookAheadFrames } = design
    this.#design = design
    const count = channel === 'stereo' ? this.channels : 1
    const { sampleRateHz } = this
    const middles = places.map(({ hz }) => hz)
    this.#linear =
      phase === 'linear' ? new LinearBank(middles, sampleRateHz, this.channels, channel) : null
    this.#bells = this.#linear ? null : new MovingBells(places, sampleRateHz, count)
    this.#usual = new UsualLevel(this.#hop / sampleRateHz)
    this.#fresh = 0
    this.#bands = places.map(({ hz }, i) => ({ hz, fromHz: edgesHz[i], toHz: edgesHz[i + 1] }))
    this.#longSums = new BandSums(this.#bands, sampleRateHz / LONG, LONG / 2 + 1)
    this.#shortSums = new BandSums(this.#bands, sampleRateHz / SHORT, SHORT / 2 + 1)
    this.#low = this.#bands.filter((b) => b.hz < SPLIT_HZ).length
    this.#reach = reachOf(design.spread, places.length)
    this.#smoothers = places.map(() => new GainSmoother())
    this.#keyPower = new Float64Array(places.length)
    this.#ownPower = new Float64Array(places.length)
    this.#wanted = new Float64Array(places.length)
    this.#depths = new Float64Array(places.length)
    this.#delay = lookAheadFrames > 0 ? new DelayLine(this.channels, lookAheadFrames) : null
  }

  process(
    channels: readonly Float32Array[],
    frames: number,
    key: readonly Float32Array[] | null,
  ): void {
    if (!this.#params || !this.#design) return
    this.#started = true
    const { channel } = this.#params
    const side = channel === 'side'
    const [left, right = left] = channels
    const heard = key && (side && key.length > 1 ? key[1] : key[0])
    // What is looked at is what comes in; what is treated comes out of the delay.
    if (this.#incoming.length < frames) this.#incoming = new Float32Array(frames)
    const incoming = this.#incoming
    for (let i = 0; i < frames; i++) incoming[i] = 0.5 * (left[i] + (side ? -right[i] : right[i]))
    this.#delay?.process(channels, frames)
    const hop = this.#hop
    for (let from = 0; from < frames; ) {
      const count = Math.min(hop - this.#fresh, frames - from)
      const at = LONG - hop + this.#fresh
      for (let i = 0; i < count; i++) {
        this.#key[at + i] = heard ? heard[from + i] : 0
        this.#own[at + i] = incoming[from + i]
      }
      if (this.#linear) this.#linear.exchange(channels, from, count)
      else this.#treat(channels, from, count)
      this.#fresh += count
      from += count
      if (this.#fresh < hop) continue
      this.#fresh = 0
      this.#look()
      this.#key.copyWithin(0, hop)
      this.#own.copyWithin(0, hop)
    }
  }

  /** Looks at both spectra and draws the gains. */
  #look(): void {
    const { law } = this.#params as DuckParams
    this.#measure(this.#key, this.#keyPower)
    let isSilent = true
    for (let b = 0; b < this.#keyPower.length; b++) if (this.#keyPower[b] > SILENT) isSilent = false
    if (isSilent) this.#wanted.fill(0)
    else if (law === 'even') this.#wantEvenly()
    else {
      this.#measure(this.#own, this.#ownPower)
      this.#wantHeard()
    }
    this.#draw()
  }

  #measure(signal: Float32Array, out: Float64Array): void {
    this.#longSums?.take(this.#long(signal), out, 0, this.#low)
    if (this.#low === this.#bands.length) return
    this.#shortSums?.take(this.#short(signal, LONG - SHORT), out, this.#low)
  }

  /** As deep as the key is loud in each band, against its usual level in the loudest. */
  #wantEvenly(): void {
    const { depthDb } = this.#params as DuckParams
    let loudest = SILENT
    for (let b = 0; b < this.#keyPower.length; b++) {
      if (this.#hears(b)) loudest = Math.max(loudest, this.#keyPower[b])
    }
    const usual = this.#usual.next(10 * Math.log10(loudest))
    for (let b = 0; b < this.#wanted.length; b++) {
      const over = 10 * Math.log10(this.#keyPower[b] + SILENT) - (usual ?? 0)
      const share = Math.max(0, Math.min(1, 1 + over / EVEN_RANGE_DB))
      this.#wanted[b] = usual === null || !this.#hears(b) ? 0 : depthDb * share
    }
  }

  /** What is worth taking in each auditory filter for the key's sake, as far as the ceiling. */
  #wantHeard(): void {
    const { depthDb, keyDb } = this.#params as DuckParams
    const { spread, filters } = this.#design as DuckDesign
    const n = this.#wanted.length
    const gain = 10 ** (keyDb / 10)
    for (let b = 0; b < n; b++) {
      let [key, own] = [0, 0]
      for (let k = this.#reach[2 * b]; k < this.#reach[2 * b + 1]; k++) {
        const share = spread[b * n + k]
        key += share * this.#keyPower[k]
        own += share * this.#ownPower[k]
      }
      const heard = this.#hears(b) ? gain * key * CALIBRATION : 0
      this.#wanted[b] = depthFor(heard, own * CALIBRATION, depthDb, filters[b])
    }
  }

  /** Whether the key is listened to in a band. */
  #hears(b: number): boolean {
    const { keyFromHz, keyToHz } = this.#params as DuckParams
    return this.#bands[b].hz >= keyFromHz && this.#bands[b].hz <= keyToHz
  }

  /** Bells that together give what is wanted; none of them lifts anything. */
  #draw(): void {
    const { inverse } = this.#design as DuckDesign
    const n = this.#wanted.length
    for (let b = 0; b < n; b++) this.#wanted[b] = -this.#smoothers[b].next(-this.#wanted[b])
    if (this.#linear) {
      for (let b = 0; b < n; b++) this.#linear.setGain(b, -this.#wanted[b])
      this.#linear.step(this.#blendOverHop())
      return
    }
    let isWanted = false
    for (let b = 0; b < n; b++) if (this.#wanted[b] > 0) isWanted = true
    if (!isWanted) {
      for (let b = 0; b < n; b++) this.#bells?.setGain(b, 0)
      return
    }
    const depths = this.#depths
    for (let b = 0; b < n; b++) {
      let depth = 0
      for (let k = 0; k < n; k++) depth += inverse[b * n + k] * this.#wanted[k]
      depths[b] = Math.max(0, depth)
    }
    // Where a bell would have had to lift, its neighbours take less: so that no place is taken further than is wanted.
    for (let sweep = 0; sweep < SWEEPS; sweep++) {
      for (let b = 0; b < n; b++) depths[b] = Math.max(0, this.#wanted[b] - this.#ofOthers(b))
    }
    for (let b = 0; b < n; b++) {
      const depth = depths[b] / this.#widening(depths[b], this.#ofOthers(b))
      this.#bells?.setGain(b, depth > LEAST_DEPTH_DB ? -depth : 0)
    }
  }

  /** What the other bells take in the middle of a band, in dB. */
  #ofOthers(band: number): number {
    const { responses } = this.#design as DuckDesign
    const n = this.#depths.length
    let sum = -this.#depths[band]
    for (let k = 0; k < n; k++) sum += responses[band * n + k] * this.#depths[k]
    return sum
  }

  /** Deep bells are wider in dB than the prototypes, so that together they take this much more. */
  #widening(own: number, others: number): number {
    const over = (own + others - PROTOTYPE_DEPTH_DB) / (24 - PROTOTYPE_DEPTH_DB)
    if (over <= 0) return 1
    const shared = Math.min(1, Math.max(0, others) / (SHARED_MOST * (own + others)))
    return 1 + WIDENING_AT_24_DB * shared * over ** WIDENING_POWER
  }

  /** The blend at the end of a hop: frames run into each other, so that it moves smoothly. */
  #blendOverHop(): number {
    if (this.#blend.settled) return this.#blend.value
    for (let i = 1; i < this.#hop; i++) this.#blend.next()
    return this.#blend.next()
  }

  #treat(channels: readonly Float32Array[], from: number, frames: number): void {
    const bells = this.#bells as MovingBells
    if (bells.idle) return
    const { channel } = this.#params as DuckParams
    for (let done = 0; done < frames; ) {
      // Steps of the bells begin where they would in any other cut of the sound into blocks.
      const count = Math.min(BLOCK - ((this.#fresh + done) % BLOCK), frames - done)
      if (channel === 'stereo' || channels.length === 1) this.#both(channels, from + done, count)
      else this.#one(channels, from + done, count, channel)
      done += count
    }
  }

  #both(channels: readonly Float32Array[], from: number, count: number): void {
    const work = this.#work
    for (let c = 0; c < channels.length; c++) {
      for (let i = 0; i < count; i++) work[c][i] = channels[c][from + i]
    }
    this.#bells?.process(work, count)
    for (let i = 0; i < count; i++) {
      const blend = this.#blend.next()
      for (let c = 0; c < channels.length; c++) {
        const dry = channels[c][from + i]
        channels[c][from + i] = dry + blend * (finite(work[c][i]) - dry)
      }
    }
  }

  #one(
    [left, right]: readonly Float32Array[],
    from: number,
    count: number,
    channel: 'mid' | 'side',
  ): void {
    const [part] = this.#justOne
    const sign = channel === 'mid' ? 1 : -1
    for (let i = 0; i < count; i++) {
      part[i] = (left[from + i] + sign * right[from + i]) / 2
      this.#other[i] = (left[from + i] - sign * right[from + i]) / 2
    }
    const dry = this.#work[0]
    for (let i = 0; i < count; i++) dry[i] = part[i]
    this.#bells?.process(this.#justOne, count)
    for (let i = 0; i < count; i++) {
      const made = dry[i] + this.#blend.next() * (finite(part[i]) - dry[i])
      left[from + i] = made + this.#other[i]
      right[from + i] = sign * (made - this.#other[i])
    }
  }

  reset(): void {
    this.#bells?.reset()
    this.#linear?.reset()
    this.#delay?.reset()
    this.#usual.reset()
    for (const smoother of this.#smoothers) smoother.reset()
    this.#key.fill(0)
    this.#own.fill(0)
    this.#fresh = 0
    this.#blend.jumpTo(this.#blend.target)
    this.#started = false
  }

  dispose(): void {}
}

/** Releases go with the inverse square root of frequency. */
const RELEASE_POWER = 0.5
const NEGLIGIBLE = 1e-6
/** Less than this is not worth a bell. */
const LEAST_DEPTH_DB = 0.02

/** Where each row of shares begins and ends, as far as they are not negligible. */
function reachOf(spread: ArrayLike<number>, bands: number): Int32Array {
  const out = new Int32Array(2 * bands)
  for (let b = 0; b < bands; b++) {
    let [from, to] = [0, bands]
    while (from < to && spread[b * bands + from] < NEGLIGIBLE) from++
    while (to > from && spread[b * bands + to - 1] < NEGLIGIBLE) to--
    out[2 * b] = from
    out[2 * b + 1] = to
  }
  return out
}

const finite = (value: number) => (Number.isFinite(value) ? value : 0)
