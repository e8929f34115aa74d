import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { makeClip } from '../audio'
import { newBand } from '../filters'
import { treatClip } from '../mix'
import { whiteNoise } from '../testing/signals'
import { newChainBand, newTreatment, respondChain } from '../treatments'
import { nullTest, nullVerdict } from './index'

const RATE = 48_000
const both = { align: true, gain: true }
const noise = (seed: number, seconds = 1) => whiteNoise(seconds * RATE, seed, 0.2)
const later = (signal: Float32Array, frames: number) => {
  const out = new Float32Array(signal.length)
  for (let i = 0; i < out.length; i++) out[i] = signal[i - frames] ?? 0
  return out
}

describe('a null', () => {
  it('finds a known delay in whole frames and a known gain, and leaves only what was cut off', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -3000, max: 3000 }),
        fc.double({ min: -20, max: 20, noNaN: true }),
        (delay, db) => {
          const signal = noise(3)
          // Silent at its ends, so that moving it loses nothing.
          signal.fill(0, 0, 4000)
          signal.fill(0, RATE - 4000)
          const other = later(signal, -delay).map((v) => v / 10 ** (db / 20))
          const { reading } = nullTest(
            makeClip(RATE, [signal]),
            makeClip(RATE, [Float32Array.from(other)]),
            both,
          )
          expect(reading.delayFrames).toBeCloseTo(delay, 3)
          expect(reading.gainDb).toBeCloseTo(db, 3)
          expect(reading.nullDb ?? 0).toBeLessThan(-110)
          expect(nullVerdict(reading)).toMatch(/^The same to -(1\d\d|200) dB\.$/)
        },
      ),
      { numRuns: 8 },
    )
  })

  it('finds parts of a frame', async () => {
    const signal = whiteNoise(RATE, 5, 0.2)
    // Nothing above 18 kHz, where no delay by parts of a frame is exact.
    const band = { ...newBand('high-cut', 15_000), slopeDbPerOct: 96 as const }
    const params = { phase: 'linear' as const, bands: [newChainBand('b', band)] }
    const cut = await treatClip(makeClip(RATE, [signal]), [
      newTreatment('equaliser', 'e', 'fit', params),
    ])
    const move = { delayFrames: 7.37, polarity: 1 as const, turnDeg: 0 }
    const moved = await treatClip(cut, [newTreatment('align', 'a', 'fit', move)])
    const { reading } = nullTest(cut, moved, both)
    expect(reading.delayFrames).toBeCloseTo(-7.37, 2)
    const inner = reading.overTime.slice(1, -1).map((t) => t.db)
    expect(Math.max(...inner)).toBeLessThan(-70)
  })

  it('takes one from the other as they are where it is not asked to move or raise', () => {
    const signal = noise(8)
    const clip = makeClip(RATE, [signal])
    const half = makeClip(RATE, [signal.map((v) => 0.5 * v)])
    const plain = nullTest(clip, half, { align: false, gain: false })
    expect(plain.reading.nullDb).toBeCloseTo(-6.02, 2)
    expect([plain.reading.delayFrames, plain.reading.gainDb]).toEqual([0, 0])
    expect(plain.residue.channels[0][999]).toBeCloseTo(0.5 * signal[999], 6)
    expect(nullTest(clip, clip, { align: false, gain: false }).reading.nullDb).toBe(-200)
    const silent = makeClip(RATE, [new Float32Array(RATE)])
    expect(nullTest(silent, clip, both).reading.nullDb).toBeNull()
    expect(nullTest(clip, silent, both).reading.nullDb).toBeCloseTo(0, 6)
  })

  it('says where two differ in level, and by how much', async () => {
    const clip = makeClip(RATE, [noise(11, 2), noise(12, 2)])
    const shelf = { ...newBand('high-shelf', 8000), db: -2 }
    const params = { phase: 'linear' as const, bands: [newChainBand('b', shelf)] }
    const treatment = newTreatment('equaliser', 'e', 'fit', params)
    const treated = await treatClip(clip, [treatment])
    const { reading } = nullTest(clip, treated, { align: true, gain: false })
    const response = respondChain([treatment], RATE, 'mid')
    for (const { hz, levelDb } of reading.bands.filter((b) => b.hz > 500)) {
      const [db] = response.db(Float64Array.of(hz))
      expect(Math.abs((levelDb ?? 0) + db)).toBeLessThan(0.06)
    }
    expect(nullVerdict(reading)).toMatch(
      /^Differs above \d+(\.\d)? kHz by up to (1\.9|2\.0|2\.1) dB/,
    )
    const low = reading.bands.find((b) => b.hz > 200)
    expect(low?.db ?? 0).toBeLessThan(-60)
  })

  it('tells two that are alike in level but not in time', () => {
    const { reading } = nullTest(makeClip(RATE, [noise(1, 3)]), makeClip(RATE, [noise(2, 3)]), {
      align: false,
      gain: false,
    })
    expect(reading.nullDb).toBeCloseTo(3.01, 1)
  })
})

describe('what explains a difference', () => {
  const treated = async (
    type: 'high-shelf' | 'low-shelf' | 'bell',
    hz: number,
    db: number,
    q = 1,
  ) => {
    const signal = noise(21, 3)
    const band = { ...newBand(type, hz), db, ...(type === 'bell' && { q }) }
    const params = { phase: 'minimum' as const, bands: [newChainBand('b', band)] }
    const clip = makeClip(RATE, [signal])
    const other = await treatClip(clip, [newTreatment('equaliser', 'e', 'shape', params)])
    return nullTest(other, clip, both).reading
  }

  it.each([
    ['high-shelf', 8000, 2.1, 'a high shelf'],
    ['low-shelf', 200, -3, 'a low shelf'],
    ['bell', 1000, 4, 'a bell'],
  ] as const)('is a %s where there is one', async (type, hz, db, name) => {
    const reading = await treated(type, hz, db)
    const verdict = nullVerdict(reading)
    const said = / of ([+-][\d.]+) dB at ([\d.]+) (k?)Hz/.exec(verdict)
    expect(verdict).toContain(`: ${name}`)
    expect(Math.abs(Number(said?.[1]) - db)).toBeLessThan(0.6)
    const at = Number(said?.[2]) * (said?.[3] ? 1000 : 1)
    expect(Math.abs(Math.log2(at / hz))).toBeLessThan(0.35)
  })

  it('is nothing where there are several', async () => {
    const signal = noise(22, 3)
    const bands = [
      { ...newBand('bell', 150), db: 5, q: 2 },
      { ...newBand('bell', 900), db: -5, q: 2 },
      { ...newBand('bell', 5000), db: 4, q: 2 },
    ].map((b, i) => newChainBand(`b${i}`, b))
    const chain = [newTreatment('equaliser', 'e', 'shape', { phase: 'minimum' as const, bands })]
    const clip = makeClip(RATE, [signal])
    const { reading } = nullTest(await treatClip(clip, chain), clip, both)
    expect(nullVerdict(reading)).toMatch(/^Differs [^:]*\.$/)
  })
})
