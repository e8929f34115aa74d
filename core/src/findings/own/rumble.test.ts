import { describe, expect, it } from 'vitest'
import { type Clip, makeClip } from '../../audio'
import { newBand } from '../../filters'
import { filtered } from '../../testing/filtered'
import { sine, whiteNoise } from '../../testing/signals'
import { glidingVoice, mixed } from '../../testing/sounds'
import { readSource } from '..'

const RATE = 48000
const mono = (signal: Float32Array): Clip => makeClip(RATE, [signal])

describe('rumble', () => {
  const voice = glidingVoice(7, 8, 180, 320)
  const low = filtered(whiteNoise(8 * RATE, 2, 0.2), {
    ...newBand('high-cut', 45),
    slopeDbPerOct: 48,
  })

  it('finds what lies under the lowest note and places a low cut between the two', () => {
    const rumble = readSource(mono(mixed([voice, 1], [low, 1]))).rumble
    expect(rumble?.lowestHz).toBeGreaterThan(150)
    expect(rumble?.lowestHz).toBeLessThan(230)
    expect(rumble?.cut).toMatchObject({ type: 'low-cut' })
    expect(rumble?.cut.hz).toBeGreaterThan(50)
    expect(rumble?.cut.hz).toBeLessThan(0.75 * (rumble?.lowestHz ?? 0))
  })

  it('leaves a clean voice alone, a deep one, and noise, which has no lowest note', () => {
    expect(readSource(mono(voice)).rumble).toBeNull()
    expect(readSource(mono(glidingVoice(8, 8, 70, 110))).rumble).toBeNull()
    expect(readSource(mono(low)).rumble).toBeNull()
  })

  it('is low: what stands under a high source above 200 Hz is none, and is not cut', () => {
    const high = glidingVoice(7, 8, 600, 900)
    const spill = filtered(
      filtered(whiteNoise(8 * RATE, 5, 0.05), { ...newBand('high-cut', 400), slopeDbPerOct: 48 }),
      { ...newBand('low-cut', 260), slopeDbPerOct: 48 },
    )
    expect(readSource(mono(mixed([high, 1], [spill, 1]))).rumble).toBeNull()
    const both = readSource(mono(mixed([high, 1], [spill, 1], [low, 1]))).rumble
    expect(both?.toHz).toBeLessThan(200)
    expect(both?.cut.hz).toBeGreaterThan(100)
    expect(both?.cut.hz).toBeLessThanOrEqual(250)
  })

  it('goes by what moves together where there is no pitch: bursts of noise over a steady hum', () => {
    const bursts = filtered(whiteNoise(8 * RATE, 21, 0.4), newBand('low-cut', 200)).map(
      (v, i) => v * Math.exp(-8 * ((i / RATE) % 0.5)),
    )
    expect(readSource(mono(bursts)).rumble).toBeNull()
    const rumble = readSource(mono(mixed([bursts, 1], [low, 0.5]))).rumble
    expect(rumble?.lowestHz).toBeGreaterThan(70)
    expect(rumble?.lowestHz).toBeLessThan(300)
  })

  it('is not taken for the lowest note where it goes on in the pauses of a voice', () => {
    // Noise about 50 Hz repeats well enough to be followed as a pitch while nothing else sounds.
    const rumbling = filtered(whiteNoise(12 * RATE, 3, 0.6), {
      ...newBand('band-pass', 50),
      q: 6,
    })
    const spoken = glidingVoice(7, 12, 180, 320).map((v, i) => ((i / RATE) % 2 < 0.9 ? v : 0))
    const reading = readSource(mono(mixed([spoken, 1], [rumbling, 2])))
    expect(reading.lowest.hz).toBeLessThan(70)
    expect(reading.rumble?.lowestHz).toBeGreaterThan(150)
    expect(reading.rumble?.cut.hz).toBeGreaterThan(55)
    // A low note that pauses with the rest is a note.
    const low = sine(55, 12, RATE, 0.3).map((v, i) => ((i / RATE) % 2 < 0.9 ? v : 0))
    expect(readSource(mono(mixed([spoken, 1], [low, 1]))).rumble).toBeNull()
  })

  it('is not what a hum is, whose further lines are told under a voice that never pauses around them', () => {
    const spoken = voice.map((v, i) => v * Math.max(0.02, Math.sin((Math.PI * i) / RATE) ** 2))
    const lines = [1, 2, 3, 5].map((n) => sine(50.2 * n, 8, RATE, 0.0014 / n))
    const clean = readSource(mono(spoken))
    const { hum, rumble } = readSource(
      mono(spoken.map((v, i) => v + lines.reduce((s, l) => s + l[i], 0))),
    )
    expect(clean.hum).toBeNull()
    expect(clean.rumble).toBeNull()
    expect(rumble).toBeNull()
    expect(hum?.harmonics.map((h) => h.number)).toEqual([1, 2, 3, 5])
    for (const { number, levelDb } of hum?.harmonics ?? []) {
      expect(levelDb).toBeCloseTo(20 * Math.log10(0.0014 / number / Math.SQRT2), 0)
    }
  })

  it('follows the pitch: the lowest note of a voice that never sings below 200 Hz', () => {
    const { lowest } = readSource(mono(glidingVoice(9, 8, 200, 400)))
    expect(lowest.pitchedShare).toBeGreaterThan(0.5)
    expect(lowest.hz).toBeGreaterThan(185)
    expect(lowest.hz).toBeLessThan(260)
  })
})
