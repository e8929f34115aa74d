import { describe, expect, it } from 'vitest'
import { type Clip, makeClip } from '../../audio'
import { type EqBand, magnitudeDb } from '../../filters'
import { trackMasking } from '../../hearing'
import { bell, filtered } from '../../testing/filtered'
import { whiteNoise } from '../../testing/signals'
import { glidingVoice } from '../../testing/sounds'
import { surveyClips } from '..'
import { CHANGE_HZ, Foresight, type TrackChange } from './foresight'

const RATE = 48000
const clip = (signal: Float32Array): Clip => makeClip(RATE, [signal])
const voice = glidingVoice(13, 4, 150, 300)
const hiss = filtered(whiteNoise(4 * RATE, 14, 0.05), bell(1500, 12, 1))
const rumble = filtered(whiteNoise(4 * RATE, 15, 0.05), bell(300, 15, 0.7))
const gains = (db: number) => (signal: Float32Array) => signal.map((v) => v * 10 ** (db / 20))

const surveyOf = (signals: readonly Float32Array[]) =>
  surveyClips(signals.map((s, i) => ({ id: `t${i}`, clip: clip(s), gainDb: 0, isLead: i === 0 })))
const sharesOf = (survey: ReturnType<typeof surveyOf>) =>
  survey.tracks.map((_, t) => trackMasking(survey.sums, t).audibleShare)
const change = (id: string, bands: readonly EqBand[], gainDb = 0): TrackChange => {
  const db = magnitudeDb(bands, CHANGE_HZ, RATE).map((v) => v + gainDb)
  return { id, midDb: db, sideDb: db }
}

describe('what is foreseen of shares', () => {
  const measured = surveyOf([voice, hiss, rumble])
  const tracks = measured.tracks.map(({ id, reading, gainDb }) => ({
    id,
    heard: reading.heard,
    gainDb,
  }))
  const foresight = new Foresight(tracks, measured.settings)
  const before = sharesOf(measured)
  const cut = bell(1500, -9, 1)
  const low = bell(300, -6, 0.7)

  it.each([
    ['one cut', [change('t1', [cut])], [voice, filtered(hiss, cut), rumble]],
    ['a fader', [change('t1', [], -5)], [voice, gains(-5)(hiss), rumble]],
    [
      'several moves on several tracks',
      [change('t0', [], 3), change('t1', [cut]), change('t2', [low], -2)],
      [gains(3)(voice), filtered(hiss, cut), gains(-2)(filtered(rumble, low))],
    ],
  ])('after %s is what is measured then, within a hundredth', (_, changes, sounds) => {
    const foreseen = foresight.change(changes)
    const after = sharesOf(surveyOf(sounds))
    for (const [t, share] of after.entries()) {
      const expected = before[t] + (foreseen.get(`t${t}`) ?? Number.NaN)
      expect(Math.abs(expected - share)).toBeLessThan(0.01)
    }
    expect(Math.abs(after[0] - before[0])).toBeGreaterThan(0.02)
    // Nothing of it is kept: the next one is foreseen from the same state.
    expect(foresight.change(changes)).toEqual(foreseen)
  })

  it('is no change where nothing changes', () => {
    for (const changed of foresight.change([]).values()) expect(changed).toBe(0)
    expect(foresight.change([change('gone', [cut])]).get('t0')).toBe(0)
  })
})
