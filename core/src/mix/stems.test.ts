import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { MemorySource } from '../audio'
import { applyEdits, chainWith, type Edit } from '../session'
import { add, addEqualiser, apart, RATE, recordingsOf, sessionOf } from '../testing/sessions'
import { rms, whiteNoise } from '../testing/signals'
import { newFollowBand, newTreatment, type Treatment, workingsOf } from '../treatments'
import {
  ChainRun,
  chainPlan,
  designNow,
  listeningPlan,
  renderMix,
  renderPlan,
  stemPlan,
  streamMix,
  trackPlan,
  trackStem,
  withoutSilent,
} from './index'
import { pathPlan } from './stems'

const NOW = designNow(RATE)
const STRETCH = { fromFrame: 0, toFrame: RATE }
const sounds = [1, 2, 3].map((seed) => [whiteNoise(2 * RATE, seed, 0.1)])
const recordings = recordingsOf(...sounds)
const session = applyEdits(sessionOf(['a', 'b', 'c']), [
  { kind: 'add-group', id: 'g', name: 'G', members: ['a', 'b'] },
  { kind: 'add-group', id: 'h', name: 'H', members: ['g'] },
  { kind: 'set-node', node: 'g', change: { faderDb: -4, pan: 0.3 } },
  addEqualiser('g', 'e', [{ db: 5, hz: 400 }], 'linear'),
  addEqualiser('b', 'f', [{ db: -5, hz: 2400 }], 'mixed'),
  add('h', newTreatment('low-middle', 'l', 'fit')),
  add('c', newTreatment('align', 'x', 'fit', { delayFrames: -7.25, polarity: -1, turnDeg: 40 })),
])
const plan = renderPlan(session, NOW)
const render = (p: typeof plan) => renderMix(p, recordings, RATE, STRETCH).channels

describe('groups', () => {
  it('rendered as stems add up to the mix, with what goes straight into it', () => {
    const parts = ['h', 'c'].map((id) => render(withoutSilent(stemPlan(plan, id))))
    const mix = render(plan)
    for (const side of [0, 1]) {
      const sum = parts[0][side].map((v, i) => v + parts[1][side][i])
      expect(apart(sum, mix[side])).toBeLessThan(1e-6)
    }
    expect(rms(parts[0][0])).toBeGreaterThan(0.02)
  })

  it('rendered as a stem stand at the same place inside another group as outside', () => {
    const outside = applyEdits(session, [{ kind: 'set-output', node: 'g', output: 'mix' }])
    const inner = render(withoutSilent(stemPlan(plan, 'g')))
    const outer = render(withoutSilent(stemPlan(renderPlan(outside, NOW), 'g')))
    expect(apart(inner[0], outer[0])).toBeLessThan(1e-6)
  })

  it('pass on mute and fader, and let a soloed track through', () => {
    const muted = applyEdits(session, [{ kind: 'set-node', node: 'h', change: { mute: true } }])
    expect(apart(render(renderPlan(muted, NOW))[0], render(stemPlan(plan, 'c'))[0])).toBeLessThan(
      1e-6,
    )
    const soloed = applyEdits(session, [{ kind: 'set-node', node: 'a', change: { solo: true } }])
    const only = applyEdits(session, [
      { kind: 'set-node', node: 'b', change: { mute: true } },
      { kind: 'set-node', node: 'c', change: { mute: true } },
    ])
    const heard = render(listeningPlan(soloed, NOW))
    expect(apart(heard[0], render(renderPlan(only, NOW))[0])).toBeLessThan(1e-6)
    const group = applyEdits(session, [{ kind: 'set-node', node: 'g', change: { solo: true } }])
    const both = applyEdits(session, [{ kind: 'set-node', node: 'c', change: { mute: true } }])
    expect(
      apart(render(listeningPlan(group, NOW))[0], render(renderPlan(both, NOW))[0]),
    ).toBeLessThan(1e-6)
  })

  it('let a track be measured on its way, as if alone and at full level', () => {
    const alone = applyEdits(session, [
      { kind: 'set-node', node: 'g', change: { faderDb: 0 } },
      { kind: 'set-node', node: 'b', change: { mute: true } },
      { kind: 'set-node', node: 'c', change: { mute: true } },
    ])
    const path = render(withoutSilent(pathPlan(plan, 'a')))
    expect(apart(path[0], render(renderPlan(alone, NOW))[0])).toBeLessThan(1e-6)
  })
})

