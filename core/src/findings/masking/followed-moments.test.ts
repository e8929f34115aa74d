import { describe, expect, it } from 'vitest'
import { type Clip, makeClip } from '../../audio'
import { newBand } from '../../filters'
import { runKeyed } from '../../testing/keyed'
import { whiteNoise } from '../../testing/signals'
import { ensemblePad, glidingVoice } from '../../testing/sounds'
import { follow } from '../../treatments/follow'
import { followWorkings } from '../../treatments/follow/workings'
import { moveSentence, planMoves, surveyClips, surveyFindings, Trial } from '..'
import { followBand } from './propose-follow'

const RATE = 48000
const SECONDS = 6
const always = glidingVoice(4, SECONDS, 160, 340).map((v) => 0.2 * v)
/** It sounds for a second in every three. */
const seldom = always.map((v, i) => (Math.floor(i / RATE) % 3 === 0 ? v : 0))
const bed = whiteNoise(SECONDS * RATE, 8, 0.02)
const mono = (signal: Float32Array): Clip => makeClip(RATE, [signal])
const survey = (lead: Float32Array, other: Float32Array) =>
  surveyClips([
    { id: 'lead', clip: mono(lead), gainDb: 0, isLead: true },
    { id: 'bed', clip: mono(other), gainDb: 0, isLead: false },
  ])
const trialOf = ({ tracks, settings }: ReturnType<typeof survey>) =>
  new Trial(
    tracks.map(({ reading, gainDb }) => ({ heard: reading.heard, gainDb })),
    { ...settings, frames: 400 },
  )
const bell = { ...newBand('bell', 900), q: 0.8, db: -6 }

describe('a band that follows, as it is tried out', () => {
  it('does to lead and bed what the treatment does to the sound', () => {
    const trial = trialOf(survey(seldom, bed))
    const { inMixSone, aloneSone } = trial.tryFollow(1, 0, bell)
    const params = {
      ...follow.defaults(),
      bands: [followBand('b', { hz: bell.hz, q: bell.q, rangeDb: bell.db })],
    }
    const [made] = runKeyed(followWorkings, params, [bed], [seldom])
    const [before, after] = [trial, trialOf(survey(seldom, made))].map((t) => t.loudness)
    expect(inMixSone[0]).toBeGreaterThan(0.05)
    expect(inMixSone[0]).toBeCloseTo(after[0].inMixSone - before[0].inMixSone, 0)
    expect(Math.abs(inMixSone[0] / (after[0].inMixSone - before[0].inMixSone) - 1)).toBeLessThan(
      0.35,
    )
    // Releases linger, so that the bed loses a little more than is said.
    expect(aloneSone / (after[1].aloneSone - before[1].aloneSone)).toBeGreaterThan(0.5)
    expect(aloneSone / (after[1].aloneSone - before[1].aloneSone)).toBeLessThan(1.3)
  })

  it('stays on the track for what is tried after it', () => {
    const trial = trialOf(survey(seldom, bed))
    const said = trial.tryFollow(1, 0, bell)
    const before = trial.loudness
    trial.applyFollow(1, 0, bell)
    expect(trial.loudness[0].inMixSone - before[0].inMixSone).toBeCloseTo(said.inMixSone[0], 2)
    expect(trial.levelSinceStart(1)).toBeLessThan(0)
    // A cut that stays comes on top.
    expect(trial.tryMove(1, [bell]).inMixSone[0]).toBeGreaterThan(0)
  })

  it('does nothing for a key that is silent', () => {
    const trial = trialOf(survey(new Float32Array(SECONDS * RATE), bed))
    expect(trial.tryFollow(1, 0, bell).inMixSone[0]).toBe(0)
  })

  it('costs less than one that stays where the lead pauses, and as much where it does not', () => {
    const cost = (lead: Float32Array) => {
      const trial = trialOf(survey(lead, bed))
      return trial.tryFollow(1, 0, bell).aloneSone / trial.tryMove(1, [bell]).aloneSone
    }
    expect(cost(seldom)).toBeLessThan(0.6)
    expect(cost(always)).toBeGreaterThan(0.6)
  })
})

describe('a plan', () => {
  const pad = ensemblePad(2, SECONDS).map((v) => 0.5 * v)
  const plan = (lead: Float32Array) => {
    const input = survey(lead, pad)
    return planMoves(input, surveyFindings(input))
  }

  it('lets a track give way only while the lead sounds, where that does as well for less', () => {
    const step = plan(seldom).steps.find((s) => s.moves.some((m) => m.kind === 'add-treatment'))
    const [edit, ...others] = step?.moves ?? []
    expect(others).toEqual([])
    expect(edit).toMatchObject({
      kind: 'add-treatment',
      node: 'bed',
      treatment: { kind: 'follow', key: { node: 'lead', tap: 'after-fader', as: 'mono' } },
    })
    expect(moveSentence(edit, 'Bed')).toMatch(/^cut Bed at .* by up to .* dB, Q .*, while its key/)
  })

  it('keeps to cuts that stay where the lead sounds all the time in all of its range', () => {
    const steady = whiteNoise(SECONDS * RATE, 12, 0.05)
    const kinds = plan(steady)
      .steps.flatMap((s) => (s.group === 'room' ? s.moves : []))
      .map((m) => m.kind)
    expect(kinds).toContain('add-band')
    expect(kinds).not.toContain('add-treatment')
  })
})
