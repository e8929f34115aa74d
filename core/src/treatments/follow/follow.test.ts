import { describe, expect, it } from 'vitest'
import { GainSmoother, staticGainDb } from '../../dynamics'
import { magnitudeDb } from '../../filters'
import { clickRatio } from '../../testing/clicks'
import { runKeyed } from '../../testing/keyed'
import { gaussianNoise, rms, sine } from '../../testing/signals'
import { type FollowBand, type FollowParams, follow, followFilters, newFollowBand } from './index'
import { followWorkings } from './workings'

const RATE = 48000
const paramsOf = (band: Partial<FollowBand>, rest: Partial<FollowParams> = {}): FollowParams => ({
  ...follow.defaults(),
  bands: [newFollowBand('b', band)],
  ...rest,
})
const ABSOLUTE = { threshold: { against: 'absolute', db: -40 } } as const

const run = (
  params: FollowParams,
  channels: Float32Array[],
  key: Float32Array[] | null,
  block?: number,
) => runKeyed(followWorkings, params, channels, key, block)
const levelDb = (signal: Float32Array, from: number, to: number) =>
  20 * Math.log10(rms(signal, from * RATE, to * RATE))
const change = (out: Float32Array, before: Float32Array, from: number, to: number) =>
  levelDb(out, from, to) - levelDb(before, from, to)

/** A tone over a floor of -100 dB: what lies under it no recording is without. */
function overNoise(hz: number): Float32Array {
  const floor = gaussianNoise(2 * RATE, 9, 1e-5)
  return sine(hz, 2, RATE, 0.5).map((v, i) => v + floor[i])
}

describe('the static curve', () => {
  it('is that of Giannoulis, Massberg and Reiss 2012, held in its range', () => {
    const curve = { thresholdDb: -20, ratio: 4, kneeDb: 10, rangeDb: -24 }
    // Below the knee nothing, above it x - T less (x - T) / R, in it (1/R - 1)(x - T + W/2)² / 2W.
    expect(staticGainDb(-26, curve)).toBeCloseTo(0, 12)
    expect(staticGainDb(-20, curve)).toBeCloseTo((1 / 4 - 1) * (5 ** 2 / 20), 12)
    expect(staticGainDb(-8, curve)).toBeCloseTo(-12 * (1 - 1 / 4), 12)
    expect(staticGainDb(40, curve)).toBe(-24)
    expect(staticGainDb(-8, { ...curve, rangeDb: 24 })).toBeCloseTo(9, 12)
    const straight = { ...curve, ratio: null, rangeDb: -6 }
    expect([-26, -20, -14].map((l) => staticGainDb(l, straight))).toEqual([0, -3, -6])
  })

  it('is followed to 63 % in the time that is set, held, and let go', () => {
    const smoother = new GainSmoother()
    const step = 1 / 1000
    smoother.set({ attackMs: 20, holdMs: 50, releaseMs: 200 }, step)
    for (let i = 0; i < 20; i++) smoother.next(-10)
    expect(smoother.value).toBeCloseTo(-10 * (1 - Math.exp(-1)), 1)
    for (let i = 0; i < 400; i++) smoother.next(-10)
    for (let i = 0; i < 50; i++) smoother.next(0)
    expect(smoother.value).toBeCloseTo(-10, 2)
    for (let i = 0; i < 200; i++) smoother.next(0)
    expect(smoother.value).toBeCloseTo(-10 * Math.exp(-1), 1)
  })
})

