import { describe, expect, it } from 'vitest'
import { type Clip, makeClip } from '../audio'
import { newBand } from '../filters'
import { bell, filtered } from '../testing/filtered'
import { whiteNoise } from '../testing/signals'
import { mixed } from '../testing/sounds'
import {
  readBalance,
  readSource,
  referenceTarget,
  slopeTarget,
  surveyClips,
  surveyFindings,
} from '.'

const RATE = 48000
const mono = (signal: Float32Array): Clip => makeClip(RATE, [signal])

describe('balance', () => {
  const pink = readSource(
    mono(
      filtered(whiteNoise(8 * RATE, 12, 0.3), {
        ...newBand('tilt', 800),
        db: -12,
      }),
    ),
  ).levels

  it('finds nothing in what lies on its target', () => {
    expect(readBalance(pink, referenceTarget([pink, pink])).regions).toEqual([])
  })

  it.each([
    [300, 8],
    [2500, -8],
  ])('finds a hump of the mix at %d Hz of %d dB, and answers it with half, gently', (hz, db) => {
    const shaped = readSource(
      mono(
        filtered(
          whiteNoise(8 * RATE, 12, 0.3),
          { ...newBand('tilt', 800), db: -12 },
          bell(hz, db, 0.7),
        ),
      ),
    ).levels
    const { regions } = readBalance(shaped, referenceTarget([pink]))
    expect(regions[0].fromHz).toBeLessThan(hz)
    expect(regions[0].toHz).toBeGreaterThan(hz)
    expect(Math.sign(regions[0].deviationDb)).toBe(Math.sign(db))
    expect(regions[0].band.db * regions[0].deviationDb).toBeLessThan(0)
    expect(Math.abs(regions[0].band.db)).toBeLessThanOrEqual(3)
    expect(regions[0].band.q).toBeLessThan(0.8)
  })

  it('counts of what is too strong only what others than leads bring', () => {
    const tilt = { ...newBand('tilt', 800), db: -12 }
    const clips = [
      filtered(whiteNoise(6 * RATE, 41, 0.1), tilt, bell(2500, 14, 0.7)),
      filtered(whiteNoise(6 * RATE, 42, 0.1), tilt),
    ].map(mono)
    const tooStrong = (lead: number) => {
      const tracks = clips.map((clip, i) => ({ id: `${i}`, clip, gainDb: 0, isLead: i === lead }))
      const found = surveyFindings(surveyClips(tracks, [clips[1]]))
      return found.find((f) => f.kind === 'balance' && f.fromHz < 2500 && f.toHz > 2500)
    }
    const [nobody, strong, plain] = [-1, 0, 1].map((lead) => tooStrong(lead)?.severity ?? 0)
    expect(nobody).toBeGreaterThan(0.5)
    // The one that is strong there brings more than nine tenths of the power.
    expect(strong).toBeLessThan(0.1 * nobody)
    expect(plain).toBeGreaterThan(0.9 * nobody)
    expect(plain).toBeLessThan(nobody)
  })

  describe('under the tolerance', () => {
    const tilt = { ...newBand('tilt', 800), db: -12 }
    const sounds = (db: number) =>
      [51, 52, 53].map((seed) =>
        mono(filtered(whiteNoise(3 * RATE, seed, 0.1), tilt, bell(320, db, 1))),
      )
    const plain = sounds(0)
    const usual = mono(mixed(...plain.map((c) => [c.channels[0], 1] as const)))
    const found = (clips: readonly Clip[]) => {
      const tracks = clips.map((clip, i) => ({ id: `${i}`, clip, gainDb: 0, isLead: false }))
      const survey = surveyClips(tracks, [usual])
      if (!survey.mixLevels) throw new Error('no mix')
      expect(readBalance(survey.mixLevels, survey.target).regions).toEqual([])
      return surveyFindings(survey).filter((f) => f.kind === 'pile-up' || f.kind === 'balance')
    }

    it('tells of an excess that several tracks bring, which crowd each other', () => {
      const [crowd, ...others] = found(sounds(4))
      expect(others).toEqual([])
      expect(crowd.kind).toBe('pile-up')
      expect(crowd.tracks.length).toBe(3)
      expect(crowd.fromHz).toBeLessThan(320)
      expect(crowd.toHz).toBeGreaterThan(320)
      expect(found(plain)).toEqual([])
    })

    it('tells of none that one source brings, by however many microphones', () => {
      const [one, other] = sounds(4)
      const second = mono(one.channels[0].map((v) => 0.9 * v))
      expect(found([one])).toEqual([])
      expect(found([one, second, other])).toEqual([])
    })
  })

  it('tolerates of a mix what references differ by, and of one more of their kind somewhat more', () => {
    const tilted = (db: number) => pink.map((level, i) => level + db * Math.sin(i / 6))
    const three = referenceTarget([tilted(-3), tilted(0), tilted(3)])
    expect(readBalance(tilted(3.8), three).regions).toEqual([])
    expect(readBalance(tilted(5), three).regions.length).toBeGreaterThan(0)
    // The same spread is better known from many.
    const many = referenceTarget(Array.from({ length: 13 }, (_, i) => tilted(i / 2 - 3)))
    expect(readBalance(tilted(3.8), many).regions.length).toBeGreaterThan(0)
  })

  it('does not depend on how loud the mix is', () => {
    const target = slopeTarget()
    const soft = pink.map((db) => db - 20)
    readBalance(soft, target).deviation.forEach((db, i) => {
      expect(db).toBeCloseTo(readBalance(pink, target).deviation[i], 6)
    })
  })
})
