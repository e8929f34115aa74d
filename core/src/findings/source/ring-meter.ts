import { decimate } from '../../audio'
import { designBand, sectionsResponse } from '../../filters'
import { findRings, type Ring } from '../rings'
import { type Hum, HumMeter } from './hum'
import { joined, Stretch, stretches } from './stretches'

/** Hum is looked for at about this sample rate. */
const LOW_RATE_HZ = 6000

/** Rings of a recording that comes in pieces. Chains are not asked: what rings is told once, whatever is done about it. */
export class RingMeter {
  readonly #stretches: Stretch[]
  readonly #middles: Float32Array[] = []
  readonly #hum: HumMeter
  readonly #halvings: number
  #power = 0
  #position = 0

  /** @param length frames of the sound. */
  constructor(
    private readonly sampleRateHz: number,
    length: number,
  ) {
    this.#stretches = stretches(length, sampleRateHz).map(([from, to]) => new Stretch(from, to, 1))
    this.#halvings = Math.max(1, Math.round(Math.log2(sampleRateHz / LOW_RATE_HZ)))
    this.#hum = new HumMeter(sampleRateHz / 2 ** this.#halvings)
  }

  /** Takes the next piece: one or two channels. */
  add([left, right]: readonly Float32Array[]): void {
    const middle = right ? left.map((v, i) => (v + right[i]) / 2) : left
    for (const stretch of this.#stretches) {
      if (!stretch.add([middle], this.#position)) continue
      const [mid] = stretch.take()
      this.#middles.push(mid)
      this.#hum.add(decimate(mid, this.#halvings))
      this.#power += mid.reduce((sum, v) => sum + v * v, 0) / mid.length / this.#stretches.length
    }
    this.#position += left.length
  }

  /** To be called once, when everything has been added. */
  finish(): Ring[] {
    return ringsOf(this.#middles, this.sampleRateHz, this.#hum.finish(this.#power))
  }
}

/** Rings of a sound's stretches, but for harmonics of hum, which have needles for their answer. */
export function ringsOf(
  middles: readonly Float32Array[],
  sampleRateHz: number,
  hum: Hum | null,
): Ring[] {
  const isOfHum = ({ hz }: Ring) =>
    hum?.harmonics.some(({ number }) => Math.abs(hz / (number * hum.hz) - 1) < 0.02) ?? false
  return findRings(joined(middles), sampleRateHz).filter((ring) => !isOfHum(ring))
}

/** A cut that lowers less than this is for something else. */
const LEAST_CUT_DB = 0.5

/** What a chain leaves of a ring's height, in dB; null where nothing in the chain lowers it. */
export function remainingDb(
  { hz, db, q }: Pick<Ring, 'hz' | 'db' | 'q'>,
  chainDb: (hz: Float64Array) => Float64Array,
): number | null {
  // Against what the chain does to the octave on either side.
  const octaves = Float64Array.from({ length: 121 }, (_, i) => hz * 2 ** ((i - 60) / 60))
  const around = chainDb(octaves).sort()[60]
  const near = Float64Array.from({ length: 41 }, (_, i) => hz * 2 ** ((i - 20) / (20 * q)))
  const done = chainDb(near)
  if (done[20] - around > -LEAST_CUT_DB) return null
  const own = designBand({ type: 'bell', hz, db, q, slopeDbPerOct: 12, channel: 'stereo' }, 192_000)
  return near.reduce((most, f, i) => {
    const { re, im } = sectionsResponse(own, f, 192_000)
    return Math.max(most, 10 * Math.log10(re * re + im * im) + done[i] - around)
  }, 0)
}

/** Rings of a recording with what its chain leaves of each. */
export function ringsBehind(
  recorded: readonly Ring[],
  chainDb: (hz: Float64Array) => Float64Array,
): Ring[] {
  return recorded.map((ring) => ({ ...ring, leftDb: remainingDb(ring, chainDb) ?? ring.db }))
}
