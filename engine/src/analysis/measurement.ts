import { isPlain, renderPlan, type Stretch } from '@sober-prism/core/chain'
import {
  type Finding,
  joinMixParts,
  type MixReading,
  mixParts,
  rankFindings,
  readBalance,
  referenceTarget,
  type SurveyInput,
  type SurveyTracks,
  slopeTarget,
} from '@sober-prism/core/findings'
import {
  addSums,
  emptySums,
  type MaskingSums,
  type MaskingTrack,
  maskingFrames,
  SLOT_FRAMES,
  type TrackPatterns,
} from '@sober-prism/core/hearing'
import { type Session, sessionFrames, type Track } from '@sober-prism/core/session'
import { EngineError } from '../engine-error'
import { loadSamples } from '../storage/samples'
import type { Measured, MeasuredTrack } from '../work/tasks'
import type { WorkerPool } from '../work/worker-pool'
import { type Analysis, NOTHING_MEASURED } from './analysis'
import { coverings, heardTracks } from './heard-tracks'
import type { KeptResults } from './kept-results'
import type { MixBeds } from './mix-beds'
import { SessionAudio } from './session-audio'
import {
  type SessionFinding,
  type SessionMove,
  toMeasure,
  toProposedMoves,
  toSessionFinding,
  toSessionPlan,
} from './session-finding'

const OVERVIEW_BUCKETS = 1200
/** Frames of masking per piece of work: long enough to be worth sending, short enough for progress. */
const PIECE_FRAMES = 3 * SLOT_FRAMES
/** Part of the work on masking that excitation patterns are. */
const PATTERNS_SHARE = 0.4

/** Tenths of a second by which parts of the mix overlap: filters of the mix's own chain reach far. */
const MIX_MARGIN_STEPS = { plain: 2, treated: 10 } as const

/** What a measurement works with. */
export interface Surroundings {
  readonly pool: WorkerPool
  readonly kept: KeptResults
  readonly beds: MixBeds
  readonly signal: AbortSignal
  readonly mono: boolean
}

/** One pass over one state of a session. */
export class Measurement {
  readonly #rateHz: number
  readonly #stretch: Stretch
  readonly #mode: 'mono' | 'stereo'
  readonly #shares = new Map<string, number>()
  #survey: { input: SurveyInput; ids: readonly string[]; findings: readonly Finding[] } | null =
    null

  constructor(
    private readonly session: Session,
    private readonly around: Surroundings,
    private readonly show: (change: Partial<Analysis>) => void,
  ) {
    this.#rateHz = session.sampleRateHz
    this.#stretch = session.passage ?? { fromFrame: 0, toFrame: sessionFrames(session) }
    this.#mode = around.mono ? 'mono' : 'stereo'
  }

  /** @param before figures of an earlier state, which stay in sight until there are new ones. */
  async run(before: Analysis): Promise<void> {
    const { session } = this
    if (session.tracks.length === 0) {
      this.show({ ...NOTHING_MEASURED, fresh: true })
      return
    }
    const audio = await SessionAudio.of(session.tracks)
    this.#signal.throwIfAborted()
    const names = audio.missing.map((t) => t.name).join(', ')
    this.show({
      problem: names
        ? `The audio of ${names} is not in this browser. Bring the file in again.`
        : null,
    })
    // Tracks first, and masking before what is left of the mix: what one looks at after a move comes soonest.
    const measuring = this.#tracks(audio.present, before)
    const mix = this.#mix(audio)
    const references = this.#references()
    const overview = this.#overview(audio)
    // They are awaited below; one that fails first must not count as unhandled meanwhile.
    for (const work of [overview, references, mix, measuring]) work.catch(() => {})
    const tracks = await measuring
    const survey = this.#surveyTracks(audio.present, tracks)
    const masking = this.#masking(audio.present, tracks)
    const ownFindings = this.#trackFindings(audio.present, survey)
    for (const work of [masking, ownFindings]) work.catch(() => {})
    const sums = await masking
    await this.#findings(audio.present, survey, sums, await mix, await references, ownFindings)
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

  /**
   * What other moves would do to the measure of a finding; null when it belongs to another state.
   * @throws EngineError when it cannot be computed.
   */
  async predict(
    finding: SessionFinding,
    moves: readonly SessionMove[],
  ): Promise<SessionFinding['predicted']> {
    if (!this.#survey || !finding.predicted) return null
    const { input, ids } = this.#survey
    const measure = toMeasure(finding.predicted.measure, ids)
    const proposed = toProposedMoves(moves, ids)
    if (!measure || !proposed) return null
    const { tracks, settings, mixLevels } = input
    const { prediction } = await this.#pool.run(
      'predict',
      { survey: { tracks, settings, mixLevels }, measure, moves: proposed },
      { queueSignal: this.#signal },
    )
    return { ...finding.predicted, before: prediction.before, after: prediction.after }
  }

  get #pool(): WorkerPool {
    return this.around.pool
  }

  get #signal(): AbortSignal {
    return this.around.signal
  }

