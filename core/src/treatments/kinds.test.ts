import { describe, expect, it, vi } from 'vitest'
import { type EqBand, newBand } from '../filters'
import * as design from '../filters/design'
import { rms, sine, whiteNoise } from '../testing/signals'
import {
  type DrawnCurveParams,
  kindOf,
  type LowEndSource,
  newTreatment,
  respondChain,
  TREATMENT_KINDS,
  type Treatment,
  workingsOf,
} from './index'

const RATE = 48000

/** A stereo sound through one treatment, in blocks of the audio thread's size; its latency is taken out. */
function through(treatment: Treatment, input: readonly Float32Array[]): Float32Array[] {
  const kind = workingsOf(treatment.kind)
  const made = kind.design(treatment.params, RATE)
  const processor = kind.make(RATE, input.length)
  processor.set(treatment.params, made)
  const { latency } = processor
  const out = input.map((c) => {
    const longer = new Float32Array(c.length + latency)
    longer.set(c)
    return longer
  })
  for (let at = 0; at < out[0].length; at += 128) {
    const block = out.map((c) => c.subarray(at, Math.min(at + 128, c.length)))
    processor.process(block, block[0].length, null)
  }
  processor.dispose()
  return out.map((c) => c.subarray(latency))
}

const level = (x: Float32Array) => 20 * Math.log10(rms(x.subarray(RATE / 2, RATE)))

describe('the workings of every kind', () => {
  it.each(Object.keys(TREATMENT_KINDS))(
    '%s has a design, and processes what it designed',
    (name) => {
      const kind = workingsOf(name)
      const params = kindOf(name).defaults()
      const made = kind.design(params, RATE)
      // Null stands for one that is still to come: such a treatment would never be heard.
      expect(made).not.toBeNull()
      const processor = kind.make(RATE, 2)
      processor.set(params, made)
      expect(processor.latency).toBe(kind.latency(params, made, 2))
      const block = [new Float32Array(128), new Float32Array(128)]
      processor.process(block, 128, null)
      expect(block[0].every(Number.isFinite)).toBe(true)
      processor.dispose()
    },
  )
})

describe('low end in the middle', () => {
  const lowMiddle = (
    hz: number,
    slopeDbPerOct: 12 | 24 | 36 | 48 = 24,
    from: LowEndSource = 'both',
  ) => newTreatment('low-middle', 'l', 'fit', { hz, slopeDbPerOct, from })
  const sides = (hz: number) => {
    const tone = sine(hz, 1.5, RATE, 0.25)
    return [tone, tone.map((v) => -v)]
  }

  it('leaves the middle as it is, to the bit of rounding', () => {
    const mid = whiteNoise(RATE, 3, 0.3)
    const out = through(lowMiddle(150), [mid, mid.slice()])
    for (let i = 0; i < mid.length; i++) expect(Math.abs(out[0][i] - mid[i])).toBeLessThan(1e-6)
  })

  it.each([12, 24, 36, 48] as const)(
    'takes the sides away below, -6 dB at the frequency, at %d dB per octave',
    (slope) => {
      const change = (hz: number) =>
        level(through(lowMiddle(200, slope), sides(hz))[0]) - level(sides(hz)[0])
      expect(change(200)).toBeCloseTo(-6.02, 1)
      // Linkwitz 1976: the magnitude of a branch is that of its Butterworth half, squared.
      const wanted = -20 * Math.log10(1 + 2 ** (slope / 6))
      expect(change(100)).toBeGreaterThan(wanted - 1)
      expect(change(100)).toBeLessThan(wanted + 1)
      expect(Math.abs(change(4000))).toBeLessThan(0.03)
    },
  )

  it.each([
    ['turned', [1, -1], 1],
    ['left', [1, -0.5], 1],
    ['right', [1, -0.5], -0.5],
  ] as const)('is made of what it is told: %s', (from, sides, wanted) => {
    const [low, high] = [sine(60, 1.5, RATE, 0.25), sine(3000, 1.5, RATE, 0.1)]
    const input = sides.map((gain) => low.map((v, i) => gain * v + high[i]))
    const out = through(lowMiddle(200, 48, from), input)
    for (const channel of out) {
      for (let i = 9000; i < RATE; i += 3) {
        expect(Math.abs(channel[i] - (wanted * low[i] + high[i]))).toBeLessThan(2e-3)
      }
    }
  })

  it('leaves the sides above in time, and mono sounds alone', () => {
    const [left] = sides(3000)
    const [out] = through(lowMiddle(120), sides(3000))
    for (let i = 5000; i < RATE; i++) expect(Math.abs(out[i] - left[i])).toBeLessThan(1e-3)
    const mono = whiteNoise(1000, 4)
    expect(through(lowMiddle(120), [mono])[0]).toEqual(mono)
  })
})

describe('align', () => {
  const aligned = (delayFrames: number, polarity: 1 | -1 = 1, turnDeg = 0) =>
    newTreatment('align', 'a', 'fit', { delayFrames, polarity, turnDeg })
  const tone = sine(1000, 1.5, RATE, 0.5)

  it.each([0, 12.5, -12.5, -3000.25, 700, 0.01])('moves a sound by %d frames', (delay) => {
    const [out] = through(aligned(delay), [tone])
    for (let i = 8000; i < 50_000; i += 7) {
      const wanted = 0.5 * Math.sin((2 * Math.PI * 1000 * (i - delay)) / RATE)
      expect(Math.abs(out[i] - wanted)).toBeLessThan(2e-4)
    }
  })

  it('changes nothing at no shift', () => {
    const noise = whiteNoise(RATE, 6, 0.3)
    const [out] = through(aligned(0), [noise])
    for (let i = 0; i < noise.length; i++) expect(Math.abs(out[i] - noise[i])).toBeLessThan(1e-7)
  })

  it.each([30, -90, 145])('turns the phase by %d degrees, later above zero', (turn) => {
    const [out] = through(aligned(0, -1, turn), [tone])
    for (let i = 12_000; i < 50_000; i += 7) {
      const wanted = -0.5 * Math.sin((2 * Math.PI * 1000 * i) / RATE - (turn * Math.PI) / 180)
      expect(Math.abs(out[i] - wanted)).toBeLessThan(2e-3)
    }
  })
})

