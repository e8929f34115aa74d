import { type Clip, makeClip, powerToDb, seededRandom } from '../audio'
import { treatClip } from '../mix'
import type { Chain } from '../session'
import { convolve } from '../spectrum'
import { steadyPart } from './response'

/** A chain as an impulse response. */
export interface ChainImpulse {
  readonly clip: Clip
  /** Frames by which its main part comes later than the impulse: of linear phase. */
  readonly latencyFrames: number
  /** What is left of noise through the chain less the same noise convolved with the response, in dB. */
  readonly nullDb: number
  readonly notSaid: readonly string[]
}

const LONGEST_SECONDS = 4
/** What lies further under the peak is left off at the end. */
const FLOOR = 10 ** (-140 / 20)
const NULL_SECONDS = 0.25

/**
 * The impulse response of what in a chain does not move, for a sound that both channels carry alike. It is in time: what
 * comes before the impulse, in linear phase, makes it as much later.
 */
export async function chainImpulse(chain: Chain, rateHz: number): Promise<ChainImpulse> {
  const { steady, notSaid } = steadyPart(chain.treatments)
  const gain = (chain.output.polarity === 'inverted' ? -1 : 1) * 10 ** (chain.output.gainDb / 20)
  const through = async (signal: Float32Array) => {
    const { channels } = await treatClip(makeClip(rateHz, [signal, signal.slice()]), steady)
    return channels[0].map((v, i) => (gain * (v + channels[1][i])) / 2)
  }
  const frames = LONGEST_SECONDS * rateHz
  const middle = frames / 2
  const impulse = new Float32Array(frames)
  impulse[middle] = 1
  const response = await through(impulse)
  const top = response.reduce((most, v) => Math.max(most, Math.abs(v)), 0)
  const first = Math.min(
    middle,
    response.findIndex((v) => Math.abs(v) > FLOOR * top),
  )
  const last = Math.max(
    middle,
    response.findLastIndex((v) => Math.abs(v) > FLOOR * top),
  )
  const taps = top === 0 ? Float32Array.of(0) : response.slice(first, last + 1)
  const latencyFrames = top === 0 ? 0 : middle - first
  return {
    clip: makeClip(rateHz, [taps]),
    latencyFrames,
    nullDb: await nullOf(taps, latencyFrames, through, rateHz),
    notSaid,
  }
}

async function nullOf(
  taps: Float32Array,
  latency: number,
  through: (signal: Float32Array) => Promise<Float32Array>,
  rateHz: number,
): Promise<number> {
  const random = seededRandom(1)
  const sounding = Math.round(NULL_SECONDS * rateHz)
  const noise = new Float32Array(sounding + 2 * taps.length)
  for (let i = 0; i < sounding; i++) noise[taps.length + i] = 0.2 * (random() + random() - 1)
  const wanted = await through(noise)
  const given = convolve(noise, taps)
  let [left, own] = [0, 0]
  for (let i = 0; i < noise.length; i++) {
    const v = wanted[i]
    left += (v - (given[i + latency] ?? 0)) ** 2
    own += v * v
  }
  return own === 0 ? -200 : Math.max(-200, powerToDb(left / own))
}
