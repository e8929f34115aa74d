import { describe, expect, it } from 'vitest'
import { USUAL_CORRECTION } from '../match'
import { TWELFTHS } from '../match/profile'
import { clickRatio } from '../testing/clicks'
import { rms, sine, whiteNoise } from '../testing/signals'
import { newTreatment, respondChain, type Treatment, workingsOf } from './index'

const RATE = 48_000

/** A sound through a treatment, whose values may change on the way; its latency is taken out. */
function through(
  treatment: Treatment,
  input: readonly Float32Array[],
  later?: { readonly at: number; readonly params: unknown },
): Float32Array[] {
  const kind = workingsOf(treatment.kind)
  const processor = kind.make(RATE, input.length)
  processor.set(treatment.params, kind.design(treatment.params, RATE))
  const { latency } = processor
  const out = input.map((c) => {
    const longer = new Float32Array(c.length + latency)
    longer.set(c)
    return longer
  })
  for (let at = 0; at < out[0].length; at += 128) {
    if (later && at >= later.at && at < later.at + 128) {
      const design = kind.design(later.params, RATE)
      expect(processor.fits(later.params, design)).toBe(true)
      processor.set(later.params, design)
    }
    const block = out.map((c) => c.subarray(at, Math.min(at + 128, c.length)))
    processor.process(block, block[0].length, null)
  }
  processor.dispose()
  return out.map((c) => c.subarray(latency))
}

const levelAt = (x: Float32Array) => 20 * Math.log10(rms(x, RATE / 2, RATE))

describe('match', () => {
  const towards = (phase: 'minimum' | 'mixed' | 'linear', more = {}) =>
    newTreatment('match', 'm', 'shape', {
      ...USUAL_CORRECTION,
      target: 'a tilt',
      haveDb: TWELFTHS.map(() => -30),
      wantDb: TWELFTHS.map(({ hz }) => -30 + Math.max(-6, Math.min(6, 2 * Math.log2(hz / 1000)))),
      weight: TWELFTHS.map(() => 1),
      zeroDb: 0,
      taps: 4096,
      phase,
      keepLoudness: false,
      ...more,
    })

  it.each(['minimum', 'mixed', 'linear'] as const)('gives what was wanted in %s phase', (phase) => {
    for (const [hz, wanted] of [
      [250, -4],
      [1000, 0],
      [4000, 4],
    ]) {
      const tone = sine(hz, 1.2, RATE, 0.2)
      const [out] = through(towards(phase), [tone])
      expect(levelAt(out) - levelAt(tone)).toBeCloseTo(wanted, 0)
    }
  })

  it('keeps the loudness where that is asked for', () => {
    const noise = whiteNoise(2 * RATE, 5, 0.2)
    const read = (keepLoudness: boolean) =>
      respondChain([towards('minimum', { keepLoudness })], RATE, 'mid').db([1000])[0]
    // Highs are lifted by more than lows are lowered: the whole goes down.
    expect(read(true)).toBeLessThan(read(false) - 1)
    expect(through(towards('minimum', { amount: 0 }), [noise])[0][5000]).toBeCloseTo(noise[5000], 5)
  })
})

describe('broad strokes', () => {
  const usual = newTreatment('broad-strokes', 'b', 'shape').params
  const strokes = (more: object) =>
    newTreatment('broad-strokes', 'b', 'shape', { ...usual, ...more })
  const db = (t: Treatment, hz: number) => respondChain([t], RATE, 'mid').db([hz])[0]

  it('does nothing at first, to the bit', () => {
    const noise = whiteNoise(4800, 2, 0.3)
    expect(through(strokes({}), [noise])[0]).toEqual(noise)
  })

  it('gives each control its whole gain where it stands', () => {
    expect(db(strokes({ body: { hz: 315, db: 4 } }), 315)).toBeCloseTo(4, 1)
    expect(db(strokes({ presence: { hz: 3150, db: -5 } }), 3150)).toBeCloseTo(-5, 1)
    expect(db(strokes({ weight: { hz: 100, db: 6 } }), 20)).toBeGreaterThan(5)
    expect(db(strokes({ air: { hz: 8000, db: 6 } }), 20_000)).toBeGreaterThan(4)
    // Wide: an octave away a bell of Q 0.6 still does more than half of it.
    expect(db(strokes({ body: { hz: 315, db: 4 } }), 630)).toBeGreaterThan(2)
  })

  it('stacks its cuts, 3 dB at the corner and 6 dB per octave for each layer', () => {
    for (const layers of [1, 2, 3]) {
      const cut = strokes({ lowCut: { hz: 160, layers } })
      expect(db(cut, 160)).toBeCloseTo(-3.01 * layers, 1)
      expect(db(cut, 5) - db(cut, 10)).toBeCloseTo(-6 * layers, 0)
    }
  })

  it('turns over and drives behind the tone, in time with the rest of the graph', () => {
    const noise = whiteNoise(4800, 3, 0.001)
    const [out] = through(strokes({ polarity: -1, driveDb: 6 }), [noise])
    expect(out.length).toBe(noise.length)
    const quiet = sine(1000, 0.2, RATE, 0.001)
    const [turned] = through(strokes({ polarity: -1, driveDb: 6 }), [quiet])
    for (let i = 4000; i < 4100; i++) expect(turned[i]).toBeCloseTo(-quiet[i], 6)
  })

  it('moves without a click', () => {
    const tone = sine(1000, 1, RATE, 0.3)
    const { params } = strokes({ weight: { hz: 160, db: 6 }, outputDb: -6, driveDb: 0 })
    const [out] = through(strokes({}), [tone], { at: 24_064, params })
    expect(clickRatio(out, RATE)).toBeLessThan(4)
  })
})

