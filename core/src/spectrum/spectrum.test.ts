import { describe, expect, it } from 'vitest'
import { makeClip } from '../audio'
import { gaussianNoise, sine, whiteNoise } from '../testing/signals'
import {
  BandSums,
  erbBands,
  erbBandwidthHz,
  erbNumberToHz,
  hzToErbNumber,
  longTermLevels,
  makeBands,
  makeWindow,
  nearestNote,
  noiseBandwidthBins,
  realFft,
  referenceFft,
  spectrogram,
  sumIntoBands,
} from '.'

describe('Fourier transform', () => {
  it.each([64, 1024, 8192])('PFFFT agrees with fft.js at %d frames, and inverts itself', (size) => {
    const signal = whiteNoise(size, 7)
    const fast = new Float32Array(size + 2)
    const reference = new Float32Array(size + 2)
    realFft(size).forward(signal, fast)
    referenceFft(size).forward(signal, reference)
    const worst = Math.max(...fast.map((v, i) => Math.abs(v - reference[i])))
    expect(worst / Math.sqrt(size)).toBeLessThan(1e-5)
    const back = new Float32Array(size)
    realFft(size).inverse(fast, back)
    expect(Math.max(...back.map((v, i) => Math.abs(v - signal[i])))).toBeLessThan(1e-5)
    referenceFft(size).inverse(reference, back)
    expect(Math.max(...back.map((v, i) => Math.abs(v - signal[i])))).toBeLessThan(1e-6)
  })

  it('windows before it transforms, whichever window was used last', () => {
    const size = 512
    const signal = whiteNoise(3 * size, 8)
    const windows = (['hann', 'blackman-harris', 'hann'] as const).map((name) =>
      Float32Array.from(makeWindow(name, size)),
    )
    for (const [round, window] of windows.entries()) {
      const start = 100 * round
      const [fast, reference] = [realFft(size), referenceFft(size)].map((fft) => {
        const spectrum = new Float32Array(size + 2)
        fft.windowed(signal, start, window, spectrum, 20, 90)
        const power = new Float64Array(size / 2 + 1)
        fft.power(signal, start, window, 0.25, power)
        return { spectrum, power }
      })
      const asked = Array.from(reference.spectrum)
      expect(asked.slice(40, 182).some((v) => Math.abs(v) > 1)).toBe(true)
      expect(asked.every((v, i) => v === 0 || (i >= 40 && i < 182))).toBe(true)
      fast.spectrum.forEach((v, i) => {
        expect(Math.abs(v - asked[i])).toBeLessThan(1e-4)
      })
      const total = reference.power.reduce((a, b) => a + b, 0)
      fast.power.forEach((v, k) => {
        expect(Math.abs(v - reference.power[k]) / total).toBeLessThan(1e-7)
      })
    }
  })
})

describe('windows (Harris 1978)', () => {
  it.each([
    ['hann', 1.5],
    ['blackman-harris', 2.0],
  ] as const)('%s has a noise bandwidth of %d bins', (name, bins) => {
    expect(noiseBandwidthBins(makeWindow(name, 4096))).toBeCloseTo(bins, 2)
  })

  it.each([
    ['hann', 1.42],
    ['blackman-harris', 0.83],
  ] as const)('%s loses %d dB half way between bins', (name, db) => {
    const window = makeWindow(name, 1024)
    expect(-transformDb(window, 0.5)).toBeCloseTo(db, 1)
  })

  it.each([
    ['hann', -31.5, 2],
    ['blackman-harris', -92, 4],
  ] as const)('%s has its highest side lobe at %d dB', (name, db, mainLobe) => {
    const window = makeWindow(name, 512)
    let highest = Number.NEGATIVE_INFINITY
    for (let bin = mainLobe; bin < 24; bin += 0.05) {
      highest = Math.max(highest, transformDb(window, bin))
    }
    expect(Math.abs(highest - db)).toBeLessThan(0.4)
  })
})

/** Level of a window's transform at a fractional bin relative to its peak, summed term by term. */
function transformDb(window: Float64Array, bin: number): number {
  let re = 0
  let im = 0
  let sum = 0
  window.forEach((w, i) => {
    const angle = (2 * Math.PI * bin * i) / window.length
    re += w * Math.cos(angle)
    im -= w * Math.sin(angle)
    sum += w
  })
  return 20 * Math.log10(Math.hypot(re, im) / sum)
}

describe('ERB scale (Glasberg and Moore 1990)', () => {
  it('is 132.6 Hz wide at 1 kHz, which is ERB number 15.6', () => {
    expect(erbBandwidthHz(1000)).toBeCloseTo(132.6, 1)
    expect(hzToErbNumber(1000)).toBeCloseTo(15.6, 1)
  })

  it('converts back and forth', () => {
    for (const hz of [20, 100, 1000, 15000])
      expect(erbNumberToHz(hzToErbNumber(hz))).toBeCloseTo(hz, 6)
  })
})

