import { describe, expect, it } from 'vitest'
import * as z from 'zod'
import { applyEdits, DocumentError, findCycle, type Session, sessionSchemaFor } from '../session'
import { add, addEqualiser, apart, RATE, recordingsOf, sessionOf } from '../testing/sessions'
import { rms, whiteNoise } from '../testing/signals'
import { type AnyKind, type KindRegistry, newTreatment, TREATMENT_KINDS } from '../treatments'
import { designNow, listeningPlan, type MixPlan, renderMix, renderPlan } from './index'

/**
 * A kind of treatment for tests: it takes the key's sound away from its own. Where both carry the same sound,
 * silence is left if and only if they meet to the frame.
 */
const minusKey: AnyKind = {
  kind: 'minus-key',
  name: 'Minus its key',
  params: z.strictObject({ gain: z.number() }),
  takesKey: true,
  defaults: () => ({ gain: 1 }),
  file: { params: z.unknown(), read: (p) => p, write: (p) => p },
  design: () => 'nothing',
  isHeavy: () => false,
  latency: () => 0,
  make: () => {
    let gain = 1
    return {
      latency: 0,
      idle: false,
      fits: () => true,
      set: (params) => {
        ;({ gain } = params as { gain: number })
      },
      process(channels, frames, key) {
        if (!key) return
        channels.forEach((channel, c) => {
          const from = key[Math.min(c, key.length - 1)]
          for (let i = 0; i < frames; i++) channel[i] -= gain * from[i]
        })
      },
      reset: () => {},
      dispose: () => {},
    }
  },
  acts: () => true,
  response: () => ({ sections: [], kernels: [], latency: 0, sign: 1, delayFrames: 0 }),
  describe: () => 'minus its key',
}
const KINDS = { ...TREATMENT_KINDS, 'minus-key': minusKey } as unknown as KindRegistry
const NOW = designNow(RATE, KINDS)
const STRETCH = { fromFrame: 12_000, toFrame: 36_000 }

/** A session in which a treatment on `node` takes `key` away; laid into the document, as no edit knows it. */
function listening(
  session: Session,
  node: string,
  key: string,
  tap: 'before-fader' | 'after-fader' = 'after-fader',
  as: 'mono' | 'mid-side' = 'mono',
): Session {
  const made = structuredClone(session)
  const owner = [...made.tracks, ...made.groups].find((n) => n.id === node)
  owner?.chain.treatments.push({
    ...newTreatment('equaliser', 'minus', 'shape'),
    kind: 'minus-key',
    params: { gain: 1 },
    key: { node: key, tap, as },
  } as never)
  return made
}

function render(plan: MixPlan, ...sounds: Float32Array[][]) {
  return renderMix(plan, recordingsOf(...sounds), RATE, STRETCH, { kinds: KINDS }).channels
}

const noise = whiteNoise(96_000, 5, 0.2)
const LATE = { linear: 'linear', mixed: 'mixed', none: 'minimum' } as const
type Late = keyof typeof LATE
/** At 0 dB an equaliser changes nothing but, in its phase mode, when its sound comes out. */
const late = (node: string, id: string, how: Late) =>
  how === 'none' ? [] : [addEqualiser(node, id, [{ db: 0, hz: 5000 }], LATE[how], 'clean')]

