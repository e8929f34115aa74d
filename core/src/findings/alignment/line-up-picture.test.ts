import { describe, expect, it } from 'vitest'
import { makeClip, seededRandom } from '../../audio'
import { lineUpPicture } from './line-up-picture'

const RATE = 48_000
const random = seededRandom(3)
/** Strokes of noise that die away, the second the strongest. */
const strokes = new Float32Array(2 * RATE)
for (const [at, size] of [
  [0.3, 0.2],
  [0.9, 0.8],
  [1.5, 0.3],
]) {
  for (let i = 0; i < 0.3 * RATE; i++) {
    strokes[Math.round(at * RATE) + i] += size * (random() - 0.5) * Math.exp(-i / (0.03 * RATE))
  }
}
const later = (frames: number) => strokes.map((_, i) => strokes[i - frames] ?? 0)
const clip = (signal: Float32Array) => makeClip(RATE, [signal])

describe('what lining up does', () => {
  it('is told per octave: what cancelled comes back, what was in line stays', () => {
    // Turned over, the two cancel at the lows and comb above.
    const turned = later(12).map((v) => -v)
    const { bands } = lineUpPicture(clip(strokes), clip(turned), clip(strokes))
    const gains = bands.map((b) => b.gainDb ?? 0)
    // |1 - e^(-jw·12)| against 2, at 63 and 125 Hz.
    const cancelled = (hz: number) =>
      -20 * Math.log10(Math.abs(Math.sin((Math.PI * hz * 12) / RATE)))
    expect(Math.abs(gains[0] - cancelled(63))).toBeLessThan(2)
    expect(Math.abs(gains[1] - cancelled(125))).toBeLessThan(2)
    expect(gains[0]).toBeGreaterThan(gains[3])
    const same = lineUpPicture(clip(strokes), clip(strokes), clip(strokes))
    for (const { gainDb } of same.bands) expect(gainDb).toBeCloseTo(0, 9)
  })

  it('shows the strongest stroke, and both of one size', () => {
    const quiet = later(24).map((v) => v / 10)
    const { stroke } = lineUpPicture(clip(strokes), clip(quiet), clip(strokes.map((v) => v / 10)))
    const lead = [...stroke.lead]
    expect(Math.abs(stroke.at - 0.004 * RATE)).toBeLessThan(2)
    const most = Math.max(...lead.map(Math.abs))
    expect(most).toBeGreaterThan(0.3)
    stroke.after.forEach((v, i) => {
      expect(v).toBeCloseTo(lead[i], 5)
    })
    // Nothing of the one that comes later is there yet.
    expect(Math.abs(stroke.before[stroke.at + 10])).toBeLessThan(0.05 * most)
  })

  it('says nothing of octaves without weight', () => {
    const low = Float32Array.from({ length: RATE }, (_, i) =>
      Math.sin((2 * Math.PI * 125 * i) / RATE),
    )
    const { bands } = lineUpPicture(clip(low), clip(low), clip(low))
    expect(bands.filter((b) => b.gainDb !== null).map((b) => b.hz)).toContain(125)
    expect(bands.find((b) => b.hz === 4000)?.gainDb).toBeNull()
  })
})
