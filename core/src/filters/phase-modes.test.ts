import { describe, expect, it } from 'vitest'
import { runKeyed } from '../testing/keyed'
import { newChainBand } from '../treatments'
import { equaliserWorkings } from '../treatments/equaliser/workings'
import { type FilterType, PHASE_NAMES } from './band-names'
import { sectionsDb } from './biquad'
import { designBand } from './design'
import { type EqBand, newBand } from './eq-band'
import { firMagnitudeDb, preEchoOf } from './fir'
import { type PhaseMode, planPhase } from './phase-modes'

const RATES = [44100, 48000, 96000]
const band = (type: FilterType, change: Partial<EqBand>): EqBand => ({
  ...newBand(type, 1000),
  ...change,
})
const CHAIN = [
  band('low-cut', { hz: 35, slopeDbPerOct: 24 }),
  band('bell', { hz: 180, db: -4, q: 1.2 }),
  band('bell', { hz: 1180, db: -9, q: 14 }),
  band('bell', { hz: 3200, db: 3, q: 0.7 }),
  band('high-shelf', { hz: 9000, db: 4 }),
]
const keyed = (bands: readonly EqBand[]) => bands.map((b, i) => ({ id: `${i}`, band: b }))

/** Magnitude of a whole plan in stereo at a bin: FIR groups and what runs beside them. */
function magnitudeAt(bands: readonly EqBand[], phase: PhaseMode, rate: number) {
  const list = keyed(bands)
  const plan = planPhase(list, phase, rate)
  const size = 262144
  const firs = plan.firs.map((f) => firMagnitudeDb(f.kernels[0], size))
  const rest = list
    .filter((b) => !plan.inFir.includes(b.id))
    .flatMap((b) => designBand(b.band, rate))
  return (hz: number) => {
    const bin = Math.round((hz * size) / rate)
    const at = (bin * rate) / size
    return { at, db: firs.reduce((sum, f) => sum + f[bin], sectionsDb(rest, at, rate)), plan }
  }
}

describe('phase modes', () => {
  it.each(RATES)('have the same magnitude within 0.1 dB from 30 Hz to 20 kHz at %d Hz', (rate) => {
    const sections = CHAIN.flatMap((b) => designBand(b, rate))
    for (const phase of PHASE_NAMES) {
      const read = magnitudeAt(CHAIN, phase, rate)
      for (let hz = 30; hz < 20000; hz *= 1.02) {
        const { at, db } = read(hz)
        expect(Math.abs(db - sectionsDb(sections, at, rate))).toBeLessThan(0.1)
      }
    }
  })

  it('minimum has no latency, mixed less than 12 ms, linear half its length', () => {
    for (const rate of RATES) {
      expect(planPhase(keyed(CHAIN), 'minimum', rate)).toMatchObject({ latency: 0, firs: [] })
      const mixed = planPhase(keyed(CHAIN), 'mixed', rate)
      expect(mixed.latency / rate).toBeLessThan(0.012)
      const linear = planPhase(keyed(CHAIN), 'linear', rate)
      expect(linear.latency).toBeGreaterThanOrEqual((linear.firs[0].kernels[0].length - 1) / 2)
    }
  })

  it('mixed carries the gentle bands and leaves the resonant and the lowest ones as they are', () => {
    const { inFir } = planPhase(keyed(CHAIN), 'mixed', 48000)
    expect(inFir).toEqual(['3', '4'])
  })

  it('a sharper band asks for a longer filter, which echoes ahead more', () => {
    const plan = (q: number) =>
      planPhase(keyed([band('bell', { hz: 2000, db: 9, q })]), 'linear', 48000)
    expect(plan(18).firs[0].kernels[0].length).toBeGreaterThan(plan(1).firs[0].kernels[0].length)
    expect(plan(18).preEchoDb).toBeGreaterThan(plan(1).preEchoDb ?? 0)
    expect(planPhase(keyed(CHAIN), 'linear', 48000, 4097).firs[0].kernels[0]).toHaveLength(4097)
  })

  it('mixed, tells the pre-ringing of all that is heard: kernels and recursive bands together', () => {
    const bands = keyed([
      band('high-shelf', { hz: 3000, db: 9 }),
      band('bell', { hz: 90, db: 15, q: 9 }),
      band('low-shelf', { hz: 200, db: -9 }),
    ])
    const plan = planPhase(bands, 'mixed', 48000)
    expect(plan.inFir.length).toBeGreaterThan(0)
    expect(plan.inFir.length).toBeLessThan(3)
    const params = { phase: 'mixed', bands: bands.map((b) => newChainBand(b.id, b.band)) } as const
    const impulse = new Float32Array(8192)
    impulse[1000] = 1
    const [out] = runKeyed(equaliserWorkings, params, [impulse], null)
    let top = 0
    out.forEach((v, i) => {
      if (Math.abs(v) > Math.abs(out[top])) top = i
    })
    expect(plan.preEchoDb).toBeCloseTo(preEchoOf(out, top, 48000) ?? 0, 1)
  })

  it('middle and sides, left and right get kernels of their own, in the order of the bands', () => {
    const bands = [
      band('bell', { db: 6, channel: 'mid' }),
      band('bell', { db: -3, hz: 3000 }),
      band('bell', { db: 6, channel: 'left' }),
    ]
    const { firs, latency } = planPhase(keyed(bands), 'linear', 48000)
    expect(firs.map((f) => f.basis)).toEqual(['mid-side', 'left-right'])
    const [mid, side] = firs[0].kernels
    expect(firMagnitudeDb(mid, 8192)[171] - firMagnitudeDb(side, 8192)[171]).toBeCloseTo(6, 1)
    expect(latency).toBeGreaterThan(firs[0].kernels[0].length)
    // Then only stereo bands may be carried ahead of the others.
    expect(planPhase(keyed(bands), 'mixed', 48000).inFir).toEqual(['1'])
  })
})
