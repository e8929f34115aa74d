import { describe, expect, it } from 'vitest'
import { type Clip, makeClip } from '../../audio'
import { DEFAULT_CALIBRATION, readIntelligibility } from '../../hearing'
import type { Role } from '../../session'
import { whiteNoise } from '../../testing/signals'
import { glidingVoice } from '../../testing/sounds'
import { planMoves } from '../plan'
import { predictMoves } from '../predict-moves'
import { surveyClips } from '../survey-clips'
import { surveyFindings } from '../survey-findings'
import { bandMove } from '../survey-input'
import { understoodFindings, understoodIn } from './understood'

const RATE = 48000
const SECONDS = 4
const voice = glidingVoice(3, SECONDS, 110, 180)
const at = (sound: Float32Array, db: number): Clip =>
  makeClip(RATE, [sound.map((v) => v * 10 ** (db / 20))])
const noise = whiteNoise(SECONDS * RATE, 5, 0.2)

/** A voice beside noise at a level. */
function session(noiseDb: number, role: Role = 'speech', isLead = true) {
  const clips = [at(voice, 0), at(noise, noiseDb)]
  const survey = surveyClips([
    { id: 'v', clip: clips[0], gainDb: 0, isLead, role },
    { id: 'n', clip: clips[1], gainDb: 0, isLead: false, role: 'other' },
  ])
  return { clips, survey }
}

describe('how well words are understood in a session', () => {
  it('is read from the moments of hearing as from the sounds', () => {
    for (const db of [-30, -15, 0]) {
      const { clips, survey } = session(db)
      const bySound = readIntelligibility(clips[0], [clips[1]], DEFAULT_CALIBRATION)?.sii ?? 0
      expect(Math.abs((understoodIn(survey, 'v')?.sii ?? 0) - bySound)).toBeLessThan(0.04)
    }
  })

  it('is told of leads that speak or sing, and where it is low', () => {
    expect(understoodFindings(session(-30).survey)).toEqual([])
    expect(understoodFindings(session(0, 'speech', false).survey)).toEqual([])
    expect(understoodFindings(session(0, 'winds').survey)).toEqual([])
    const [found] = understoodFindings(session(0).survey)
    expect(found).toMatchObject({ kind: 'intelligibility', tracks: ['v'], offered: true })
    if (found.evidence.kind !== 'intelligibility') throw new Error('It has other evidence.')
    expect(found.evidence.lowest).toBeLessThanOrEqual(found.evidence.sii)
    // Of a voice that sings less is asked.
    expect(found.evidence.least).toBe(0.45)
  })

  it('is foretold behind a fader and a cut as it comes out', () => {
    const { survey } = session(0)
    const [found] = understoodFindings(survey)
    const [move] = found.moves
    if (move.kind !== 'set-node') throw new Error('Its answer is no fader.')
    const db = move.change.faderDb ?? 0
    expect(db).toBeGreaterThan(0)
    const raised = surveyClips([
      { id: 'v', clip: at(voice, db), gainDb: 0, isLead: true, role: 'speech' },
      { id: 'n', clip: at(noise, 0), gainDb: 0, isLead: false, role: 'other' },
    ])
    const now = understoodIn(raised, 'v')?.sii ?? 0
    expect(Math.abs((found.predicted?.after ?? 0) - now)).toBeLessThan(0.005)
    const cut = bandMove('n', 'fit', {
      type: 'bell',
      hz: 2500,
      q: 0.7,
      db: -6,
      slopeDbPerOct: 12,
      channel: 'stereo',
    })
    const measure = { of: 'understood', track: 'v' } as const
    const { before, after } = predictMoves(survey, measure, [cut])
    expect(before).toBeCloseTo(understoodIn(survey, 'v')?.sii ?? 0, 9)
    expect(after).toBeGreaterThan(before + 0.02)
  })

  it('stands in the plan as a fader, ahead of room, and the lead is heard better by it', () => {
    const { survey } = session(0)
    const findings = surveyFindings(survey)
    const plan = planMoves(survey, findings)
    const [fader] = plan.steps.filter((s) => s.group === 'faders')
    expect(fader.nodes).toEqual(['v'])
    expect(fader.heard.get('v')).toBeGreaterThan((plan.heardBefore.get('v') ?? 1) + 0.01)
    const groups = plan.steps.map((s) => s.group)
    if (groups.includes('room'))
      expect(groups.indexOf('faders')).toBeLessThan(groups.indexOf('room'))
  })
})
