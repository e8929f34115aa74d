import { describe, expect, it } from 'vitest'
import { makeClip } from '../../audio'
import {
  makePlayback,
  PLAIN_LEVELS,
  PLAYBACKS,
  PlaybackRun,
  recordedPlayback,
} from '../../playback'
import { bell, filtered } from '../../testing/filtered'
import { whiteNoise } from '../../testing/signals'
import { glidingVoice } from '../../testing/sounds'
import { bandsOf, heardPlayback, heardThrough, surveyClips, throughSentence } from '..'

const RATE = 48000
const SECONDS = 2
const laptop = PLAYBACKS.find((p) => p.name === 'laptop') as (typeof PLAYBACKS)[number]
const PLAIN = { dbSpl: null, listening: null, noise: null, asLoudAs: false }

/** Low notes with few overtones, as of a tuba. */
const low = Float32Array.from({ length: SECONDS * RATE }, (_, i) => {
  const f = [55, 62, 49, 58][Math.floor((2 * i) / RATE)]
  const partial = (n: number, db: number) =>
    10 ** (db / 20) * Math.sin((2 * Math.PI * f * n * i) / RATE)
  return 0.2 * (partial(1, 0) + partial(2, -4) + partial(3, -20) + partial(5, -28))
})
const voice = glidingVoice(3, SECONDS, 150, 300)
const pad = filtered(whiteNoise(SECONDS * RATE, 4, 0.03), bell(900, 6, 0.7))

const clips = [low, voice, pad]
const survey = (list: readonly Float32Array[]) =>
  surveyClips(
    list.map((s, i) => ({
      id: `${i}`,
      clip: makeClip(RATE, [s, s.slice()]),
      gainDb: 0,
      isLead: i === 1,
    })),
  )
const response = makePlayback(laptop, RATE, 73)
const behind = heardPlayback(response, laptop, RATE)
const surveyed = survey(clips)
const behindLaptop = heardThrough(surveyed, behind)

/** A sound as the playback passes it, for as much longer as that takes. */
function passed(signal: Float32Array): Float32Array {
  const run = new PlaybackRun(response, PLAIN_LEVELS, RATE)
  const left = new Float32Array(signal.length + run.latency)
  left.set(signal)
  const right = left.slice()
  run.process(left, right, left.length)
  return left.slice(run.latency)
}

describe('what is heard behind a playback', () => {
  it('is the same where it does nothing', () => {
    const nothing = heardPlayback(recordedPlayback([Float32Array.of(1)]), PLAIN, RATE)
    for (const { here, there, isLost } of heardThrough(surveyed, nothing)) {
      expect(there).toBeCloseTo(here, 3)
      expect(isLost).toBe(false)
    }
  })

  it('names what is lost there and is not here, and nothing else', () => {
    const tracks = behindLaptop
    expect(tracks.map((t) => t.isLost)).toEqual([true, false, false])
    expect(tracks[0].here).toBeGreaterThan(0.5)
    expect(tracks[0].there).toBeLessThan(1 / 3)
    const words = throughSentence('Tuba', laptop.where, tracks[0])
    expect(words).toMatch(/^Tuba is \d+ % heard on a laptop, \d+ % here\. What it has at/)
  })

  it('is what is measured once the sound has really passed it', () => {
    const tracks = behindLaptop
    // At the level at which one listens, so that loudness alone may be compared with loudness alone.
    const same = heardThrough(surveyed, { ...behind, dbSpl: null })
    const [here, there] = [surveyed, survey(clips.map(passed))]
    const alone = here.sums.alone
    const inMix = (s: typeof here, t: number) => {
      const count = s.sums.alone.length / s.sums.tracks
      const row = (v: Float64Array) =>
        v.slice(t * count, (t + 1) * count).reduce((sum, x) => sum + x, 0)
      return row(s.sums.alone) - row(s.sums.lost)
    }
    const count = alone.length / here.sums.tracks
    clips.forEach((_, t) => {
      const whole = alone.slice(t * count, (t + 1) * count).reduce((sum, x) => sum + x, 0)
      // The glance takes some of the moments: what it foresees is the change.
      const change = Math.min(1, inMix(there, t) / whole) - inMix(here, t) / whole
      expect(Math.abs(change - (same[t].there - same[t].here))).toBeLessThan(0.07)
    })
    expect(tracks[0].there).toBeLessThan(same[0].there + 0.1)
  })

  it('has a move that does there what it says', () => {
    const [first] = behindLaptop
    expect(first.moves.length).toBe(1)
    expect(first.after ?? 0).toBeGreaterThan(first.there + 0.02)
    const moved = clips.map((c, t) => {
      const bands = bandsOf(first.moves, `${t}`)
      return bands.length > 0 ? filtered(c, ...bands) : c
    })
    const [after] = heardThrough(survey(moved), behind)
    expect(Math.abs(after.there - (first.after ?? 0))).toBeLessThan(0.07)
  })

  it('counts the noise that a playback has', () => {
    const car = PLAYBACKS.find((p) => p.noise) as (typeof PLAYBACKS)[number]
    const made = makePlayback(car, RATE, 73)
    const noisy = heardThrough(surveyed, heardPlayback(made, car, RATE))
    const quiet = heardThrough(surveyed, heardPlayback({ ...made, noise: null }, car, RATE))
    expect(noisy[0].there).toBeLessThan(quiet[0].there - 0.02)
  })
})
