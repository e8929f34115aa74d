import { describe, expect, it } from 'vitest'
import { makeClip } from '../../audio'
import { longTermLevels, realFft } from '../../spectrum'
import { clickRatio } from '../../testing/clicks'
import { runKeyed } from '../../testing/keyed'
import { gaussianNoise, rms, sine } from '../../testing/signals'
import { type DuckParams, duck } from './index'
import { duckWorkings } from './workings'

const RATE = 48000
const FRAMES = 2 * RATE
const paramsOf = (change: Partial<DuckParams>): DuckParams => ({ ...duck.defaults(), ...change })

const run = (
  params: DuckParams,
  channels: Float32Array[],
  key: Float32Array[] | null,
  block?: number,
) => runKeyed(duckWorkings, params, channels, key, block)
/** Gains of all bands at this moment, in dB. */
function gainsOf(processor: ReturnType<typeof duckWorkings.make>): number[] {
  const out = new Float32Array(128)
  return [...out.subarray(0, processor.readGains?.(out) ?? 0)]
}
const around = (hz: number) => [{ hz, fromHz: hz / 1.06, toHz: hz * 1.06 }]
const level = (signal: Float32Array, hz: number) =>
  longTermLevels(makeClip(RATE, [signal.subarray(RATE)]), around(hz))[0]
const change = (out: Float32Array, before: Float32Array, hz: number) =>
  level(out, hz) - level(before, hz)

/** Power of each bin of what an impulse became. */
function powerOf(response: Float32Array): Float64Array {
  const power = new Float64Array(response.length / 2 + 1)
  const window = new Float32Array(response.length).fill(1)
  realFft(response.length).power(response, 0, window, 1, power)
  // One-sided: all bins but the outer ones hold both halves.
  return power.map((p) => p / 2)
}

const bed = gaussianNoise(FRAMES, 4, 0.1)

