import { renderPlan, type Stretch, type TrackAudio } from '@sober-prism/core/chain'
import {
  coveredRegions,
  type Finding,
  readBalance,
  referenceTarget,
  type SurveyInput,
  slopeTarget,
} from '@sober-prism/core/findings'
import {
  addSums,
  emptySums,
  type MaskingSums,
  maskingFrames,
  pairMasking,
  SLOT_FRAMES,
  trackMasking,
} from '@sober-prism/core/hearing'
import { type Session, sessionFrames, type Track } from '@sober-prism/core/session'
import { EngineError, errorSentence, isCancel } from '../engine-error'
import { Signal } from '../signal'
import { keepResult, loadResult } from '../storage/results'
import { loadSamples } from '../storage/samples'
import type { Measured, MeasuredTrack } from '../work/tasks'
import type { WorkerPool } from '../work/worker-pool'
import { type Analysis, type Covering, type HeardTrack, NOTHING_MEASURED } from './analysis'
import { ResultCache } from './result-cache'
import { toSessionFinding, toSessionPlan } from './session-finding'

const SETTLE_MS = 120
const OVERVIEW_BUCKETS = 1200
/** Frames of masking per piece of work: long enough to be worth sending, short enough for progress. */
const PIECE_FRAMES = 3 * SLOT_FRAMES
/** Changes when the same input would give another result, so that older ones are not taken. */
const RESULT_VERSION = 1
const STALE = 'a newer state of the session is measured'

type TrackResult = MeasuredTrack

/**
 * Measures a session in the worker pool and keeps the results by what they were computed from, so that
 * after a change only what depends on it is computed again.
 */
export class Analyser {
  readonly state = new Signal<Analysis>(NOTHING_MEASURED)
  readonly #pool: WorkerPool
  readonly #cache = new ResultCache()
  readonly #store: ResultStore | null
  #session: Session | null = null
  #measured: Session | null = null
  #timer: ReturnType<typeof setTimeout> | undefined
  #run: AbortController | null = null
  #mono = false
  #measurement: Measurement | null = null

  /** @param store where results are kept for the next time; null keeps none. */
  constructor(
    pool: WorkerPool,
    store: ResultStore | null = { load: loadResult, keep: keepResult },
  ) {
    this.#pool = pool
    this.#store = store
  }

