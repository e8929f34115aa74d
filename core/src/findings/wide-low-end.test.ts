import { describe, expect, it } from 'vitest'
import { makeClip } from '../audio'
import { hearingBands } from '../hearing'
import { findWideLowEnd } from './wide-low-end'

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
  return findWideLowEnd(hearingBands(makeClip(RATE, [sum(1), sum(-1)])))
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

  it('is none where next to nothing of the track lies in it, or most of it in the middle', () => {
    expect(read([rest, { hz: 45, power: 0.1, sideShare: 0.9 }])).toBeNull()
    expect(read([rest, { hz: 45, power: 1, sideShare: 0.2 }])).toBeNull()
  })
})
