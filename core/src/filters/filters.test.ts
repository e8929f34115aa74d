import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { clickRatio } from '../testing/clicks'
import { rms, sine, whiteNoise } from '../testing/signals'
import type { WasmHost } from '../wasm'
import { analogueDb } from './analogue'
import { BandFilter } from './band-filter'
import { BUTTERWORTH_Q, FILTER_TYPES, type FilterType } from './band-names'
import { type Biquad, isStable, sectionsDb } from './biquad'
import { designBand } from './design'
import { type EqBand, newBand } from './eq-band'
import { Equaliser } from './equaliser'
import { MOST_QUICK_SECTIONS, QUICK_STRIDE, quickDesign } from './quick-design'
import { installSectionKernel, removeSectionKernel } from './section-kernel'

const RATES = [44100, 48000, 96000] as const
const CENTRES = [20, 60, 250, 1000, 3000, 6000, 9000, 12000, 15000, 18000]
const QS = [0.3, Math.SQRT1_2, 2, 6, 18]
const GAINS = [-18, -6, 3, 12, 18]
const GRID = Array.from({ length: 160 }, (_, i) => 20 * 1000 ** (i / 159))
/** Below this the curve is compared no more: 90 dB under the pass band. */
const FLOOR_DB = -90

const band = (type: FilterType, change: Partial<EqBand> = {}): EqBand => ({
  ...newBand(type, 1000),
  ...change,
})
const dbAt = (b: EqBand, hz: number, rate = 48000) => sectionsDb(designBand(b, rate), hz, rate)

function worstError(bands: readonly EqBand[], rate: number): number {
  let worst = 0
  for (const b of bands) {
    const sections = designBand(b, rate)
    expect(sections.every(isStable)).toBe(true)
    for (const hz of [...GRID, b.hz, b.hz * 0.97, b.hz * 1.03]) {
      const wanted = analogueDb(b, hz)
      if (hz > 20000 || wanted < FLOOR_DB) continue
      worst = Math.max(worst, Math.abs(sectionsDb(sections, hz, rate) - wanted))
    }
  }
  return worst
}

const gained = (type: FilterType, qs = QS) =>
  CENTRES.flatMap((hz) => qs.flatMap((q) => GAINS.map((db) => band(type, { hz, q, db }))))
const plain = (type: FilterType, qs = QS) =>
  CENTRES.flatMap((hz) => qs.map((q) => band(type, { hz, q })))
const cuts = (type: FilterType) =>
  CENTRES.flatMap((hz) =>
    [6, 12, 18, 24, 48, 96].flatMap((slopeDbPerOct) =>
      [BUTTERWORTH_Q, 2].map((q) => band(type, { hz, slopeDbPerOct, q })),
    ),
  )

describe('filters follow the analogue curve from 20 Hz to 20 kHz within a tenth of a decibel, cuts within 0.15', () => {
  it.each(RATES)('at %d Hz', (rate) => {
    const shelves = [0.3, Math.SQRT1_2, 1.5, 4]
    expect(worstError(gained('bell'), rate)).toBeLessThan(0.1)
    expect(worstError(gained('low-shelf', shelves), rate)).toBeLessThan(0.1)
    expect(worstError(gained('high-shelf', shelves), rate)).toBeLessThan(0.1)
    expect(worstError(gained('tilt', [1]), rate)).toBeLessThan(0.1)
    expect(worstError(plain('band-pass'), rate)).toBeLessThan(0.1)
    expect(worstError(cuts('low-cut'), rate)).toBeLessThan(0.15)
    expect(worstError(cuts('high-cut'), rate)).toBeLessThan(0.15)
  })

  it('also in the notch, 3 dB and more above its bottom', () => {
    for (const b of plain('notch')) {
      const sections = designBand(b, 48000)
      for (const hz of GRID) {
        const wanted = analogueDb(b, hz)
        if (wanted > -30)
          expect(Math.abs(sectionsDb(sections, hz, 48000) - wanted)).toBeLessThan(0.1)
      }
      expect(sectionsDb(sections, b.hz, 48000)).toBeLessThan(-100)
    }
  })
})

