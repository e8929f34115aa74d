import { describe, expect, it } from 'vitest'
import { type Clip, MemorySource, makeClip } from '../../audio'
import { newBand } from '../../filters'
import { ChainRun, chainPlan, designNow } from '../../mix'
import { chainWith } from '../../session'
import { filtered } from '../../testing/filtered'
import { whiteNoise } from '../../testing/signals'
import { newTreatment } from '../../treatments'
import { alignPair, readSource } from '..'
import { lostInSum } from './alignment'

const RATE = 48000
const mono = (signal: Float32Array): Clip => makeClip(RATE, [signal])

describe('alignment (Knapp and Carter 1976)', () => {
  const source = filtered(whiteNoise(6 * RATE, 6, 0.3), newBand('high-cut', 3000))
  const spectra = (signal: Float32Array) => readSource(mono(signal)).outline

  it.each([
    [0, 1],
    [149, 1],
    [149, -1],
    [-300, -1],
  ])('finds a delay of %d frames and a polarity of %d', (delay, sign) => {
    const other = source.map((_, i) => sign * (source[i - delay] ?? 0))
    const pair = alignPair(spectra(source), spectra(other), 0)
    expect(Math.abs((pair?.delaySeconds ?? 9) * RATE - delay)).toBeLessThan(2)
    expect(Math.cos(((pair?.turnDeg ?? 0) * Math.PI) / 180) * sign).toBeGreaterThan(0.95)
    expect(pair?.coherence).toBeGreaterThan(0.95)
    expect(pair?.lostAlignedDb).toBeLessThan(0.3)
  })

  it('finds the turn that is left between two microphones, and that it wins the rest back', () => {
    // A turn of 60° at all frequencies and a delay: the other as its Hilbert pair, 40 samples later.
    const params = { delayFrames: 40, polarity: 1, turnDeg: 60 } as const
    const chain = chainWith([newTreatment('align', 'a', 'fit', params)])
    const stretch = { fromFrame: 0, toFrame: source.length }
    const run = new ChainRun(
      chainPlan(chain, '', designNow(RATE)),
      new MemorySource([source]),
      0,
      RATE,
      stretch,
    )
    const other: number[] = []
    while (!run.done) other.push(...run.next()[0])
    const [a, b] = [spectra(source), spectra(Float32Array.from(other))]
    const pair = alignPair(a, b, 0)
    expect(pair?.delaySeconds).toBeCloseTo(40 / RATE, 4)
    expect(Math.abs((pair?.turnDeg ?? 0) + 60)).toBeLessThan(6)
    const left = (turnDeg: number) => lostInSum(a, b, 0, -40 / RATE, turnDeg)
    expect(left(0)).toBeGreaterThan(1)
    expect(left(pair?.turnDeg ?? 0)).toBeLessThan(0.1)
  })

  it('does not take two sources for one', () => {
    const other = filtered(whiteNoise(6 * RATE, 60, 0.3), newBand('high-cut', 3000))
    expect(alignPair(spectra(source), spectra(other), 0)?.coherence).toBeLessThan(0.4)
  })
})
