import { MIX } from '../treatments'
import { emptyChain } from './defaults'
import { DocumentError } from './document-error'
import { MOST } from './names'
import { findCycle } from './routing'
import type { Chain, Group, KeptState, Session, Track, Variation } from './schema'

/** The session with no move at all: every chain empty, trims and faders at 0 dB, nothing grouped, panned or muted. */
export const AS_IT_CAME = 'as-it-came'

const PLAIN = { trimDb: 0, faderDb: 0, pan: 0, mute: false, output: MIX }

/** The variation that is worked in: it is what stands. Null where none was kept. */
export function workedIn({ variations }: Session): Variation | null {
  return variations.list.find((v) => v.state === null) ?? null
}

/** What a session is in a variation, or as it came; unchanged where that is what stands, or is not there. */
export function sessionInVariation(session: Session, id: string): Session {
  if (id === AS_IT_CAME) return asItCame(session)
  const { list, chains } = session.variations
  const state = list.find((v) => v.id === id)?.state
  if (!state) return session
  const chainAt = (key: string): Chain => chains[key] ?? emptyChain()
  const isTrack = (of: string) => session.tracks.some((t) => t.id === of)
  const kept = state.groups.filter((g) => !isTrack(g.id))
  const groups = kept.map(({ chain, ...group }): Group => {
    const now = session.groups.find((g) => g.id === group.id)
    const { solo = false, lift = false } = now ?? {}
    return { ...group, solo, lift, chain: chainAt(chain) }
  })
  // What came in since it was kept plays in it as it does now.
  const tracks = session.tracks.map((track): Track => {
    const held = Object.hasOwn(state.tracks, track.id) ? state.tracks[track.id] : null
    return held ? { ...track, ...held, chain: chainAt(held.chain) } : track
  })
  const mix = { ...state.mix, chain: chainAt(state.mix.chain) }
  return withoutLoose({ ...session, tracks, groups, mix })
}

function asItCame(session: Session): Session {
  const plain = <N extends object>(node: N) => ({ ...node, ...PLAIN, chain: emptyChain() })
  return {
    ...session,
    tracks: session.tracks.map(plain),
    groups: [],
    mix: { trimDb: 0, faderDb: 0, chain: emptyChain() },
  }
}

/** Ways to groups and keys to nodes that are not in a state lead to the mix, and nowhere. */
function withoutLoose(session: Session): Session {
  const groups = new Set(session.groups.map((g) => g.id))
  const nodes = new Set([...groups, ...session.tracks.map((t) => t.id)])
  const silenced = (chain: Chain): Chain =>
    chain.treatments.some((t) => t.key && !nodes.has(t.key.node))
      ? {
          ...chain,
          treatments: chain.treatments.map((t) =>
            t.key && !nodes.has(t.key.node) ? { ...t, key: null } : t,
          ),
        }
      : chain
  const tied = <N extends { output: string; chain: Chain }>(node: N): N => {
    const output = node.output === MIX || groups.has(node.output) ? node.output : MIX
    const chain = silenced(node.chain)
    return output === node.output && chain === node.chain ? node : { ...node, output, chain }
  }
  const made = {
    ...session,
    tracks: session.tracks.map(tied),
    groups: session.groups.map(tied),
    mix: { ...session.mix, chain: silenced(session.mix.chain) },
  }
  return findCycle(made) ? { ...made, tracks: made.tracks.map(deaf) } : made
}

/** A track whose treatments listen to nothing: what came in later may have closed a circle. */
function deaf(track: Track): Track {
  const treatments = track.chain.treatments.map((t) => (t.key ? { ...t, key: null } : t))
  return { ...track, chain: { ...track.chain, treatments } }
}

/**
 * Keeps what stands as a new variation, in which work goes on; the one that was worked in stays as it is now.
 * @throws DocumentError when there are as many as there can be.
 */
