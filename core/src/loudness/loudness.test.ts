import { describe, expect, it } from 'vitest'
import { makeClip, seededRandom } from '../audio'
import { sine, toneSequence } from '../testing/signals'
import { kWeighting, LoudnessMeter, measureLoudness, normalisingGain, truePeakDbtp } from '.'

describe('K-weighting (ITU-R BS.1770-5)', () => {
  it('has the printed coefficients at 48 kHz', () => {
    const [one, two] = kWeighting(48000)
    expect([one.b0, one.b1, one.b2, one.a1, one.a2]).toEqual([
      1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585,
    ])
    expect([two.b0, two.b1, two.b2, two.a1, two.a2]).toEqual([
      1, -2, 1, -1.99004745483398, 0.99007225036621,
    ])
  })

  it.each([44100, 48000, 96000])(
    'a full-scale 997 Hz sine in one channel reads -3.01 LKFS at %d Hz',
    (rate) => {
      const clip = makeClip(rate, [sine(997, 10, rate)])
      expect(measureLoudness(clip).integratedLufs).toBeCloseTo(-3.01, 1)
    },
  )

  it.each([60, 400, 4000, 10000])('reads a %d Hz sine alike at 44.1, 48 and 96 kHz', (hz) => {
    const at = (rate: number) =>
      measureLoudness(makeClip(rate, [sine(hz, 3, rate)])).integratedLufs ?? 0
    expect(Math.abs(at(44100) - at(48000))).toBeLessThan(0.1)
    expect(Math.abs(at(96000) - at(48000))).toBeLessThan(0.1)
  })
})

describe('EBU Tech 3341', () => {
  it('case 1: -23 dBFS reads -23.0 in M, S and I', () => {
    const reading = measureLoudness(toneSequence([[-23, 20]]))
    expect(Math.abs(reading.integratedLufs! + 23)).toBeLessThan(0.1)
    expect(Math.abs(reading.maxMomentaryLufs! + 23)).toBeLessThan(0.1)
    expect(Math.abs(reading.maxShortTermLufs! + 23)).toBeLessThan(0.1)
  })

  it.each([
    ['2', [[-33, 20]], -33],
    [
      '3',
      [
        [-36, 10],
        [-23, 60],
        [-36, 10],
      ],
      -23,
    ],
    [
      '4',
      [
        [-72, 10],
        [-36, 10],
        [-23, 60],
        [-36, 10],
        [-72, 10],
      ],
      -23,
    ],
    [
      '5',
      [
        [-26, 20],
        [-20, 20.1],
        [-26, 20],
      ],
      -23,
    ],
  ] as [string, [number, number][], number][])('case %s: integrated loudness', (_, steps, lufs) => {
    const reading = measureLoudness(toneSequence(steps))
    expect(Math.abs(reading.integratedLufs! - lufs)).toBeLessThan(0.1)
  })

  it('case 9: short-term holds -23.0 from the third second on', () => {
    const steps = Array.from(
      { length: 5 },
      () =>
        [
          [-20, 1.34],
          [-30, 1.66],
        ] as [number, number][],
    ).flat()
    const clip = toneSequence(steps)
    const meter = new LoudnessMeter(48000, 2)
    for (let at = 0; at < clip.frames; at += 4800) {
      meter.add(clip.channels.map((c) => c.subarray(at, at + 4800)))
      if (at >= 3 * 48000) expect(Math.abs(meter.shortTermLufs! + 23)).toBeLessThan(0.1)
    }
  })

  it('case 12: momentary holds -23.0 from the first second on', () => {
    const steps = Array.from(
      { length: 25 },
      () =>
        [
          [-20, 0.18],
          [-30, 0.22],
        ] as [number, number][],
    ).flat()
    const clip = toneSequence(steps)
    const meter = new LoudnessMeter(48000, 2)
    for (let at = 0; at < clip.frames; at += 4800) {
      meter.add(clip.channels.map((c) => c.subarray(at, at + 4800)))
      if (at >= 48000) expect(Math.abs(meter.momentaryLufs! + 23)).toBeLessThan(0.1)
    }
  })

  it.each([
    ['15', 4, 0.5, 0, -6],
    ['16', 4, 0.5, 45, -6],
    ['17', 6, 0.5, 60, -6],
    ['18', 8, 0.5, 67.5, -6],
    ['19', 4, 1.41, 45, 3],
  ])('case %s: true peak of a sine at fs/%d', (_, divisor, amplitude, phaseDeg, dbtp) => {
    const tone = sine(48000 / divisor, 1, 48000, amplitude, phaseDeg)
    // The standard fades its tones; an abrupt edge of a steady tone would itself overshoot.
    const fade = 2400
    for (let i = 0; i < fade; i++) {
      const gain = 0.5 - 0.5 * Math.cos((Math.PI * i) / fade)
      tone[i] *= gain
      tone[tone.length - 1 - i] *= gain
    }
    const reading = truePeakDbtp(makeClip(48000, [tone, tone]))!
    expect(reading).toBeLessThan(dbtp + 0.2)
    expect(reading).toBeGreaterThan(dbtp - 0.4)
  })
})

