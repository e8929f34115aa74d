import { describe, expect, it } from 'vitest'
import { type Clip, makeClip } from '../../audio'
import type { MaskingTrack } from '../../hearing'
import { bell, filtered } from '../../testing/filtered'
import { whiteNoise } from '../../testing/signals'
import { glidingVoice } from '../../testing/sounds'
import { bandsOf, readSource, surveyClips, surveyFindings, Trial, USUAL_HEARING } from '..'

const RATE = 48000
const mono = (signal: Float32Array): Clip => makeClip(RATE, [signal])

describe('trying moves out', () => {
  const settings = { ...USUAL_HEARING, sampleRateHz: RATE }
  const voice = glidingVoice(13, 4, 150, 300)
  const cover = filtered(whiteNoise(4 * RATE, 14, 0.05), bell(1500, 12, 1))
  const masked = (signal: Float32Array, gainDb = 0): MaskingTrack => ({
    heard: readSource(mono(signal)).heard,
    gainDb,
  })
  const cut = bell(1500, -6, 1)

  it('a move that is tried says what applying it does', () => {
    const trial = new Trial([masked(voice), masked(cover)], settings)
    const before = trial.loudness
    const { inMixSone } = trial.tryMove(1, [cut])
    expect(trial.loudness).toEqual(before)
    trial.apply(1, [cut])
    trial.loudness.forEach((now, t) => {
      expect(now.inMixSone - before[t].inMixSone).toBeCloseTo(inMixSone[t], 2)
    })
    expect(inMixSone[0]).toBeGreaterThan(0)
    expect(inMixSone[1]).toBeLessThan(0)
  })

  it('asked for one track alone, a move wins it the same, on strokes and in stereo too', () => {
    const strokes = voice.map((v, i) => (Math.floor((10 * i) / RATE) % 3 === 0 ? v : 0))
    const wide = makeClip(RATE, [cover, cover.map((v, i) => 0.6 * v + 0.3 * voice[i])])
    const tracks = [masked(strokes), { heard: readSource(wide).heard, gainDb: -3 }, masked(voice)]
    const trial = new Trial(tracks, settings)
    for (const mover of [0, 1]) {
      expect(trial.wonBy(mover, [cut], 2)).toBeCloseTo(trial.tryMove(mover, [cut]).inMixSone[2], 9)
      expect(trial.wonBy(mover, [cut], 2)).toBeGreaterThan(0)
    }
  })

  it('treated spectra tell nearly what the treated sound tells', () => {
    const trial = new Trial([masked(voice), masked(cover)], settings)
    const spectra = trial.tryMove(1, [cut]).inMixSone[0]
    const sound = trial.tryBands(1, masked(filtered(cover, cut))).inMixSone[0]
    expect(Math.abs(sound / spectra - 1)).toBeLessThan(0.05)
  })

  it('what a finding predicts is what is measured once its moves are made on the sound', () => {
    const clips = [voice, cover]
    const survey = (list: readonly Float32Array[]) =>
      surveyClips(list.map((s, i) => ({ id: `${i}`, clip: mono(s), gainDb: 0, isLead: i === 0 })))
    const found = surveyFindings(survey(clips)).find((f) => f.kind === 'masking')
    const moves = found?.moves ?? []
    const gainDb = moves.reduce((sum, m) => sum + (m.kind === 'change-output-gain' ? m.db : 0), 0)
    const made = filtered(cover, ...bandsOf(moves, '1')).map((v) => v * 10 ** (gainDb / 20))
    const treated = survey([voice, made])
    const after = new Trial(
      treated.tracks.map(({ reading, gainDb }) => ({ heard: reading.heard, gainDb })),
      settings,
    ).loudness[0]
    expect(found?.tracks).toEqual(['1', '0'])
    expect(after.inMixSone / after.aloneSone).toBeCloseTo(found?.predicted?.after ?? 0, 1.7)
  })
})
