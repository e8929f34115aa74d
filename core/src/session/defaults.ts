import type { EqBand } from './eq-band'
import { BUTTERWORTH_Q, type FilterType, type Role, SESSION_VERSION, STAGES } from './names'
import type { AudioRef, Chain, Session, Track } from './schema'

export function emptyChain(): Chain {
  const stage = () => ({ on: true, moves: [] })
  return {
    clean: stage(),
    fit: stage(),
    shape: stage(),
    phase: 'minimum',
    output: { trimDb: 0, polarity: 'normal' },
  }
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
    mix: { faderDb: 0, chain: emptyChain() },
    references: [],
    passage: null,
    loop: true,
    timeOriginSeconds: null,
    leadIds: [],
    listeningDbSpl: 73,
    dismissed: [],
  }
}

export function newTrack(
  id: string,
  name: string,
  role: Role,
  letter: string,
  audio: AudioRef,
  offsetFrames = 0,
): Track {
  return {
    id,
    name,
    role,
    letter,
    audio,
    offsetFrames,
    faderDb: 0,
    pan: 0,
    mute: false,
    solo: false,
    lift: false,
    chain: emptyChain(),
  }
}

/** A band of a type with the values one would start from. */
export function newBand(type: FilterType, hz: number): EqBand {
  const shelfOrCut = type !== 'bell' && type !== 'notch' && type !== 'band-pass'
  return {
    type,
    hz,
    db: 0,
    q: shelfOrCut ? BUTTERWORTH_Q : 1.4,
    slopeDbPerOct: 12,
    channel: 'stereo',
  }
}

/** The first letter or pair (A … Z, AA, AB …) that none of the tracks carries. */
export function freeLetter(tracks: readonly Pick<Track, 'letter'>[]): string {
  const taken = new Set(tracks.map((t) => t.letter))
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

/** Number of moves of a chain that are switched on. */
export function activeMoves(chain: Chain): number {
  return STAGES.reduce(
    (sum, stage) => sum + (chain[stage].on ? chain[stage].moves.filter((m) => m.on).length : 0),
    0,
  )
}