describe('an equaliser', () => {
  const cut: EqBand = { ...newBand('low-cut', 90), slopeDbPerOct: 48 }
  const params = (band: EqBand, phase: 'minimum' | 'linear' = 'minimum') => ({
    phase,
    bands: [{ id: 'b', on: true, band, reason: '', evidence: null }],
  })

  it('designs nothing while it plays: designs arrive ready-made', () => {
    const kind = workingsOf('equaliser')
    const processor = kind.make(RATE, 2)
    const [one, two] = [params(cut), params({ ...cut, hz: 130 })]
    const designs = [kind.design(one, RATE), kind.design(two, RATE)]
    processor.set(one, designs[0])
    const spy = vi.spyOn(design, 'designBand')
    const block = [whiteNoise(128, 1), whiteNoise(128, 2)]
    processor.process(block, 128, null)
    processor.set(two, designs[1])
    // Long enough to glide, to wait for its turn and to come to rest in the exact form.
    for (let n = 0; n < 400; n++) processor.process(block, 128, null)
    processor.reset()
    expect(spy).not.toHaveBeenCalled()
    spy.mockRestore()
  })

  it('does to a sound what its response says, in every phase mode', () => {
    const bell = { ...newBand('bell', 1000), db: -9, q: 2 }
    for (const phase of ['minimum', 'linear'] as const) {
      const treatment = newTreatment('equaliser', 'e', 'fit', params(bell, phase))
      const db = respondChain([treatment], RATE, 'mid').db([700, 1000, 1400])
      ;[700, 1000, 1400].forEach((hz, i) => {
        const tone = sine(hz, 1.5, RATE, 0.5)
        const [out] = through(treatment, [tone, tone.slice()])
        expect(level(out) - level(tone)).toBeCloseTo(db[i], 1)
      })
    }
  })
})

describe('every kind', () => {
  it.each(Object.values(TREATMENT_KINDS).map((k) => [k.kind, kindOf(k.kind)] as const))(
    '%s: its defaults fit its schema, its file form comes back, and it tells what it does',
    (_, kind) => {
      const defaults = kind.defaults()
      expect(kind.params.parse(defaults)).toEqual(defaults)
      const file = kind.file.params.parse(JSON.parse(JSON.stringify(kind.file.write(defaults))))
      expect(kind.file.read(file)).toEqual(defaults)
      expect(kind.describe(defaults)).not.toBe('')
    },
  )
})

describe('a drawn curve', () => {
  const drawn = (change: Partial<DrawnCurveParams> = {}) =>
    newTreatment('drawn-curve', 'd', 'clean', {
      ...TREATMENT_KINDS['drawn-curve'].defaults(),
      points: [
        { hz: 200, db: 0 },
        { hz: 500, db: -12 },
        { hz: 2000, db: -12 },
        { hz: 4000, db: 6 },
      ],
      ...change,
    })

  it.each(['linear', 'minimum'] as const)('does to tones what was drawn, in %s phase', (phase) => {
    const treatment = drawn({ phase })
    for (const [hz, db] of [
      [100, 0],
      [1000, -12],
      [8000, 6],
    ]) {
      const tone = sine(hz, 1.2, RATE, 0.25)
      expect(level(through(treatment, [tone])[0]) - level(tone)).toBeCloseTo(db, 1)
      const response = respondChain([treatment], RATE, 'mid')
      expect(response.db([hz])[0]).toBeCloseTo(db, 1)
    }
  })

  it('comes in time in linear phase: an impulse keeps its place', () => {
    const click = new Float32Array(RATE / 2)
    click[9000] = 1
    const [out] = through(drawn(), [click])
    const peak = out.reduce((best, v, i) => (Math.abs(v) > Math.abs(out[best]) ? i : best), 0)
    expect(peak).toBe(9000)
  })

  it('takes a range to silence, and leaves what lies beside it', () => {
    const treatment = drawn({
      points: [
        { hz: 900, db: 0 },
        { hz: 950, db: -120 },
        { hz: 1050, db: -120 },
        { hz: 1100, db: 0 },
      ],
      joining: 'straight',
      taps: 16384,
    })
    const [inside, beside] = [1000, 1200].map((hz) => sine(hz, 1.2, RATE, 0.25))
    expect(level(through(treatment, [inside])[0]) - level(inside)).toBeLessThan(-90)
    expect(Math.abs(level(through(treatment, [beside])[0]) - level(beside))).toBeLessThan(0.1)
  })

  it('reads many frequencies at once as it reads single ones', () => {
    const { db } = respondChain([drawn({ joining: 'straight' })], RATE, 'mid')
    const hz = Float64Array.from({ length: 60 }, (_, i) => 40 * 1.1 ** i)
    db(hz).forEach((v, i) => {
      expect(Math.abs(v - db([hz[i]])[0])).toBeLessThan(0.02)
    })
  })

  it('refuses points that go back', () => {
    const { params } = drawn()
    const points = [...params.points].reverse()
    expect(TREATMENT_KINDS['drawn-curve'].params.safeParse({ ...params, points }).success).toBe(
      false,
    )
  })
})
