import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { describedDb, makePlayback, PLAYBACKS } from '../playback'
import { applyEdits, type Edit, sessionWithout, type WithoutTarget } from '../session'
import { clickRatio } from '../testing/clicks'
import { addEqualiser, apart, RATE, recordingsOf, sessionOf } from '../testing/sessions'
import { rms, sine, whiteNoise } from '../testing/signals'
import {
  designNow,
  listeningPlan,
  Mixer,
  panGains,
  Renditions,
  renderMix,
  renderPlan,
  Transport,
} from './index'

const SECONDS = 2
const NOW = designNow(RATE)
const with6 = applyEdits(sessionOf(['a', 'b']), [
  addEqualiser('a', 'm', [{ hz: 1000, db: 6, q: 1 }]),
  addEqualiser('b', 'n', [{ hz: 3000, db: -6, q: 1 }], 'linear'),
])
const planA = listeningPlan(with6, NOW)
const planB = listeningPlan(sessionWithout(with6, { of: 'all' }), NOW)

/** Plays two renditions; `act` may go from one to the other before each block. */
function play(
  sounds: Float32Array[][],
  act: (renditions: Renditions, transport: Transport, block: number) => void,
) {
  const renditions = new Renditions(RATE, 1024)
  for (const [hash, source] of recordingsOf(...sounds)) renditions.setAudio(hash, source)
  renditions.set('a', planA)
  const transport = new Transport(renditions, RATE)
  transport.play()
  const out = [new Float32Array(SECONDS * RATE), new Float32Array(SECONDS * RATE)]
  for (let at = 0, block = 0; at + 128 <= SECONDS * RATE; at += 128, block++) {
    act(renditions, transport, block)
    transport.process(out[0].subarray(at, at + 128), out[1].subarray(at, at + 128), 128)
  }
  return out
}
/** How far the slower of the two plans reads ahead. */
function planLead(): number {
  const mixer = new Mixer(RATE)
  for (const [hash, source] of recordingsOf(...noise)) mixer.setAudio(hash, source)
  mixer.set(planA)
  return mixer.lead
}
const blockOf = (seconds: number) => Math.round((seconds * RATE) / 128)
const noise = [[whiteNoise(SECONDS * RATE, 1, 0.2)], [whiteNoise(SECONDS * RATE, 2, 0.2)]]
const tones = [[sine(1000, SECONDS, RATE, 0.2)], [sine(1000, SECONDS, RATE, 0.2)]]
const rendered = (plan: typeof planA, sounds: Float32Array[][]) =>
  renderMix(plan, recordingsOf(...sounds), RATE, { fromFrame: 0, toFrame: SECONDS * RATE })
    .channels[0]

