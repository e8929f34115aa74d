import { MIX } from '../treatments'
import { type MixPlan, mixNode, type NodePlan } from './plan'

/** The ids of a node and of everything that flows into it. */
function within(nodes: readonly NodePlan[], id: string): ReadonlySet<string> {
  const inside = new Set([id])
  for (let grown = true; grown; ) {
    grown = false
    for (const node of nodes) {
      if (inside.has(node.id) || node.output === null || !inside.has(node.output)) continue
      inside.add(node.id)
      grown = true
    }
  }
  return inside
}

/**
 * The mix with one group alone in it, behind its fader and pan, and without the mix's own chain and fader: the
 * stems of all that flows straight into the mix add up to what goes into the mix's chain. What others listen to
 * is still there for them.
 */
export function stemPlan({ nodes }: MixPlan, id: string): MixPlan {
  const inside = within(nodes, id)
  return {
    nodes: [
      ...nodes
        .filter((n) => n.output !== null)
        .map((n) => {
          if (n.id === id) return { ...n, output: MIX }
          return inside.has(n.id) ? n : { ...n, listening: 0 }
        }),
      mixNode(0),
    ],
  }
}

/**
 * The mix with one track alone in it, through its own chain and the chains of the groups it flows through, all
 * faders at 0 dB and nothing muted: as it is measured.
 */
export function pathPlan({ nodes }: MixPlan, id: string): MixPlan {
  const byId = new Map(nodes.map((n) => [n.id, n]))
  const way = new Set<string>()
  for (let at = byId.get(id); at && at.output !== null; at = byId.get(at.output)) way.add(at.id)
  const open = { faderDb: 0, mute: false, listening: 1 }
  return {
    nodes: [
      ...nodes
        .filter((n) => n.output !== null)
        .map((n) => (way.has(n.id) ? { ...n, ...open } : { ...n, listening: 0 })),
      mixNode(0),
    ],
  }
}

/** Whether a track listens to others: its sound is made in the mix then, and not by itself. */
export function isKeyed(treatments: readonly { on: boolean; key: unknown }[]): boolean {
  return treatments.some((t) => t.on && t.key !== null)
}

/**
 * The mix with one track alone in it, behind its chain, before fader and pan, with what it listens to still there for it.
 * A mono track lies on both sides at its own level.
 */
export function trackPlan({ nodes }: MixPlan, id: string): MixPlan {
  const open = { output: MIX, pan: 0, mute: false, listening: 1 }
  return withoutSilent({
    nodes: [
      ...nodes
        .filter((n) => n.output !== null)
        .map((n) =>
          n.id === id ? { ...n, ...open, faderDb: atOwnLevel(n) } : { ...n, listening: 0 },
        ),
      mixNode(0),
    ],
  })
}

/** A mono track in the middle is 3 dB lower on either side: this takes it back. */
const atOwnLevel = ({ channels }: NodePlan) => (channels === 1 ? 20 * Math.log10(Math.SQRT2) : 0)

/** A track's own channels from what {@link trackPlan} renders. */
export async function* trackStem(
  pieces: AsyncIterable<readonly Float32Array[]>,
  channels: number,
): AsyncGenerator<readonly Float32Array[]> {
  for await (const piece of pieces) yield piece.slice(0, channels)
}

/**
 * What comes out of a group or the mix, its fader at 0 dB and nothing of it muted: behind its chain, or before it.
 */
export function busPlan(plan: MixPlan, id: string, withChain: boolean): MixPlan {
  const { nodes } = id === MIX ? plan : stemPlan(plan, id)
  const open = {
    faderDb: 0,
    mute: false,
    listening: 1,
    ...(withChain ? {} : { treatments: [], gain: 1 }),
  }
  return { nodes: nodes.map((n) => (n.id === id ? { ...n, ...open } : n)) }
}

/**
 * A plan without nodes whose sound reaches nobody's ears and no key: they need not be run. What is only listened to then
 * flows, silent, straight into the mix.
 */
export function withoutSilent({ nodes }: MixPlan): MixPlan {
  const keep = new Set<string>([MIX])
  const feeders = (id: string) =>
    nodes.filter((n) => n.output === id && n.listening !== 0).map((n) => n.id)
  const byId = new Map(nodes.map((n) => [n.id, n]))
  const inputs = (id: string) => nodes.filter((n) => n.output === id).map((n) => n.id)
  const visit = (id: string, all: boolean): void => {
    for (const { key } of byId.get(id)?.treatments ?? []) if (key) take(key.node, true)
    for (const feeder of all ? inputs(id) : feeders(id)) take(feeder, all)
  }
  const take = (id: string, all: boolean): void => {
    if (keep.has(id)) return
    keep.add(id)
    visit(id, all)
  }
  visit(MIX, false)
  const kept = nodes.filter((n) => keep.has(n.id))
  return {
    nodes: kept.map((n) =>
      n.output === null || keep.has(n.output) ? n : { ...n, output: MIX, listening: 0 },
    ),
  }
}