describe('published values', () => {
  it('Audio EQ Cookbook: a bell has its gain at its centre, and half of it at its band edges', () => {
    for (const q of [0.5, 1, 4]) {
      const b = band('bell', { hz: 1000, q, db: 12 })
      const half = Math.exp(Math.asinh(1 / (2 * q)))
      expect(dbAt(b, 1000)).toBeCloseTo(12, 1)
      expect(dbAt(b, 1000 * half)).toBeCloseTo(6, 1)
      expect(dbAt(b, 1000 / half)).toBeCloseTo(6, 1)
    }
  })

  it('Audio EQ Cookbook: shelves have half their gain in dB at their frequency', () => {
    for (const type of ['low-shelf', 'high-shelf'] as const) {
      const b = band(type, { hz: 2000, db: -10, q: BUTTERWORTH_Q })
      expect(dbAt(b, 2000)).toBeCloseTo(-5, 1)
      expect(dbAt(b, type === 'low-shelf' ? 20 : 20000)).toBeCloseTo(-10, 1)
      expect(dbAt(b, type === 'low-shelf' ? 20000 : 20)).toBeCloseTo(0, 1)
    }
  })

  it('Butterworth: -3.01 dB at the corner at every order, falling by the slope beyond', () => {
    for (const type of ['low-cut', 'high-cut'] as const) {
      for (let slope = 6; slope <= 96; slope += 6) {
        const b = band(type, { hz: 800, slopeDbPerOct: slope, q: BUTTERWORTH_Q })
        expect(dbAt(b, 800)).toBeCloseTo(-3.01, 1)
        const one = type === 'low-cut' ? 200 : 3200
        const two = type === 'low-cut' ? 100 : 6400
        if (slope <= 24) expect(dbAt(b, one) - dbAt(b, two)).toBeCloseTo(slope, 0)
      }
    }
  })

  it('an all-pass of first or second order passes everything alike', () => {
    for (const slopeDbPerOct of [6, 12]) {
      for (const hz of [30, 1000, 15000]) {
        const sections = designBand(band('all-pass', { hz, slopeDbPerOct }), 48000)
        for (const f of GRID) expect(sectionsDb(sections, f, 48000)).toBeCloseTo(0, 9)
      }
    }
  })

  it('a tilt turns about its frequency', () => {
    const b = band('tilt', { hz: 650, db: 6 })
    expect(
      [dbAt(b, 650), dbAt(b, 20), dbAt(b, 20000)].map((v) => Math.round(v * 10) / 10 + 0),
    ).toEqual([0, -6, 6])
  })
})

const bands: fc.Arbitrary<EqBand> = fc.record({
  type: fc.constantFrom(...FILTER_TYPES),
  hz: fc.double({ min: Math.log(10), max: Math.log(40000), noNaN: true }).map(Math.exp),
  db: fc.double({ min: -30, max: 24, noNaN: true }),
  q: fc.double({ min: Math.log(0.05), max: Math.log(100), noNaN: true }).map(Math.exp),
  slopeDbPerOct: fc.integer({ min: 1, max: 16 }).map((n) => 6 * n),
  channel: fc.constant('stereo' as const),
})
/** The form that moving filters have. */
function quickSections(b: EqBand, rate: number): Biquad[] {
  const out = new Float64Array(MOST_QUICK_SECTIONS * QUICK_STRIDE)
  return Array.from({ length: quickDesign(b, rate, out) }, (_, i) => {
    const [b0, b1, b2, a1, a2] = out.subarray(i * QUICK_STRIDE, (i + 1) * QUICK_STRIDE)
    return { b0, b1, b2, a1, a2 }
  })
}
const finite = (s: Biquad) => Object.values(s).every(Number.isFinite)

describe('every design', () => {
  it('is stable and finite over all accepted values, in both forms', () => {
    fc.assert(
      fc.property(bands, fc.constantFrom(8000, 22050, ...RATES, 192000), (b, rate) => {
        const exact = designBand(b, rate)
        const quick = quickSections(b, rate)
        for (const sections of [exact, quick]) {
          expect(sections.every((s) => finite(s) && isStable(s))).toBe(true)
        }
        expect(exact.length / quick.length).toBe(b.type === 'all-pass' ? 1 : 2)
      }),
      { numRuns: 600, seed: 3 },
    )
  })

  it('is within 1 dB of the curve while it moves, to 16 kHz', () => {
    for (const b of [
      ...gained('bell'),
      ...gained('low-shelf', [0.5, 1]),
      ...gained('high-shelf', [0.5, 1]),
    ]) {
      if (b.hz > 16000) continue
      const sections = quickSections(b, 48000)
      for (const hz of GRID) {
        if (hz > 16000) continue
        expect(Math.abs(sectionsDb(sections, hz, 48000) - analogueDb(b, hz))).toBeLessThan(1)
      }
    }
  })

  it('undoes the equal boost by the cut within 1e-6', () => {
    fc.assert(
      fc.property(bands, fc.constantFrom(...RATES), (b, rate) => {
        if (!['bell', 'low-shelf', 'high-shelf', 'tilt'].includes(b.type)) return
        const up = { ...b, db: Math.abs(b.db) }
        const both = [...designBand(up, rate), ...designBand({ ...up, db: -up.db }, rate)]
        for (const hz of GRID) {
          expect(Math.abs(10 ** (sectionsDb(both, hz, rate) / 20) - 1)).toBeLessThan(1e-6)
        }
      }),
      { numRuns: 150, seed: 4 },
    )
  })
})

