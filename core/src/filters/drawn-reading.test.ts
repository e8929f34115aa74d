import { describe, expect, it } from 'vitest'
import type { DrawnCurve } from './drawn-curve'
import { drawnDb } from './drawn-curve'
import { readDrawn, tapsWithin } from './drawn-reading'

const RATE = 48000
const WINDOW = { kind: 'blackman-harris' } as const
const curve = (...points: (readonly [hz: number, db: number])[]): DrawnCurve => ({
  points: points.map(([hz, db]) => ({ hz, db })),
  joining: 'straight',
  axis: 'log',
})

/** The deviation by the definition of a response, at places a hundredth of a hertz apart. */
function deviationNear(taps: Float32Array, drawn: DrawnCurve, fromHz: number, toHz: number) {
  const wanted = drawnDb(drawn)
  let worst = 0
  for (let hz = fromHz; hz <= toHz; hz += 0.01) {
    let [re, im] = [0, 0]
    for (let i = 0; i < taps.length; i++) {
      re += taps[i] * Math.cos((2 * Math.PI * hz * i) / RATE)
      im += taps[i] * Math.sin((2 * Math.PI * hz * i) / RATE)
    }
    const db = Math.max(-120, 10 * Math.log10(re * re + im * im))
    worst = Math.max(worst, Math.abs(db - Math.max(-120, wanted(hz))))
  }
  return worst
}

describe('what becomes of a drawn curve', () => {
  const needle = curve([995.5, 0], [1000, -120], [1004.5, 0])

  it('is told at its own points: a needle of 9 Hz is not there with 64 taps', () => {
    const { worstDb, worstHz } = readDrawn(
      needle,
      { taps: 64, window: WINDOW, phase: 'linear' },
      RATE,
    )
    expect(worstDb).toBeGreaterThan(119)
    expect(worstHz).toBeCloseTo(1000, 1)
    expect(tapsWithin(needle, { window: WINDOW, phase: 'linear' }, RATE, 1)).toBeGreaterThan(32_000)
  })

  it('is told between its points as it is by definition, within a tenth of a decibel', () => {
    const edge = curve([990, 0], [990.4, -60], [1010, -60], [1010.4, 0])
    const { kernel, worstDb } = readDrawn(
      edge,
      { taps: 4096, window: WINDOW, phase: 'linear' },
      RATE,
    )
    expect(Math.abs(worstDb - deviationNear(kernel.taps, edge, 985, 1015))).toBeLessThan(0.1)
  })

  it('is told of the longest filter too: steep edges at 65,536 taps', () => {
    const edge = curve([999.9, 0], [1000.1, -40])
    const { kernel, worstDb } = readDrawn(
      edge,
      { taps: 65_536, window: { kind: 'hann' }, phase: 'linear' },
      RATE,
    )
    expect(Math.abs(worstDb - deviationNear(kernel.taps, edge, 999.6, 1000.6))).toBeLessThan(0.1)
  })

  it('takes no more taps than a gentle curve needs', () => {
    const gentle = curve([100, 0], [1000, 3], [10_000, 0])
    expect(tapsWithin(gentle, { window: WINDOW, phase: 'linear' }, RATE, 1)).toBeLessThan(2048)
  })
})