describe('following across the spectrum', () => {
  it.each([1, 2, 3, 4, 5])(
    'evenly, takes the depth where the key is, and little elsewhere: fineness %i',
    (fineness) => {
      const params = paramsOf({ law: 'even', depthDb: 8, fineness })
      const [out] = run(params, [bed], [sine(1000, 2, RATE, 0.2)])
      expect(change(out, bed, 1000)).toBeLessThan(-5)
      expect(change(out, bed, 1000)).toBeGreaterThan(-8.6)
      expect(Math.abs(change(out, bed, 5000))).toBeLessThan(0.5)
      expect(Math.abs(change(out, bed, 250))).toBeLessThan(0.7)
    },
  )

  it('by hearing, takes less the louder the key is, nothing where it is clear, and gives up what is lost', () => {
    const taken = (amplitude: number) =>
      change(run(paramsOf({ depthDb: 9 }), [bed], [sine(1000, 2, RATE, amplitude)])[0], bed, 1000)
    const [clear, near, covered, lost] = [0.5, 0.06, 0.03, 0.0005].map(taken)
    expect(clear).toBeGreaterThan(-1)
    expect(near).toBeLessThan(clear - 1)
    expect(covered).toBeLessThan(near)
    expect(lost).toBeGreaterThan(-0.5)
  })

  it('passes bit by bit with a silent key and without one, and never lifts anything', () => {
    expect(run(paramsOf({}), [bed], null)[0]).toEqual(bed)
    expect(run(paramsOf({}), [bed], [new Float32Array(FRAMES)])[0]).toEqual(bed)
    const processor = duckWorkings.make(RATE, 1)
    const params = paramsOf({ law: 'even', depthDb: 12, fineness: 5 })
    processor.set(params, duckWorkings.design(params, RATE))
    const key = gaussianNoise(FRAMES, 8, 0.2)
    const out = Float32Array.from(bed)
    for (let from = 0; from < RATE; from += 128) {
      processor.process([out.subarray(from, from + 128)], 128, [key.subarray(from, from + 128)])
      expect(Math.max(...gainsOf(processor))).toBeLessThanOrEqual(0)
    }
  })

  it.each([6, 12, 18, 24])(
    'takes no more than the depth, wherever the key sounds: %i dB',
    (depthDb) => {
      const combs = [
        [1000],
        [500, 640],
        [300, 700, 1500, 3200],
        [...Array(40)].map((_, i) => 90 * 1.14 ** i),
      ]
      const impulse = Float32Array.from({ length: 2 * RATE }, (_, i) => (i === 1.5 * RATE ? 1 : 0))
      for (const fineness of [1, 3, 5]) {
        for (const tones of combs) {
          const params = paramsOf({ law: 'even', depthDb, fineness })
          const key = new Float32Array(2 * RATE)
          for (const hz of tones) {
            const tone = sine(hz, 2, RATE, 0.05)
            for (let i = 0; i < key.length; i++) key[i] += tone[i]
          }
          const [out] = run(params, [impulse], [key])
          const power = powerOf(out.subarray(1.5 * RATE, 1.5 * RATE + 16384))
          const least = power.subarray(20, 6000).reduce((a, v) => Math.min(a, v), 1)
          expect(10 * Math.log10(least)).toBeGreaterThan(
            -depthDb - 0.05 - 0.02 * Math.max(0, depthDb - 12),
          )
          expect(10 * Math.log10(least)).toBeLessThan(-0.8 * depthDb)
        }
      }
    },
  )

  it('keeps to its span, to what it listens to, and to the middle or the sides', () => {
    const key = gaussianNoise(FRAMES, 8, 0.2)
    const span = run(paramsOf({ law: 'even', fromHz: 1000, toHz: 4000 }), [bed], [key])[0]
    expect(change(span, bed, 2000)).toBeLessThan(-3)
    expect(Math.abs(change(span, bed, 300))).toBeLessThan(0.3)
    const deaf = run(paramsOf({ law: 'even', keyFromHz: 3000 }), [bed], [key])[0]
    expect(Math.abs(change(deaf, bed, 600))).toBeLessThan(0.5)
    expect(change(deaf, bed, 5000)).toBeLessThan(-3)
    const sides = gaussianNoise(FRAMES, 6, 0.05)
    const sound = [bed.map((v, i) => v + sides[i]), bed.map((v, i) => v - sides[i])]
    const [left, right] = run(paramsOf({ law: 'even', channel: 'mid' }), sound, [key])
    const off = left.map((v, i) => (v - right[i]) / 2 - sides[i])
    expect(20 * Math.log10(rms(off) / rms(sides))).toBeLessThan(-100)
  })

  it('says the same whatever the blocks, and is late by its look-ahead', () => {
    const key = sine(900, 2, RATE, 0.1)
    for (const lookAheadMs of [0, 5]) {
      const params = paramsOf({ law: 'even', lookAheadMs, blend: 0.6 })
      expect(duckWorkings.latency(params, duckWorkings.design(params, RATE), 1)).toBe(
        48 * lookAheadMs,
      )
      const [whole] = run(params, [bed], [key], 128)
      const [parts] = run(params, [bed], [key], 93)
      let most = 0
      for (let i = 0; i < RATE; i++) most = Math.max(most, Math.abs(whole[i] - parts[i]))
      expect(most).toBeLessThan(5e-5)
    }
  })

  it('moves without a click, and its gains do not flutter under a steady key', () => {
    const floor = gaussianNoise(FRAMES, 9, 1e-5)
    const tone = sine(700, 2, RATE, 0.3).map((v, i) => v + floor[i])
    const pulsed = sine(700, 2, RATE, 0.1).map((v, i) => v * (Math.floor(i / (RATE / 4)) % 2))
    const [out] = run(paramsOf({ law: 'even', depthDb: 12, attackMs: 10 }), [tone], [pulsed])
    expect(clickRatio(out, RATE)).toBeLessThan(4)
    expect(
      flutter(paramsOf({ law: 'even', depthDb: 6 }), gaussianNoise(FRAMES, 8, 0.1)),
    ).toBeLessThan(1)
    expect(
      flutter(paramsOf({ law: 'heard', depthDb: 6 }), gaussianNoise(FRAMES, 8, 0.1)),
    ).toBeLessThan(1)
  })
})