describe('a key', () => {
  const all = ['none', 'mixed', 'linear'] as const
  const mixes = all.flatMap((key) =>
    all.flatMap((own) => all.flatMap((group) => all.map((mix) => [key, own, group, mix] as const))),
  )

  it.each(mixes)(
    'meets its programme to the frame: key %s, programme %s, nested groups %s, mix %s',
    (key, own, group, mix) => {
      // The programme lies in a group in a group, the key beside them.
      const made = applyEdits(sessionOf(['lead', 'other']), [
        { kind: 'add-group', id: 'inner', name: 'Inner', members: ['other'] },
        { kind: 'add-group', id: 'outer', name: 'Outer', members: ['inner'] },
        // Two channels at half the power each carry the programme; its key is their mean.
        { kind: 'set-node', node: 'lead', change: { faderDb: 20 * Math.log10(Math.SQRT2) } },
        { kind: 'set-node', node: 'lead', change: { solo: false } },
        ...late('lead', 'k', key),
        ...late('other', 'p', own),
        ...late('inner', 'i', group),
        ...late('outer', 'o', group),
        ...late('mix', 'm', mix),
      ])
      const heard = listening(made, 'other', 'lead')
      const plan = renderPlan(heard, NOW)
      // Only the programme is listened to.
      const only = {
        nodes: plan.nodes.map((n) => (n.id === 'lead' ? { ...n, listening: 0 } : n)),
      }
      const [left] = render(only, [noise], [noise])
      expect(rms(left)).toBeLessThan(2e-5)
      const without = renderPlan(made, NOW)
      const [loud] = render(
        { nodes: without.nodes.map((n) => (n.id === 'lead' ? { ...n, listening: 0 } : n)) },
        [noise],
        [noise],
      )
      expect(rms(loud)).toBeGreaterThan(0.05)
    },
  )

  const base = sessionOf(['lead', 'other'])
  const onlyOther = (session: Session) => {
    const plan = renderPlan(session, NOW)
    return { nodes: plan.nodes.map((n) => (n.id === 'lead' ? { ...n, listening: 0 } : n)) }
  }
  const lowered = applyEdits(base, [{ kind: 'set-node', node: 'lead', change: { faderDb: -60 } }])
  const muted = applyEdits(base, [{ kind: 'set-node', node: 'lead', change: { mute: true } }])

  it('before the fader hears neither fader nor mute; after it, both', () => {
    for (const session of [lowered, muted]) {
      const before = render(
        onlyOther(listening(session, 'other', 'lead', 'before-fader')),
        [noise],
        [noise],
      )
      expect(rms(before[0])).toBeLessThan(1e-6)
      const after = render(onlyOther(listening(session, 'other', 'lead')), [noise], [noise])
      expect(rms(after[0])).toBeGreaterThan(0.07)
    }
  })

  it('never hears solo or lift', () => {
    const soloed = applyEdits(listening(base, 'other', 'lead', 'before-fader'), [
      { kind: 'set-node', node: 'other', change: { solo: true } },
    ])
    const [left] = render(listeningPlan(soloed, NOW), [noise], [noise])
    expect(rms(left)).toBeLessThan(1e-6)
  })

  it('is silent once its track is removed: the treatment stays and passes', () => {
    const made = listening(base, 'other', 'lead')
    const removed = applyEdits(made, [{ kind: 'remove-node', node: 'lead' }])
    expect(removed.tracks[0].chain.treatments[0]).toMatchObject({ on: true, key: null })
    const recordings = recordingsOf([noise], [noise])
    const plan = renderPlan(removed, NOW)
    const [left] = renderMix(plan, recordings, RATE, STRETCH, { kinds: KINDS }).channels
    expect(
      apart(
        left,
        noise.subarray(12_000).map((v) => v * Math.SQRT1_2),
      ),
    ).toBeLessThan(1e-6)
  })

  it('comes by middle and sides as two channels', () => {
    const side = whiteNoise(96_000, 9, 0.1)
    const wide = [noise.map((v, i) => v + side[i]), noise.map((v, i) => v - side[i])]
    const made = listening(
      sessionOf(['lead', 'other'], 2),
      'other',
      'lead',
      'after-fader',
      'mid-side',
    )
    // The other's left is the lead's middle, its right the lead's sides: nothing is left of either.
    const [left, right] = render(onlyOther(made), wide, [noise, side])
    expect(Math.max(rms(left), rms(right))).toBeLessThan(1e-6)
  })

  it('that closes a cycle is refused by the document, in a sentence that names it', () => {
    const schema = sessionSchemaFor(KINDS)
    const grouped = applyEdits(base, [
      { kind: 'add-group', id: 'g', name: 'Band', members: ['other'] },
    ])
    const rings: [Session, string][] = [
      [listening(grouped, 'other', 'g'), 'other → Band → other'],
      [listening(listening(base, 'other', 'lead'), 'lead', 'other'), 'lead → other → lead'],
      [listening(base, 'lead', 'lead'), 'lead would feed itself'],
    ]
    for (const [session, words] of rings) {
      const parsed = schema.safeParse(session)
      expect(parsed.success).toBe(false)
      expect(parsed.error?.issues[0].message).toContain(words)
      expect(findCycle(session)).not.toBeNull()
    }
    expect(schema.safeParse(listening(grouped, 'other', 'lead')).success).toBe(true)
  })

  it('is refused where the kind takes none', () => {
    const treatment = newTreatment('equaliser', 'e', 'fit')
    const keyed = { ...treatment, key: { node: 'lead', tap: 'after-fader', as: 'mono' } } as const
    expect(() => applyEdits(base, [add('other', keyed as never)])).toThrow(DocumentError)
    expect(() => applyEdits(base, [add('other', keyed as never)])).toThrow(/takes no key/)
  })

  it('that is not there is refused, and a group in itself too', () => {
    expect(sessionSchemaFor(KINDS).safeParse(listening(base, 'other', 'nobody')).success).toBe(
      false,
    )
    const nested = applyEdits(base, [
      { kind: 'add-group', id: 'g', name: 'G', members: ['lead'] },
      { kind: 'add-group', id: 'h', name: 'H', members: ['g'] },
    ])
    expect(() => applyEdits(nested, [{ kind: 'set-output', node: 'h', output: 'g' }])).toThrow(
      /G → H → G|H → G → H/,
    )
  })
})
