import { describe, expect, it } from 'vitest'
import { type Clip, makeClip } from '../../audio'
import { newBand } from '../../filters'
import { bell, filtered } from '../../testing/filtered'
import { whiteNoise } from '../../testing/signals'
import { mixed } from '../../testing/sounds'
import {
  readBalance,
  readSource,
  referenceTarget,
  slopeTarget,
  surveyClips,
  surveyFindings,
} from '..'

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

  it('is answered on the track that brings the excess', () => {
    const tilt = { ...newBand('tilt', 800), db: -12 }
    const plain = [61, 62, 63, 64, 65].map((seed) =>
      filtered(whiteNoise(3 * RATE, seed, 0.1), tilt),
    )
    const usual = mono(mixed(...plain.map((s) => [s, 1] as const)))
    const boomy = [filtered(plain[0], bell(2500, 18, 0.7)), ...plain.slice(1)]
    const tracks = boomy.map((s, i) => ({ id: `${i}`, clip: mono(s), gainDb: 0, isLead: i === 1 }))
    const finding = surveyFindings(surveyClips(tracks, [usual])).find(
      (f) => f.kind === 'balance' && f.offered && f.fromHz < 2500 && f.toHz > 2500,
    )
    expect(finding?.evidence).toMatchObject({ mostly: { track: '0' } })
    expect(finding?.moves).toMatchObject([{ kind: 'add-band', node: '0' }])
    const { before, after } = finding?.predicted ?? { before: 0, after: 0 }
    expect(after).toBeLessThan(before - 0.3)
  })

  it('has no slope to go by in speech, of few sounds, or where one makes the range', () => {
    const dark = { ...newBand('tilt', 800), db: -40 }
    const survey = (count: number, role: 'speech' | 'other') => {
      const tracks = Array.from({ length: count }, (_, i) => ({
        id: `${i}`,
        clip: mono(filtered(whiteNoise(3 * RATE, 71 + i, 0.1), dark)),
        gainDb: 0,
        isLead: i === 0,
        role,
      }))
      return surveyFindings(surveyClips(tracks)).filter((f) => f.kind === 'balance')
    }
    const many = survey(6, 'other')
    expect(many.length).toBeGreaterThan(0)
    for (const { severity } of many) expect(severity).toBeLessThanOrEqual(0.3)
    expect(survey(6, 'speech')).toEqual([])
    expect(survey(3, 'other')).toEqual([])
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