describe('EBU Tech 3342', () => {
  it.each([
    [[-20, -30], 10],
    [[-20, -15], 5],
    [[-40, -20], 20],
    [[-50, -35, -20, -35, -50], 15],
  ])('levels %j have a range of %d LU', (levels, range) => {
    const clip = toneSequence(levels.map((db) => [db, 20] as [number, number]))
    expect(Math.abs(measureLoudness(clip).loudnessRangeLu! - range)).toBeLessThan(1)
  })
})

it('silence has no loudness and no peak', () => {
  const clip = makeClip(48000, [new Float32Array(96000)])
  expect(measureLoudness(clip)).toEqual({
    integratedLufs: null,
    loudnessRangeLu: null,
    maxMomentaryLufs: null,
    maxShortTermLufs: null,
  })
  expect(truePeakDbtp(clip)).toBeNull()
})

describe('true peak', () => {
  /** Every point of eight times oversampling by a long windowed sinc, without any short cut. */
  function everyPoint(samples: Float32Array): number {
    const half = 60
    let most = 0
    for (let i = -half; i < samples.length + half; i++) {
      for (let p = 0; p < 8; p++) {
        let sum = 0
        for (let k = Math.max(0, i - half); k <= Math.min(samples.length - 1, i + half); k++) {
          const x = i + p / 8 - k
          const window = Math.abs(x) < half ? Math.cos((Math.PI * x) / (2 * half)) ** 2 : 0
          sum += samples[k] * (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x)) * window
        }
        most = Math.max(most, Math.abs(sum))
      }
    }
    return 20 * Math.log10(most)
  }

  it.each([1, 2, 3, 4, 5, 6])('misses nothing between samples: sound %d', (seed) => {
    const random = seededRandom(seed)
    const sound = Float32Array.from({ length: 240 }, (_, i) => {
      const burst = Math.exp(-(((i - 120) / (10 * seed)) ** 2))
      return burst * Math.sin(Math.PI * i * (0.25 + 0.1 * seed) + seed) + 0.2 * (random() - 0.5)
    })
    const peak = truePeakDbtp(makeClip(48000, [sound])) ?? 0
    expect(Math.abs(peak - everyPoint(sound))).toBeLessThan(0.2)
  })
})

describe('what a finished mix is brought to', () => {
  const measured = { lufs: -20, truePeakDbtp: -7.5 }

  it('is a peak, or a loudness as far as the peak allows', () => {
    expect(normalisingGain(measured, { to: 'peak', dbtp: -1 })).toEqual({
      gainDb: 6.5,
      heldByPeak: false,
    })
    const loud = { to: 'loudness', lufs: -16, dbtp: -1 } as const
    expect(normalisingGain(measured, loud)).toEqual({ gainDb: 4, heldByPeak: false })
    expect(normalisingGain(measured, { ...loud, lufs: -12 })).toEqual({
      gainDb: 6.5,
      heldByPeak: true,
    })
    expect(normalisingGain({ lufs: null, truePeakDbtp: null }, loud).gainDb).toBe(0)
    // Too short or soft to have a loudness: its peak counts.
    expect(normalisingGain({ lufs: null, truePeakDbtp: -30 }, loud).gainDb).toBe(29)
  })
})
