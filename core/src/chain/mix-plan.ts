import type { PhasePlan } from '../filters'
import type { Chain, Session, Track } from '../session'

/** How a track is to sound, as the mixer needs it. */
export interface TrackPlan {
  readonly id: string
  readonly offsetFrames: number
  readonly faderDb: number
  readonly pan: number
  readonly audible: boolean
  readonly chain: Chain
  /** Kernels of the chain's phase mode; see `withKernels`. */
  readonly kernels?: PhasePlan | null
}

/** What the mixer plays: a plain value, made anew from the session at each change. */
export interface MixPlan {
  readonly tracks: readonly TrackPlan[]
  readonly faderDb: number
  readonly chain: Chain
  readonly kernels?: PhasePlan | null
}

/** How much a lifted track is raised while listening, in dB. */
export const LIFT_DB = 6

/** The plan for listening: solo and lift count. */
export function listeningPlan(session: Session): MixPlan {
  const soloed = session.tracks.some((t) => t.solo)
  return plan(session, (track) => ({
    audible: !track.mute && (!soloed || track.solo),
    faderDb: track.faderDb + (track.lift ? LIFT_DB : 0),
  }))
}

/** The plan for rendering and measuring: mutes count; solo and lift are for listening only. */
export function renderPlan(session: Session): MixPlan {
  return plan(session, (track) => ({ audible: !track.mute, faderDb: track.faderDb }))
}

function plan(
  session: Session,
  levels: (track: Track) => Pick<TrackPlan, 'audible' | 'faderDb'>,
): MixPlan {
  return {
    tracks: session.tracks.map((track) => ({
      id: track.id,
      offsetFrames: track.offsetFrames,
      pan: track.pan,
      chain: track.chain,
      ...levels(track),
    })),
    faderDb: session.mix.faderDb,
    chain: session.mix.chain,
  }
}

/**
 * Gains of a track's channels in the mix. A mono track is placed at constant power, -3 dB on both sides
 * in the middle; a stereo track keeps its level in the middle and loses the side it is turned away from.
 */
export function panGains(pan: number, channels: number): readonly [number, number] {
  const angle = ((pan + 1) * Math.PI) / 4
  const left = Math.cos(angle)
  const right = Math.sin(angle)
  if (channels === 1) return [left, right]
  return [Math.min(1, left * Math.SQRT2), Math.min(1, right * Math.SQRT2)]
}
