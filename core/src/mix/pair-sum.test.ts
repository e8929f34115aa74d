import { describe, expect, it } from 'vitest'
import { makeClip } from '../audio'
import { newBand } from '../filters'
import { crossSpectrum, longTermLevels, makeBands } from '../spectrum'
import { gaussianNoise } from '../testing/signals'
import {
  newChainBand,
  newTreatment,
  predictPairSum,
  respondChain,
  type Treatment,
} from '../treatments'
import { treatClip } from '.'

const RATE = 48000
const THIRDS = makeBands('third').filter(({ hz }) => hz > 60 && hz < 15000)

const treated = async (signal: Float32Array, treatments: Treatment[]) =>
  (await treatClip(makeClip(RATE, [signal]), treatments)).channels[0]

describe('the sum of two tracks', () => {
  it('is what the chains of both give, delays and phase included', async () => {
    const common = gaussianNoise(6 * RATE, 4, 0.1)
    const own = gaussianNoise(6 * RATE, 5, 0.1)
    const first = common.map((v, i) => v + 0.2 * own[i])
    const second = common.map((_, i) => 0.7 * (common[i - 20] ?? 0))
    const band = { ...newBand('bell', 700), db: -9, q: 1.5 }
    const bell = (phase: 'minimum' | 'linear') =>
      newTreatment('equaliser', 'e', 'clean', { phase, bands: [newChainBand('b', band)] })
    const align = newTreatment('align', 'a', 'fit', {
      delayFrames: -14.5,
      polarity: -1,
      turnDeg: 40,
    })
    const [a, b] = [[bell('minimum')], [bell('linear'), align]]
    const sound = await Promise.all([treated(first, a), treated(second, b)])
    const added = sound[0].map((v, i) => v + 0.5 * sound[1][i])
    const measured = longTermLevels(makeClip(RATE, [added]), THIRDS)
    const { sum, apart } = predictPairSum(
      crossSpectrum([first], [second], RATE),
      { response: respondChain(a, RATE, 'mid'), gain: 1 },
      { response: respondChain(b, RATE, 'mid'), gain: 0.5 },
      THIRDS,
    )
    for (const [i, { hz }] of THIRDS.entries()) {
      expect(Math.abs(sum[i] - measured[i]), `${hz} Hz`).toBeLessThan(0.4)
    }
    // The two really add up to something else than unrelated ones would.
    expect(Math.max(...sum.map((v, i) => Math.abs(v - apart[i])))).toBeGreaterThan(3)
  })
})