describe('renditions', () => {
  it('that are held are gone to within 30 ms, in time, without a click, and back', () => {
    const go = (sounds: Float32Array[][]) =>
      play(sounds, (renditions, _, block) => {
        if (block === 0) renditions.set('b', planB)
        if (block === blockOf(0.5)) renditions.hear([{ name: 'b', gain: 1 }])
        if (block === blockOf(1)) renditions.hear([{ name: 'a', gain: 1 }])
      })[0]
    expect(clickRatio(go(tones).subarray(RATE / 4), RATE)).toBeLessThan(4)
    const played = go(noise)
    const [a, b] = [rendered(planA, noise), rendered(planB, noise)]
    const soon = 0.03
    expect(apart(played, a, 0.2 * RATE, blockOf(0.5) * 128)).toBeLessThan(1e-5)
    expect(apart(played, b, (0.5 + soon) * RATE, blockOf(1) * 128)).toBeLessThan(1e-5)
    expect(apart(played, a, (1 + soon) * RATE, 1.9 * RATE)).toBeLessThan(1e-5)
  })

  it('that come while it plays run in before they are heard, whatever their latency', () => {
    const played = play(noise, (renditions, transport, block) => {
      if (block !== blockOf(0.5)) return
      transport.setPlan('b', planB)
      renditions.hear([{ name: 'b', gain: 1 }])
    })[0]
    const from = blockOf(0.5 + 0.06 + 0.03) * 128 + planLead()
    expect(apart(played, rendered(planB, noise), from, 1.9 * RATE)).toBeLessThan(1e-4)
  })

  it('subtract to what treatments change, and to nothing where they are the same', () => {
    const heard = (other: typeof planA) =>
      play(noise, (renditions, _, block) => {
        if (block !== 0) return
        renditions.set('b', other)
        renditions.hear([
          { name: 'a', gain: 1 },
          { name: 'b', gain: -1 },
        ])
      })[0]
    const [a, b] = [rendered(planA, noise), rendered(planB, noise)]
    const difference = a.map((v, i) => v - b[i])
    expect(apart(heard(planB), difference, 0.2 * RATE, 1.9 * RATE)).toBeLessThan(1e-5)
    expect(rms(heard(planA).subarray(0.2 * RATE))).toBeLessThan(1e-6)
  })

  it('take a gain, so that they are as loud, and go when they are dropped', () => {
    const played = play(noise, (renditions, _, block) => {
      if (block === 0) renditions.set('b', planB)
      if (block === 2) renditions.hear([{ name: 'b', gain: 0.5 }])
      if (block === blockOf(1)) {
        renditions.hear([{ name: 'a', gain: 1 }])
        renditions.drop('b')
      }
      if (block === blockOf(1.1)) expect(renditions.has('b')).toBe(false)
    })[0]
    const half = rendered(planB, noise).map((v) => 0.5 * v)
    expect(apart(played, half, 0.2 * RATE, 0.9 * RATE)).toBeLessThan(1e-5)
  })

  it('asked for while nothing sounds stand at once', () => {
    const renditions = new Renditions(RATE)
    const told: string[] = []
    renditions.onHeard = (parts) => told.push(parts.map((p) => p.name).join())
    renditions.set('a', planA)
    renditions.set('b', planB)
    renditions.hear([{ name: 'b', gain: 1 }])
    expect(told).toEqual(['a', 'b'])
  })
})

describe('a session without something', () => {
  it('leaves out one treatment, one stage, one chain with its output, or everything', () => {
    const made = applyEdits(with6, [
      { kind: 'set-chain-output', node: 'a', change: { gainDb: -3 } },
      addEqualiser('a', 'o', [{ db: 1 }], 'minimum', 'shape'),
    ])
    const ids = (of: Parameters<typeof sessionWithout>[1]) => {
      const { tracks } = sessionWithout(made, of)
      return tracks.map((t) => t.chain.treatments.map((x) => x.id).join('')).join('|')
    }
    expect(ids({ of: 'treatment', node: 'a', treatment: 'm' })).toBe('o|n')
    expect(ids({ of: 'stage', node: 'a', stage: 'shape' })).toBe('m|n')
    expect(ids({ of: 'chain', node: 'a' })).toBe('|n')
    expect(ids({ of: 'all' })).toBe('|')
    expect(sessionWithout(made, { of: 'chain', node: 'a' }).tracks[0].chain.output.gainDb).toBe(0)
  })
})

