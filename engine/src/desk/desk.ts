import { listeningPlan, renderPlan, type TrackAudio, withKernels } from '@sober-prism/core/chain'
import { type Session, sessionFrames } from '@sober-prism/core/session'
import { Analyser } from '../analysis/analyser'
import { ResultCache } from '../analysis/result-cache'
import type { SessionFinding } from '../analysis/session-finding'
import { EngineError } from '../engine-error'
import { Signal } from '../signal'
import type { LiveReading } from '../sound/live'
import { Player } from '../sound/player'
import { loadSamples, releaseSamples } from '../storage/samples'
import { WorkerPool } from '../work/worker-pool'
import { type AuditionMode, auditionSession } from './audition'
import { KernelStore, type PhaseCost } from './kernel-store'

/** What is passed by for comparing: `all` moves, one track's by its id, or the `mix`'s. */
export type CompareTarget = 'all' | 'mix' | string

/** State of the fair compare: off, being measured, or on with the gain that makes loudness equal. */
export type Compare =
  | { readonly kind: 'off' }
  | { readonly kind: 'measuring'; readonly target: CompareTarget }
  | { readonly kind: 'on'; readonly target: CompareTarget; readonly gainDb: number }

/** A finding that is listened to. */
export interface Audition {
  readonly key: string
  readonly mode: AuditionMode
  /** Gain that makes it as loud as the session as it stands; null while it is measured. */
  readonly gainDb: number | null
}

/** An open session at work: its sound, its measurements, and the workers that do them. */
export class Desk {
  readonly pool = new WorkerPool()
  readonly analyser = new Analyser(this.pool)
  readonly live = new Signal<LiveReading | null>(null)
  readonly compare = new Signal<Compare>({ kind: 'off' })
  readonly audition = new Signal<Audition | null>(null)
  readonly player: Player
  readonly #kernels: KernelStore
  readonly #loudness = new ResultCache(50)
  #session: Session | null = null
  /** What sounds in place of the session while a finding is listened to. */
  #auditioned: Session | null = null
  #audio = new Map<string, { hash: string; channels: TrackAudio }>()

  constructor(sampleRateHz: number) {
    this.player = new Player(sampleRateHz)
    this.#kernels = new KernelStore(this.pool, sampleRateHz, () => this.#sendPlan())
    this.player.onLive = (reading) => this.live.set(reading)
  }

  /** What the phase modes of chains cost. */
  get phaseCosts(): Signal<ReadonlyMap<string, PhaseCost>> {
    return this.#kernels.costs
  }

  /** Takes a new state of the session: sound follows at once, measurements when it stands still. */
  update(session: Session): void {
    const before = this.#session
    this.#session = session
    if (before && before !== session) this.stopAudition()
    if (before?.tracks !== session.tracks) void this.#loadTracks(session)
    this.#sendPlan()
    if (!before || before.passage !== session.passage || before.loop !== session.loop) {
      this.player.setLoop(session.loop ? session.passage : null)
      // Starting from silence, the passage is what one wants to hear.
      if (!before && session.passage) this.player.seek(session.passage.fromFrame)
    }
    this.analyser.update(session)
    const compare = this.compare.value
    if (compare.kind !== 'off') void this.startCompare(compare.target)
  }

  /** Passes moves by at equal loudness over the passage. @throws EngineError when it cannot be measured. */
  async startCompare(target: CompareTarget): Promise<void> {
    const session = this.#session
    if (!session) return
    const now = this.compare.value
    if (now.kind !== 'on' || now.target !== target) this.compare.set({ kind: 'measuring', target })
    const [treated, untreated] = await Promise.all([
      this.#mixLoudness(session, 'none'),
      this.#mixLoudness(session, target),
    ])
    const compare = this.compare.value
    if (compare.kind === 'off' || compare.target !== target || this.#session !== session) return
    const gainDb = treated === null || untreated === null ? 0 : treated - untreated
    this.player.setBypass({ of: target }, gainDb)
    this.compare.set({ kind: 'on', target, gainDb })
  }

  /**
   * Lets a finding be heard over the passage, as loud as the session as it stands: its band brought
   * forward, its moves in, or neither. @throws EngineError when its loudness cannot be measured.
   */
  async hear(finding: SessionFinding, mode: AuditionMode): Promise<void> {
    const session = this.#session
    if (!session) return
    this.stopCompare()
    this.audition.set({ key: finding.key, mode, gainDb: null })
    const changed = auditionSession(session, finding, mode)
    const [now, then] = await Promise.all([
      this.#mixLoudness(session, 'none'),
      this.#mixLoudness(changed, 'none'),
    ])
    const asked = this.audition.value
    if (asked?.key !== finding.key || asked.mode !== mode || this.#session !== session) return
    const gainDb = now === null || then === null ? 0 : now - then
    this.audition.set({ key: finding.key, mode, gainDb })
    const faderDb = changed.mix.faderDb + gainDb
    this.#auditioned = { ...changed, mix: { ...changed.mix, faderDb } }
    this.#sendPlan()
    if (!this.player.playing) {
      if (session.passage) this.player.seek(session.passage.fromFrame)
      await this.player.play()
    }
  }

  stopAudition(): void {
    if (!this.audition.value) return
    this.audition.set(null)
    this.#auditioned = null
    this.#sendPlan()
  }

  stopCompare(): void {
    this.player.setBypass({ of: 'none' }, 0)
    this.compare.set({ kind: 'off' })
  }

  async close(): Promise<void> {
    this.analyser.close()
    this.pool.close()
    await this.player.close()
    releaseSamples(new Set())
  }

  #sendPlan(): void {
    const session = this.#auditioned ?? this.#session
    if (!session) return
    const plan = listeningPlan(session)
    this.player.setPlan(withKernels(plan, (chain, owner) => this.#kernels.get(chain, owner)))
  }

  async #loadTracks(session: Session): Promise<void> {
    for (const [id, { hash }] of this.#audio) {
      if (session.tracks.some((t) => t.id === id && t.audio.hash === hash)) continue
      this.#audio.delete(id)
      this.player.setAudio(id, null)
    }
    for (const { id, audio } of session.tracks) {
      if (this.#audio.has(id)) continue
      try {
        const channels = await loadSamples(audio)
        if (!this.#session?.tracks.some((t) => t.id === id)) continue
        this.#audio.set(id, { hash: audio.hash, channels })
        this.player.setAudio(id, channels)
      } catch (error) {
        // The analyser says which audio is missing; the other tracks play.
        if (!(error instanceof EngineError)) throw error
      }
    }
    this.#sendPlan()
  }

  #mixLoudness(session: Session, bypass: CompareTarget | 'none'): Promise<number | null> {
    const plan = renderPlan(session)
    const stretch = session.passage ?? { fromFrame: 0, toFrame: sessionFrames(session) }
    const hashes = session.tracks.map((t) => t.audio.hash)
    const key = JSON.stringify([plan, hashes, stretch, bypass])
    return this.#loudness.get(key, async () => {
      const audio = new Map<string, TrackAudio>()
      for (const track of session.tracks) audio.set(track.id, await loadSamples(track.audio))
      const { sampleRateHz } = session
      const { lufs } = await this.pool.run('mixLoudness', {
        plan,
        audio,
        sampleRateHz,
        stretch,
        bypass,
      })
      return lufs
    })
  }
}
