import { beforeAll, describe, expect, it } from 'vitest'
import { makeClip } from '../../audio'
import { designBand, newBand, sectionsDb } from '../../filters'
import { gaussianNoise } from '../../testing/signals'
import { newChainBand, newTreatment } from '../../treatments'
import { LEVEL_BANDS } from '../level-bands'
import { readSource } from '../source/source-reading'
import { steadyLoudness } from '../source/steady-loudness'
import { readVoice, type VoiceReading, voiceMoves } from './voice'

const RATE = 48000
const SECONDS = 4
const PITCHES = [110, 140, 100, 175, 125, 155, 105, 190]
/** Speech from a metre away, as in voice.ts: level per third of an octave. */
const SPEECH: readonly (readonly [number, number])[] = [
  [100, 54.4],
  [250, 60.3],
  [500, 62.1],
  [1000, 53.7],
  [2000, 48.7],
  [4000, 45.6],
  [8000, 43.7],
  [16000, 40.7],
]

function speechDb(hz: number): number {
  const next = SPEECH.findIndex(([f]) => f >= hz)
  if (next <= 0) return SPEECH[next === 0 ? 0 : SPEECH.length - 1][1]
  const [[a, low], [b, high]] = [SPEECH[next - 1], SPEECH[next]]
  return low + ((high - low) * Math.log(hz / a)) / Math.log(b / a)
}

/** Syllables of a low voice with the spectrum of speech, a change of it, and a steady noise besides. */
function voice(change: (hz: number) => number, noise = 0): VoiceReading {
  const spoken = gaussianNoise(SECONDS * RATE, 3, noise)
  const length = (SECONDS * RATE) / PITCHES.length
  PITCHES.forEach((pitch, p) => {
    for (let k = 1; k * pitch < 17000; k++) {
      const hz = k * pitch
      // Power per hertz, for as wide as harmonics lie apart; a third is 0.23 of its middle wide.
      const db = speechDb(hz) + 10 * Math.log10(pitch / (0.23 * hz)) + change(hz) - 90
      const amplitude = Math.SQRT2 * 10 ** (db / 20)
      const step = (2 * Math.PI * hz) / RATE
      for (let i = 0; i < length; i++) {
        const swell = Math.sin((Math.PI * i) / length) ** 2
        spoken[p * length + i] += amplitude * swell * Math.sin(step * i + k * k)
      }
    }
  })
  return readVoice(readSource(makeClip(RATE, [spoken])))
}

const shelf = designBand({ ...newBand('low-shelf', 250), db: 9, q: 0.7 }, RATE)
const dull = designBand({ ...newBand('high-shelf', 9000), db: -9, q: 0.7 }, RATE)
let usual: VoiceReading
beforeAll(() => {
  usual = voice(() => 0)
})

describe('a voice', () => {
  it('from a metre away gets its roll-off alone', () => {
    expect(Math.abs(usual.nearnessDb ?? 99)).toBeLessThan(2)
    expect(Math.abs(usual.clarityDb ?? 99)).toBeLessThan(3)
    expect(voiceMoves(usual).map((m) => m.what)).toEqual(['roll-off'])
    expect((usual.lowestHz ?? 0) / 100).toBeCloseTo(1, 1)
    expect(voiceMoves(usual)[0].band.hz / 100).toBeCloseTo(0.62, 1)
  })

  it('is not given again what stands in its chain', () => {
    const near = voice((hz) => sectionsDb(shelf, hz, RATE) + sectionsDb(dull, hz, RATE))
    const moves = voiceMoves(near)
    expect(moves.map((m) => m.what)).toEqual(['roll-off', 'nearness', 'clarity'])
    for (const { what, band } of moves) {
      const bands = [newChainBand('b', band)]
      const made = [newTreatment('equaliser', 'e', 'clean', { phase: 'minimum', bands })]
      expect(voiceMoves(near, made).map((m) => m.what)).toEqual(
        moves.map((m) => m.what).filter((w) => w !== what),
      )
      expect(voiceMoves(near, [{ ...made[0], on: false }])).toHaveLength(3)
    }
  })

  it('that was recorded up to 10 kHz is not lifted above', () => {
    const short = voice((hz) => (hz > 10_200 ? -60 : sectionsDb(dull, hz, RATE)))
    expect(voiceMoves(short).map((m) => m.what)).not.toContain('clarity')
  })

  it('near the microphone has half of what is too much taken away', () => {
    const near = voice((hz) => sectionsDb(shelf, hz, RATE))
    expect((near.nearnessDb ?? 0) - (usual.nearnessDb ?? 0)).toBeGreaterThan(5)
    const move = voiceMoves(near).find((m) => m.what === 'nearness')
    expect(move?.band.type).toBe('low-shelf')
    expect(move?.band.db).toBeCloseTo(-(near.nearnessDb ?? 0) / 2, 0)
  })

  it('that is dull is lifted above the sibilants, by 3 dB at most', () => {
    const move = voiceMoves(voice((hz) => sectionsDb(dull, hz, RATE))).find(
      (m) => m.what === 'clarity',
    )
    expect(move?.band).toMatchObject({ type: 'high-shelf', hz: 11_000, db: 3 })
  })

  it('is not lifted where there is only noise', () => {
    const hissing = voice((hz) => (hz > 8000 ? -60 : 0), 2e-4)
    expect(hissing.clarityDb).toBeNull()
  })
})

describe('the loudness of long-term levels', () => {
  it('doubles with about 10 dB, and is one sone for 1 kHz at 40 dB', () => {
    const tone = (dbSpl: number) => {
      const levels = new Float64Array(LEVEL_BANDS.length).fill(-200)
      const at = LEVEL_BANDS.reduce(
        (best, b, i) => (Math.abs(b.hz - 1000) < Math.abs(LEVEL_BANDS[best].hz - 1000) ? i : best),
        0,
      )
      levels[at] = dbSpl - 23 - 73
      return steadyLoudness(levels, 73)
    }
    expect(tone(40)).toBeCloseTo(1, 1)
    expect(tone(60) / tone(50)).toBeGreaterThan(1.8)
    expect(tone(60) / tone(50)).toBeLessThan(2.2)
  })
})