describe('following across the spectrum in linear phase', () => {
  const linear = (change: Partial<DuckParams> = {}) =>
    paramsOf({ law: 'even', phase: 'linear', ...change })
  const late = duckWorkings.latency(linear(), duckWorkings.design(linear(), RATE), 1)
  /** What came out, back in time with what went in. */
  const inTime = (out: Float32Array) => out.subarray(late)
  const nullDb = (a: Float32Array, b: Float32Array) => {
    const off = a.map((v, i) => v - b[i])
    return 20 * Math.log10(rms(off, RATE / 4, off.length) / rms(b, RATE / 4, off.length))
  }

  it('is late by one frame of 43 ms, whatever look-ahead is set', () => {
    expect(late).toBe(2048)
    const params = linear({ lookAheadMs: 5 })
    expect(duckWorkings.latency(params, duckWorkings.design(params, RATE), 1)).toBe(2048)
  })

  it.each([
    ['without a key', null],
    ['with a silent one', [new Float32Array(FRAMES)]],
  ])('passes as it was %s, in stereo and on one part alone', (_, key) => {
    const sides = gaussianNoise(FRAMES, 6, 0.05)
    const sound = [bed.map((v, i) => v + sides[i]), bed.map((v, i) => v - sides[i])]
    for (const channel of ['stereo', 'mid', 'side'] as const) {
      const out = run(linear({ channel }), sound, key)
      out.forEach((c, side) => {
        expect(nullDb(inTime(c), sound[side])).toBeLessThan(-120)
      })
    }
  })

  it('takes what the bells take, where they take it', () => {
    const key = sine(1000, 2, RATE, 0.2)
    const params = { depthDb: 8 } as const
    const [bells] = run(paramsOf({ law: 'even', ...params }), [bed], [key])
    const [made] = run(linear(params), [bed], [key])
    // Bells are a little deeper in their middle than straight lines between bands.
    expect(Math.abs(change(made, bed, 1000) - change(bells, bed, 1000))).toBeLessThan(1.5)
    expect(Math.abs(change(made, bed, 5000))).toBeLessThan(0.5)
    expect(Math.abs(change(made, bed, 250))).toBeLessThan(0.5)
  })

  it('turns no phase: what it takes is in phase with what it leaves', () => {
    const key = gaussianNoise(FRAMES, 8, 0.2)
    const tone = sine(800, 2, RATE, 0.2)
    const [made] = run(linear({ depthDb: 6 }), [tone], [key])
    const out = inTime(made)
    let [same, across] = [0, 0]
    for (let i = RATE; i < 1.5 * RATE; i++) {
      const angle = (2 * Math.PI * 800 * i) / RATE
      same += out[i] * Math.sin(angle)
      across += out[i] * Math.cos(angle)
    }
    expect(Math.abs(Math.atan2(across, same))).toBeLessThan(0.02)
    expect(same).toBeGreaterThan(0)
  })

  it('says the same whatever the blocks, moves without a click, and does not flutter', () => {
    const key = sine(900, 2, RATE, 0.1)
    const [whole] = run(linear({ blend: 0.6 }), [bed], [key], 128)
    const [parts] = run(linear({ blend: 0.6 }), [bed], [key], 93)
    expect(nullDb(parts, whole)).toBeLessThan(-110)
    const floor = gaussianNoise(FRAMES, 9, 1e-5)
    const tone = sine(700, 2, RATE, 0.3).map((v, i) => v + floor[i])
    const pulsed = sine(700, 2, RATE, 0.1).map((v, i) => v * (Math.floor(i / (RATE / 4)) % 2))
    const [out] = run(linear({ depthDb: 12, attackMs: 10 }), [tone], [pulsed])
    expect(clickRatio(inTime(out), RATE)).toBeLessThan(4)
    expect(flutter(linear({ depthDb: 6 }), gaussianNoise(FRAMES, 8, 0.1))).toBeLessThan(1)
  })

  it('leaves the sides alone where it acts on the middle', () => {
    const key = gaussianNoise(FRAMES, 8, 0.2)
    const sides = gaussianNoise(FRAMES, 6, 0.05)
    const sound = [bed.map((v, i) => v + sides[i]), bed.map((v, i) => v - sides[i])]
    const [left, right] = run(linear({ channel: 'mid' }), sound, [key]).map(inTime)
    const off = left.map((v, i) => (v - right[i]) / 2)
    expect(nullDb(off, sides)).toBeLessThan(-100)
    // The middle is treated as it would be alone.
    const [alone] = run(linear(), [bed], [key]).map(inTime)
    expect(
      nullDb(
        left.map((v, i) => (v + right[i]) / 2),
        alone,
      ),
    ).toBeLessThan(-100)
  })

  it('comes back from what is no number', () => {
    const broken = bed.slice()
    broken[RATE / 2] = Number.NaN
    const [out] = run(linear({ depthDb: 0 }), [broken], null)
    expect(out.every(Number.isFinite)).toBe(true)
    expect(nullDb(inTime(out).subarray(RATE), bed.subarray(RATE))).toBeLessThan(-100)
  })
})

/**
 * Gain flutter in dB: root mean square of what each band's gain does within 50 ms, against its mean over that time,
 * once it has settled, over all bands. Musical noise is heard from about 1.5 dB.
 */
function flutter(params: DuckParams, key: Float32Array): number {
  const processor = duckWorkings.make(RATE, 1)
  processor.set(params, duckWorkings.design(params, RATE))
  const out = Float32Array.from(bed)
  const seen: (readonly number[])[] = []
  for (let from = 0; from + 256 <= FRAMES; from += 256) {
    processor.process([out.subarray(from, from + 256)], 256, [key.subarray(from, from + 256)])
    if (from > RATE / 2) seen.push(gainsOf(processor))
  }
  const row = 9
  let [sum, count] = [0, 0]
  for (let from = 0; from + row <= seen.length; from += row) {
    seen[0].forEach((_, b) => {
      const gains = seen.slice(from, from + row).map((g) => g[b])
      const mean = gains.reduce((a, v) => a + v, 0) / row
      for (const v of gains) {
        sum += (v - mean) ** 2
        count++
      }
    })
  }
  return Math.sqrt(sum / count)
}