/** A few treatments of all kinds and phase modes. */
const treatments: fc.Arbitrary<Treatment[]> = fc
  .array(
    fc.oneof(
      fc.record({
        kind: fc.constant('equaliser' as const),
        phase: fc.constantFrom('minimum' as const, 'mixed' as const, 'linear' as const),
        hz: fc.integer({ min: 100, max: 9000 }),
        db: fc.integer({ min: -9, max: 9 }),
        channel: fc.constantFrom('stereo' as const, 'mid' as const, 'side' as const),
      }),
      fc.record({
        kind: fc.constant('align' as const),
        delayFrames: fc.double({ min: -300, max: 300, noNaN: true }),
        polarity: fc.constantFrom(1 as const, -1 as const),
        turnDeg: fc.constantFrom(0, 35, -120),
      }),
      fc.record({
        kind: fc.constant('low-middle' as const),
        hz: fc.integer({ min: 60, max: 400 }),
      }),
    ),
    { minLength: 2, maxLength: 4 },
  )
  .map((list) =>
    list.map((spec, i): Treatment => {
      switch (spec.kind) {
        case 'equaliser': {
          const { phase, hz, db, channel } = spec
          const edit = addEqualiser('a', `t${i}`, [{ hz, db, q: 1, channel }], phase)
          return (edit as Extract<Edit, { kind: 'add-treatment' }>).treatment
        }
        case 'align': {
          const { kind: _, ...params } = spec
          return newTreatment('align', `t${i}`, 'fit', params)
        }
        default:
          return newTreatment('low-middle', `t${i}`, 'fit', {
            hz: spec.hz,
            slopeDbPerOct: 24,
            from: 'both',
          })
      }
    }),
  )

describe('a chain', () => {
  const stereo = [whiteNoise(RATE, 7, 0.2), whiteNoise(RATE, 8, 0.2)]
  const run = (list: readonly Treatment[], input: Float32Array[]) => {
    const chain = chainWith(list)
    const source = new MemorySource(input)
    const render = new ChainRun(chainPlan(chain, '', NOW), source, 0, RATE, {
      fromFrame: 0,
      toFrame: RATE,
    })
    const pieces: Float32Array[][] = []
    while (!render.done) pieces.push(render.next())
    render.dispose()
    return input.map((_, c) => Float32Array.from(pieces.flatMap((p) => [...p[c]])))
  }

  it('of any treatments in any order nulls against the same ones run one by one', () => {
    fc.assert(
      fc.property(treatments, (list) => {
        const together = run(list, stereo)
        const oneByOne = list.reduce((sound, t) => run([t], sound), stereo)
        // Near the ends each run alone hears silence where the chain hears more of the sound.
        for (const side of [0, 1]) {
          expect(apart(together[side], oneByOne[side], 15_000, RATE - 15_000)).toBeLessThan(2e-6)
        }
      }),
      { numRuns: 12 },
    )
  })

  it('is late by what its kinds say', () => {
    fc.assert(
      fc.property(treatments, (list) => {
        const sum = list.reduce((frames, { kind, params }) => {
          const k = workingsOf(kind)
          return frames + k.latency(params, k.design(params, RATE), 2)
        }, 0)
        const chain = chainWith(list)
        const source = new MemorySource(stereo)
        const late = new ChainRun(chainPlan(chain, '', NOW), source, 0, RATE, {
          fromFrame: 0,
          toFrame: 10,
        })
        expect(late.latency).toBe(sum)
        late.dispose()
      }),
      { numRuns: 12 },
    )
  })
})

describe('a track that listens to another', () => {
  const keyed = applyEdits(sessionOf(['a', 'b']), [
    { kind: 'set-node', node: 'a', change: { faderDb: 3 } },
    { kind: 'set-node', node: 'b', change: { faderDb: -9, mute: true } },
    add('b', {
      ...newTreatment('follow', 'f', 'fit', {
        ...newTreatment('follow', 'x', 'fit').params,
        bands: [
          newFollowBand('one', {
            hz: 800,
            rangeDb: -12,
            threshold: { against: 'absolute', db: -60 },
          }),
        ],
      }),
      key: { node: 'a', tap: 'after-fader', as: 'mono' },
    }),
  ])
  const stemOf = async (plan: ReturnType<typeof renderPlan>, channels: number) => {
    const out: number[] = []
    for await (const [left] of trackStem(
      streamMix(trackPlan(plan, 'b'), recordings, RATE, STRETCH),
      channels,
    )) {
      for (const v of left) out.push(v)
    }
    return Float32Array.from(out)
  }

  it('has a stem as it is in the mix, at its own level, whatever its fader and mute', async () => {
    const stem = await stemOf(renderPlan(keyed, NOW), 1)
    const unmuted = applyEdits(keyed, [{ kind: 'set-node', node: 'b', change: { mute: false } }])
    const heard = renderPlan(unmuted, NOW)
    const only = { nodes: heard.nodes.map((n) => (n.id === 'a' ? { ...n, listening: 0 } : n)) }
    const gain = 10 ** (-9 / 20) / Math.SQRT2
    const [left] = render(only)
    const off = left.map((v, i) => v - gain * stem[i])
    expect(20 * Math.log10(rms(off) / rms(left))).toBeLessThan(-100)
    // The key is at work.
    const without = {
      ...keyed,
      tracks: keyed.tracks.map((t) => ({ ...t, chain: { ...t.chain, treatments: [] } })),
    }
    const plain = await stemOf(renderPlan(without, NOW), 1)
    expect(rms(stem)).toBeLessThan(0.98 * rms(plain))
  })
})
