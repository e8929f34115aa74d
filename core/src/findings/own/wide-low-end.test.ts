import { describe, expect, it } from 'vitest'
import { makeClip } from '../../audio'
import { newTreatment } from '../../treatments'
import { type MeasureSources, readMeasure } from '../measure'
import { readSource } from '../source/source-reading'
import { treatmentMove } from '../survey-input'

const RATE = 48000

/** A tone whose share of power in the sides is stated; the sides are a quarter of a turn late, so that nothing leans. */
interface Tone {
  readonly hz: number
  readonly power: number
  readonly sideShare: number
}

function read(tones: readonly Tone[]) {
  const sum = (sign: number) =>
    Float32Array.from({ length: 3 * RATE }, (_, i) =>
      tones.reduce((v, { hz, power, sideShare }) => {
        const turn = (2 * Math.PI * hz * i) / RATE
        const [mid, side] = [Math.sqrt(1 - sideShare), Math.sqrt(sideShare)]
        return v + 0.1 * Math.sqrt(power) * (mid * Math.sin(turn) + sign * side * Math.cos(turn))
      }, 0),
    )
  const { wideLowEnd } = readSource(makeClip(RATE, [sum(1), sum(-1)]))
  return wideLowEnd
}

const rest: Tone = { hz: 900, power: 1, sideShare: 0.1 }

describe('a wide low end', () => {
  it('is one whose depth lies in the sides, also where its body lies in the middle', () => {
    const body: Tone = { hz: 112, power: 1, sideShare: 0.14 }
    const found = read([rest, body, { hz: 45, power: 0.4, sideShare: 0.6 }])
    // Both together lose 1.4 dB; what is told ends where 1.5 are lost, in the middle of the body.
    expect(found?.fromHz).toBeLessThan(46)
    expect(found?.belowHz).toBeGreaterThan(50)
    expect(found?.belowHz).toBeLessThan(120)
    expect(found?.monoLossDb).toBeGreaterThan(1.5)
    expect(found?.monoLossDb).toBeLessThan(4.2)
    expect(read([rest, body])).toBeNull()
  })

  it('loses in mono what lies in its sides', () => {
    const found = read([rest, { hz: 60, power: 1, sideShare: 0.5 }])
    expect(found?.sideShare).toBeCloseTo(0.5, 1)
    expect(Math.abs((found?.monoLossDb ?? 0) - 3)).toBeLessThan(0.3)
  })

  it('is made of what is there: both sides, one of them, or both with one turned', () => {
    expect(read([rest, { hz: 60, power: 1, sideShare: 0.5 }])?.from).toBe('both')
    expect(read([rest, { hz: 60, power: 1, sideShare: 0.97 }])?.from).toBe('turned')
    // Opposite, and one of them stronger: the stronger one.
    const tone = (gain: number) =>
      Float32Array.from({ length: 3 * RATE }, (_, i) => {
        const turn = (2 * Math.PI * i) / RATE
        return 0.1 * gain * Math.sin(60 * turn) + 0.03 * Math.sin(900 * turn)
      })
    const sides = (left: number, right: number) =>
      readSource(makeClip(RATE, [tone(left), tone(right)]))
    expect(sides(1, -0.35).wideLowEnd?.from).toBe('left')
    expect(sides(-0.35, 1).wideLowEnd?.from).toBe('right')
  })

  it('is foretold in the sum to mono as it comes out of the treatment', () => {
    for (const [left, right] of [
      [1, -1],
      [1, -0.4],
    ]) {
      const clip = (gains: readonly number[]) =>
        makeClip(
          RATE,
          gains.map((gain) =>
            Float32Array.from({ length: 2 * RATE }, (_, i) => {
              const turn = (2 * Math.PI * i) / RATE
              return 0.1 * gain * Math.sin(60 * turn) + 0.05 * Math.sin(900 * turn)
            }),
          ),
        )
      const before = readSource(clip([left, right]))
      const from = before.wideLowEnd?.from ?? 'both'
      const of = (reading: MeasureSources['tracks'][0]['reading']) => ({
        tracks: [{ id: 'k', reading }],
        mixLevels: null,
      })
      const measure = { of: 'low-in-mono', track: 'k', belowHz: 120 } as const
      const treatment = newTreatment('low-middle', 'l', 'fit', { hz: 150, slopeDbPerOct: 48, from })
      const moves = [treatmentMove('k', treatment)]
      const foretold = readMeasure(measure, of(before), { moves, sampleRateHz: RATE })
      const made = readSource(clip(from === 'turned' ? [1, 1] : [left, left]))
      expect(Math.abs(foretold - readMeasure(measure, of(made)))).toBeLessThan(0.3)
      expect(foretold).toBeGreaterThan(readMeasure(measure, of(before)) + 3)
    }
  })

  it('is none where next to nothing of the track lies in it, or most of it in the middle', () => {
    expect(read([rest, { hz: 45, power: 0.1, sideShare: 0.9 }])).toBeNull()
    expect(read([rest, { hz: 45, power: 1, sideShare: 0.2 }])).toBeNull()
  })
})
