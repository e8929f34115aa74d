import { describe, expect, it } from 'vitest'
import { makeClip } from '../audio'
import { lowestSource } from './lowest-source'
import { readSource } from './source-reading'

const RATE = 48000
const SECONDS = 6

/** Notes one after another, each with eight harmonics. */
function played(chords: readonly (readonly number[])[]) {
  const each = (SECONDS * RATE) / chords.length
  const signal = Float32Array.from({ length: SECONDS * RATE }, (_, i) => {
    const chord = chords[Math.floor(i / each)]
    let v = 0
    for (const hz of chord) {
      for (let k = 1; k <= 8; k++) v += Math.sin((2 * Math.PI * k * hz * i) / RATE) / k
    }
    return (0.08 * v) / chord.length
  })
  return lowestSource(readSource(makeClip(RATE, [signal])))
}

describe('where a source begins', () => {
  it.each([
    [[98, 131, 165, 110], 98],
    [[220, 262, 330, 392], 220],
  ])('is the lowest of the notes %j', (notes, hz) => {
    const found = played(notes.map((n) => [n]))
    expect(found?.isNote).toBe(true)
    expect(Math.abs((found?.hz ?? 0) / hz - 1)).toBeLessThan(0.03)
  })

  it('is not the period of a chord at which nothing sounds', () => {
    const found = played([
      [200, 250, 300],
      [240, 300, 360],
    ])
    expect(found?.hz).toBeGreaterThan(150)
    expect(found?.hz).toBeLessThan(206)
  })

  it('is not told of noise', () => {
    let state = 1
    const noise = Float32Array.from({ length: 3 * RATE }, () => {
      state = (state * 16807) % 2147483647
      return 0.2 * (state / 2147483647 - 0.5)
    })
    expect(lowestSource(readSource(makeClip(RATE, [noise])))).toBeNull()
  })
})
