import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { longTermLevels, makeBands } from '../spectrum'
import { testSignal } from './test-signal'

const at = { sampleRateHz: 48000, seconds: 12, levelDb: -20 }

describe('test signals', () => {
  it.each([44100, 48000, 96000])(
    'show pink noise level within 0.5 dB from 30 Hz to 16 kHz, %i Hz',
    (sampleRateHz) => {
      const pink = testSignal({ kind: 'pink-noise' }, { ...at, sampleRateHz })
      for (const layout of ['third', 'sixth', 'twelfth'] as const) {
        const bands = makeBands(layout)
        const levels = longTermLevels(pink, bands).filter(
          (_, b) => bands[b].hz > 30 && bands[b].hz < 16000,
        )
        const middle = (Math.max(...levels) + Math.min(...levels)) / 2
        expect(Math.max(...levels) - middle, layout).toBeLessThan(0.5)
      }
    },
  )

  it('shows a sine at its level within 0.1 dB, where bands are wider than the window’s lobe', () => {
    const thirds = makeBands('third')
    fc.assert(
      fc.property(
        fc.integer({ min: 250, max: 16000 }),
        fc.integer({ min: -60, max: 0 }),
        (hz, db) => {
          const clip = testSignal({ kind: 'sine', hz }, { ...at, seconds: 2, levelDb: db })
          // Near an edge its power falls into two bands.
          const levels = longTermLevels(clip, thirds).map((v) => 10 ** (v / 10))
          const power = levels.reduce((a, b) => a + b, 0)
          expect(10 * Math.log10(power)).toBeCloseTo(db - 3.01, 1)
          const band = thirds.find((b) => hz >= b.fromHz * 1.03 && hz < b.toHz / 1.03)
          if (band) {
            const level = 10 * Math.log10(levels[thirds.indexOf(band)])
            expect(Math.abs(level - (db - 3.01))).toBeLessThan(0.1)
          }
        },
      ),
      { numRuns: 25 },
    )
  })

  it('sweeps from 20 Hz to 20 kHz by octaves of equal length, and steps by thirds of an octave', () => {
    const crossings = (samples: Float32Array, from: number, to: number) => {
      let count = 0
      for (let i = from + 1; i < to; i++) if (samples[i - 1] < 0 && samples[i] >= 0) count++
      return count
    }
    const seconds = 31
    const settings = { sampleRateHz: 48000, seconds, levelDb: 0 }
    const sweep = testSignal({ kind: 'swept-sine' }, settings).channels[0]
    // Half-way the sweep stands at the middle of the ruler, 632 Hz.
    const middle = sweep.length / 2
    expect(crossings(sweep, middle - 4800, middle + 4800) / 0.2).toBeCloseTo(632, -1)
    const steps = testSignal({ kind: 'stepped-sine' }, settings).channels[0]
    for (const [step, hz] of [
      [7, 100],
      [17, 1000],
      [27, 10000],
    ]) {
      const from = step * 48000 + 4800
      expect(crossings(steps, from, from + 38400) / 0.8 / hz).toBeCloseTo(1, 1)
    }
  })

  it('has the level that is asked for: peaks of tones, the root mean square of noise', () => {
    for (const kind of ['stepped-sine', 'swept-sine', 'impulse'] as const) {
      const { channels } = testSignal({ kind }, { ...at, seconds: 2 })
      expect(channels[0].reduce((a, v) => Math.max(a, Math.abs(v)), 0)).toBeCloseTo(0.1, 3)
    }
    for (const kind of ['pink-noise', 'white-noise'] as const) {
      const { channels } = testSignal({ kind }, at)
      const power = channels[0].reduce((a, v) => a + v * v, 0) / channels[0].length
      expect(10 * Math.log10(power)).toBeCloseTo(-20, 0)
    }
  })
})
