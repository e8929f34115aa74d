import { describe, expect, it } from 'vitest'
import { seededRandom } from '../audio'
import { firMagnitudeDb, logFrequencies } from '../filters'
import { measureLoudness } from '../loudness'
import {
  describedDb,
  equalLoudnessDb,
  makePlayback,
  matchPlaybackLevels,
  meanDb,
  PLAYBACKS,
  type PlaybackLevels,
  type PlaybackResponse,
  PlaybackRun,
  parsePlayback,
  recordedPlayback,
  thirdsOf,
} from '.'

const RATE = 48000
const HERE = 73
const named = (name: string) => {
  const found = PLAYBACKS.find((p) => p.name === name)
  if (!found) throw new Error(name)
  return found
}
const noise = (frames: number, seed: number) => {
  const random = seededRandom(seed)
  return Float32Array.from({ length: frames }, () => 0.3 * (random() + random() - 1))
}

/** Both channels through a playback, its latency taken out. */
function played(
  response: PlaybackResponse,
  levels: PlaybackLevels,
  channels: readonly [Float32Array, Float32Array],
  block = 128,
) {
  const run = new PlaybackRun(response, levels, RATE)
  const { length } = channels[0]
  const padded = channels.map((c) => {
    const out = new Float32Array(length + run.latency)
    out.set(c)
    return out
  })
  for (let at = 0; at < padded[0].length; at += block) {
    const end = Math.min(padded[0].length, at + block)
    run.process(padded[0].subarray(at, end), padded[1].subarray(at, end), end - at)
  }
  const { latency } = run
  run.dispose()
  return padded.map((c) => c.slice(latency))
}
const UNITY = { gain: 1, ceiling: null, releaseMs: 100, noiseGain: 0 }

describe('equal loudness', () => {
  // ISO 226:2003, equation 1: points of the 40-phon contour in SCIENCE.md.
  it.each([
    [20, 99.9],
    [100, 64.4],
    [1000, 40],
    [4000, 36.6],
    [10000, 54.3],
  ])('puts the 40-phon contour at %d Hz at %d dB SPL', (hz, db) => {
    expect(equalLoudnessDb(40, hz)).toBeCloseTo(db, 1)
  })

  it('takes lows away where it is quieter, and gives them where it is louder', () => {
    const quiet = describedDb(named('very-quiet'), RATE, HERE)
    const loud = describedDb(named('loud'), RATE, HERE)
    expect(quiet(1000)).toBeCloseTo(0, 1)
    expect(quiet(60)).toBeLessThan(-8)
    expect(loud(60)).toBeGreaterThan(3)
    // At the level at which one listens anyway nothing changes.
    const same = describedDb({ ...named('loud'), dbSpl: HERE }, RATE, HERE)
    for (const hz of logFrequencies(40)) expect(same(hz)).toBeCloseTo(0, 6)
  })
})

describe('a playback', () => {
  it.each(PLAYBACKS.map((p) => [p.name, p] as const))(
    '%s is as described, within half a decibel',
    (_, playback) => {
      const { kernels } = makePlayback(playback, RATE, HERE)
      const db = describedDb(playback, RATE, HERE)
      const top = Math.max(...[...logFrequencies(300)].map(db))
      if (playback.room) {
        for (const { fromHz, toHz, db: given } of thirdsOf(kernels[0], RATE)) {
          const wanted = meanDb(db, fromHz, toHz)
          if (fromHz > 30 && wanted > top - 40) expect(Math.abs(given - wanted)).toBeLessThan(0.5)
        }
        return
      }
      const size = 2 ** 17
      const given = firMagnitudeDb(kernels[0], size)
      for (const hz of logFrequencies(300)) {
        const wanted = db(hz)
        if (hz < 30 || hz > 19000 || wanted < top - 40) continue
        expect(Math.abs(given[Math.round((hz * size) / RATE)] - wanted)).toBeLessThan(0.5)
      }
    },
  )

  it('in mono sounds alike at both sides, and nothing of the sides is left', () => {
    const response = makePlayback(named('telephone'), RATE, HERE)
    const left = noise(4800, 1)
    const turned = left.map((v) => -v)
    const [a, b] = played(response, UNITY, [left, turned])
    expect(Math.max(...a.map(Math.abs), ...b.map(Math.abs))).toBeLessThan(1e-6)
    const [c, d] = played(response, UNITY, [left, noise(4800, 2)])
    expect(d).toEqual(c)
  })

  it('comes out the same in blocks of any length', () => {
    const response = makePlayback(named('car'), RATE, HERE)
    const sound = [noise(9600, 3), noise(9600, 4)] as const
    const levels = { gain: 0.7, ceiling: 0.2, releaseMs: 80, noiseGain: 0.01 }
    const [a] = played(response, levels, sound, 128)
    const [b] = played(response, levels, sound, 977)
    expect(Math.max(...a.map((v, i) => Math.abs(v - b[i])))).toBeLessThan(1e-6)
  })

  it('that is an impulse leaves everything as it is', () => {
    const sound = [noise(4800, 5), noise(4800, 6)] as const
    const response = recordedPlayback([Float32Array.of(1)])
    const out = played(response, UNITY, sound)
    out.forEach((c, i) => {
      expect(Math.max(...c.map((v, k) => Math.abs(v - sound[i][k])))).toBeLessThan(1e-6)
    })
  })

  it('has a noise of the loudness that is described, without a seam', () => {
    const [left, right] = makePlayback(named('car'), RATE, HERE).noise ?? []
    if (!left || !right) throw new Error('It has none.')
    const clip = { sampleRateHz: RATE, frames: left.length, channels: [left, right] }
    expect(measureLoudness(clip).integratedLufs).toBeCloseTo(0, 0)
    const most = left.reduce((m, v, i) => Math.max(m, i > 0 ? Math.abs(v - left[i - 1]) : 0), 0)
    expect(Math.abs(left[0] - (left.at(-1) ?? 0))).toBeLessThan(most)
  })

  it.each(['telephone', 'laptop', 'kitchen-radio', 'next-room', 'very-quiet'])(
    '%s is as loud as before, within a tenth of a loudness unit',
    async (name) => {
      const playback = named(name)
      const response = makePlayback(playback, RATE, HERE)
      // Bursts, so that a limiter has something to hold.
      const channels = [0, 1].map((s) =>
        noise(3 * RATE, 7 + s).map((v, i) => v * (i % 9600 < 1200 ? 1 : 0.2)),
      ) as [Float32Array, Float32Array]
      const lufsOf = (sides: readonly Float32Array[]) =>
        measureLoudness({ sampleRateHz: RATE, frames: sides[0].length, channels: [...sides] })
          .integratedLufs
      const here = lufsOf(channels)
      const levels = await matchPlaybackLevels(playback, here, async (now) =>
        lufsOf(played(response, now, channels)),
      )
      const heard = lufsOf(played(response, { ...levels, noiseGain: 0 }, channels))
      expect(Math.abs((heard ?? 0) - (here ?? 0))).toBeLessThan(0.1)
    },
  )
})

describe('a description', () => {
  it('is read back as it was written', () => {
    for (const playback of PLAYBACKS) {
      expect(parsePlayback(JSON.stringify(playback))).toEqual(playback)
    }
  })

  it('that is none says what is wrong', () => {
    expect(() => parsePlayback('[')).toThrow('not JSON')
    const wrong = { ...named('laptop'), sides: 5 }
    expect(() => parsePlayback(JSON.stringify(wrong))).toThrow(/sides/)
  })
})
