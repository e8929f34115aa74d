import { RATE_HZ } from './sound'

const COMB_SECONDS = [0.0297, 0.0371, 0.0411, 0.0437, 0.0313, 0.0473] as const
const ALLPASS_SECONDS = [0.005, 0.0017] as const

/**
 * The sound of the car deck: parallel damped combs into all-passes (Schroeder 1962), wet only.
 * @param side shifts the delays a little, so that left and right differ.
 */
function room(dry: Float32Array, decaySeconds: number, side: 0 | 1, damping = 0.35): Float32Array {
  const wet = new Float32Array(dry.length)
  COMB_SECONDS.forEach((base, index) => {
    const delay = Math.round((base + side * 0.0011 * (1 + (index % 3))) * RATE_HZ)
    const line = new Float32Array(delay)
    const feedback = 10 ** ((-3 * delay) / RATE_HZ / decaySeconds)
    const gain = 1 / COMB_SECONDS.length
    let dull = 0
    for (let i = 0, at = 0; i < dry.length; i++) {
      const out = line[at]
      dull = out * (1 - damping) + dull * damping
      line[at] = dry[i] + dull * feedback
      if (++at === delay) at = 0
      wet[i] += out * gain
    }
  })
  for (const seconds of ALLPASS_SECONDS) {
    const delay = Math.round((seconds + side * 0.00031) * RATE_HZ)
    const line = new Float32Array(delay)
    for (let i = 0, at = 0; i < wet.length; i++) {
      const out = line[at] - 0.6 * wet[i]
      line[at] = wet[i] + 0.6 * out
      if (++at === delay) at = 0
      wet[i] = out
    }
  }
  return wet
}

/** Mixes some room into a channel in place. */
export function addRoom(
  channel: Float32Array,
  share: number,
  decaySeconds: number,
  side: 0 | 1 = 0,
): void {
  const wet = room(channel, decaySeconds, side)
  for (let i = 0; i < channel.length; i++) channel[i] += share * wet[i]
}
