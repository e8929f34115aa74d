import { type Session, sessionInVariation, workedIn } from '@sober-prism/core/session'
import { hashOf } from '../analysis/scheduler'
import { Signal } from '../signal'
import { SESSION } from '../sound/player'

/** Loudness over the passage of each state that is compared, in LUFS, by the variation's id; null for silence. */
export type ComparedLoudness = ReadonlyMap<string, number | null>

/** So many run at once: each costs as much as the session itself. */
const MOST_RUNNING = 4

/**
 * States of a session that run beside it, so that each is heard at a key: variations, or the session as it came. All of
 * them are played as loud as the quietest.
 */
export class ComparedStates {
  readonly loudness = new Signal<ComparedLoudness>(new Map())
  #ids: readonly string[] = []
  /** Those that run, the one that was heard last at the end. */
  #running: readonly string[] = []
  #states = new Map<string, Session>()
  #of: Session | null = null
  /** The session whose states were measured last. */
  #read: Session | null = null

  /** @param measure the loudness of a session's mix over its passage. */
  constructor(private readonly measure: (session: Session) => Promise<number | null>) {}

  /** The name by which a state is played: that which is worked in is the session as it stands. */
  static nameOf(session: Session, id: string): string {
    return workedIn(session)?.id === id ? SESSION : `variation ${id}`
  }

  get ids(): readonly string[] {
    return this.#ids
  }

  /** Those that run beside the session, by the name they are played by. */
  playedBeside(session: Session): ReadonlyMap<string, Session> {
    this.#follow(session)
    return new Map(
      [...this.#states].flatMap(([id, state]) => {
        const name = ComparedStates.nameOf(session, id)
        return name === SESSION || !this.#running.includes(id) ? [] : [[name, state] as const]
      }),
    )
  }

  /** Which states are held ready; what of them is there no more is left out. */
  hold(ids: readonly string[]): void {
    this.#ids = ids
    this.#of = null
    const still = this.#running.filter((id) => ids.includes(id))
    const others = ids.filter((id) => !still.includes(id))
    this.#running = [
      ...others.slice(0, Math.max(0, MOST_RUNNING - still.length)).reverse(),
      ...still,
    ]
  }

  /** One is to be heard: it runs, in place of the one that was heard longest ago. */
  run(id: string): void {
    this.#running = [...this.#running.filter((r) => r !== id), id].slice(-MOST_RUNNING)
  }

  /** What was measured of what is held; null while it is not. */
  known(session: Session): ComparedLoudness | null {
    const { value } = this.loudness
    return this.#read === session && this.#ids.every((id) => value.has(id)) ? value : null
  }

  /** Measures what is held, as it is in a state of the session. @throws EngineError */
  async read(session: Session): Promise<ComparedLoudness> {
    this.#follow(session)
    const states = [...this.#states]
    const levels = await Promise.all(states.map(([, state]) => this.measure(state)))
    const found = new Map(states.map(([id], i) => [id, levels[i]]))
    if (this.#of === session) {
      this.loudness.set(found)
      this.#read = session
    }
    return found
  }

  #follow(session: Session): void {
    if (this.#of === session) return
    this.#of = session
    // A state that a change left as it was stays the same: nothing is sent or measured anew.
    this.#states = new Map(this.#ids.map((id) => [id, sessionInVariation(session, id)]))
  }
}

/** What brings each state to the quietest, in dB: never more than 0. Silent ones stay as they are. */
export function gainsToQuietest(loudness: ComparedLoudness): ReadonlyMap<string, number> {
  const known = [...loudness.values()].filter((v) => v !== null)
  const least = Math.min(...known)
  return new Map([...loudness].map(([id, lufs]) => [id, lufs === null ? 0 : least - lufs]))
}

/** Two states of which one does not see which is heard. */
export interface BlindPair {
  readonly first: string
  readonly second: string
  /** What is behind the unnamed place. */
  readonly hidden: 'first' | 'second'
}

/** Where one listens in a blind test: to one of both by its name, to the unnamed place, or to the other unnamed one. */
export type BlindPlace = 'first' | 'second' | 'hidden' | 'other'

/** The state that is heard at a place. */
export function stateAt({ first, second, hidden }: BlindPair, place: BlindPlace): string {
  if (place === 'first' || place === 'second') return place === 'first' ? first : second
  return (hidden === 'first') === (place === 'hidden') ? first : second
}

/** Fingerprint of a state of a session: its chains, trims, faders and ways. */
export function fingerprintOf({ tracks, groups, mix }: Session): string {
  const nodes = [...tracks, ...groups].map(
    ({ id, trimDb, faderDb, pan, mute, output, chain }) =>
      [id, trimDb, faderDb, pan, mute, output, chain] as const,
  )
  return hashOf([nodes, mix])
}
