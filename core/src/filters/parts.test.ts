import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { rms, sine, whiteNoise } from '../testing/signals'
import { leb } from '../wasm'
import { BandFilter } from './band-filter'
import { newBand } from './eq-band'
import { Equaliser } from './equaliser'
import { FirStage } from './fir-stage'
import { type FirGroup, type PhasePlan, planPhase } from './phase-modes'
import { polynomialRoots } from './polynomial-roots'
import { kernelModule } from './section-code'
import { PlainPasses } from './svf'
import { bandEdges, qFromEdge } from './width'

describe('roots of polynomials', () => {
  it('are found, real and in conjugate pairs, over many orders of size', () => {
    const real = fc.double({ min: -3, max: 3, noNaN: true }).map((e) => 10 ** e)
    const pairs = fc.array(fc.tuple(real, fc.double({ min: 0.1, max: 3, noNaN: true })), {
      minLength: 1,
      maxLength: 2,
    })
    fc.assert(
      fc.property(pairs, fc.boolean(), (list, withReal) => {
        // Factors x² - 2r cos(t) x + r², and perhaps x - r.
        let c = [1]
        const multiply = (f: number[]) => {
          const out = new Array(c.length + f.length - 1).fill(0)
          for (let i = 0; i < c.length; i++)
            for (let k = 0; k < f.length; k++) out[i + k] += c[i] * f[k]
          c = out
        }
        for (const [r, t] of list) multiply([r * r, -2 * r * Math.cos(t), 1])
        if (withReal) multiply([-list[0][0] * 7, 1])
        const roots = polynomialRoots(c)
        expect(roots).toHaveLength(c.length - 1)
        for (const { re, im } of roots) {
          let vr = 0
          let vi = 0
          let size = 0
          for (let k = c.length - 1; k >= 0; k--) {
            const next = vr * re - vi * im + c[k]
            vi = vr * im + vi * re
            vr = next
            size = size * Math.hypot(re, im) + Math.abs(c[k])
          }
          expect(Math.hypot(vr, vi)).toBeLessThan(1e-6 * size)
        }
      }),
      { numRuns: 200, seed: 5 },
    )
  })

  it('lose leading zeros, and have none of a constant', () => {
    expect(
      polynomialRoots([6, -5, 1, 0, 0])
        .map((r) => r.re)
        .sort(),
    ).toEqual([2, 3])
    expect(polynomialRoots([4])).toEqual([])
  })
})

describe('the width of a band', () => {
  it('is the octave bandwidth that belongs to Q, and leads back to it', () => {
    const edges = bandEdges({ ...newBand('bell', 1000), q: Math.SQRT2 })
    // Audio EQ Cookbook: Q = 1.414 is one octave.
    expect(Math.log2((edges?.toHz ?? 0) / (edges?.fromHz ?? 1))).toBeCloseTo(1, 2)
    fc.assert(
      fc.property(fc.double({ min: 0.05, max: 60, noNaN: true }), (q) => {
        const found = bandEdges({ ...newBand('notch', 700), q })
        expect(qFromEdge(700, found?.toHz ?? 0)).toBeCloseTo(q, 6)
        expect(qFromEdge(700, found?.fromHz ?? 0)).toBeCloseTo(q, 6)
      }),
    )
  })

  it('does not belong to shelves, cuts and tilt', () => {
    for (const type of ['low-shelf', 'high-shelf', 'low-cut', 'high-cut', 'tilt'] as const) {
      expect(bandEdges(newBand(type, 500))).toBeNull()
    }
  })
})

describe('a band that moves', () => {
  const run = (filter: BandFilter, steps: number) => {
    const passes = new PlainPasses()
    passes.channels = [new Float64Array(64)]
    passes.to = 64
    for (let s = 0; s < steps; s++) filter.run(passes)
  }
  const bell = (hz: number) => ({ ...newBand('bell', hz), db: 6 })

  it('comes to rest after a while, and not where it only passes by', () => {
    const filter = new BandFilter(bell(2000), 48000, 1, 64)
    expect(filter.atRest).toBe(true)
    filter.set(bell(1000))
    run(filter, 8)
    // On its way down it passes the new goal; it must turn round, not stop there.
    filter.set(bell(1600))
    for (let s = 0; s < 40; s++) {
      run(filter, 1)
      expect(filter.atRest).toBe(false)
    }
    run(filter, 400)
    expect(filter.atRest).toBe(true)
  })

  it('stands at once where it was going after a reset', () => {
    const filter = new BandFilter(bell(2000), 48000, 1, 64)
    filter.set(bell(500))
    filter.reset()
    expect(filter.atRest).toBe(true)
  })
})

