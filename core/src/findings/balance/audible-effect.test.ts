import { describe, expect, it } from 'vitest'
import { newBand } from '../../filters'
import { audibleEffect, effectOfBands, LEVEL_BANDS } from '..'

/** A digital level of 0 dB is heard at 100 dB SPL. */
const CALIBRATION = { lufs: 0, dbSpl: 100 }
const SILENCE = LEVEL_BANDS.map(() => -200)
/** As much in every sixth of an octave: pink. */
const PINK = LEVEL_BANDS.map(() => -50)
const oneBand = (hz: number, db: number) =>
  LEVEL_BANDS.map((b) => (b.fromHz <= hz && hz < b.toHz ? db : -200))

describe('what a change of tone does to what is heard', () => {
  it('is nothing where nothing changes, or where there is nothing', () => {
    expect(audibleEffect(PINK, PINK, CALIBRATION)).toEqual({ sone: 0, share: 0 })
    expect(audibleEffect(SILENCE, SILENCE, CALIBRATION).share).toBe(0)
  })

  it('is all of the loudness when the sound goes: 1 sone near 1 kHz at 40 dB SPL, by definition', () => {
    const { sone, share } = audibleEffect(oneBand(1050, -60), SILENCE, CALIBRATION)
    expect(Math.abs(sone - 1)).toBeLessThan(0.06)
    expect(share).toBeCloseTo(1, 9)
  })

  it('is as much again for 10 dB more: the sone scale, ISO 532', () => {
    const { share } = audibleEffect(oneBand(1050, -50), oneBand(1050, -40), CALIBRATION)
    expect(share).toBeGreaterThan(0.85)
    expect(share).toBeLessThan(1.15)
  })

  it('adds up where one place comes and another goes', () => {
    const bands = (db: number) => [
      { ...newBand('bell', 300), db, q: 1 },
      { ...newBand('bell', 3000), db: -db, q: 1 },
    ]
    const [first, second] = bands(6).map((b) =>
      effectOfBands([b], PINK, 'without', 48_000, CALIBRATION),
    )
    const both = effectOfBands(bands(6), PINK, 'without', 48_000, CALIBRATION)
    expect(first.share).toBeGreaterThan(0.02)
    expect(both.sone).toBeGreaterThan(0.9 * (first.sone + second.sone))
    expect(both.sone).toBeLessThan(1.05 * (first.sone + second.sone))
  })

  it('is the same whether the bands are in already or still to come', () => {
    const band = { ...newBand('low-shelf', 200), db: -5 }
    const without = effectOfBands([band], PINK, 'without', 48_000, CALIBRATION)
    const cut = { ...band, db: 5 }
    const there = effectOfBands([cut], PINK, 'with', 48_000, CALIBRATION)
    // Putting 5 dB in where it was cut before and taking them out are one step, seen from its two ends.
    expect(there.sone).toBeCloseTo(without.sone, 2)
  })

  it('is hardly anything where the ear hears little', () => {
    const rumble = { ...newBand('bell', 22), db: 3, q: 2 }
    const voice = { ...newBand('bell', 2500), db: 3, q: 2 }
    const at = (band: typeof rumble) => effectOfBands([band], PINK, 'without', 48_000, CALIBRATION)
    expect(at(rumble).share).toBeLessThan(0.2 * at(voice).share)
  })
})