describe('bands', () => {
  it('are summed alike when their edges are worked out before, down to parts of one bin', () => {
    const power = whiteNoise(1025, 9).map((v) => v * v)
    const binHz = 23.4
    const bands = [...erbBands(0.25), { hz: 100, fromHz: 99, toHz: 100 }]
    const once = sumIntoBands(power, binHz, bands)
    const again = new Float64Array(bands.length)
    const sums = new BandSums(bands, binHz, power.length)
    sums.take(power, again)
    once.forEach((sum, b) => {
      expect(Math.abs(again[b] - sum)).toBeLessThanOrEqual(1e-12 * sum)
    })
    const part = new Float64Array(bands.length)
    sums.take(power, part, 3, 5)
    expect(part.findIndex((v) => v > 0)).toBe(3)
    expect(part.findLastIndex((v) => v > 0)).toBe(4)
  })

  it('third octaves have the exact base-ten centres of IEC 61260-1', () => {
    const bands = makeBands('third')
    expect(bands).toHaveLength(31)
    expect(bands[17].hz).toBeCloseTo(1000, 6)
    expect(bands[18].hz).toBeCloseTo(1258.93, 2)
    expect(bands[30].hz).toBeCloseTo(19952.6, 1)
  })

  it.each(['third', 'sixth', 'twelfth', 'erb'] as const)(
    '%s bands touch without gap or overlap',
    (layout) => {
      const bands = makeBands(layout)
      for (let i = 1; i < bands.length; i++)
        expect(bands[i].fromHz).toBeCloseTo(bands[i - 1].toHz, 6)
    },
  )

  it('a steady sine reads its level in a spectrogram, wherever it lies between bins; noise reads as in its bins', () => {
    const [size, binHz] = [4096, 48000 / 4096]
    for (const off of [0, 0.1, 0.25, 0.5, 0.6, 0.9]) {
      for (const bin of [9, 85, 700, 1600]) {
        const clip = makeClip(48000, [sine((bin + off) * binHz, 0.5, 48000, 0.25)])
        const settings = { size, hop: 2048, window: 'hann' } as const
        const levels = spectrogram(clip, settings)
        const bins = size / 2 + 1
        const row = levels.subarray(5 * bins, 6 * bins)
        const top = row.reduce((a, v) => Math.max(a, v), -200)
        expect(Math.abs(top - 20 * Math.log10(0.25 * Math.SQRT1_2))).toBeLessThan(0.05)
      }
    }
    // Peaks of noise that look like a sine are few: the mean hardly moves.
    const noise = gaussianNoise(10 * 48000, 8, 0.1)
    const meanOf = (window: 'hann' | 'blackman-harris') => {
      const levels = spectrogram(makeClip(48000, [noise]), { size, hop: 2048, window })
      return levels.reduce((a, v) => a + 10 ** (v / 10), 0) / levels.length
    }
    const bandwidths = 10 * Math.log10(2.0044 / 1.5)
    const apart = 10 * Math.log10(meanOf('blackman-harris') / meanOf('hann')) - bandwidths
    expect(Math.abs(apart)).toBeLessThan(0.15)
  })

  it('thirds of an octave in the lows are their own, beside a stronger tone, in longer windows', () => {
    const [rate, seconds] = [48000, 12]
    const clip = makeClip(rate, [
      sine(31.5, seconds, rate, 0.01).map(
        (v, i) => v + 0.1 * Math.sin((2 * Math.PI * 50 * i) / rate),
      ),
    ])
    const thirds = makeBands('third')
    const at = thirds.findIndex((b) => Math.abs(b.hz - 31.5) < 1)
    const wanted = 20 * Math.log10(0.01 * Math.SQRT1_2)
    expect(Math.abs(longTermLevels(clip, thirds, true)[at] - wanted)).toBeLessThan(0.3)
    expect(Math.abs(longTermLevels(clip, thirds)[at] - wanted)).toBeGreaterThan(1.5)
    // Above the lows nothing differs.
    const high = thirds.findIndex((b) => b.hz > 900)
    const noise = makeClip(rate, [gaussianNoise(seconds * rate, 5, 0.1)])
    expect(longTermLevels(noise, thirds, true)[high]).toBe(longTermLevels(noise, thirds)[high])
    expect(longTermLevels(noise, thirds, true)[at]).toBeCloseTo(
      longTermLevels(noise, thirds)[at],
      -0.3,
    )
  })

  it('a full-scale sine reads -3.01 dB in its band', () => {
    const bands = makeBands('third')
    const levels = longTermLevels(makeClip(48000, [sine(1000, 2, 48000)]), bands)
    expect(levels[17]).toBeCloseTo(-3.01, 1)
  })

  it('white noise rises 3.01 dB per octave in third octaves', () => {
    const levels = longTermLevels(
      makeClip(48000, [gaussianNoise(480000, 3, 0.1)]),
      makeBands('third'),
    )
    const octaves = Math.log2(10 ** (3 / 10)) * (18 / 3)
    expect((levels[28] - levels[10]) / octaves).toBeCloseTo(3.01, 1)
  })
})

it('names notes', () => {
  expect(nearestNote(440)).toEqual({ name: 'A4', cents: 0 })
  expect(nearestNote(2300)).toEqual({ name: 'D7', cents: -37 })
})
