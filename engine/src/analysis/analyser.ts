import { type PlanGroup, type ThroughTrack, USUAL_GROUPS } from '@sober-prism/core/findings'
import type { Edit, Session } from '@sober-prism/core/session'
import { errorSentence, isCancel } from '../engine-error'
import type { PlaybackChoice } from '../questions/playback'
import { Signal } from '../signal'
import { RecordingShelf } from '../storage/recording-access'
import { keepResult, loadResult, touchResults } from '../storage/results'
import type { WorkerPool } from '../work/worker-pool'
import { type Analysis, NOTHING_MEASURED } from './analysis'
import { changesForHearing, foreseenHeard, foreseenLevels } from './foreseen'
import { Measurement, type StateFigures, type Surroundings } from './measurement'
import { MixBeds } from './mix-beds'
import { type ResultStore, Scheduler } from './scheduler'
import { changeSince } from './session-change'
import type { SessionFinding } from './session-finding'
import type { SharesAhead } from './shares-ahead'

const SETTLE_MS = 120
/** Steps of a drag on a slow machine are further apart than that. */
const HELD_MS = 1000
/** The same while more tracks come in. */
const MORE_COMING_MS = 5000
const STALE = 'a newer state of the session is measured'

const RESULTS: ResultStore = { load: loadResult, keep: keepResult, touch: touchResults }

interface Base {
  readonly session: Session
  readonly mono: boolean
  readonly analysis: Analysis
}

/** Measures a session, always the newest state of it, and shows what is known. */
export class Analyser {
  readonly state = new Signal<Analysis>(NOTHING_MEASURED)
  readonly #scheduler: Scheduler
  readonly #beds = new MixBeds()
  #session: Session | null = null
  /** The state that was measured last, or is being measured. */
  #measured: Session | null = null
  /** The state that all figures belong to. */
  #complete: Session | null = null
  #timer: ReturnType<typeof setTimeout> | undefined
  #run: AbortController | null = null
  #mono = false
  #more = false
  #held = false
  #measurement: Measurement | null = null

  /** What was measured last as a whole: what is foreseen is foreseen from it. */
  #base: Base | null = null

  /**
   * @param store where results are kept for the next time; null keeps none.
   * @param ahead foresees shares; without it levels alone are foreseen.
   */
  constructor(
    private readonly pool: WorkerPool,
    private readonly shelf: RecordingShelf = new RecordingShelf(),
    store: ResultStore | null = RESULTS,
    private readonly ahead: Pick<SharesAhead, 'take' | 'change' | 'close'> | null = null,
  ) {
    this.#scheduler = new Scheduler(store)
  }

