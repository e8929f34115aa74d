import { describe, expect, it } from 'vitest'
import { MemorySource, makeClip, seededRandom } from '../../audio'
import { splitClip } from '../../filters'
import { ChainRun, chainPlan, designNow, streamRun } from '../../mix'
import { chainWith } from '../../session'
import { gaussianNoise } from '../../testing/signals'
import { newTreatment } from '../../treatments'
import { alignClips } from './align-clips'

const RATE = 48000
const SECONDS = 5

/** Plucked notes with their noise, one after another: a source with pitch, attack and decay. */
function plucked(seed: number): Float32Array {
  const random = seededRandom(seed)
  const out = new Float32Array(SECONDS * RATE)
  for (let start = 0; start < SECONDS * RATE; start += Math.round(0.28 * RATE)) {
    const hz = 110 * 2 ** (Math.floor(24 * random()) / 12)
    const period = Math.round(RATE / hz)
    const ring = Float32Array.from({ length: period }, () => random() - 0.5)
    // A string after Karplus and Strong (1983).
    for (let i = 0; i < 0.5 * RATE && start + i < out.length; i++) {
      const at = i % period
      out[start + i] += 0.3 * ring[at]
      ring[at] = 0.4985 * (ring[at] + ring[(at + 1) % period])
    }
  }
  return out
}

async function changed(
  signal: Float32Array,
  params: { delayFrames: number; polarity: 1 | -1; turnDeg: number },
) {
  const chain = chainWith([newTreatment('align', 'a', 'fit', params)])
  const stretch = { fromFrame: 0, toFrame: signal.length }
  const run = new ChainRun(
    chainPlan(chain, '', designNow(RATE)),
    new MemorySource([signal]),
    0,
    RATE,
    stretch,
  )
  const out = new Float32Array(signal.length)
  let at = 0
  for await (const [piece] of streamRun(run)) {
    out.set(piece, at)
    at += piece.length
  }
  return out
}

const random = seededRandom(11)
const cases = Array.from({ length: 6 }, (_, i) => ({
  delayFrames: Math.round(100 * 960 * (2 * random() - 1)) / 100,
  polarity: (i % 2 === 0 ? 1 : -1) as 1 | -1,
  turnDeg: Math.round(160 * random() - 80),
}))

describe('lining up', () => {
  it.each(cases)(
    'undoes $delayFrames frames, polarity $polarity and $turnDeg degrees',
    async (given) => {
      const signal = plucked(Math.round(given.delayFrames) + 2000)
      const noise = gaussianNoise(signal.length, 4, 3e-4)
      const other = (await changed(signal, given)).map((v, i) => 0.7 * v + noise[i])
      const found = alignClips(makeClip(RATE, [signal]), makeClip(RATE, [other]))
      if (!found) throw new Error('The two were not known as one source.')
      expect(Math.abs(found.delayFrames + given.delayFrames)).toBeLessThan(0.05)
      expect(found.polarity).toBe(given.polarity)
      expect(Math.abs(found.turnDeg + given.turnDeg)).toBeLessThan(2)
    },
  )

  it('looks for what one band needs where that is asked', async () => {
    const signal = plucked(9)
    const spec = { kind: 'linear', slopeDbPerOct: 48, hz: [500] } as const
    const [low, high] = splitClip(makeClip(RATE, [signal]), spec).map((b) => b.channels[0])
    // A room, say, in which the lows come later than the rest.
    const late = await changed(low, { delayFrames: 61.5, polarity: 1, turnDeg: 20 })
    const soon = await changed(high, { delayFrames: 18, polarity: 1, turnDeg: 0 })
    const other = late.map((v, i) => v + soon[i])
    const [a, b] = [signal, other].map((s) => makeClip(RATE, [s]))
    const [whole, lows] = [alignClips(a, b), alignClips(a, b, { fromHz: 60, toHz: 350 })]
    if (!whole || !lows) throw new Error('The two were not known as one source.')
    expect(whole.delayFrames).toBeCloseTo(-18, 0)
    const inLows = async (params: typeof whole) => {
      const moved = await changed(other, params)
      const [part] = splitClip(makeClip(RATE, [moved.map((v, i) => v + signal[i])]), {
        ...spec,
        hz: [300],
      })
      return 10 * Math.log10(part.channels[0].reduce((sum, v) => sum + v * v, 0))
    }
    expect(await inLows(lows)).toBeGreaterThan((await inLows(whole)) + 0.05)
    expect(Math.abs(lows.delayFrames + 61.5)).toBeLessThan(4)
  })

  it('gains what it says', async () => {
    const signal = plucked(3)
    const other = await changed(signal, { delayFrames: 40.4, polarity: -1, turnDeg: 30 })
    const found = alignClips(makeClip(RATE, [signal]), makeClip(RATE, [other]))
    if (!found) throw new Error('The two were not known as one source.')
    const moved = await changed(other, found)
    const power = (b: Float32Array) => signal.reduce((sum, v, i) => sum + (v + b[i]) ** 2, 0)
    expect(found.gainDb).toBeCloseTo(10 * Math.log10(power(moved) / power(other)), 0)
    expect(10 * Math.log10(power(moved) / signal.reduce((a, v) => a + v * v, 0))).toBeGreaterThan(
      5.5,
    )
  })

  it('refuses two that have nothing to do with each other', () => {
    const [a, b] = [plucked(5), plucked(77)].map((s) => makeClip(RATE, [s]))
    expect(alignClips(a, b)).toBeNull()
    expect(alignClips(a, makeClip(RATE, [gaussianNoise(SECONDS * RATE, 3, 0.1)]))).toBeNull()
  })
})
