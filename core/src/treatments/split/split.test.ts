import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { makeClip } from '../../audio'
import { CROSSOVER_SLOPES, crossoverSum } from '../../filters'
import { parseChainFile, writeChainFile } from '../../session'
import { rms, sine, whiteNoise } from '../../testing/signals'
import {
  asRendered,
  type BandTreatment,
  kindOf,
  newSplitBand,
  newTreatment,
  respondChain,
  type SplitBand,
  type SplitParams,
  workingsOf,
} from '../index'

const RATE = 48000
const KINDS = ['linkwitz-riley', 'linear', 'subtractive'] as const

const params = (
  hz: readonly number[],
  change: Partial<SplitParams> = {},
  bands: readonly Partial<SplitBand>[] = [],
): SplitParams => ({
  crossover: 'linkwitz-riley',
  slopeDbPerOct: 24,
  hz: [...hz],
  bands: Array.from({ length: hz.length + 1 }, (_, i) => ({ ...newSplitBand(), ...bands[i] })),
  ...change,
})
const splitOf = (values: SplitParams) => newTreatment('split', 's', 'shape', values)

/** Stereo or mono through a split in blocks of the audio thread's size; `at` gives what is set before each block. */
function through(
  values: SplitParams,
  input: readonly Float32Array[],
  at: (block: number) => SplitParams | null = () => null,
): Float32Array[] {
  const kind = workingsOf('split')
  const processor = kind.make(RATE, input.length)
  const made = kind.design(values, RATE)
  processor.set(values, made)
  expect(processor.latency).toBe(kind.latency(values, made, input.length))
  const { latency } = processor
  const out = input.map((c) => {
    const longer = new Float32Array(c.length + latency)
    longer.set(c)
    return longer
  })
  for (let from = 0, block = 0; from < out[0].length; from += 128, block++) {
    const next = at(block)
    if (next) {
      const design = kind.design(next, RATE)
      expect(processor.fits(next, design)).toBe(true)
      processor.set(next, design)
    }
    const piece = out.map((c) => c.subarray(from, Math.min(from + 128, c.length)))
    processor.process(piece, piece[0].length, null)
  }
  processor.dispose()
  return out.map((c) => c.subarray(latency))
}

const level = (x: Float32Array) => 20 * Math.log10(rms(x.subarray(RATE / 4, (3 * RATE) / 4)))
const inBand = (kind: BandTreatment['kind'], values: object): BandTreatment =>
  ({
    id: 'i',
    kind,
    on: true,
    params: { ...(kindOf(kind).defaults() as object), ...values },
  }) as BandTreatment

describe('bands that nothing is done to', () => {
  const rising = fc
    .array(fc.integer({ min: 30, max: 18_000 }), { minLength: 1, maxLength: 4 })
    .map((list) => [...new Set(list)].sort((a, b) => a - b))

  it.each(KINDS)('add up flat within 0.05 dB, wherever they meet: %s', (crossover) => {
    fc.assert(
      fc.property(rising, fc.constantFrom(...CROSSOVER_SLOPES), (hz, slopeDbPerOct) => {
        const { db } = respondChain(
          [splitOf(params(hz, { crossover, slopeDbPerOct }))],
          RATE,
          'mid',
        )
        const at = Array.from({ length: 60 }, (_, i) => 20 * 1000 ** (i / 59))
        for (const v of db(at)) expect(Math.abs(v)).toBeLessThan(0.05)
      }),
      { numRuns: crossover === 'linear' ? 4 : 15 },
    )
  })

  it.each(['linear', 'subtractive'] as const)('give the sound back: %s', (crossover) => {
    const noise = [whiteNoise(RATE / 2, 1, 0.3), whiteNoise(RATE / 2, 2, 0.3)]
    const out = through(params([150, 1200, 6000], { crossover }), noise)
    const off = noise.map((c, i) => c.map((v, k) => v - out[i][k]))
    for (const c of off) expect(20 * Math.log10(rms(c) / 0.17)).toBeLessThan(-110)
    const { flatWithinDb, nullDb } = crossoverSum(makeClip(RATE, noise), {
      kind: crossover,
      slopeDbPerOct: 24,
      hz: [150, 1200, 6000],
    })
    expect(flatWithinDb).toBeLessThan(0.001)
    expect(nullDb).toBeLessThan(-110)
  })

  it('turn the phase alone as a Linkwitz-Riley split, which is told as flatness', () => {
    const spec = { kind: 'linkwitz-riley', slopeDbPerOct: 48, hz: [90, 700, 5000] } as const
    const told = crossoverSum(makeClip(RATE, [whiteNoise(RATE / 4, 5, 0.3)]), spec)
    expect(told.flatWithinDb).toBeLessThan(0.05)
    expect(told.nullDb).toBeNull()
  })
})

