import { type Clip, dbToAmplitude, MemorySource, makeClip, scaled } from '../audio'
import { MIX } from '../treatments'
import { type MixPlan, mixNode, type NodePlan } from './plan'
import { type Recordings, renderMix, type Stretch } from './render'

/**
 * What flows into a mix over a stretch, before the mix's own chain. Kept from one state of a session to the next,
 * it makes a change to one track cost that track alone, and those that it meets in a group or a key.
 */
export interface MixBed {
  readonly left: Float32Array
  readonly right: Float32Array
  /** The plan of what is in it; null while it is empty. */
  readonly plan: MixPlan | null
}

/** A track or group that flows into the mix, with all that has a part in its sound. */
interface Branch {
  readonly key: string
  readonly nodes: readonly NodePlan[]
}

const BED = 'bed'

/**
 * Renders a stretch of the mix over a bed, and brings the samples of the bed up to date in place; its `plan` is
 * then this one. Rounding adds up to less than -120 dB over hundreds of changes. The mix's chain hears nothing
 * beyond the stretch: take it longer than its filters reach. The clip may be the bed itself: it is for reading.
 */
export function renderOverBed(
  plan: MixPlan,
  recordings: Recordings,
  sampleRateHz: number,
  stretch: Stretch,
  bed: MixBed,
): Clip {
  const [before, now] = [branches(bed.plan), branches(plan)]
  const add = (list: readonly Branch[], sign: 1 | -1) => {
    if (list.length === 0) return
    const { channels } = renderMix(joined(list), recordings, sampleRateHz, stretch)
    addTo(bed.left, channels[0], sign)
    addTo(bed.right, channels[1], sign)
  }
  add(without(before, now), -1)
  add(without(now, before), 1)
  const mix = plan.nodes[plan.nodes.length - 1]
  if (isPlain(mix)) {
    // What is at unity need not be copied.
    if (mix.faderDb === 0) return makeClip(sampleRateHz, [bed.left, bed.right])
    const gain = dbToAmplitude(mix.faderDb)
    return makeClip(sampleRateHz, [scaled(bed.left, gain), scaled(bed.right, gain)])
  }
  const lane: NodePlan = { ...mixNode(0), id: BED, source: BED, output: MIX }
  const samples = new MemorySource([bed.left, bed.right])
  return renderMix(
    { nodes: [{ ...lane, offsetFrames: stretch.fromFrame }, mix] },
    new Map([[BED, samples]]),
    sampleRateHz,
    stretch,
  )
}

/** Whether a mix's chain leaves the sound as it is, so that nothing beyond a stretch matters to it. */
export function isPlain({
  trim,
  treatments,
  gain,
}: Pick<NodePlan, 'trim' | 'treatments' | 'gain'>): boolean {
  return treatments.length === 0 && trim * gain === 1
}

/** The recordings that must be at hand to bring a bed from its plan to another. */
export function recordingsOfChange(bed: MixBed, plan: MixPlan): ReadonlySet<string> {
  const [before, now] = [branches(bed.plan), branches(plan)]
  const changed = [...without(before, now), ...without(now, before)]
  return new Set(changed.flatMap((b) => b.nodes.flatMap((n) => (n.source ? [n.source] : []))))
}

/** A track that alone, with nothing but its own chain, fader and pan, flows into the mix; null for any other node. */
export function trackAlone(plan: MixPlan, id: string): NodePlan | null {
  const node = plan.nodes.find((n) => n.id === id)
  if (!node?.source || node.output !== MIX || node.mute || node.listening !== 1) return null
  const isHeard = plan.nodes.some((n) => n.treatments.some((t) => t.key?.node === id))
  return isHeard || closure(plan.nodes, id).length > 1 ? null : node
}

/** The plan of a bed to which tracks were added as they are. */
export function bedPlan(tracks: readonly NodePlan[]): MixPlan {
  return { nodes: [...tracks, mixNode(0)] }
}

function branches(plan: MixPlan | null): Branch[] {
  const nodes = plan?.nodes ?? []
  return nodes
    .filter((n) => n.output === MIX && n.listening !== 0 && !n.mute)
    .map((top) => {
      const part = closure(nodes, top.id)
      return { key: JSON.stringify(part.map(asKey)), nodes: part }
    })
}

/** A node with everything that flows into it or is listened to on the way; the node first. */
function closure(nodes: readonly NodePlan[], id: string): NodePlan[] {
  const found = new Set<NodePlan>()
  const visit = (at: string, heard: boolean): void => {
    const node = nodes.find((n) => n.id === at)
    if (!node || found.has(node)) return
    found.add(node)
    for (const { key } of node.treatments) if (key) visit(key.node, false)
    for (const n of nodes) if (n.output === at) visit(n.id, heard)
  }
  visit(id, true)
  return [...found]
}

/** Designs follow from the values: they need not be compared. */
function asKey({ treatments, ...node }: NodePlan): unknown {
  return [node, treatments.map(({ design: _, ...rest }) => rest)]
}

/** One plan of some branches; what is only listened to in them stays unheard. */
function joined(list: readonly Branch[]): MixPlan {
  const nodes = new Map<string, NodePlan>()
  const heard = new Set(list.map((b) => b.nodes[0].id))
  for (const branch of list) for (const node of branch.nodes) nodes.set(node.id, node)
  const all = [...nodes.values()]
  return {
    nodes: [
      ...all.map((n) =>
        n.output === MIX && !heard.has(n.id)
          ? { ...n, listening: 0 }
          : n.output === null || n.output === MIX || nodes.has(n.output)
            ? n
            : { ...n, output: MIX, listening: 0 },
      ),
      mixNode(0),
    ],
  }
}

/** Branches of the first that are not in the second as they are. */
function without(list: readonly Branch[], others: readonly Branch[]): Branch[] {
  const there = new Set(others.map((b) => b.key))
  return list.filter((b) => !there.has(b.key))
}

function addTo(sum: Float32Array, values: Float32Array, sign: 1 | -1): void {
  for (let i = 0; i < sum.length; i++) sum[i] += sign * values[i]
}