  #cached<T>(key: readonly unknown[], compute: () => Promise<T>): Promise<T> {
    return this.around.kept.get(JSON.stringify([this.#rateHz, ...key]), this.#signal, compute)
  }

  /** Puts down how far a piece of the first round is. */
  #advance(piece: string, share: number): void {
    this.#shares.set(piece, share)
    let sum = 0
    for (const s of this.#shares.values()) sum += s
    this.show({ work: { what: 'Measuring tracks and mix', share: sum / this.#shares.size } })
  }

  #trackKey({ audio, offsetFrames, pan, chain }: Track): unknown[] {
    return ['track', audio.hash, offsetFrames, pan, chain, this.#stretch]
  }

  async #tracks(present: readonly Track[], before: Analysis): Promise<Map<string, MeasuredTrack>> {
    const results = new Map<string, MeasuredTrack>()
    const shown = new Map(before.tracks)
    for (const track of present) this.#shares.set(track.id, 0)
    await Promise.all(
      present.map(async (track) => {
        const result = await this.#cached(this.#trackKey(track), () => this.#track(track))
        results.set(track.id, result)
        this.#advance(track.id, 1)
        shown.set(track.id, result)
        this.show({ tracks: new Map(shown) })
      }),
    )
    return results
  }

  async #track(track: Track): Promise<MeasuredTrack> {
    return this.#pool.run(
      'track',
      {
        chain: track.chain,
        audio: await loadSamples(track.audio),
        pan: track.pan,
        offsetFrames: track.offsetFrames,
        sampleRateHz: this.#rateHz,
        stretch: this.#stretch,
      },
      {
        queueSignal: this.#signal,
        onProgress: (share) => this.#advance(track.id, share),
      },
    )
  }

  async #references(): Promise<Map<string, Measured>> {
    const results = new Map<string, Measured>()
    for (const reference of this.session.references) {
      try {
        const result = await this.#cached(['clip', reference.audio.hash], async () =>
          this.#pool.run(
            'clip',
            { audio: await loadSamples(reference.audio), sampleRateHz: this.#rateHz },
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

  async #overview(audio: SessionAudio): Promise<void> {
    const { session } = this
    const places = session.tracks.map((t) => [t.audio.hash, t.offsetFrames, t.faderDb, t.mute])
    const overview = await this.#cached(['overview', places], async () =>
      this.#pool.run(
        'overview',
        {
          plan: renderPlan(session),
          audio: await audio.all(),
          sampleRateHz: this.#rateHz,
          stretch: { fromFrame: 0, toFrame: sessionFrames(session) },
          buckets: OVERVIEW_BUCKETS,
        },
        { queueSignal: this.#signal },
      ),
    )
    this.show({ overview })
  }

  /** The mix, rendered and measured in parts by whichever worker is free. */
  async #mix(audio: SessionAudio): Promise<MixReading> {
    const plan = renderPlan(this.session)
    const hashes = this.session.tracks.map((t) => [t.id, t.audio.hash])
    const mix = await this.#cached(['mix', plan, hashes, this.#stretch], async () => {
      const samples = await audio.all()
      const { fromFrame, toFrame } = this.#stretch
      const margin = isPlain(plan.chain) ? MIX_MARGIN_STEPS.plain : MIX_MARGIN_STEPS.treated
      const parts = mixParts(fromFrame, toFrame, this.#rateHz, margin)
      const bedKey = JSON.stringify([this.#rateHz, hashes, this.#stretch, margin])
      const frames = toFrame - fromFrame
      for (const part of parts) this.#shares.set(`mix ${part.fromFrame}`, 0)
      const readings = await Promise.all(
        parts.map(async (part) => {
          const reading = await this.around.beds.use(bedKey, part, plan.tracks, (bed) =>
            this.#pool.run(
              'mixPart',
              { plan, audio: samples, sampleRateHz: this.#rateHz, part, frames, bed },
              { queueSignal: this.#signal },
            ),
          )
          this.#advance(`mix ${part.fromFrame}`, 1)
          return reading
        }),
      )
      return joinMixParts(readings, this.#rateHz)
    })
    this.show({ mix })
    return mix
  }

  #calibration() {
    return { lufs: -23, dbSpl: this.session.listeningDbSpl }
  }

  #maskingTracks(present: readonly Track[], results: ReadonlyMap<string, MeasuredTrack>) {
    const { mix } = this.session
    return present.flatMap((track) => {
      const result = results.get(track.id)
      const gainDb = track.mute ? -200 : track.faderDb + mix.faderDb
      return result ? [{ bands: result.reading.bands, gainDb }] : []
    })
  }

  #maskingKey(present: readonly Track[]): unknown[] {
    const levels = present.map((t) => [this.#trackKey(t), t.faderDb, t.mute])
    return ['masking', levels, this.session.mix.faderDb, this.#calibration(), this.#mode]
  }

  /** Excitation of a track; after a move most tracks have theirs still. */
  #patterns(track: Track, masking: MaskingTrack): Promise<TrackPatterns> {
    const calibration = this.#calibration()
    const key = ['patterns', this.#trackKey(track), masking.gainDb, calibration, this.#mode]
    return this.around.kept.atHand(JSON.stringify(key), this.#signal, () =>
      this.#pool.run(
        'patterns',
        { track: masking, calibration, mode: this.#mode },
        { queueSignal: this.#signal, first: true },
      ),
    )
  }

  async #masking(
    present: readonly Track[],
    results: ReadonlyMap<string, MeasuredTrack>,
  ): Promise<MaskingSums> {
    const tracks = this.#maskingTracks(present, results)
    const sums = await this.#cached(this.#maskingKey(present), async () => {
      const what = 'Who covers whom'
      let ready = 0
      const patterns = await Promise.all(
        tracks.map(async (track, i) => {
          const made = await this.#patterns(present[i], track)
          ready++
          this.show({ work: { what, share: (PATTERNS_SHARE * ready) / tracks.length } })
          return made
        }),
      )
      const frames = maskingFrames(tracks)
      const total = emptySums(tracks.length, frames)
      let done = 0
      const pieces: Promise<void>[] = []
      for (let from = 0; from < frames; from += PIECE_FRAMES) {
        const to = Math.min(frames, from + PIECE_FRAMES)
        const piece = this.#pool.run(
          'masking',
          { patterns, from, to },
          { queueSignal: this.#signal, first: true },
        )
        pieces.push(
          piece.then((part) => {
            addSums(total, part, from)
            done += to - from
            const share = PATTERNS_SHARE + ((1 - PATTERNS_SHARE) * done) / frames
            this.show({ work: { what, share } })
          }),
        )
      }
      await Promise.all(pieces)
      return total
    })
    this.show({
      heard: heardTracks(sums, present),
      covering: coverings(sums, present),
      mono: this.around.mono,
    })
    return sums
  }

  #surveyTracks(
    present: readonly Track[],
    results: ReadonlyMap<string, MeasuredTrack>,
  ): SurveyTracks {
    return {
      tracks: this.#maskingTracks(present, results).map(({ gainDb }, i) => ({
        reading: (results.get(present[i].id) as MeasuredTrack).reading,
        gainDb,
        isLead: this.session.leadIds.includes(present[i].id),
      })),
      settings: {
        calibration: this.#calibration(),
        mode: this.#mode,
        sampleRateHz: this.#rateHz,
      },
    }
  }

  async #trackFindings(present: readonly Track[], survey: SurveyTracks): Promise<Finding[]> {
    const key = ['track findings', this.#maskingKey(present)]
    const { findings } = await this.#cached(key, () =>
      this.#pool.run('trackFindings', { survey }, { queueSignal: this.#signal }),
    )
    return findings
  }

  async #findings(
    present: readonly Track[],
    survey: SurveyTracks,
    sums: MaskingSums,
    mix: MixReading,
    references: ReadonlyMap<string, Measured>,
    ownFindings: Promise<Finding[]>,
  ): Promise<void> {
    const { session } = this
    const target =
      references.size > 0
        ? referenceTarget([...references.values()].map((r) => r.levels))
        : slopeTarget()
    const input: SurveyInput = { ...survey, sums, mixLevels: mix.levels, target }
    this.show({ balance: readBalance(mix.levels, target) })
    const key = [
      'mix findings',
      this.#maskingKey(present),
      session.leadIds,
      session.mix.chain,
      session.references.map((r) => r.audio.hash),
    ]
    const whole = this.#cached(key, () =>
      this.#pool.run(
        'mixFindings',
        { survey: input },
        {
          queueSignal: this.#signal,
          onProgress: (share) => this.show({ work: { what: 'Trying moves out', share } }),
        },
      ),
    )
    const [own, { findings: ofMix }] = await Promise.all([ownFindings, whole])
    const findings = rankFindings([...own, ...ofMix])
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
}
