import { renderPlan, type Stretch, type TrackAudio } from '@sober-prism/core/chain'
import { coveredRegions } from '@sober-prism/core/findings'
import {
  addSums,
  emptySums,
  type HearingBands,
  type MaskingSums,
  maskingFrames,
  trackMasking,
} from '@sober-prism/core/hearing'
import { type Session, sessionFrames, type Track } from '@sober-prism/core/session'
import { EngineError, errorSentence, isCancel } from '../engine-error'
import { Signal } from '../signal'
import { loadSamples } from '../storage/samples'
import type { Measured } from '../work/tasks'
import type { WorkerPool } from '../work/worker-pool'
import { type Analysis, type HeardTrack, NOTHING_MEASURED, type SessionFinding } from './analysis'
import { ResultCache } from './result-cache'

const SETTLE_MS = 120
const OVERVIEW_BUCKETS = 1200
/** Frames of masking per piece of work: long enough to be worth sending, short enough for progress. */
const PIECE_FRAMES = 64
const FINDINGS = 3
const STALE = 'a newer state of the session is measured'

type TrackResult = Measured & { bands: HearingBands }

/**
 * Measures a session in the worker pool and keeps the results by what they were computed from, so that
 * after a change only what depends on it is computed again.
 */
export class Analyser {
  readonly state = new Signal<Analysis>(NOTHING_MEASURED)
  readonly #pool: WorkerPool
  readonly #cache = new ResultCache()
  #session: Session | null = null
  #measured: Session | null = null
  #timer: ReturnType<typeof setTimeout> | undefined
  #run: AbortController | null = null

  constructor(pool: WorkerPool) {
    this.#pool = pool
  }

  /** Takes a new state of the session; measuring begins when it has stood still for a moment. */
  update(session: Session): void {
    if (session === this.#session) return
    this.#session = session
    if (this.state.value.fresh) this.#show({ fresh: false })
    clearTimeout(this.#timer)
    this.#timer = setTimeout(() => void this.#measure(), SETTLE_MS)
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
    try {
      await new Measurement(session, this.#pool, this.#cache, run.signal, (change) => {
        if (!run.signal.aborted) this.#show(change)
      }).run(this.state.value)
    } catch (error) {
      if (run.signal.aborted || isCancel(error)) return
      this.#show({ work: null, problem: errorSentence(error) })
    }
  }
}

/** One pass over one state of a session. */
class Measurement {
  readonly #rateHz: number
  readonly #stretch: Stretch

  constructor(
    private readonly session: Session,
    private readonly pool: WorkerPool,
    private readonly cache: ResultCache,
    private readonly signal: AbortSignal,
    private readonly show: (change: Partial<Analysis>) => void,
  ) {
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
    const beside = [this.#overview(audio), this.#references(), this.#mix(audio)]
    // They are awaited below; one that fails first must not count as unhandled meanwhile.
    for (const work of beside) work.catch(() => {})
    const tracks = await this.#tracks(present, audio, before)
    const masking = await this.#masking(present, tracks)
    const findings = await this.#findings(present, tracks, masking)
    await Promise.all(beside)
    this.show({ findings, fresh: true, work: null })
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
      this.signal.throwIfAborted()
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
          this.pool.run(
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
              queueSignal: this.signal,
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

  async #references(): Promise<void> {
    const results = new Map<string, Measured>()
    for (const reference of this.session.references) {
      try {
        const samples = await loadSamples(reference.audio)
        const result = await this.#cached(`clip ${reference.audio.hash}`, () =>
          this.pool.run(
            'clip',
            { audio: samples, sampleRateHz: this.#rateHz },
            { queueSignal: this.signal },
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
  }

  async #overview(audio: ReadonlyMap<string, TrackAudio>): Promise<void> {
    const { session } = this
    const places = session.tracks.map((t) => [t.audio.hash, t.offsetFrames, t.faderDb, t.mute])
    const overview = await this.#cached(JSON.stringify(['overview', places]), () =>
      this.pool.run(
        'overview',
        {
          plan: renderPlan(session),
          audio,
          sampleRateHz: this.#rateHz,
          stretch: { fromFrame: 0, toFrame: sessionFrames(session) },
          buckets: OVERVIEW_BUCKETS,
        },
        { queueSignal: this.signal },
      ),
    )
    this.show({ overview })
  }

  async #mix(audio: ReadonlyMap<string, TrackAudio>): Promise<void> {
    const plan = renderPlan(this.session)
    const hashes = this.session.tracks.map((t) => t.audio.hash)
    const mix = await this.#cached(JSON.stringify(['mix', plan, hashes, this.#stretch]), () =>
      this.pool.run(
        'mix',
        { plan, audio, sampleRateHz: this.#rateHz, stretch: this.#stretch, bypass: 'none' },
        { queueSignal: this.signal },
      ),
    )
    this.show({ mix })
  }

  /** A kept result, or a new one; work that an older measurement gave up on is taken up again. */
  async #cached<T>(key: string, compute: () => Promise<T>): Promise<T> {
    for (;;) {
      try {
        return await this.cache.get(key, compute)
      } catch (error) {
        if (!isCancel(error) || this.signal.aborted) throw error
      }
    }
  }

  #calibration() {
    return { lufs: -23, dbSpl: this.session.listeningDbSpl }
  }

  #maskingTracks(present: readonly Track[], results: ReadonlyMap<string, TrackResult>) {
    const { mix } = this.session
    return present.flatMap((track) => {
      const result = results.get(track.id)
      const gainDb = track.mute ? -200 : track.faderDb + mix.faderDb
      return result ? [{ bands: result.bands, gainDb }] : []
    })
  }

