import { powerToDb } from '../audio'
import { filterSpectrum } from '../filters'
import { type Band, type CrossSpectrum, sumIntoBands } from '../spectrum'
import type { ChainResponse } from './response'

/** One of two sounds that are added: what its chain does, and its level in the sum. */
export interface SummedChain {
  readonly response: ChainResponse
  /** Factor on its amplitude; negative where its polarity is turned over. */
  readonly gain: number
}

/** Levels of a sum in bands, in dB. */
export interface PairSum {
  readonly sum: Float64Array
  /** What the two would give if they had nothing to do with each other: their powers added. */
  readonly apart: Float64Array
}

/**
 * What the sum of two sounds comes to behind two chains, from the spectra and the cross spectrum of the untreated
 * ones: |A|²·aa + |B|²·bb + 2·Re(A·conj(B)·ab). Exact as far as the chains are linear and steady, and as what the
 * two have in common lies within a window of each other.
 */
export function predictPairSum(
  cross: CrossSpectrum,
  first: SummedChain,
  second: SummedChain,
  bands: readonly Band[],
): PairSum {
  const a = chainSpectrum(first, cross.size)
  const b = chainSpectrum(second, cross.size)
  const bins = cross.size / 2 + 1
  const [sum, apart] = [new Float64Array(bins), new Float64Array(bins)]
  for (let k = 0; k < bins; k++) {
    const [ar, ai, br, bi] = [a.re[k], a.im[k], b.re[k], b.im[k]]
    const alone = (ar * ar + ai * ai) * cross.first[k] + (br * br + bi * bi) * cross.second[k]
    const re = ar * br + ai * bi
    const im = ai * br - ar * bi
    apart[k] = alone
    sum[k] = Math.max(0, alone + 2 * (re * cross.re[k] - im * cross.im[k]))
  }
  const binHz = cross.sampleRateHz / cross.size
  const inBands = (power: Float64Array) => sumIntoBands(power, binHz, bands).map(powerToDb)
  return { sum: inBands(sum), apart: inBands(apart) }
}

/** A chain's answer with its delay, gain and sign. */
function chainSpectrum({ response, gain }: SummedChain, size: number) {
  const { filter, delayFrames, sign } = response
  const { re, im } = filterSpectrum({ ...filter, latency: filter.latency - delayFrames }, size)
  for (let k = 0; k < re.length; k++) {
    re[k] *= gain * sign
    im[k] *= gain * sign
  }
  return { re, im }
}
