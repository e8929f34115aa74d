import { MIX, type Treatment } from '../treatments'
import { type Role, SESSION_VERSION } from './names'
import type { AudioRef, Chain, Group, Routed, Session, Track, TrimmedChain } from './schema'

export function emptyChain(): Chain {
  return { treatments: [], output: { gainDb: 0, polarity: 'normal' } }
}

/** What a node does to its sound before its fader. */
export function trimmedChain({ trimDb, chain }: Pick<Track, 'trimDb' | 'chain'>): TrimmedChain {
  return { ...chain, trimDb }
}

/** Treatments by themselves: no trim, nothing at the output. */
export function chainWith(treatments: readonly Treatment[]): TrimmedChain {
  return { ...emptyChain(), treatments: [...treatments], trimDb: 0 }
}

export function emptySession(
  id: string,
  name: string,
  createdAt: string,
  sampleRateHz: number,
): Session {
  return {
    version: SESSION_VERSION,
    id,
    name,
    createdAt,
    sampleRateHz,
    tracks: [],
    groups: [],
    mix: { trimDb: 0, faderDb: 0, chain: emptyChain() },
    references: [],
    passage: null,
    passages: [],
    loop: true,
    normalise: null,
    timeOriginSeconds: null,
    leadIds: [],
    listeningDbSpl: 73,
    listening: 'speakers',
    dismissed: [],
    variations: { list: [], chains: {} },
    blindTests: [],
  }
}

const NODE = { trimDb: 0, faderDb: 0, pan: 0, mute: false, solo: false, lift: false, output: MIX }

export function newTrack(
  id: string,
  name: string,
  role: Role,
  letter: string,
  audio: AudioRef,
  offsetFrames = 0,
): Track {
  return { id, name, role, letter, audio, offsetFrames, ...NODE, chain: emptyChain() }
}

export function newGroup(id: string, name: string, letter: string, output = MIX): Group {
  return { id, name, letter, ...NODE, output, chain: emptyChain() }
}

/** The first letter or pair (A … Z, AA, AB …) that none of the nodes carries. */
export function freeLetter(nodes: readonly Pick<Track, 'letter'>[]): string {
  const taken = new Set(nodes.map((t) => t.letter))
  for (let n = 0; ; n++) {
    const last = String.fromCharCode(65 + (n % 26))
    const letter = n < 26 ? last : String.fromCharCode(64 + Math.floor(n / 26)) + last
    if (!taken.has(letter)) return letter
  }
}

/** Length of the session: the end of its last track, in frames. */
export function sessionFrames(session: Pick<Session, 'tracks'>): number {
  return session.tracks.reduce((end, t) => Math.max(end, t.offsetFrames + t.audio.frames), 0)
}

/** A track or group by its id. */
export function routedNode(session: Pick<Session, 'tracks' | 'groups'>, id: string): Routed | null {
  return session.tracks.find((t) => t.id === id) ?? session.groups.find((g) => g.id === id) ?? null
}

/** The chain of a track, a group or the mix. */
export function chainOf(session: Session, node: string): Chain | null {
  return node === MIX ? session.mix.chain : (routedNode(session, node)?.chain ?? null)
}

/** The groups that a node's sound passes, from the nearest to the mix. */
export function groupsAbove(session: Pick<Session, 'tracks' | 'groups'>, node: string): Group[] {
  const way: Group[] = []
  let at = routedNode(session, node)?.output
  while (at !== undefined && at !== MIX && way.length < session.groups.length) {
    const group = session.groups.find((g) => g.id === at)
    if (!group) break
    way.push(group)
    at = group.output
  }
  return way
}

/** Number of bands and other treatments of a chain that are switched on. */
export function activeMoves(chain: Chain): number {
  return chain.treatments.reduce((sum, t) => {
    if (!t.on) return sum
    return sum + (t.kind === 'equaliser' ? t.params.bands.filter((b) => b.on).length : 1)
  }, 0)
}
