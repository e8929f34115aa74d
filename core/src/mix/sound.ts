import { groupsAbove, type Session, type Track, trimmedChain } from '../session'
import { asRendered, MIX } from '../treatments'
import { chainPlan, designLater, type MixPlan, type NodeChain, renderPlan } from './plan'
import { busPlan, isKeyed, pathPlan, stemPlan, trackPlan, withoutSilent } from './stems'

/**
 * Where a sound is taken on its way:
 * - `recorded`: a track's or reference's recording; of a group or the mix what flows into it
 * - `trimmed`: behind the trim
 * - `{ behind }`: behind one treatment of the chain, by its id
 * - `chain`: behind the chain and its output, before fader and pan
 * - `placed`: behind chain, pan and the chains of all groups above, every fader at 0 dB and nothing muted: as it is measured
 * - `fader`: as it goes into the mix's chain, behind its fader, pan and groups; of the mix: behind the mix's own fader
 */
export type Tap =
  | 'recorded'
  | 'trimmed'
  | { readonly behind: string }
  | 'chain'
  | 'placed'
  | 'fader'

interface SoundBase {
  readonly sampleRateHz: number
  /** In how many channels it comes. */
  readonly channels: 1 | 2
}

/** One recording through its own chain. */
export interface ChainSound extends SoundBase {
  readonly of: 'chain'
  readonly source: string
  readonly offsetFrames: number
  readonly chain: NodeChain
  /** Where it is placed between left and right; null where it keeps its own channels. */
  readonly pan: number | null
}

/** What the mixer makes of several nodes. */
export interface MixSound extends SoundBase {
  readonly of: 'mix'
  readonly plan: MixPlan
}

/** What is heard at one place of a session: a plain value that names recordings by their content and says all that is done. */
export type Sound = ChainSound | MixSound

const NOTHING_DONE: NodeChain = { trim: 1, treatments: [], gain: 1 }

/** The sound of a track, group, the mix or a reference (on its own time line); null where there is no such node. */
export function soundOf(session: Session, node: string, tap: Tap): Sound | null {
  const track = session.tracks.find((t) => t.id === node)
  if (track) return trackSound(session, track, tap)
  const reference = session.references.find((r) => r.id === node)
  if (reference) {
    const { hash, channels } = reference.audio
    return {
      of: 'chain',
      sampleRateHz: session.sampleRateHz,
      channels: channels as 1 | 2,
      source: hash,
      offsetFrames: 0,
      chain: NOTHING_DONE,
      pan: null,
    }
  }
  if (node !== MIX && !session.groups.some((g) => g.id === node)) return null
  return mixSound(session, busAt(renderPlan(session, designLater), node, tap))
}

/** What a plan mixes to. */
export function mixSound(
  { sampleRateHz }: Pick<Session, 'sampleRateHz'>,
  plan: MixPlan,
  channels: 1 | 2 = 2,
): MixSound {
  return { of: 'mix', sampleRateHz, channels, plan }
}

function busAt(plan: MixPlan, node: string, tap: Tap): MixPlan {
  if (tap === 'fader') return node === MIX ? plan : withoutSilent(stemPlan(plan, node))
  const open = busPlan(plan, node, tap !== 'recorded' && tap !== 'trimmed')
  if (tap === 'chain' || tap === 'placed') return open
  const cut = (chain: NodeChain): NodeChain => {
    if (tap === 'recorded') return NOTHING_DONE
    return tap === 'trimmed' ? { ...NOTHING_DONE, trim: chain.trim } : upTo(chain, tap.behind)
  }
  return { nodes: open.nodes.map((n) => (n.id === node ? { ...n, ...cut(n) } : n)) }
}

function trackSound(session: Session, track: Track, tap: Tap): Sound {
  // A plan of the whole is made only for what the mixer runs: most tracks are told by their own chain.
  const plan = () => renderPlan(session, designLater)
  if (tap === 'fader') return mixSound(session, withoutSilent(stemPlan(plan(), track.id)))
  const whole = chainPlan(trimmedChain(track), track.id, designLater, asRendered)
  const chain =
    tap === 'recorded'
      ? NOTHING_DONE
      : tap === 'trimmed'
        ? { ...NOTHING_DONE, trim: whole.trim }
        : typeof tap === 'object'
          ? upTo(whole, tap.behind)
          : whole
  const channels = track.audio.channels as 1 | 2
  if (tap === 'placed' && (isKeyed(track.chain.treatments) || isTreatedAbove(session, track))) {
    return mixSound(session, withoutSilent(pathPlan(plan(), track.id)))
  }
  if (chain.treatments.some((t) => t.key !== null)) {
    const cut = { nodes: plan().nodes.map((n) => (n.id === track.id ? { ...n, ...chain } : n)) }
    return mixSound(session, trackPlan(cut, track.id), channels)
  }
  const { sampleRateHz } = session
  const { audio, offsetFrames } = track
  const pan = tap === 'placed' ? track.pan : null
  // A mono track in the middle lies on both sides 3 dB down: one channel tells both.
  const isMiddle = pan === null || (channels === 1 && pan === 0)
  return {
    of: 'chain',
    sampleRateHz,
    channels: isMiddle ? channels : 2,
    source: audio.hash,
    offsetFrames,
    chain,
    pan: isMiddle ? null : pan,
  }
}

/** Whether a group above a track does something to it besides its fader. */
function isTreatedAbove(session: Session, track: Track): boolean {
  return groupsAbove(session, track.id).some((group) => {
    const { trimDb, treatments, output } = trimmedChain(group)
    return group.pan !== 0 || treatments.some((t) => t.on) || trimDb + output.gainDb !== 0
  })
}

function upTo({ trim, treatments }: NodeChain, id: string): NodeChain {
  const at = treatments.findIndex((t) => t.id === id)
  return { trim, treatments: treatments.slice(0, at + 1), gain: 1 }
}

/** The recordings that a sound is made of, by their hash. */
export function recordingsIn(sound: Sound): ReadonlySet<string> {
  if (sound.of === 'chain') return new Set([sound.source])
  return new Set(sound.plan.nodes.flatMap((n) => (n.source === null ? [] : [n.source])))
}

/** A recording that is heard as it is, but for its level; null where anything else is done to a sound. */
export function untreated(
  sound: Sound,
): { readonly source: string; readonly offsetFrames: number; readonly gain: number } | null {
  if (sound.of !== 'chain' || sound.pan !== null || sound.chain.treatments.length > 0) return null
  const { source, offsetFrames, chain } = sound
  return { source, offsetFrames, gain: chain.trim * chain.gain }
}