  #maskingKey(present: readonly Track[]): string {
    const levels = present.map((t) => [this.#trackKey(t), t.faderDb, t.mute])
    return JSON.stringify(['masking', levels, this.session.mix.faderDb, this.#calibration()])
  }

  async #masking(
    present: readonly Track[],
    results: ReadonlyMap<string, TrackResult>,
  ): Promise<MaskingSums> {
    const tracks = this.#maskingTracks(present, results)
    const sums = await this.#cached(this.#maskingKey(present), async () => {
      const total = emptySums(tracks.length)
      const frames = maskingFrames(tracks)
      let done = 0
      const pieces: Promise<void>[] = []
      for (let from = 0; from < frames; from += PIECE_FRAMES) {
        const to = Math.min(frames, from + PIECE_FRAMES)
        const input = {
          tracks,
          calibration: this.#calibration(),
          mode: 'stereo',
          from,
          to,
        } as const
        const piece = this.pool.run('masking', input, { queueSignal: this.signal })
        pieces.push(
          piece.then((part) => {
            addSums(total, part)
            done += to - from
            this.show({ work: { what: 'Who covers whom', share: done / frames } })
          }),
        )
      }
      await Promise.all(pieces)
      return total
    })
    const heard = new Map<string, HeardTrack>()
    for (const [index, track] of present.entries()) {
      const masking = trackMasking(sums, index)
      heard.set(track.id, {
        share: masking.audibleShare,
        aloneSone: masking.aloneSone,
        inMixSone: masking.inMixSone,
        covered: track.mute ? [] : coveredRegions(masking),
      })
    }
    this.show({ heard })
    return sums
  }

  async #findings(
    present: readonly Track[],
    results: ReadonlyMap<string, TrackResult>,
    sums: MaskingSums,
  ): Promise<SessionFinding[] | null> {
    const { leadId } = this.session
    const lead = present.findIndex((t) => t.id === leadId)
    if (lead < 0) return null
    this.show({ work: { what: 'Trying moves out', share: 0.5 } })
    const key = `${this.#maskingKey(present)} ${leadId}`
    const found = await this.#cached(key, () =>
      this.pool.run(
        'findings',
        {
          tracks: this.#maskingTracks(present, results),
          sums,
          lead,
          settings: {
            calibration: this.#calibration(),
            mode: 'stereo',
            sampleRateHz: this.#rateHz,
            count: FINDINGS + this.session.dismissed.length,
          },
        },
        { queueSignal: this.signal },
      ),
    )
    return found
      .map(({ lead: l, masker, ...rest }) => ({
        ...rest,
        leadId: present[l].id,
        maskerId: present[masker].id,
        key: `masking ${present[l].id} ${present[masker].id} ${Math.round(8 * Math.log2(rest.hz))}`,
      }))
      .filter((finding) => !this.session.dismissed.includes(finding.key))
      .slice(0, FINDINGS)
  }
}
