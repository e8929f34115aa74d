import { beforeAll, describe, expect, it } from 'vitest'
import { sectionsDb } from './biquad'
import { designBand } from './design'
import { newBand } from './eq-band'
import { filterSpectrum, readDense } from './filter-spectrum'
import { linearPhaseFir, minimumPhaseFir } from './fir'
import { type ReadableFilter, readFilter } from './reading'
import { logFrequencies } from './response'

const RATE = 48000
const HZ = logFrequencies(60)
const bell = designBand({ ...newBand('bell', 900), db: -7, q: 2 }, RATE)
const shape = (hz: number) => sectionsDb(bell, hz, RATE)
let filters: ReadableFilter[]
beforeAll(() => {
  const linear = linearPhaseFir(shape, 1023, { kind: 'hann' }, RATE)
  const minimum = minimumPhaseFir(shape, 1024, { kind: 'hann' }, RATE)
  filters = [
    { sections: bell, kernels: [], latency: 0 },
    { sections: [], kernels: [linear.taps], latency: linear.latency },
    { sections: bell, kernels: [minimum.taps], latency: 0 },
    { sections: bell, kernels: [linear.taps, linear.taps], latency: 2 * linear.latency },
    { sections: bell, kernels: [], latency: -12.5 },
  ]
})

describe('reading by transforms', () => {
  it('says what the sum over all taps says', () => {
    for (const filter of filters) {
      const exact = readFilter(filter, HZ, RATE)
      readDense(filter, HZ, RATE).forEach((read, i) => {
        expect(read.db).toBeCloseTo(exact[i].db, 2)
        expect(read.unwrappedDeg).toBeCloseTo(exact[i].unwrappedDeg, 0)
        expect(read.groupDelayMs).toBeCloseTo(exact[i].groupDelayMs, 2)
        expect(Math.abs(read.phaseDeg)).toBeLessThanOrEqual(180)
      })
    }
  })

  it('gives real and imaginary part at the bins of a transform', () => {
    for (const filter of filters) {
      const size = 1024
      const { re, im } = filterSpectrum(filter, size)
      const bins = [3, 40, 200, 500]
      const hz = bins.map((k) => (k * RATE) / size)
      readFilter(filter, hz, RATE).forEach((read, i) => {
        const k = bins[i]
        const size = 10 ** (read.db / 20)
        expect(re[k]).toBeCloseTo(size * Math.cos((read.phaseDeg * Math.PI) / 180), 4)
        expect(im[k]).toBeCloseTo(size * Math.sin((read.phaseDeg * Math.PI) / 180), 4)
      })
    }
  })
})
