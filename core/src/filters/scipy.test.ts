import { describe, expect, it } from 'vitest'
import { kaiserWindow } from '../spectrum'
import { analogueDb } from './analogue'
import { sectionsDb } from './biquad'
import { designBand } from './design'
import { newBand } from './eq-band'
import { readFilter } from './reading'
import table from './reference/scipy-table.json'

/** Values from SciPy; reference/make-table.py holds the command that made them. */
describe('SciPy agrees', () => {
  it('on Butterworth cuts of orders 1 to 16, analogue and ours', () => {
    for (const { kind, order, cornerHz, db } of table.butterworth) {
      const band = {
        ...newBand(kind === 'low' ? 'high-cut' : 'low-cut', cornerHz),
        slopeDbPerOct: 6 * order,
      }
      const sections = designBand(band, 48000)
      table.hz.forEach((hz, i) => {
        if (db[i] > -500) expect(Math.abs(analogueDb(band, hz) - db[i])).toBeLessThan(0.001)
        if (db[i] > -90) {
          expect(Math.abs(sectionsDb(sections, hz, 48000) - db[i])).toBeLessThan(0.1)
        }
      })
    }
  })

  it('on bells up to 20 kHz', () => {
    for (const { hz: centre, q, gainDb, db } of table.bells) {
      const sections = designBand({ ...newBand('bell', centre), q, db: gainDb }, 48000)
      table.hz.forEach((hz, i) => {
        expect(Math.abs(sectionsDb(sections, hz, 48000) - db[i])).toBeLessThan(0.05)
      })
    }
  })

  it('on magnitude, phase and group delay of sections', () => {
    for (const { b, a, groupDelayFrames, phaseDeg, db } of table.delays) {
      const [b0, b1, b2] = b
      const section = { b0, b1, b2, a1: a[1], a2: a[2] }
      const readings = readFilter({ sections: [section], kernels: [], latency: 0 }, table.hz, 48000)
      readings.forEach((r, i) => {
        expect(r.db).toBeCloseTo(db[i], 4)
        expect(r.phaseDeg).toBeCloseTo(phaseDeg[i], 3)
        expect(r.groupDelayMs * 48).toBeCloseTo(groupDelayFrames[i], 4)
      })
    }
  })

  it('on the Kaiser window', () => {
    kaiserWindow(33, 80).forEach((v, i) => {
      expect(v).toBeCloseTo(table.kaiser33at80dB[i], 8)
    })
  })
})