  /** Takes a new state of the session; measuring begins when it has stood still for a moment. */
  update(session: Session): void {
    if (session === this.#session) return
    this.#session = session
    if (this.state.value.fresh) this.#show({ fresh: false })
    void this.#foresee()
    this.#wait()
  }

  /** Shows at once what the last measured state foretells of this one, until this one is measured. */
  async #foresee(): Promise<void> {
    const [base, session] = [this.#base, this.#session]
    // Pictures need not follow each step of a drag.
    if (!base || !session || this.#held || base.mono !== this.#mono) return
    const change = changeSince(base.session, session)
    if (!change || change.tracks.size + change.buses.size === 0) return this.#showMeasured(base)
    const levels = foreseenLevels(base.analysis, base.session, session, change)
    this.#show({ ...levels, foreseen: true })
    const shares = await this.ahead?.change(changesForHearing(change))
    // What was measured meanwhile is better.
    if (!shares || this.#session !== session || !this.state.value.foreseen) return
    this.#show({ heard: foreseenHeard(base.analysis.heard, shares), sharesForeseen: true })
  }

  /** Figures as they were measured last, in place of what was foreseen of another state. */
  #showMeasured({ analysis: { tracks, groups, mix, heard } }: Base): void {
    if (!this.state.value.foreseen) return
    this.#show({ tracks, groups, mix, heard, foreseen: false, sharesForeseen: false })
  }

  #wait(): void {
    clearTimeout(this.#timer)
    const wait = this.#more ? MORE_COMING_MS : this.#held ? HELD_MS : SETTLE_MS
    this.#timer = setTimeout(() => void this.#measure(), wait)
  }

  /** Whether a drag may be going on: measuring waits longer then, so that it is not begun anew with each step of it. */
  hold(held: boolean): void {
    if (held === this.#held) return
    this.#held = held
    if (!this.#session || this.#session === this.#measured) return
    void this.#foresee()
    this.#wait()
  }

  /**
   * Whether more tracks are on their way in: measuring waits longer then, so that the mix is not begun anew with each.
   */
  expectMore(more: boolean): void {
    if (more === this.#more) return
    this.#more = more
    if (more || !this.#session || this.#session === this.#measured) return
    this.#wait()
  }

  /** Whether tracks are surveyed as they are, or folded to mono. */
  setMono(mono: boolean): void {
    if (mono === this.#mono) return
    this.#mono = mono
    if (!this.#session) return
    this.#show({ fresh: false })
    this.restart()
  }

  /** Makes the plan for the session as it stands, of what is wanted. @throws EngineError when it cannot be computed. */
  async plan(groups: readonly PlanGroup[] = USUAL_GROUPS): Promise<void> {
    const survey = this.#measurement
    if (!survey || !this.state.value.fresh) return
    const plan = await survey.plan(groups)
    if (survey === this.#measurement && this.state.value.fresh) this.#show({ plan, work: null })
  }

  /**
   * What other moves than a finding proposes would do; null while there are no findings to go by.
   * @throws EngineError when it cannot be computed.
   */
  async predict(
    finding: SessionFinding,
    moves: readonly Edit[],
  ): Promise<SessionFinding['predicted']> {
    return (await this.#measurement?.predict(finding, moves)) ?? null
  }

  /**
   * What moves would do to the share of a track that is heard; null while nothing is measured to go by.
   * @throws EngineError when it cannot be computed.
   */
  async foreseeHeard(track: string, moves: readonly Edit[]): Promise<SessionFinding['predicted']> {
    return (await this.#measurement?.foresee({ of: 'heard', track }, moves)) ?? null
  }

  /** What is heard of each track in another state of the session, and its mix. @throws EngineError; the signal's reason. */
  figuresOf(session: Session, signal: AbortSignal): Promise<StateFigures> {
    const around = this.#around(signal)
    return new Measurement(session, around, () => {}).figures()
  }

  /** Who is heard behind another playback; null while not all is measured. @throws EngineError; the signal's reason. */
  async heardThrough(choice: PlaybackChoice, signal: AbortSignal): Promise<ThroughTrack[] | null> {
    return (await this.#measurement?.through(choice, signal)) ?? null
  }

  #around(signal: AbortSignal): Surroundings {
    return {
      pool: this.pool,
      beds: this.#beds,
      scheduler: this.#scheduler,
      shelf: this.shelf,
      signal,
      mono: this.#mono,
    }
  }

  /** Gives up what is being measured; figures stay as they are until the next change or {@link restart}. */
  cancel(): void {
    this.#run?.abort(new DOMException('Measuring was cancelled.', 'AbortError'))
    this.#show({ work: null, problem: 'Measuring stopped. Values may be out of date.' })
  }

  restart(): void {
    this.#measured = null
    this.#complete = null
    void this.#measure()
  }

  close(): void {
    clearTimeout(this.#timer)
    this.#run?.abort(new DOMException(STALE, 'AbortError'))
    this.ahead?.close()
  }

  #show(change: Partial<Analysis>): void {
    this.state.set({ ...this.state.value, ...change })
  }

  #keepBase(session: Session, measurement: Measurement): void {
    const { surveyed } = measurement
    this.#base = surveyed && { session, mono: this.#mono, analysis: this.state.value }
    if (!surveyed) return
    const { settings } = surveyed
    const tracks = surveyed.tracks.map(({ id, reading, gainDb }) => ({
      id,
      heard: reading.heard,
      gainDb,
    }))
    // Without it, what is heard is known when it is measured.
    this.ahead?.take({ tracks, settings }).catch(() => {})
  }

  async #measure(): Promise<void> {
    const session = this.#session
    if (!session) return
    if (session === this.#measured) {
      // A change was taken back before it was measured.
      if (session === this.#complete) {
        if (this.#base) this.#showMeasured(this.#base)
        this.#show({ fresh: true })
      }
      return
    }
    this.#measured = session
    this.#run?.abort(new DOMException(STALE, 'AbortError'))
    const run = new AbortController()
    this.#run = run
    this.#show({ plan: null })
    try {
      const around = this.#around(run.signal)
      this.#measurement = new Measurement(session, around, (change) => {
        if (!run.signal.aborted) this.#show(change)
      })
      await this.#measurement.run(this.state.value)
      if (run.signal.aborted) return
      this.#complete = session
      this.#keepBase(session, this.#measurement)
    } catch (error) {
      if (run.signal.aborted || isCancel(error)) return
      this.#show({ work: null, problem: errorSentence(error) })
    }
  }
}