describe('each band', () => {
  it('has a level, is muted, and is heard alone while one listens', () => {
    const tones = [60, 600, 6000].map((hz) => sine(hz, 1, RATE, 0.2))
    const change = (bands: Partial<SplitBand>[], listened = true) => {
      const values = params([200, 2000], { slopeDbPerOct: 48 }, bands)
      const rendered = listened ? values : (asRendered('split', values) as SplitParams)
      return tones.map((t) => level(through(rendered, [t])[0]) - level(t))
    }
    const [low, mid, high] = change([{ levelDb: -6 }, {}, { mute: true }])
    expect(low).toBeCloseTo(-6, 1)
    expect(mid).toBeCloseTo(0, 1)
    expect(high).toBeLessThan(-60)
    const alone = change([{}, { solo: true }, { solo: true, mute: true }])
    expect(alone[0]).toBeLessThan(-60)
    expect(alone[1]).toBeCloseTo(0, 1)
    expect(alone[2]).toBeLessThan(-60)
    for (const db of change([{}, { solo: true }], false)) expect(db).toBeCloseTo(0, 1)
  })

  it('has a width, which leaves the middle and the other bands alone', () => {
    const values = params([1000], {}, [{ width: 0 }, { width: 1.5 }])
    const sides = (hz: number) => {
      const tone = sine(hz, 1, RATE, 0.2)
      return [tone, tone.map((v) => -v)]
    }
    const change = (hz: number) => level(through(values, sides(hz))[0]) - level(sides(hz)[0])
    expect(change(100)).toBeLessThan(-60)
    expect(change(9000)).toBeCloseTo(20 * Math.log10(1.5), 1)
    const middle = sine(100, 1, RATE, 0.2)
    expect(level(through(values, [middle, middle.slice()])[0])).toBeCloseTo(level(middle), 1)
  })

  it('has a chain; the others wait for one that is late', () => {
    const still = inBand('drive', { driveDb: 0, mix: 0 })
    const values = params([300, 3000], {}, [{}, { treatments: [still] }])
    const { latency } = workingsOf('split').make(RATE, 1)
    expect(latency).toBe(0)
    const [out] = through(values, [whiteNoise(RATE / 2, 3, 0.2)])
    const [plain] = through(params([300, 3000]), [whiteNoise(RATE / 2, 3, 0.2)])
    const off = out.map((v, i) => v - plain[i])
    expect(20 * Math.log10(rms(off) / rms(plain))).toBeLessThan(-60)
  })

  it('is driven and levelled by itself', () => {
    const high = sine(8000, 1, RATE, 0.4)
    const two = sine(80, 1, RATE, 0.4).map((v, i) => v + high[i])
    const levelled = inBand('leveller', { thresholdDb: -40, ratio: 20, atMostDb: 12 })
    const [out] = through(params([800], {}, [{ treatments: [levelled] }]), [two])
    const part = (x: Float32Array, band: 0 | 1) =>
      level(through(params([800], {}, [{ mute: band === 1 }, { mute: band === 0 }]), [x])[0])
    expect(part(out, 0)).toBeLessThan(part(two, 0) - 8)
    expect(part(out, 1)).toBeCloseTo(part(two, 1), 1)
  })

  it('keeps its treatments in a chain file, and a wrong number of bands is refused', () => {
    const driven = inBand('drive', { driveDb: 9, mix: 0.5, outputDb: -1 })
    const values = params([500, 5000], {}, [{ levelDb: 2 }, { treatments: [driven] }])
    const text = writeChainFile([splitOf(values)])
    const [read] = parseChainFile(text)
    expect(read.params).toEqual({
      ...values,
      bands: values.bands.map((b) => ({
        ...b,
        treatments: b.treatments.map((t, i) => ({ ...t, id: `in-band-${i + 1}` })),
      })),
    })
    const file = JSON.parse(text)
    file.treatments[0].params.bands.pop()
    expect(() => parseChainFile(JSON.stringify(file))).toThrow(/one band more/)
    file.treatments[0].params.hz = [900, 500]
    expect(() => parseChainFile(JSON.stringify(file))).toThrow(/rise/)
  })
})

describe('what is set while it sounds', () => {
  /** The greatest third difference: a step of -66 dB below full scale brings it to 0.0005, this tone to 0.00004. */
  const edge = (x: Float32Array) => {
    let most = 0
    for (let i = 2000; i < x.length - 2000; i++) {
      most = Math.max(most, Math.abs(x[i] - 3 * x[i - 1] + 3 * x[i - 2] - x[i - 3]))
    }
    return most
  }

  it.each(KINDS)('moves without a click: %s', (crossover) => {
    const tone = sine(330, 1.2, RATE, 0.5)
    const [out] = through(params([300], { crossover }), [tone], (block) =>
      block > 60 && block < 300 && block % 6 === 0
        ? params([300 + block / 4], { crossover }, [{ levelDb: -block / 60 }])
        : null,
    )
    expect(edge(tone)).toBeLessThan(5e-5)
    expect(edge(out)).toBeLessThan(5e-4)
    expect(out.every(Number.isFinite)).toBe(true)
  })

  it('ends where it was sent to', () => {
    const tone = sine(330, 1.5, RATE, 0.5)
    const [moved] = through(params([100]), [tone], (block) =>
      block === 100 ? params([3000], {}, [{}, { mute: true }]) : null,
    )
    const [whole] = through(params([3000], {}, [{}, { mute: true }]), [tone])
    for (let i = RATE; i < 1.4 * RATE; i += 11) expect(moved[i]).toBeCloseTo(whole[i], 3)
  })

  it('says when it cannot be taken over in place', () => {
    const kind = workingsOf('split')
    const processor = kind.make(RATE, 2)
    const fits = (values: SplitParams) => processor.fits(values, kind.design(values, RATE))
    const values = params([300])
    processor.set(values, kind.design(values, RATE))
    expect(fits(params([500]))).toBe(true)
    expect(fits(params([300, 900]))).toBe(false)
    expect(fits(params([300], { crossover: 'linear' }))).toBe(false)
    expect(fits(params([300], {}, [{ treatments: [inBand('drive', {})] }]))).toBe(false)
    processor.dispose()
  })
})