const RATE = 48000

/** Runs bands over a signal; `script` gives new bands at moments in seconds. */
function run(
  input: readonly Float32Array[],
  first: readonly EqBand[],
  script: (seconds: number) => readonly EqBand[] | null = () => null,
): Float32Array[] {
  const out = input.map((c) => c.slice())
  const equaliser = new Equaliser()
  equaliser.prepare(RATE, input.length)
  const set = (list: readonly EqBand[]) =>
    equaliser.set(list.map((b, i) => ({ id: `${i}`, band: b })))
  set(first)
  for (let at = 0; at < out[0].length; at += 128) {
    const next = script(at / RATE)
    if (next) set(next)
    const end = Math.min(out[0].length, at + 128)
    equaliser.process(
      out.map((c) => c.subarray(at, end)),
      end - at,
    )
  }
  return out
}

describe('the running equaliser', () => {
  it('has the response that its design says', () => {
    const b = band('bell', { hz: 5000, q: 3, db: 9 })
    for (const hz of [100, 4000, 5000, 12000]) {
      const [out] = run([sine(hz, 1, RATE, 0.1)], [b])
      const db = 20 * Math.log10(rms(out, RATE / 2) / (0.1 * Math.SQRT1_2))
      expect(db).toBeCloseTo(dbAt(b, hz), 2)
    }
  })

  it('is linear, and the same later as now', () => {
    const list = [band('low-cut', { hz: 90 }), band('high-shelf', { hz: 7000, db: 5 })]
    const a = whiteNoise(4800, 1)
    const b = whiteNoise(4800, 2)
    const both = a.map((v, i) => 0.5 * v - 0.25 * b[i])
    const [oa] = run([a], list)
    const [ob] = run([b], list)
    const [oboth] = run([both], list)
    const late = new Float32Array(4800 + 640)
    late.set(a, 640)
    const [olate] = run([late], list)
    for (let i = 0; i < 4800; i++) {
      expect(Math.abs(oboth[i] - (0.5 * oa[i] - 0.25 * ob[i]))).toBeLessThan(2e-7)
      expect(Math.abs(olate[i + 640] - oa[i])).toBeLessThan(1e-6)
    }
  })

  it('acts on the middle or the sides only, and gives back what it did not treat', () => {
    const left = whiteNoise(9600, 1)
    const right = whiteNoise(9600, 2)
    const b = band('bell', { hz: 1000, db: -18, q: 1, channel: 'mid' })
    const [l, r] = run([left, right], [b])
    let worst = 0
    for (let i = 0; i < 9600; i++) {
      worst = Math.max(worst, Math.abs(l[i] - r[i] - (left[i] - right[i])))
    }
    expect(worst).toBeLessThan(1e-6)
    const [ol, or] = run([left, right], [{ ...b, channel: 'left' }])
    expect(or).toEqual(right)
    expect(rms(ol)).toBeLessThan(rms(left))
  })

  it('starts afresh after a value that is not a number, and lets none out', () => {
    const bad = whiteNoise(9600, 1)
    bad[3000] = Number.NaN
    const [out] = run([bad], [band('bell', { db: 6 })])
    expect(out.every(Number.isFinite)).toBe(true)
    expect(rms(out, 4800)).toBeGreaterThan(0.3)
  })
})

describe('the section kernel', () => {
  it('gives what plain code gives, to rounding, for any number of sections', () => {
    for (const count of [1, 2, 3, 4, 5, 7, 9]) {
      const list = Array.from({ length: count }, (_, i) =>
        band('bell', { hz: 200 * (i + 1) ** 1.8, db: i % 2 ? 8 : -8, q: 1 }),
      )
      const input = [whiteNoise(4800, count), whiteNoise(4800, count + 50)]
      const fast = run(input, list)
      removeSectionKernel()
      const plain = run(input, list)
      installSectionKernel(WebAssembly as unknown as WasmHost)
      for (let c = 0; c < 2; c++) {
        for (let i = 0; i < 4800; i++) expect(Math.abs(fast[c][i] - plain[c][i])).toBeLessThan(2e-6)
      }
      expect(rms(fast[0])).toBeGreaterThan(0.05)
    }
  })
})

