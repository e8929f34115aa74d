import { beforeAll, describe, expect, it } from 'vitest'
import { makeClip } from '../../audio'
import { bell, filtered } from '../../testing/filtered'
import { whiteNoise } from '../../testing/signals'
import { ensemblePad, glidingVoice } from '../../testing/sounds'
import { type Finding, surveyClips, surveyFindings } from '..'
import { LEAST_OFFERED } from './masking-findings'

const RATE = 48000
const SECONDS = 3
const voice = glidingVoice(13, SECONDS, 150, 300)
const other = glidingVoice(21, SECONDS, 180, 260)
const cover = filtered(whiteNoise(SECONDS * RATE, 14, 0.03), bell(1500, 14, 1.2))

function findingsOf(sounds: readonly (readonly [Float32Array, number])[], lead = 0) {
  const tracks = sounds.map(([signal, gainDb], i) => ({
    id: `${i}`,
    clip: makeClip(RATE, [signal]),
    gainDb,
    isLead: i === lead,
  }))
  // Nobody asks for balance here: the mix is its own reference.
  return surveyFindings({ ...surveyClips(tracks), mixLevels: null })
}

describe('masking', () => {
  let found: readonly Finding[]
  beforeAll(() => {
    found = findingsOf([
      [voice, 0],
      [other, 0],
      [cover, 0],
    ])
  })

  it('of several tracks by one in one range is one finding, whose one move names all that it frees', () => {
    const offered = found.filter((f) => f.offered && f.evidence.kind === 'masking')
    const byCover = offered.filter((f) => f.tracks[0] === '2')
    expect(byCover.length).toBeGreaterThan(0)
    for (const { evidence, moves, tracks, hz, fromHz, toHz } of byCover) {
      // Both singers lose there: it is told of the lead, and what it frees besides is named.
      expect(tracks).toEqual(['2', '0'])
      expect(evidence.kind === 'masking' && evidence.freed).toEqual(['1'])
      const [move] = moves
      const at =
        move.kind === 'add-band'
          ? move.chainBand.band.hz
          : move.kind === 'add-treatment' && move.treatment.kind === 'follow'
            ? move.treatment.params.bands[0].hz
            : 0
      // The move stands where the finding points, and no other of the same track stands there too.
      expect(Math.abs(Math.log2(at / hz))).toBeLessThan(0.75)
      const there = byCover.filter((f) => f.fromHz < toHz && fromHz < f.toHz)
      expect(there).toHaveLength(1)
    }
  })

  it('is offered where its move wins enough to be told apart, and else is only measured', () => {
    const masking = found.filter((f) => f.evidence.kind === 'masking')
    for (const { offered, moves, predicted } of masking) {
      expect(moves.length > 0).toBe(offered)
      if (!offered) expect(predicted).toBeNull()
      else if (predicted) {
        expect(predicted.after - predicted.before).toBeGreaterThanOrEqual(LEAST_OFFERED.share)
      }
    }
    expect(masking.some((f) => !f.offered)).toBe(true)
  })

  it('asks no lead to yield, and nothing of what is softer by far', () => {
    const leads = found.filter((f) => f.evidence.kind === 'masking' && f.tracks[0] === '0')
    expect(leads).toEqual([])
    const soft = findingsOf([
      [voice, 0],
      [ensemblePad(15, SECONDS), -45],
    ])
    expect(soft.filter((f) => f.offered && f.kind === 'masking')).toEqual([])
  })
})
