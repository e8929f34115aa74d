import { describe, expect, it } from 'vitest'
import { makeClip } from '../../audio'
import { type EqBand, Equaliser, newBand } from '../../filters'
import { panGains } from '../../mix'
import { whiteNoise } from '../../testing/signals'
import { glidingVoice } from '../../testing/sounds'
import { hearingOf, pairSums, proposeYielding } from '..'

const RATE = 48000
const SECONDS = 1.5

function filtered(signal: Float32Array, ...bands: readonly Partial<EqBand>[]): Float32Array {
  const out = signal.slice()
  const equaliser = new Equaliser()
  equaliser.prepare(RATE, 1)
  equaliser.set(bands.map((b, i) => ({ id: `${i}`, band: { ...newBand('bell', 1000), ...b } })))
  equaliser.process([out], out.length)
  return out
}

const voice = makeClip(RATE, [glidingVoice(11, SECONDS, 150, 320).map((v) => 0.25 * v)])
/** Noise that leaves more than half of the voice. */
const bed = makeClip(RATE, [whiteNoise(SECONDS * RATE, 5, 0.03)])
/** As loud, with its power below 200 Hz. */
const rumbling = makeClip(RATE, [
  filtered(whiteNoise(SECONDS * RATE, 6, 0.4), {
    type: 'high-cut',
    hz: 160,
    slopeDbPerOct: 24,
  }).map((v, i) => v + 0.5 * bed.channels[0][i]),
])

/** Looked for once, since it takes its time. */
let toTheLeft: ReturnType<typeof proposeYielding> | null = null
const leftWays = () => (toTheLeft ??= proposeYielding(voice, bed, 'left'))

describe('ways to yield', () => {
  it('tell what each does, and keep to what is worth while', async () => {
    const shares: number[] = []
    const { before, options } = await proposeYielding(voice, bed, null, (s) => shares.push(s))
    expect(before).toEqual(hearingOf(pairSums(voice, bed)))
    expect(options.length).toBeGreaterThan(0)
    for (const { after } of options) {
      expect(after.keyHeard - before.keyHeard).toBeGreaterThanOrEqual(0.01)
      expect(after.yieldingSone).toBeLessThan(before.yieldingSone)
    }
    expect(options.map((o) => o.kind)).not.toContain('aside')
    expect([...shares].sort((a, b) => a - b)).toEqual(shares)
  })

  it('count a place aside among them, last, as it is heard when the track is panned there', async () => {
    const { options } = await leftWays()
    const way = options[options.length - 1]
    if (way.kind !== 'aside') throw new Error(`The last way is ${way.kind}.`)
    expect(way.pan).toBeLessThan(0)
    const gains = panGains(way.pan, 1)
    const panned = makeClip(
      RATE,
      gains.map((g) => bed.channels[0].map((v) => v * g)),
    )
    expect(way.after.keyHeard).toBeCloseTo(hearingOf(pairSums(voice, panned)).keyHeard, 4)
  })

  it('are the same to either side', async () => {
    const right = await proposeYielding(voice, bed, 'right')
    const [a, b] = [await leftWays(), right].map(({ options }) => options[options.length - 1])
    if (a.kind !== 'aside' || b.kind !== 'aside') throw new Error('No place aside was found.')
    expect(a.pan).toBe(-b.pan)
    expect(a.after.keyHeard).toBeCloseTo(b.after.keyHeard, 3)
  })

  const wide = makeClip(RATE, [bed.channels[0], whiteNoise(SECONDS * RATE, 9, 0.03)])
  it.each([
    ['carries the low end', rumbling],
    ['has two sides of its own', wide],
  ])('leave in the middle what %s', async (_, other) => {
    const { options } = await proposeYielding(voice, other, 'left')
    expect(options.map((o) => o.kind)).not.toContain('aside')
  })
})