  /** Takes a new state of the session; measuring begins when it has stood still for a moment. */
  update(session: Session): void {
    if (session === this.#session) return
    this.#session = session
    if (this.state.value.fresh) this.#show({ fresh: false })
    clearTimeout(this.#timer)
    this.#timer = setTimeout(() => void this.#measure(), SETTLE_MS)
  }

  /** Whether tracks are surveyed as they are, or folded to mono. */
  setMono(mono: boolean): void {
    if (mono === this.#mono) return
    this.#mono = mono
    if (!this.#session) return
    this.#show({ fresh: false })
    this.restart()
  }

  /** Searches the plan for the session as it stands. @throws EngineError when it cannot be computed. */
  async plan(): Promise<void> {
    const survey = this.#measurement
    if (!survey || !this.state.value.fresh) return
    const plan = await survey.plan()
    if (survey === this.#measurement && this.state.value.fresh) this.#show({ plan, work: null })
  }

  /** Gives up what is being measured; figures stay as they are until the next change or {@link restart}. */
  cancel(): void {
    this.#run?.abort(new DOMException('Measuring was cancelled.', 'AbortError'))
    this.#show({ work: null, problem: 'Measuring was stopped. Figures may be out of date.' })
  }

  restart(): void {
    this.#measured = null
    void this.#measure()
  }

  close(): void {
    clearTimeout(this.#timer)
    this.#run?.abort(new DOMException(STALE, 'AbortError'))
  }

  #show(change: Partial<Analysis>): void {
    this.state.set({ ...this.state.value, ...change })
  }

  async #measure(): Promise<void> {
    const session = this.#session
    if (!session || session === this.#measured) return
    this.#measured = session
    this.#run?.abort(new DOMException(STALE, 'AbortError'))
    const run = new AbortController()
    this.#run = run
    this.#show({ plan: null })
    try {
      const around = {
        pool: this.#pool,
        cache: this.#cache,
        store: this.#store,
        signal: run.signal,
        mono: this.#mono,
      }
      this.#measurement = new Measurement(session, around, (change) => {
        if (!run.signal.aborted) this.#show(change)
      })
      await this.#measurement.run(this.state.value)
    } catch (error) {
      if (run.signal.aborted || isCancel(error)) return
      this.#show({ work: null, problem: errorSentence(error) })
    }
  }
}

/** Keeps results from one time to the next. */
export interface ResultStore {
  load(key: string): Promise<unknown>
  keep(key: string, value: unknown): Promise<void>
}

interface Surroundings {
  readonly pool: WorkerPool
  readonly store: ResultStore | null
  readonly cache: ResultCache
  readonly signal: AbortSignal
  readonly mono: boolean
}

/** One pass over one state of a session. */
class Measurement {
  readonly #rateHz: number
  readonly #stretch: Stretch

  readonly #pool: WorkerPool
  readonly #cache: ResultCache
  readonly #store: ResultStore | null
  readonly #signal: AbortSignal
  readonly #mono: boolean
  #survey: { input: SurveyInput; ids: readonly string[]; findings: readonly Finding[] } | null =
    null

  constructor(
    private readonly session: Session,
    around: Surroundings,
    private readonly show: (change: Partial<Analysis>) => void,
  ) {
    this.#pool = around.pool
    this.#cache = around.cache
    this.#store = around.store
    this.#signal = around.signal
    this.#mono = around.mono
    this.#rateHz = session.sampleRateHz
    this.#stretch = session.passage ?? { fromFrame: 0, toFrame: sessionFrames(session) }
  }

  /** @param before figures of an earlier state, which stay in sight until there are new ones. */
  async run(before: Analysis): Promise<void> {
    const { session } = this
    if (session.tracks.length === 0) {
      this.show({ ...NOTHING_MEASURED, fresh: true })
      return
    }
    const audio = await this.#loadAudio()
    const present = session.tracks.filter((t) => audio.has(t.id))
    // The mix takes longest: one worker is at it while the others measure tracks.
    const mix = this.#mix(audio)
    const measuring = this.#tracks(present, audio, before)
    const references = this.#references()
    const overview = this.#overview(audio)
    // They are awaited below; one that fails first must not count as unhandled meanwhile.
    for (const work of [overview, references, mix, measuring]) work.catch(() => {})
    const tracks = await measuring
    const masking = await this.#masking(present, tracks)
    await this.#findings(present, tracks, masking, await mix, await references)
    await overview
    this.show({ fresh: true, work: null })
  }

  /** The plan for what was surveyed; worker and search can be given up like any measuring. */
  async plan() {
    if (!this.#survey) return null
    const { input, ids, findings } = this.#survey
    const { plan } = await this.#pool.run(
      'plan',
      { survey: input, findings },
      {
        signal: this.#signal,
        onProgress: (share) => this.show({ work: { what: 'Searching the plan', share } }),
      },
    )
    return toSessionPlan(plan, ids)
  }

  async #loadAudio(): Promise<Map<string, TrackAudio>> {
    const audio = new Map<string, TrackAudio>()
    const missing: string[] = []
    for (const track of this.session.tracks) {
      try {
        audio.set(track.id, await loadSamples(track.audio))
      } catch (error) {
        if (!(error instanceof EngineError)) throw error
        missing.push(track.name)
      }
      this.#signal.throwIfAborted()
    }
    const problem =
      missing.length > 0
        ? `The audio of ${missing.join(', ')} is not in this browser. Bring the file in again.`
        : null
    this.show({ problem })
    return audio
  }

  #trackKey(track: Track): string {
    const { audio, offsetFrames, pan, chain } = track
    return JSON.stringify(['track', audio.hash, offsetFrames, pan, chain, this.#stretch])
  }

  async #tracks(
    present: readonly Track[],
    audio: ReadonlyMap<string, TrackAudio>,
    before: Analysis,
  ): Promise<Map<string, TrackResult>> {
    const results = new Map<string, TrackResult>()
    const shown = new Map(before.tracks)
    const shares = new Map<string, number>()
    const progress = () => {
      let sum = 0
      for (const share of shares.values()) sum += share
      this.show({ work: { what: 'Measuring the tracks', share: sum / present.length } })
    }
    await Promise.all(
      present.map(async (track) => {
        const result = await this.#cached(this.#trackKey(track), () =>
          this.#pool.run(
            'track',
            {
              chain: track.chain,
              audio: audio.get(track.id) ?? [],
              pan: track.pan,
              offsetFrames: track.offsetFrames,
              sampleRateHz: this.#rateHz,
              stretch: this.#stretch,
            },
            {
              queueSignal: this.#signal,
              onProgress: (share) => {
                shares.set(track.id, share)
                progress()
              },
            },
          ),
        )
        results.set(track.id, result)
        shares.set(track.id, 1)
        progress()
        shown.set(track.id, result)
        this.show({ tracks: new Map(shown) })
      }),
    )
    return results
  }

