import { describe, expect, it } from 'vitest'
import { type Clip, makeClip } from '../../audio'
import { newBand } from '../../filters'
import { clickRatio } from '../../testing/clicks'
import { bell, filtered } from '../../testing/filtered'
import { runKeyed } from '../../testing/keyed'
import { rms, whiteNoise } from '../../testing/signals'
import { glidingVoice, mixed } from '../../testing/sounds'
import { followWorkings } from '../../treatments/follow/workings'
import { moveSentence, readMeasure, readSource, surveyClips, surveyFindings } from '..'

const RATE = 48000
const mono = (signal: Float32Array): Clip => makeClip(RATE, [signal])

describe('harshness', () => {
  it('hears sibilants that jump out of a voice, and none where there are none', () => {
    const voice = glidingVoice(11, 10, 120, 240, 0)
    const hiss = filtered(
      whiteNoise(10 * RATE, 4, 0.5),
      bell(6500, 12, 1.5),
      newBand('low-cut', 4000),
    )
    const lisping = voice.map((v, i) => {
      const inside = i % RATE < 0.16 * RATE
      return inside ? 0.02 * v + 0.5 * hiss[i] : v
    })
    const found = readSource(mono(lisping)).harshness
    expect(found?.hz).toBeGreaterThan(4500)
    expect(found?.excessDb).toBeGreaterThan(12)
    expect(found?.cut.db).toBeLessThan(0)
    expect(readSource(mono(voice)).harshness).toBeNull()
    // Rests are no part of what is usual, also where it rumbles in them.
    const phrases = lisping.map((v, i) => (i % (2 * RATE) < RATE ? v : 0))
    const rumble = filtered(whiteNoise(10 * RATE, 5, 0.5), newBand('high-cut', 45))
    const [dry, rumbling] = [phrases, mixed([phrases, 1], [rumble, 1])].map(
      (sound) => readSource(mono(sound)).harshness?.timeShare ?? 0,
    )
    expect(dry).toBeGreaterThan(0.1)
    expect(Math.abs(rumbling / dry - 1)).toBeLessThan(0.1)
  })
})

describe('sibilants', () => {
  const voice = glidingVoice(11, 12, 120, 240, 0)
  const hiss = filtered(whiteNoise(12 * RATE, 4, 0.5), newBand('low-cut', 4500))
  /** In each half second a sibilant of 80 ms, too short for what is looked for otherwise. */
  const lisping = (loud: number) =>
    voice.map((v, i) => ((i / RATE) % 0.5 < 0.08 ? 0.02 * v + loud * hiss[i] : v))

  it('are told where they stand over what voiced moments have, and not as they usually are', () => {
    expect(readSource(mono(lisping(1.3))).harshness?.hz).toBeGreaterThan(4500)
    // Softer than voiced moments, sharp as they may be against their own body, they are how one speaks.
    for (const loud of [0.02, 0.5]) {
      expect(readSource(mono(lisping(loud))).harshness).toBeNull()
    }
  })

  it.each([1, 2])('are answered by a band that hears them, in %i channels', (channels) => {
    const sound = lisping(1.3)
    const clip = makeClip(
      RATE,
      Array.from({ length: channels }, () => sound),
    )
    const track = { id: 't0', clip, gainDb: -12, isLead: false }
    const finding = surveyFindings(surveyClips([track])).find((f) => f.kind === 'harshness')
    const move = finding?.moves[0]
    if (move?.kind !== 'add-treatment' || move.treatment.kind !== 'follow') throw new Error('none')
    expect(moveSentence(move, 'Voice')).toMatch(
      /^cut Voice at .* kHz by up to 6 dB, Q .*, only above −?\d+ dB there$/,
    )
    const out = runKeyed(followWorkings, move.treatment.params, [...clip.channels], null)
    // What was foreseen is what is measured of the treated sound.
    const treated = surveyClips([{ ...track, clip: makeClip(RATE, out) }])
    const { predicted } = finding ?? {}
    if (predicted?.measure.of !== 'level') throw new Error('It foresees a level.')
    const now = readMeasure(predicted.measure, { tracks: treated.tracks, mixLevels: null })
    expect(predicted.after).toBeLessThan(predicted.before - 1.5)
    expect(Math.abs(now - predicted.after)).toBeLessThan(0.8)
    // Sibilants lose most of its depth in its range; between them the voice is as it was.
    const range = [
      newBand('low-cut', finding?.fromHz ?? 0),
      newBand('high-cut', finding?.toHz ?? 0),
    ]
    const there = (from: number, to: number) =>
      level(filtered(out[0], ...range), from, to) - level(filtered(sound, ...range), from, to)
    const frames = (seconds: number) => Math.round(seconds * RATE)
    const level = (signal: Float32Array, from: number, to: number) =>
      20 * Math.log10(rms(signal, frames(from), frames(to)))
    const change = (from: number, to: number) => level(out[0], from, to) - level(sound, from, to)
    expect(there(4.02, 4.07)).toBeLessThan(-2)
    for (const at of [4.25, 5.25, 6.25]) expect(Math.abs(change(at, at + 0.2))).toBeLessThan(0.1)
    expect(clickRatio(out[0], RATE)).toBeLessThan(1.1 * clickRatio(sound, RATE))
  })
})