describe('a fair comparison', () => {
  const decibels = (min: number, max: number) => fc.double({ min, max, noNaN: true })
  const levels = fc.record({
    trimDb: decibels(-24, 24),
    faderDb: decibels(-30, 12),
    pan: decibels(-1, 1),
  })
  const targets: readonly WithoutTarget[] = [
    { of: 'treatment', node: 'a', treatment: 'm' },
    { of: 'stage', node: 'a', stage: 'clean' },
    { of: 'chain', node: 'a' },
    { of: 'chain', node: 'mix' },
    { of: 'all' },
  ]
  const frames = 4096
  const sounds = [[whiteNoise(frames, 1, 0.2)], [whiteNoise(frames, 2, 0.2)]]
  const heard = (session: typeof with6) =>
    renderMix(renderPlan(session, NOW), recordingsOf(...sounds), RATE, {
      fromFrame: 0,
      toFrame: frames,
    }).channels
  const set = (node: string, change: { trimDb: number; faderDb: number; pan: number }): Edit => ({
    kind: 'set-node',
    node,
    change,
  })

  it('of a session without treatments is the same sound, sample for sample, whatever is left out', () => {
    fc.assert(
      fc.property(levels, levels, levels, fc.constantFrom(...targets), (a, b, mix, target) => {
        const bare = applyEdits(sessionOf(['a', 'b']), [set('a', a), set('b', b), set('mix', mix)])
        expect(heard(sessionWithout(bare, target))).toEqual(heard(bare))
      }),
      { numRuns: 20 },
    )
  })

  it('with everything left out is the recordings at their trim, fader and pan', () => {
    fc.assert(
      fc.property(levels, levels, (a, b) => {
        const session = applyEdits(with6, [
          set('a', a),
          set('b', b),
          { kind: 'set-chain-output', node: 'a', change: { gainDb: 9, polarity: 'inverted' } },
        ])
        const out = heard(sessionWithout(session, { of: 'all' }))
        const gains = [a, b].map(({ trimDb, faderDb, pan }) =>
          panGains(pan, 1).map((g) => g * 10 ** ((trimDb + faderDb) / 20)),
        )
        for (const side of [0, 1]) {
          const expected = sounds[0][0].map(
            (x, i) => gains[0][side] * x + gains[1][side] * sounds[1][0][i],
          )
          const peak = Math.max(...expected.map(Math.abs))
          expect(apart(out[side], expected, 0, frames)).toBeLessThan(1e-6 * Math.max(1, peak))
        }
      }),
      { numRuns: 20 },
    )
  })

  it('hears a trim ahead of the chain: what goes by level is given the trimmed sound', () => {
    const loud = applyEdits(with6, [{ kind: 'change-trim', node: 'a', db: 6 }])
    const before: number[] = []
    for (const session of [with6, loud]) {
      renderMix(
        renderPlan(session, NOW),
        recordingsOf(...sounds),
        RATE,
        { fromFrame: 0, toFrame: frames },
        {
          taps: {
            node: () => {},
            chain: (id, side, left) => {
              if (id === 'a' && side === 'before') before.push(rms(left))
            },
          },
        },
      )
    }
    const half = before.length / 2
    before.slice(0, half).forEach((level, i) => {
      expect(before[half + i]).toBeCloseTo(level * 10 ** (6 / 20), 6)
    })
  })

  it('are heard through another playback and back without a click, and then as they were', () => {
    const laptop = PLAYBACKS.find((p) => p.name === 'laptop')
    if (!laptop) throw new Error('There is none.')
    const response = makePlayback(laptop, RATE, 73)
    const levels = { gain: 1, ceiling: null, releaseMs: 100, noiseGain: 0 }
    const through = { key: 'laptop', response, levels }
    const plain = play(tones, () => {})
    const out = play(tones, (renditions, _, block) => {
      if (block === blockOf(0.5)) renditions.playThrough(through)
      if (block === blockOf(0.9)) {
        renditions.playThrough({ ...through, levels: { ...levels, gain: 0.5 } })
      }
      if (block === blockOf(1.3)) renditions.playThrough(null)
    })
    const part = (from: number, to: number) => out[0].subarray(from * RATE, to * RATE)
    const wanted = 20 * Math.log10(rms(plain[0].subarray(0.6 * RATE, 0.8 * RATE)))
    const heard = (from: number, to: number) => 20 * Math.log10(rms(part(from, to))) - wanted
    const db = describedDb(laptop, RATE, 73)(1000)
    expect(heard(0.7, 0.88)).toBeCloseTo(db, 1)
    expect(heard(1, 1.2)).toBeCloseTo(db - 6.02, 1)
    for (const [from, to] of [
      [0.45, 0.65],
      [0.85, 1.05],
      [1.25, 1.45],
    ]) {
      expect(clickRatio(part(from, to), RATE)).toBeLessThan(4)
    }
    expect(part(1.4, 2)).toEqual(plain[0].subarray(1.4 * RATE, 2 * RATE))
  })
})