  async #references(): Promise<Map<string, Measured>> {
    const results = new Map<string, Measured>()
    for (const reference of this.session.references) {
      try {
        const samples = await loadSamples(reference.audio)
        const result = await this.#cached(`clip ${reference.audio.hash}`, () =>
          this.#pool.run(
            'clip',
            { audio: samples, sampleRateHz: this.#rateHz },
            { queueSignal: this.#signal },
          ),
        )
        results.set(reference.id, result)
      } catch (error) {
        if (!(error instanceof EngineError)) throw error
        this.show({
          problem: `The reference ${reference.name} cannot be measured. ${error.message}`,
        })
      }
    }
    this.show({ references: results })
    return results
  }

  async #overview(audio: ReadonlyMap<string, TrackAudio>): Promise<void> {
    const { session } = this
    const places = session.tracks.map((t) => [t.audio.hash, t.offsetFrames, t.faderDb, t.mute])
    const overview = await this.#cached(JSON.stringify(['overview', places]), () =>
      this.#pool.run(
        'overview',
        {
          plan: renderPlan(session),
          audio,
          sampleRateHz: this.#rateHz,
          stretch: { fromFrame: 0, toFrame: sessionFrames(session) },
          buckets: OVERVIEW_BUCKETS,
        },
        { queueSignal: this.#signal },
      ),
    )
    this.show({ overview })
  }

  async #mix(audio: ReadonlyMap<string, TrackAudio>): Promise<Measured> {
    const plan = renderPlan(this.session)
    const hashes = this.session.tracks.map((t) => t.audio.hash)
    const mix = await this.#cached(JSON.stringify(['mix', plan, hashes, this.#stretch]), () =>
      this.#pool.run(
        'mix',
        { plan, audio, sampleRateHz: this.#rateHz, stretch: this.#stretch, bypass: 'none' },
        { queueSignal: this.#signal },
      ),
    )
    this.show({ mix })
    return mix
  }

  /** A kept result, or a new one; work that an older measurement gave up on is taken up again. */
  async #cached<T>(key: string, compute: () => Promise<T>): Promise<T> {
    for (;;) {
      try {
        return await this.#cache.get(key, () => this.#stored(key, compute))
      } catch (error) {
        if (!isCancel(error) || this.#signal.aborted) throw error
      }
    }
  }

  /** A result that was kept from an earlier time, or a new one, which is kept. */
  async #stored<T>(key: string, compute: () => Promise<T>): Promise<T> {
    const storeKey = `${RESULT_VERSION} ${this.#rateHz} ${key}`
    const kept = await this.#store?.load(storeKey)
    if (kept !== undefined) return kept as T
    const result = await compute()
    void this.#store?.keep(storeKey, result)
    return result
  }

  #calibration() {
    return { lufs: -23, dbSpl: this.session.listeningDbSpl }
  }

  #maskingTracks(present: readonly Track[], results: ReadonlyMap<string, TrackResult>) {
    const { mix } = this.session
    return present.flatMap((track) => {
      const result = results.get(track.id)
      const gainDb = track.mute ? -200 : track.faderDb + mix.faderDb
      return result ? [{ bands: result.reading.bands, gainDb }] : []
    })
  }

  #maskingKey(present: readonly Track[]): string {
    const levels = present.map((t) => [this.#trackKey(t), t.faderDb, t.mute])
    const { faderDb } = this.session.mix
    return JSON.stringify(['masking', levels, faderDb, this.#calibration(), this.#mono])
  }

  async #masking(
    present: readonly Track[],
    results: ReadonlyMap<string, TrackResult>,
  ): Promise<MaskingSums> {
    const tracks = this.#maskingTracks(present, results)
    const sums = await this.#cached(this.#maskingKey(present), async () => {
      const frames = maskingFrames(tracks)
      const total = emptySums(tracks.length, frames)
      let done = 0
      const pieces: Promise<void>[] = []
      for (let from = 0; from < frames; from += PIECE_FRAMES) {
        const to = Math.min(frames, from + PIECE_FRAMES)
        const input = {
          tracks,
          calibration: this.#calibration(),
          mode: this.#mode,
          from,
          to,
        } as const
        const piece = this.#pool.run('masking', input, { queueSignal: this.#signal })
        pieces.push(
          piece.then((part) => {
            addSums(total, part, from)
            done += to - from
            this.show({ work: { what: 'Who covers whom', share: done / frames } })
          }),
        )
      }
      await Promise.all(pieces)
      return total
    })
    const heard = new Map<string, HeardTrack>()
    const covering: Covering[] = []
    for (const [index, track] of present.entries()) {
      const masking = trackMasking(sums, index)
      heard.set(track.id, {
        share: masking.audibleShare,
        aloneSone: masking.aloneSone,
        inMixSone: masking.inMixSone,
        covered: track.mute ? [] : coveredRegions(masking),
      })
      for (const [m, masker] of present.entries()) {
        if (m === index || track.mute || masker.mute) continue
        const { lostSone } = pairMasking(sums, index, m)
        const share = masking.aloneSone > 0 ? lostSone / masking.aloneSone : 0
        covering.push({ targetId: track.id, maskerId: masker.id, lostSone, share })
      }
    }
    this.show({ heard, covering, mono: this.#mono })
    return sums
  }

  async #findings(
    present: readonly Track[],
    results: ReadonlyMap<string, TrackResult>,
    sums: MaskingSums,
    mix: Measured,
    references: ReadonlyMap<string, Measured>,
  ): Promise<void> {
    const { session } = this
    const target =
      references.size > 0
        ? referenceTarget([...references.values()].map((r) => r.levels))
        : slopeTarget()
    const tracks = this.#maskingTracks(present, results).map(({ gainDb }, i) => ({
      reading: (results.get(present[i].id) as TrackResult).reading,
      gainDb,
      isLead: session.leadIds.includes(present[i].id),
    }))
    const input: SurveyInput = {
      tracks,
      sums,
      mixLevels: mix.levels,
      target,
      settings: {
        calibration: this.#calibration(),
        mode: this.#mode,
        sampleRateHz: this.#rateHz,
      },
    }
    this.show({ balance: readBalance(mix.levels, target) })
    const key = JSON.stringify([
      'findings',
      this.#maskingKey(present),
      session.leadIds,
      session.mix.chain,
      session.references.map((r) => r.audio.hash),
    ])
    const { findings } = await this.#cached(key, () =>
      this.#pool.run(
        'findings',
        { survey: input },
        {
          queueSignal: this.#signal,
          onProgress: (share) => this.show({ work: { what: 'Trying moves out', share } }),
        },
      ),
    )
    const ids = present.map((t) => t.id)
    this.#survey = { input, ids, findings }
    const fromSeconds = this.#stretch.fromFrame / this.#rateHz
    const all = findings.map((f) => toSessionFinding(f, ids, session, fromSeconds))
    this.show({
      findings: all.filter(
        ({ key: k, state }) => !session.dismissed.some((d) => d.key === k && d.state === state),
      ),
      cancelled: new Map(
        all.flatMap((f) =>
          f.evidence.kind === 'alignment' ? [[f.tracks.join(' '), f.evidence.lostDb]] : [],
        ),
      ),
    })
  }

  get #mode() {
    return this.#mono ? 'mono' : 'stereo'
  }
}
