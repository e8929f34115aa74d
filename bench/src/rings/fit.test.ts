import { makeClip, seededRandom } from '@sober-prism/core/audio'
import { newBand } from '@sober-prism/core/filters'
import { bellReadings, hzOfCell, readingOf } from '@sober-prism/core/findings/rings'
import { RATE_HZ, shape } from '@sober-prism/demo'
import { describe, expect, it } from 'vitest'
import type { PlantedRing, RingingSound } from '../real/ringing-songs'
import { claimsOf, fitModel, fitOdds, fitReadings, foldsOf, scoreAtFalse } from './fit'
import { reliability, reportRow } from './report'
import { isAt, readSound, readSounds } from './sounds'
import { type FittedRings, tablesOf } from './write-tables'

const SECONDS = 3

/** A line of tones that fall off, with breath: untouched and with a ring. */
function melody(seed: number): RingingSound[] {
  const random = seededRandom(seed)
  const sound = new Float32Array(SECONDS * RATE_HZ)
  for (let start = 0; start < sound.length; start += RATE_HZ / 4) {
    const f0 = 110 * 2 ** (Math.floor(24 * random()) / 12)
    for (let n = 1; n * f0 < 10_000; n++) {
      for (let i = 0; i < RATE_HZ / 4 && start + i < sound.length; i++) {
        sound[start + i] += (0.1 / n) * Math.sin((2 * Math.PI * n * f0 * i) / RATE_HZ)
      }
    }
  }
  for (let i = 0; i < sound.length; i++) sound[i] += 0.004 * (random() - 0.5)
  const hz = 400 * 10 ** random()
  const [db, q] = [8 + 6 * random(), 10 + 15 * random()]
  const ring: PlantedRing = { kind: 'bell', hz, db, q, rise: 3 }
  const ringing = shape(sound.slice(), { ...newBand('bell', hz), db, q })
  return [
    { base: `melody ${seed}`, clip: makeClip(RATE_HZ, [sound]), ring: null },
    { base: `melody ${seed}`, clip: makeClip(RATE_HZ, [ringing]), ring },
  ]
}

describe('fitting what tells rings', () => {
  const sounds = Array.from({ length: 12 }, (_, seed) => melody(seed + 1).map(readSound)).flat()
  let fitted: FittedRings | null = null
  const fitAll = (): FittedRings => {
    const folds = foldsOf(sounds)
    const odds = fitOdds(folds)
    return { model: fitModel(sounds), odds, markScore: scoreAtFalse(folds), ...fitReadings(folds) }
  }
  const once = () => {
    fitted ??= fitAll()
    return fitted
  }

  it('gives the same tables twice, with what they were made of in their heads', () => {
    const tables = (of: FittedRings) => tablesOf(of, ['Sounds: twelve.'])
    const [one, two] = [tables(once()), tables({ ...once(), model: fitModel(sounds) })]
    expect(two).toEqual(one)
    for (const text of Object.values(one)) {
      expect(text).toContain('made by `npm run rings -- --fit`')
      expect(text).toContain('// Sounds: twelve.')
    }
    expect(one.trees.split('\n').filter((line) => /^ {2}\d/.test(line)).length).toBe(240)
  })

  it('finds the rings that it was fitted on, and foretells how high they are', () => {
    const { model, height, width } = once()
    const claims = claimsOf(sounds, model)
    let [right, away] = [0, 0]
    sounds.forEach(({ ring, features, mean }, i) => {
      if (!ring || !isAt(ring, claims[i][0].cell)) return
      right++
      expect(Math.abs(hzOfCell(claims[i][0].cell) / ring.hz - 1)).toBeLessThan(0.03)
      away += Math.abs(readingOf(height, bellReadings(features, mean, claims[i][0].cell)) - ring.db)
    })
    expect(right).toBeGreaterThan(9)
    expect(away / right).toBeLessThan(3)
    const row = reportRow('all', { sounds, claims }, { name: 'all', score: -99 }, { height, width })
    expect(row.split('|').length).toBe(10)
  })

  it('tells of each likelihood how often it was right', () => {
    const ring = sounds[1].ring
    const cell = 48 * Math.log2((ring?.hz ?? 1) / hzOfCell(0))
    const judged = {
      sounds: [sounds[0], sounds[1]],
      claims: [[{ cell, score: 1 }], [{ cell, score: 1 }]],
    }
    // Right once, counted a quarter, and wrong once.
    const rows = reliability([judged], () => 0.75)
    expect(rows.find((r) => r.startsWith('| 70 to 80 %'))).toBe('| 70 to 80 % | 75 % | 20 % | 2 |')
  })

  it('says what a set of sounds is where it is given something else', () => {
    expect(() => readSounds('takes:nobody:1-2', () => {})).toThrow(/takes:judging:1-99/)
    expect(() => readSounds('/tmp/folder', () => {})).toThrow(RangeError)
  })
})
