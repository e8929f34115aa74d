import type { EqBand } from '../filters'
import { MIX, type Treatment } from '../treatments'
import type { Chain, Session } from './schema'

/** One thing that a node has in one state of a session and not, or not so, in another. */
export type NodeTrait =
  | { readonly of: 'trim' | 'fader'; readonly db: number }
  | { readonly of: 'pan'; readonly pan: number }
  | { readonly of: 'mute' }
  /** Where it goes: the name of a group, or of the mix. */
  | { readonly of: 'output'; readonly to: string }
  | { readonly of: 'band'; readonly band: EqBand; readonly on: boolean }
  | { readonly of: 'treatment'; readonly treatment: Treatment }
  | { readonly of: 'chain-output'; readonly gainDb: number; readonly inverted: boolean }

/** What differs at one node: what it has in the first state only, and in the second only. */
export interface NodeDifference {
  readonly node: string
  readonly name: string
  readonly inFirst: readonly NodeTrait[]
  readonly inSecond: readonly NodeTrait[]
}

interface Compared {
  readonly id: string
  readonly name: string
  readonly traits: readonly NodeTrait[]
}

/** What differs between two states of a session, node by node: tracks, then groups, then the mix. */
export function stateDifferences(first: Session, second: Session): NodeDifference[] {
  const [a, b] = [nodesOf(first), nodesOf(second)]
  const all = [...a, ...b.filter((n) => !a.some((m) => m.id === n.id))]
  // Groups that only the second has stand before the mix too.
  all.sort((x, y) => Number(x.id === MIX) - Number(y.id === MIX))
  return all.flatMap(({ id, name }): NodeDifference[] => {
    const traits = [a, b].map((nodes) => nodes.find((n) => n.id === id)?.traits ?? [])
    const [inFirst, inSecond] = [without(traits[0], traits[1]), without(traits[1], traits[0])]
    return inFirst.length + inSecond.length > 0 ? [{ node: id, name, inFirst, inSecond }] : []
  })
}

function without(traits: readonly NodeTrait[], others: readonly NodeTrait[]): NodeTrait[] {
  const texts = new Set(others.map(textOf))
  return traits.filter((t) => !texts.has(textOf(t)))
}

/** What makes a trait the same as another: not by whom it was made, nor why. */
function textOf(trait: NodeTrait): string {
  if (trait.of !== 'treatment') return JSON.stringify(trait)
  const { kind, on, params, key, stage } = trait.treatment
  return JSON.stringify([kind, on, params, key, stage])
}

function nodesOf(session: Session): Compared[] {
  const nameOf = (id: string) => session.groups.find((g) => g.id === id)?.name ?? 'Mix'
  const routed = [...session.tracks, ...session.groups].map((node): Compared => {
    const { id, name, trimDb, faderDb, pan, mute, output, chain } = node
    const own: NodeTrait[] = [
      { of: 'trim', db: trimDb },
      { of: 'fader', db: faderDb },
      { of: 'pan', pan },
      { of: 'output', to: nameOf(output) },
      ...(mute ? [{ of: 'mute' } as const] : []),
    ]
    return { id, name, traits: [...own, ...chainTraits(chain)] }
  })
  const { trimDb, faderDb, chain } = session.mix
  const mix: NodeTrait[] = [
    { of: 'trim', db: trimDb },
    { of: 'fader', db: faderDb },
  ]
  return [...routed, { id: MIX, name: 'Mix', traits: [...mix, ...chainTraits(chain)] }]
}

function chainTraits({ treatments, output }: Chain): NodeTrait[] {
  return [
    ...treatments.flatMap((treatment): NodeTrait[] =>
      treatment.kind === 'equaliser'
        ? treatment.params.bands.map(({ band, on }) => ({
            of: 'band',
            band,
            on: on && treatment.on,
          }))
        : [{ of: 'treatment', treatment }],
    ),
    { of: 'chain-output', gainDb: output.gainDb, inverted: output.polarity === 'inverted' },
  ]
}

/** The greatest boost of any band that is on, in dB; 0 where nothing is raised. */
export function greatestBoostDb(session: Session): number {
  return nodesOf(session)
    .flatMap((n) => n.traits)
    .reduce((most, t) => (t.of === 'band' && t.on ? Math.max(most, t.band.db) : most), 0)
}