describe('the FIR stage', () => {
  const RATE = 48000
  const band = (channel: 'stereo' | 'side' | 'left', db: number) => ({
    id: channel,
    band: { ...newBand('bell', 1000), q: 0.7, db, channel },
  })
  const through = (plan: PhasePlan, left: Float32Array, right: Float32Array) => {
    const stage = new FirStage(2)
    stage.set(plan)
    const out = [left.slice(), right.slice()]
    stage.process(out, left.length)
    return { out, stage }
  }
  const tone = sine(1000, 1, RATE, 0.25)

  it('treats the sides alone: what is equal on both sides passes unchanged', () => {
    const plan = planPhase([band('side', -12)], 'linear', RATE)
    const { out, stage } = through(plan, tone, tone)
    for (let i = 10000; i < 20000; i++) {
      expect(Math.abs(out[0][i] - tone[i - stage.latency])).toBeLessThan(1e-5)
    }
    const opposed = through(
      plan,
      tone,
      tone.map((v) => -v),
    ).out
    const db = 20 * Math.log10(rms(opposed[0], 20000) / rms(tone))
    expect(db).toBeCloseTo(-12, 1)
  })

  it('treats the left alone', () => {
    const { out } = through(planPhase([band('left', -12)], 'linear', RATE), tone, tone)
    expect(20 * Math.log10(rms(out[0], 20000) / rms(out[1], 20000))).toBeCloseTo(-12, 1)
  })

  it('tells whether a plan keeps its latency', () => {
    const plan = planPhase([band('stereo', -3)], 'linear', RATE, 2047)
    const { stage } = through(plan, tone, tone)
    expect(stage.fits(planPhase([band('stereo', -6)], 'linear', RATE, 2047))).toBe(true)
    expect(stage.fits(planPhase([band('stereo', -6)], 'linear', RATE, 4095))).toBe(false)
    expect(stage.fits(null)).toBe(false)
  })

  it('treats a mono signal as the recursive bands do: middle and left act, sides and right do not', () => {
    for (const channel of ['mid', 'left', 'side', 'right'] as const) {
      const list = [{ id: 'm', band: { ...newBand('bell', 1000), q: 0.7, db: -12, channel } }]
      const fir = [tone.slice()]
      const stage = new FirStage(1)
      stage.set(planPhase(list, 'linear', RATE))
      stage.process(fir, tone.length)
      const recursive = [tone.slice()]
      const equaliser = new Equaliser()
      equaliser.prepare(RATE, 1)
      equaliser.set(list)
      equaliser.process(recursive, tone.length)
      const wanted = channel === 'mid' || channel === 'left' ? -12 : 0
      for (const [out] of [fir, recursive]) {
        expect(20 * Math.log10(rms(out, 20000) / rms(tone, 20000))).toBeCloseTo(wanted, 1)
      }
    }
  })

  it('passes sound without any groups', () => {
    const noise = whiteNoise(1000, 1)
    const none: readonly FirGroup[] = []
    const plan = { ...planPhase([], 'linear', RATE), firs: none }
    expect(through(plan, noise, noise).out[0]).toEqual(noise)
  })
})

describe('the written WebAssembly', () => {
  it('is a valid module', () => {
    expect(WebAssembly.validate(kernelModule(false))).toBe(true)
  })

  it('writes numbers as LEB128 does', () => {
    expect([leb(0), leb(127), leb(128), leb(624485)]).toEqual([
      [0],
      [127],
      [0x80, 1],
      [0xe5, 0x8e, 0x26],
    ])
  })
})