describe('drive', () => {
  it('moves without a click, and in both channels alike', () => {
    const tone = sine(1000, 1, RATE, 0.3)
    const drive = newTreatment('drive', 'd', 'shape', { driveDb: 2, mix: 0.5, outputDb: 0 })
    const params = { driveDb: 12, mix: 1, outputDb: -3 }
    const [left, right] = through(drive, [tone, tone], { at: 24_064, params })
    expect(clickRatio(left, RATE)).toBeLessThan(4)
    expect(right).toEqual(left)
  })
})

describe('leveller', () => {
  const usual = newTreatment('leveller', 'l', 'shape').params
  const leveller = (more: object) => newTreatment('leveller', 'l', 'shape', { ...usual, ...more })

  it('takes what its curve says from a steady tone, and blends', () => {
    // A tone of 0.5: -9.03 dB of mean power; threshold -24, ratio 3, no knee: 2/3 of 14.97 dB.
    const tone = sine(1000, 4, RATE, 0.5)
    const steady = (x: Float32Array) =>
      20 * Math.log10(rms(x, 3 * RATE, 4 * RATE) / (0.5 / Math.SQRT2))
    const whole = leveller({ kneeDb: 0, atMostDb: 24, lowCutHz: 20 })
    expect(steady(through(whole, [tone])[0])).toBeCloseTo((-2 / 3) * 14.97, 1)
    const half = leveller({ kneeDb: 0, atMostDb: 24, lowCutHz: 20, mix: 0.5, outputDb: 2 })
    const gain = 0.5 * (1 + 10 ** ((-2 * 14.97) / 3 / 20))
    expect(steady(through(half, [tone])[0])).toBeCloseTo(20 * Math.log10(gain) + 2, 1)
  })

  it('takes no more than it may, and tells how much it takes', () => {
    const kind = workingsOf('leveller')
    const processor = kind.make(RATE, 1)
    const { params } = leveller({ atMostDb: 3, thresholdDb: -50 })
    processor.set(params, kind.design(params, RATE))
    const tone = sine(500, 4, RATE, 0.7)
    for (let at = 0; at < tone.length; at += 128) {
      const block = tone.subarray(at, at + 128)
      processor.process([block], block.length, null)
    }
    const gains = new Float32Array(4)
    expect(processor.readGains?.(gains)).toBe(1)
    expect(gains[0]).toBeCloseTo(-3, 3)
  })

  it('leaves what is quiet to the bit, and treats both sides alike', () => {
    const quiet = whiteNoise(RATE, 8, 0.001)
    expect(through(leveller({}), [quiet])[0]).toEqual(quiet)
    const [left, right] = [sine(300, 1, RATE, 0.6), sine(400, 1, RATE, 0.05)]
    const out = through(leveller({ thresholdDb: -40 }), [left, right])
    const gain = (i: number, of: Float32Array, by: Float32Array) => of[i] / by[i]
    for (let i = 40_000; i < 40_100; i++) {
      if (Math.abs(left[i]) > 0.1 && Math.abs(right[i]) > 0.01) {
        expect(gain(i, out[0], left)).toBeCloseTo(gain(i, out[1], right), 4)
      }
    }
  })

  it('clicks neither where sound begins nor where it is changed', () => {
    const tone = sine(1000, 1, RATE, 0.5)
    const { params } = leveller({ thresholdDb: -40, mix: 0.7, outputDb: 4 })
    const [out] = through(leveller({}), [tone], { at: 24_064, params })
    expect(clickRatio(out, RATE)).toBeLessThan(4)
  })

  it('recovers from samples that are no numbers', () => {
    const broken = sine(500, 1, RATE, 0.5)
    broken[5000] = Number.NaN
    const [out] = through(leveller({}), [broken])
    expect(out.slice(20_000).every(Number.isFinite)).toBe(true)
  })
})
