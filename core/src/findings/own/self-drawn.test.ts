import { describe, expect, it } from 'vitest'
import { makeClip } from '../../audio'
import { Equaliser, newBand } from '../../filters'
import { runKeyed } from '../../testing/keyed'
import { whiteNoise } from '../../testing/signals'
import { type FollowBand, newFollowBand, newTreatment } from '../../treatments'
import { followWorkings } from '../../treatments/follow/workings'
import { predictMoves, readMeasure, readSource, USUAL_HEARING } from '..'
import { treatmentMove } from '../survey-input'

const RATE = 48_000
const SECONDS = 8

/** Noise up to 1 kHz, and bursts of a quarter second in each second from 4 to 8 kHz. */
const sound = (() => {
  const made = [
    { signal: whiteNoise(SECONDS * RATE, 1, 0.1), bands: [newBand('high-cut', 1000)] },
    {
      signal: whiteNoise(SECONDS * RATE, 2, 0.3),
      bands: [newBand('low-cut', 4000), newBand('high-cut', 8000)],
    },
  ]
  for (const { signal, bands } of made) {
    const equaliser = new Equaliser()
    equaliser.prepare(RATE, 1)
    equaliser.set(bands.map((band, i) => ({ id: `${i}`, band })))
    equaliser.process([signal], signal.length)
  }
  const [low, high] = made.map((m) => m.signal)
  return low.map((v, i) => v + ((i / RATE) % 1 < 0.25 ? 1 : 0.02) * high[i])
})()
const clip = makeClip(RATE, [sound])
const track = {
  id: 't',
  reading: readSource(clip),
  gainDb: 0,
  faderDb: 0,
  isLead: false,
  role: 'other' as const,
}
const survey = {
  tracks: [track],
  mixLevels: null,
  settings: { ...USUAL_HEARING, sampleRateHz: RATE },
}
const measure = { of: 'level', track: 't', fromHz: 4500, toHz: 7500, against: 'whole' } as const

function foreseen(band: Partial<FollowBand>) {
  const usual = newTreatment('follow', 'f', 'clean')
  const bands = [newFollowBand('b', { hz: 5800, q: 1, ...band })]
  const params = { ...usual.params, bands }
  const { before, after } = predictMoves(survey, measure, [
    treatmentMove('t', { ...usual, params }),
  ])
  const out = runKeyed(followWorkings, params, [sound], null)
  const treated = { ...track, reading: readSource(makeClip(RATE, out)) }
  return { before, after, now: readMeasure(measure, { tracks: [treated], mixLevels: null }) }
}

describe('what is foreseen of bands that hear the sound itself', () => {
  const ITSELF = { listens: { to: 'itself' }, attackMs: 4, releaseMs: 30 } as const
  const ABSOLUTE = { threshold: { against: 'absolute', db: -40 } } as const

  it.each<[string, Partial<FollowBand>]>([
    ['a bell', { ...ITSELF, ...ABSOLUTE, rangeDb: -6 }],
    ['a deeper one', { ...ITSELF, ...ABSOLUTE, rangeDb: -12 }],
    ['one that lifts', { ...ITSELF, ...ABSOLUTE, rangeDb: 5 }],
    ['a shelf', { ...ITSELF, ...ABSOLUTE, type: 'high-shelf', hz: 3000, rangeDb: -8 }],
    ['a slope', { ...ITSELF, threshold: { against: 'absolute', db: -36 }, ratio: 3, rangeDb: -12 }],
  ])('is what is measured, of %s', (_, band) => {
    const { before, after, now } = foreseen(band)
    expect(Math.abs(after - before)).toBeGreaterThan(1)
    expect(Math.abs(now - after)).toBeLessThan(1)
  })

  it('is nothing where nothing is loud enough, and of bands that hear a key', () => {
    const far = foreseen({ ...ITSELF, threshold: { against: 'absolute', db: 0 }, rangeDb: -12 })
    expect(far.after).toBeCloseTo(far.before, 6)
    const keyed = foreseen({ ...ABSOLUTE, rangeDb: -12 })
    expect(keyed.after).toBeCloseTo(keyed.before, 6)
    expect(keyed.now).toBeCloseTo(keyed.before, 6)
  })
})