describe('resting and moving sections in the kernel', () => {
  const anyBand = fc
    .record({
      type: fc.constantFrom(...FILTER_TYPES),
      octave: fc.double({ min: 0, max: 9.9, noNaN: true }),
      db: fc.constantFrom(-18, -3, -1e-3, 0, 1e-6, 0.5, 12),
      q: fc.constantFrom(0.3, 1, 6, 40),
      slopeDbPerOct: fc.constantFrom(6, 24, 96),
    })
    .map(({ octave, ...rest }) => band(rest.type, { ...rest, hz: 20 * 2 ** octave }))
  const FRAMES = 9600
  const TURNS = 31
  const input = [whiteNoise(FRAMES, 7, 0.1), whiteNoise(FRAMES, 8, 0.1)]

  it('give what plain code gives, whatever the bands and however they move and rest in between', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(anyBand, anyBand), { minLength: 1, maxLength: 5 }), (pairs) => {
        const from = pairs.map(([b]) => b)
        // The same types at other values: they glide there, and rest again.
        const to = pairs.map(([b, other]) => ({ ...b, hz: other.hz, db: other.db, q: other.q }))
        const script = (t: number) => (t < 0.05 ? from : to)
        const fast = run(input, from, script)
        // Bands take their turns at refining (each was made twice: at first, and before the first block); with as
        // many more, the next ones have the same turns.
        for (let i = 2 * pairs.length; i < TURNS; i++) new BandFilter(from[0], RATE, 2, 64)
        removeSectionKernel()
        const plainly = run(input, from, script)
        installSectionKernel(WebAssembly as unknown as WasmHost)
        let most = 1
        let apart = 0
        for (let c = 0; c < 2; c++) {
          for (let i = 0; i < FRAMES; i++) {
            most = Math.max(most, Math.abs(plainly[c][i]))
            apart = Math.max(apart, Math.abs(fast[c][i] - plainly[c][i]))
          }
        }
        expect(apart / most).toBeLessThan(1e-6)
      }),
      { numRuns: 40 },
    )
  })
})

describe('movement', () => {
  const tone = sine(1000, 2, RATE, 0.25)
  const noise = whiteNoise(2 * RATE, 5, 0.25)
  const moves: [string, EqBand, (t: number) => EqBand | 'off' | null][] = [
    [
      'a bell swept from 20 Hz to 20 kHz in a second at +18 dB, Q 10',
      band('bell', { hz: 20, q: 10, db: 18 }),
      (t) =>
        t > 0.5 && t < 1.5 ? band('bell', { hz: 20 * 1000 ** (t - 0.5), q: 10, db: 18 }) : null,
    ],
    [
      'a gain step of 24 dB',
      band('bell', { db: -12 }),
      (t) => (t > 1 ? band('bell', { db: 12 }) : null),
    ],
    [
      'a change of type',
      band('bell', { db: 12 }),
      (t) => (t > 1 ? band('high-shelf', { db: -12 }) : null),
    ],
    [
      'a change of slope',
      band('low-cut', { hz: 900, slopeDbPerOct: 12 }),
      (t) => (t > 1 ? band('low-cut', { hz: 900, slopeDbPerOct: 96 }) : null),
    ],
    ['a band switched off', band('bell', { db: 18, q: 4 }), (t) => (t > 1 ? 'off' : null)],
  ]

  it.each(moves)('%s makes no click and no overshoot', (_, first, script) => {
    const list = (t: number) => {
      const next = script(t)
      return next === null ? null : next === 'off' ? [] : [next]
    }
    const [moved] = run([tone], [first], list)
    expect(clickRatio(moved.subarray(RATE / 4), RATE)).toBeLessThan(4)
    for (const input of [tone, noise]) {
      const [out] = run([input], [first], list)
      const quiet = run([input], [first])[0]
      const last = list(1.9) ?? []
      const loud = run([input], last)[0]
      const level = (s: Float32Array, at: number) => rms(s, at, at + 1024)
      // On its way the sweep passes everything at its full gain.
      const most = first.q === 10 ? 18 : 1
      for (let at = RATE / 4; at + 1024 < out.length; at += 256) {
        const steady = Math.max(level(quiet, at), level(loud, at), first.q === 10 ? rms(input) : 0)
        expect(20 * Math.log10(level(out, at) / steady)).toBeLessThan(most)
      }
    }
  })
})