export function keepVariation(
  session: Session,
  { id, name, keptAt }: Pick<Variation, 'id' | 'name' | 'keptAt'>,
): Session {
  const { list } = session.variations
  if (list.length >= MOST.variations) {
    throw new DocumentError(`A session can keep up to ${MOST.variations} variations.`)
  }
  if (id === AS_IT_CAME || list.some((v) => v.id === id)) {
    throw new DocumentError('This variation is already in the session.')
  }
  const taken = list.map((v) => v.number)
  let number = 1
  while (taken.includes(number)) number++
  const settled = settle(session)
  const made: Variation = { id, number, name, note: '', keptAt, state: null }
  const all = [...settled.variations.list, made].sort((a, b) => a.number - b.number)
  return { ...settled, variations: { ...settled.variations, list: all } }
}

/** Goes on in another variation; the one that was worked in keeps what stands. */
export function workInVariation(session: Session, id: string): Session {
  const target = session.variations.list.find((v) => v.id === id)
  if (!target?.state) return session
  const made = sessionInVariation(settle(session), id)
  const list = made.variations.list.map((v) => (v.id === id ? { ...v, state: null } : v))
  return pruned({ ...made, variations: { ...made.variations, list } })
}

/** The same without a variation; the one that is worked in stays. */
export function removeVariation(session: Session, id: string): Session {
  const list = session.variations.list.filter((v) => v.id !== id || v.state === null)
  return pruned({ ...session, variations: { ...session.variations, list } })
}

/** One node as it is in another variation: chain, fader, pan and mute; its way stays. */
export function takeFromVariation(session: Session, id: string, node: string): Session {
  const other = sessionInVariation(session, id)
  if (node === MIX) {
    return withoutLoose({ ...session, mix: other.mix })
  }
  const taken = <N extends Track | Group>(nodes: readonly N[], from: readonly N[]): N[] =>
    nodes.map((n) => {
      const theirs = from.find((o) => o.id === node)
      if (n.id !== node || !theirs) return n
      const { trimDb, faderDb, pan, mute, chain } = theirs
      return { ...n, trimDb, faderDb, pan, mute, chain }
    })
  return withoutLoose({
    ...session,
    tracks: taken(session.tracks, other.tracks),
    groups: taken(session.groups, other.groups),
  })
}

/** The variation that was worked in gets what stands. */
function settle(session: Session): Session {
  const { list } = session.variations
  if (!workedIn(session)) return session
  const chains = { ...session.variations.chains }
  const known = new Map(Object.entries(chains).map(([key, chain]) => [JSON.stringify(chain), key]))
  let next = 1
  const keyOf = (chain: Chain): string => {
    const text = JSON.stringify(chain)
    const found = known.get(text)
    if (found !== undefined) return found
    while (`c${next}` in chains) next++
    const key = `c${next}`
    chains[key] = chain
    known.set(text, key)
    return key
  }
  const state: KeptState = {
    tracks: Object.fromEntries(
      session.tracks.map(({ id, trimDb, faderDb, pan, mute, output, chain }) => [
        id,
        { trimDb, faderDb, pan, mute, output, chain: keyOf(chain) },
      ]),
    ),
    groups: session.groups.map(({ solo: _solo, lift: _lift, chain, ...group }) => ({
      ...group,
      chain: keyOf(chain),
    })),
    mix: { ...session.mix, chain: keyOf(session.mix.chain) },
  }
  const kept = list.map((v) => (v.state === null ? { ...v, state } : v))
  return { ...session, variations: { list: kept, chains } }
}

/** Without chains that no variation holds any more. */
function pruned(session: Session): Session {
  const { list, chains } = session.variations
  const used = new Set(
    list.flatMap(({ state }) =>
      state
        ? [
            state.mix.chain,
            ...state.groups.map((g) => g.chain),
            ...Object.values(state.tracks).map((t) => t.chain),
          ]
        : [],
    ),
  )
  const left = Object.fromEntries(Object.entries(chains).filter(([key]) => used.has(key)))
  return { ...session, variations: { list, chains: left } }
}
