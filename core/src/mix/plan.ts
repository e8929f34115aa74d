import { dbToAmplitude } from '../audio'
import { groupsAbove, type Routed, type Session, type TrimmedChain, trimmedChain } from '../session'
import { asRendered, type KindRegistry, MIX, type TreatmentPlan, workingsOf } from '../treatments'

/** How a track, a group or the mix is to sound. */
export interface NodePlan {
  readonly id: string
  /** Which recording a track plays, by its content hash; null for groups and the mix. */
  readonly source: string | null
  readonly channels: 1 | 2
  readonly offsetFrames: number
  /** The node its sound flows into; null for the mix. */
  readonly output: string | null
  /** Treatments that are switched on, in order. */
  readonly treatments: readonly TreatmentPlan[]
  /** Gain ahead of the treatments. */
  readonly trim: number
  /** Gain behind the treatments: output and polarity. */
  readonly gain: number
  readonly faderDb: number
  readonly pan: number
  /** Whether it is muted. A key after the fader is silent then too. */
  readonly mute: boolean
  /** Gain of solo and lift: for the ears only, keys never hear it. */
  readonly listening: number
}

/** What a node does to its sound before fader and pan. */
export type NodeChain = Pick<NodePlan, 'trim' | 'treatments' | 'gain'>

/** What the mixer plays: a plain value, made anew from the session at each change. */
export interface MixPlan {
  /** Tracks, groups and, last, the mix. */
  readonly nodes: readonly NodePlan[]
}

/** How much a lifted track or group is raised while listening, in dB. */
export const LIFT_DB = 6

/** Designs a treatment's values; where it is slow, an earlier design of the same treatment may be given. */
export type Designer = (kind: string, params: unknown, treatment: string, node: string) => unknown

/** Designs that were made last, by what they were made from: parts of one mix ask for the same ones. */
const MOST_KEPT = 64
const kept = new Map<string, unknown>()

/** Designs on the spot. Heavy kinds take tens of milliseconds: for workers and the command line. */
export function designNow(sampleRateHz: number, kinds?: KindRegistry): Designer {
  return (name, params) => {
    const kind = workingsOf(name, kinds)
    if (!kind.isHeavy(params)) return kind.design(params, sampleRateHz)
    const key = JSON.stringify([name, sampleRateHz, params])
    const known = kept.get(key) ?? kind.design(params, sampleRateHz)
    kept.delete(key)
    kept.set(key, known)
    for (const oldest of kept.keys()) {
      if (kept.size <= MOST_KEPT) break
      kept.delete(oldest)
    }
    return known
  }
}

/** Leaves designing to whoever takes the plan over; see {@link withDesigns}. */
export const designLater: Designer = () => null

/** A plan with all designs made. */
export function withDesigns(plan: MixPlan, design: Designer): MixPlan {
  return {
    nodes: plan.nodes.map((node) => ({
      ...node,
      treatments: node.treatments.map((t) => ({
        ...t,
        design: design(t.kind, t.params, t.id, node.id),
      })),
    })),
  }
}

/** The plan for listening: solo and lift count. */
export function listeningPlan(session: Session, design: Designer): MixPlan {
  const soloed = [...session.tracks, ...session.groups].some((n) => n.solo)
  const asHeard = (_: string, params: unknown) => params
  return plan(session, design, asHeard, (node) => {
    const way = [node, ...groupsAbove(session, node.id)]
    // A group that is soloed, or stands above something soloed, lets everything through; tracks decide.
    const heard = !soloed || isGroup(session, node) || way.some((n) => n.solo)
    return heard ? 10 ** ((node.lift ? LIFT_DB : 0) / 20) : 0
  })
}

/** The plan for rendering and measuring: mutes count; solo and lift are for listening only. */
export function renderPlan(session: Session, design: Designer): MixPlan {
  return plan(session, design, asRendered, () => 1)
}

function isGroup(session: Session, node: Routed): boolean {
  return session.groups.some((g) => g.id === node.id)
}

function plan(
  session: Session,
  design: Designer,
  valuesOf: typeof asRendered,
  listening: (node: Routed) => number,
): MixPlan {
  const routed = (node: Routed) => ({
    ...chainPlan(trimmedChain(node), node.id, design, valuesOf),
    id: node.id,
    output: node.output,
    faderDb: node.faderDb,
    pan: node.pan,
    mute: node.mute,
    listening: listening(node),
  })
  return {
    nodes: [
      ...session.tracks.map((track) => ({
        ...routed(track),
        source: track.audio.hash,
        channels: track.audio.channels as 1 | 2,
        offsetFrames: track.offsetFrames,
      })),
      ...session.groups.map((group) => ({
        ...routed(group),
        source: null,
        channels: 2 as const,
        offsetFrames: 0,
      })),
      mixNode(session.mix.faderDb, chainPlan(trimmedChain(session.mix), MIX, design, valuesOf)),
    ],
  }
}

/** The node of a mix with its fader and what {@link chainPlan} says of its chain. */
export function mixNode(
  faderDb: number,
  chain: NodeChain = { trim: 1, treatments: [], gain: 1 },
): NodePlan {
  return {
    ...chain,
    id: MIX,
    source: null,
    channels: 2,
    offsetFrames: 0,
    output: null,
    faderDb,
    pan: 0,
    mute: false,
    listening: 1,
  }
}

/**
 * The treatments of a chain that are on, and the gains ahead of them and behind.
 * @param valuesOf the values that count: as they are rendered, unless one listens.
 */
export function chainPlan(
  chain: TrimmedChain,
  node: string,
  design: Designer,
  valuesOf: typeof asRendered = asRendered,
): NodeChain {
  const sign = chain.output.polarity === 'inverted' ? -1 : 1
  return {
    trim: dbToAmplitude(chain.trimDb),
    treatments: chain.treatments
      .filter((t) => t.on)
      .map(({ id, kind, params: set, key }) => {
        const params = valuesOf(kind, set)
        return { id, kind, params, key, design: design(kind, params, id, node) }
      }),
    gain: sign * dbToAmplitude(chain.output.gainDb),
  }
}

/**
 * Gains of a node's channels where it flows. A mono track is placed at constant power, -3 dB on both sides
 * in the middle; a stereo one keeps its level in the middle and loses the side it is turned away from.
 */
export function panGains(pan: number, channels: number): readonly [number, number] {
  const angle = ((pan + 1) * Math.PI) / 4
  const left = Math.cos(angle)
  const right = Math.sin(angle)
  if (channels === 1) return [left, right]
  return [Math.min(1, left * Math.SQRT2), Math.min(1, right * Math.SQRT2)]
}