describe('following in bands', () => {
  const tone = sine(1000, 2, RATE, 0.3)
  const key = tone.map((v, i) => (i >= RATE && i < 1.5 * RATE ? v : 0))

  it('takes the band down while its key sounds, as far as its range, in its times', () => {
    const params = paramsOf({ ...ABSOLUTE, rangeDb: -9, attackMs: 30, releaseMs: 100 })
    const [out] = run(params, [tone], [key])
    expect(change(out, tone, 0.2, 0.9)).toBeCloseTo(0, 2)
    expect(change(out, tone, 1.3, 1.5)).toBeCloseTo(-9, 1)
    // 63 % of a step: a detector of 3 ms and the attack.
    expect(change(out, tone, 1.03, 1.034)).toBeCloseTo(-9 * 0.63, 0)
    expect(change(out, tone, 1.606, 1.61)).toBeCloseTo(-9 * 0.37, 0)
    const up = run(paramsOf({ ...ABSOLUTE, rangeDb: 6 }), [tone], [key])[0]
    expect(change(up, tone, 1.3, 1.5)).toBeCloseTo(6, 1)
  })

  it('goes by the key’s level in its band, by a ratio', () => {
    const params = paramsOf({ ...ABSOLUTE, ratio: 2, rangeDb: -24 })
    // At 0.3 the key is 27.5 dB over the threshold of -40: half of it is taken.
    expect(change(run(params, [tone], [key])[0], tone, 1.3, 1.5)).toBeCloseTo(-(26.53 / 2), 0)
    const away = sine(9000, 2, RATE, 0.3)
    expect(change(run(params, [tone], [away])[0], tone, 1.3, 1.5)).toBeCloseTo(0, 0)
    const range = { listens: { to: 'key-range', fromHz: 4000, toHz: 9000 } } as const
    const heard = run(paramsOf({ ...ABSOLUTE, ...range, rangeDb: -6 }), [tone], [away])[0]
    expect(change(heard, tone, 1.3, 1.5)).toBeCloseTo(-6, 1)
  })

  it('against the key’s usual level gives way in a quiet verse as in a loud one', () => {
    const spoken = (gain: number) =>
      sine(1000, 6, RATE, 1).map((v, i) => gain * v * (Math.floor(i / (0.3 * RATE)) % 2))
    const bed = sine(1000, 6, RATE, 0.1)
    const [loud, quiet] = [0.5, 0.01].map((gain) =>
      change(run(paramsOf({ rangeDb: -6 }), [bed], [spoken(gain)])[0], bed, 3, 6),
    )
    expect(loud).toBeLessThan(-1.5)
    expect(quiet).toBeCloseTo(loud, 0)
  })

  it.each([
    ['low-cut', [125, 250], [1000, 2000, 4000]],
    ['high-cut', [2000, 4000], [63, 125, 250]],
  ] as const)(
    'moves all beyond the corner of a %s region, and nothing before',
    (type, moved, still) => {
      const corner = { ...ABSOLUTE, type, hz: 500, rangeDb: -12, attackMs: 5 }
      const across = { listens: { to: 'key-range', fromHz: 50, toHz: 15_000 } } as const
      const loud = gaussianNoise(2 * RATE, 3, 0.2)
      const at = (hz: number) => {
        const tone = sine(hz, 2, RATE, 0.2)
        return change(run(paramsOf({ ...corner, ...across }), [tone], [loud])[0], tone, 1, 1.9)
      }
      for (const hz of moved) expect(Math.abs(at(hz) + 12), `${hz} Hz`).toBeLessThan(0.6)
      for (const hz of still) expect(Math.abs(at(hz)), `${hz} Hz`).toBeLessThan(0.6)
      // At its corner half of the range is done, as on a shelf.
      expect(at(500)).toBeCloseTo(-6, 0)
    },
  )

  it.each([
    ['bell', 0.9],
    ['low-shelf', 0.7],
    ['high-shelf', 0.7],
    ['low-cut', 1],
    ['high-cut', 1],
  ] as const)('does what the filters of a %s do that are drawn for it', (type, q) => {
    const loud = gaussianNoise(2 * RATE, 3, 0.2)
    const listens = { to: 'key-range', fromHz: 50, toHz: 15_000 } as const
    const band = newFollowBand('b', { ...ABSOLUTE, type, q, hz: 700, rangeDb: -8, listens })
    const places = Float64Array.of(90, 350, 700, 1400, 5000)
    const drawn = magnitudeDb(followFilters(band, -8), places, RATE)
    places.forEach((hz, i) => {
      const tone = sine(hz, 2, RATE, 0.2)
      const done = change(run(paramsOf(band), [tone], [loud])[0], tone, 1, 1.9)
      expect(Math.abs(done - drawn[i]), `${hz} Hz`).toBeLessThan(0.15)
    })
  })

  it('draws a region steeper than a shelf', () => {
    const loud = gaussianNoise(2 * RATE, 3, 0.2)
    const listens = { to: 'key-range', fromHz: 50, toHz: 15_000 } as const
    const tone = sine(250, 2, RATE, 0.2)
    const at = (type: FollowBand['type']) => {
      const band = {
        ...ABSOLUTE,
        type,
        listens,
        hz: 500,
        rangeDb: -18,
        q: Math.SQRT1_2,
        attackMs: 5,
      }
      return change(run(paramsOf(band), [tone], [loud])[0], tone, 1, 1.9)
    }
    expect(at('low-cut')).toBeLessThan(at('low-shelf') - 1)
  })

  it('listens to the sound itself: a dynamic equaliser', () => {
    const swell = sine(3000, 2, RATE, 1).map((v, i) => v * (i < RATE ? 0.01 : 0.5))
    const params = paramsOf({
      hz: 3000,
      rangeDb: -12,
      listens: { to: 'itself' },
      threshold: { against: 'absolute', db: -20 },
    })
    const [out] = run(params, [swell], null)
    expect(change(out, swell, 0.2, 0.9)).toBeCloseTo(0, 2)
    expect(change(out, swell, 1.5, 1.9)).toBeCloseTo(-12, 1)
  })

  it('passes bit by bit with a silent key, without one, and after it is done', () => {
    const noise = gaussianNoise(2 * RATE, 5, 0.1)
    const params = paramsOf({ ...ABSOLUTE, rangeDb: -9, releaseMs: 20 })
    expect(run(params, [noise], null)[0]).toEqual(noise)
    expect(run(params, [noise], [new Float32Array(2 * RATE)])[0]).toEqual(noise)
    const early = key.map((_, i) => (i < RATE / 2 ? tone[i] : 0))
    expect(run(params, [noise], [early])[0].subarray(1.5 * RATE)).toEqual(
      noise.subarray(1.5 * RATE),
    )
  })

  it('in the middle leaves the sides alone, and the other way round', () => {
    const [mid, side] = [gaussianNoise(2 * RATE, 5, 0.1), gaussianNoise(2 * RATE, 6, 0.05)]
    const sound = [mid.map((v, i) => v + side[i]), mid.map((v, i) => v - side[i])]
    for (const channel of ['mid', 'side'] as const) {
      const [left, right] = run(paramsOf({ ...ABSOLUTE, rangeDb: -12, channel }), sound, [tone])
      const parts = {
        mid: left.map((v, i) => (v + right[i]) / 2),
        side: left.map((v, i) => (v - right[i]) / 2),
      }
      const [own, other] =
        channel === 'mid' ? (['mid', 'side'] as const) : (['side', 'mid'] as const)
      const before = { mid, side }
      const off = parts[other].map((v, i) => v - before[other][i])
      expect(20 * Math.log10(rms(off) / rms(before[other]))).toBeLessThan(-100)
      expect(change(parts[own], before[own], 1, 2)).toBeLessThan(-0.4)
    }
  })

  it('says the same whatever the blocks, with look-ahead and without', () => {
    const noise = [gaussianNoise(RATE, 7, 0.1), gaussianNoise(RATE, 8, 0.1)]
    for (const lookAheadMs of [0, 7]) {
      const params = paramsOf({ rangeDb: -9 }, { lookAheadMs, blend: 0.7, outputDb: -1 })
      const whole = run(params, noise, [key.subarray(RATE / 2)], 128)
      const parts = run(params, noise, [key.subarray(RATE / 2)], 50)
      whole.forEach((c, i) => {
        c.forEach((v, k) => {
          if (Math.abs(v - parts[i][k]) > 1e-6) throw new Error(`differs at ${k}`)
        })
      })
    }
  })

  it('with look-ahead gives way before the sound that asks for it, and is late by as much', () => {
    const at = (lookAheadMs: number) => {
      const params = paramsOf({ ...ABSOLUTE, rangeDb: -9, attackMs: 5 }, { lookAheadMs })
      expect(followWorkings.latency(params, followWorkings.design(params, RATE), 1)).toBe(
        48 * lookAheadMs,
      )
      const [out] = run(params, [tone], [key])
      const shifted = out.subarray(48 * lookAheadMs)
      return change(shifted, tone, 1.0, 1.005)
    }
    expect(at(8)).toBeLessThan(at(0) - 2)
  })

  it('moves without a click, on tones and noise', () => {
    const pulsed = tone.map((v, i) => v * (Math.floor(i / (RATE / 4)) % 2))
    const hears = { listens: { to: 'key-range', fromHz: 500, toHz: 2000 } } as const
    for (const [hz, sound] of [
      [100, overNoise(100)],
      [1000, overNoise(950)],
      [8000, gaussianNoise(2 * RATE, 3, 0.1)],
    ] as const) {
      const params = paramsOf({
        ...ABSOLUTE,
        ...hears,
        hz,
        rangeDb: -18,
        attackMs: 5,
        releaseMs: 40,
      })
      expect(clickRatio(run(params, [sound], [pulsed])[0], RATE)).toBeLessThan(4)
    }
  })

  it('takes settings over while it sounds, bands that come and go among them, without a click', () => {
    const low = overNoise(500)
    const processor = followWorkings.make(RATE, 1)
    const out = Float32Array.from(low)
    const states = [
      paramsOf({ ...ABSOLUTE, hz: 500, rangeDb: -12 }),
      paramsOf({ ...ABSOLUTE, hz: 700, rangeDb: -3, q: 3 }),
      { ...follow.defaults(), bands: [] },
      paramsOf({ ...ABSOLUTE, hz: 500, rangeDb: 9, type: 'low-shelf' }),
    ]
    for (let from = 0, n = 0; from < out.length; from += 120, n++) {
      const params = states[Math.floor(n / 150) % states.length]
      if (n % 150 === 0) processor.set(params, followWorkings.design(params, RATE))
      const to = Math.min(out.length, from + 120)
      processor.process([out.subarray(from, to)], to - from, [tone.subarray(from, to)])
    }
    expect(clickRatio(out, RATE)).toBeLessThan(4)
  })
})
