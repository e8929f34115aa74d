import {
  type Finding,
  type MixReading,
  type Plan,
  type PlanGroup,
  rankFindings,
  readBalance,
  referenceTarget,
  type SurveyInput,
  slopeTarget,
  type ThroughTrack,
  understoodIn,
} from '@sober-prism/core/findings'
import type { Activity, Moments } from '@sober-prism/core/hearing'
import { planMoments } from '@sober-prism/core/hearing'
import {
  designLater,
  type MixPlan,
  mixSound,
  recordingsIn,
  renderPlan,
  type Sound,
  type Stretch,
  soundOf,
  trackAlone,
} from '@sober-prism/core/mix'
import { type Edit, type Session, type Track, trimmedChain } from '@sober-prism/core/session'
import type { Measure } from '@sober-prism/core/treatments'
import { EngineError } from '../engine-error'
import { mixFindingsNode, trackFindingsNode } from '../questions/findings'
import { latencyNode } from '../questions/latency'
import { groupNode, type Measured, referenceNode } from '../questions/levels'
import { maskingNode, patternsNode } from '../questions/masking'
import { type MixInput, mixBeds, mixNode } from '../questions/mix-part'
import type { PlaybackChoice } from '../questions/playback'
import { type RecordingMap, type SoundInput, wholeOf } from '../questions/question'
import { ringsNode, type TrackWithRings, trackWithRingsNode } from '../questions/rings'
import { type Hearing, type SurveySettings, surveyTracks } from '../questions/survey'
import { type MeasuredTrack, trackNode } from '../questions/track'
import type { RecordingShelf } from '../storage/recording-access'
import { PEAK_FRAMES } from '../storage/recordings'
import { type Analysis, type HeardTrack, NOTHING_MEASURED } from './analysis'
import { coverings, heardTracks } from './heard-tracks'
import type { BedFilling } from './mix-beds'
import { overviewOf } from './overview'
import { type AnalysisNode, hashOf, type Scheduler } from './scheduler'
import { standingDb } from './session-change'
import {
  anchored,
  type SessionFinding,
  type Shares,
  shifted,
  toSessionFinding,
  withSessionKey,
} from './session-finding'
import type { Tools } from './tools'

/** What a measurement works with. */
export interface Surroundings extends Tools {
  readonly scheduler: Scheduler
  readonly shelf: RecordingShelf
  readonly signal: AbortSignal
  readonly mono: boolean
}

/** What is measured of a state of a session that is compared with others. */
export interface StateFigures {
  readonly heard: ReadonlyMap<string, HeardTrack>
  readonly mix: MixReading
  readonly latencySeconds: number
}

type Show = (change: Partial<Analysis>) => void

/** What was measured takes the place of what was foreseen. */
const NOTHING_FORESEEN = { foreseen: false, sharesForeseen: false } as const

/** One pass over one state of a session: declares what is to be known of it, and shows it as it comes. */
export class Measurement {
  readonly #stretch: Stretch
  readonly #hearing: Hearing
  readonly #shares = new Map<string, number>()
  #moments: Moments = planMoments(1, 1, [])
  #momentsKey: unknown = null
  #survey: SurveyInput | null = null
  #findings: readonly Finding[] = []
  #heard: Shares = new Map()

  constructor(
    private readonly session: Session,
    private readonly around: Surroundings,
    private readonly show: Show,
  ) {
    this.#stretch = wholeOf(session)
    this.#hearing = {
      calibration: { lufs: -23, dbSpl: session.listeningDbSpl },
      mode: around.mono ? 'mono' : 'stereo',
      listening: session.listening,
      sampleRateHz: session.sampleRateHz,
    }
  }

  /** @param before figures of an earlier state, which stay in sight until there are new ones. */
  async run(before: Analysis): Promise<void> {
    const { session, around } = this
    if (session.tracks.length === 0) {
      this.show({ ...NOTHING_MEASURED, fresh: true })
      return
    }
    const audios = [...session.tracks, ...session.references].map((t) => t.audio)
    const recordings = await around.shelf.find(audios)
    around.signal.throwIfAborted()
    const present = session.tracks.filter((t) => recordings.has(t.audio.hash))
    this.show({ problem: this.#missing(recordings), overview: overviewOf(session, recordings) })
    this.#planMoments(present, recordings)
    const plan = renderPlan(session, designLater)
    const filling = this.#fillBeds(plan, recordings)
    const tracks = present.map((track) => this.#track(track, plan, recordings, filling))
    const mix = this.#mix(plan, recordings)

    // Tracks first, and masking before what is left of the mix: what one looks at after a move comes soonest.
    const measuring = this.#showTracks(present, tracks, before, () => filling?.seal())
    const references = this.#showReferences(recordings)
    const mixing = this.#get(mix, 'mix')
    const grouping = this.#showGroups(recordings)
    // They are awaited below; one that fails first must not count as unhandled meanwhile.
    for (const work of [measuring, references, mixing, grouping]) work.catch(() => {})
    const measured = await measuring
    const settings = this.#surveySettings(present)
    const masking = this.#masking(present, tracks)
    const sums = await this.#run(masking)
    const surveyed = surveyTracks(measured, settings)
    const heard = heardTracks(sums, present, (id) => understoodIn(surveyed, id)?.sii ?? null)
    this.#heard = heard
    const covering = coverings(sums, present)
    this.show({ heard, covering, mono: around.mono, ...NOTHING_FORESEEN })
    // Not before: masking takes all workers, and is what one waits for.
    const rung = present.map((track, i) => this.#withRings(track, tracks[i], recordings))
    const ringing = this.#findRings(present, rung, before.rings)
    const own = ringing.then(() =>
      this.#run(around.scheduler.node(trackFindingsNode, settings, rung, surveyKey(settings))),
    )
    own.catch(() => {})
    const target = targetOf(await references)
    const reading = await mixing
    this.show({ mix: reading, balance: readBalance(reading.levels, target) })
    const inputs = [masking, mix, ...tracks] as const
    const whole = around.scheduler.node(mixFindingsNode, { ...settings, target }, inputs, [
      surveyKey(settings),
      hashOf(target),
    ])
    // Beside each other: each of them runs in one worker.
    const all = (await Promise.all([own, this.#run(whole)])).flat().map(withSessionKey)
    const findings = rankFindings(all)
    // Also of pairs that add up by now: a move that lined them up is measured by it.
    this.show({
      cancelled: new Map(
        all.flatMap((f) =>
          f.evidence.kind === 'alignment' ? [[f.tracks.join(' '), f.evidence.lostDb]] : [],
        ),
      ),
    })
    const mixLevels = reading.levels
    this.#survey = { ...surveyTracks(await ringing, settings), sums, mixLevels, target }
    this.#findings = findings
    this.#showFindings(findings)
    await grouping
    void around.scheduler.settle()
    this.show({ ...NOTHING_FORESEEN, fresh: true, work: null })
  }

  /** What is heard of each track, and the mix: without what the session's other pictures and findings need. */
  async figures(): Promise<StateFigures> {
    const { session, around } = this
    const recordings = await around.shelf.find(session.tracks.map((t) => t.audio))
    around.signal.throwIfAborted()
    const present = session.tracks.filter((t) => recordings.has(t.audio.hash))
    this.#planMoments(present, recordings)
    const plan = renderPlan(session, designLater)
    const tracks = present.map((track) => this.#track(track, plan, recordings, null))
    const mix = this.#run(this.#mix(plan, recordings))
    mix.catch(() => {})
    const { sampleRateHz } = session
    const late = { plan, sampleRateHz }
    const latency = this.#run(
      around.scheduler.node(latencyNode, { ...late, ...this.#tools }, [], late),
    )
    latency.catch(() => {})
    const sums = await this.#run(this.#masking(present, tracks))
    const heard = heardTracks(sums, present, () => null)
    return { heard, mix: await mix, latencySeconds: await latency }
  }

  #missing(recordings: RecordingMap): string | null {
    const { tracks, references } = this.session
    const names = (list: readonly { name: string; audio: { hash: string } }[]) =>
      list
        .filter((t) => !recordings.has(t.audio.hash))
        .map((t) => t.name)
        .join(', ')
    const [track, reference] = [names(tracks), names(references)]
    if (track) return `The audio of ${track} is not in this browser. Import the file again.`
    return reference
      ? `The reference ${reference} cannot be measured: its audio is not in this browser.`
      : null
  }

  /** When tracks are listened to: by the peaks of their recordings, before anything is done to them. */
  #planMoments(tracks: readonly Track[], recordings: RecordingMap): void {
    const { fromFrame, toFrame } = this.#stretch
    const activities = tracks.flatMap(({ audio, offsetFrames }): Activity[] => {
      const levels = recordings.get(audio.hash)?.peaks
      return levels ? [{ levels, hop: PEAK_FRAMES, offset: offsetFrames - fromFrame }] : []
    })
    this.#moments = planMoments(this.session.sampleRateHz, toFrame - fromFrame, activities)
    this.#momentsKey = tracks.map(({ audio, offsetFrames }) => [audio.hash, offsetFrames])
  }

  get #tools(): Tools {
    return { pool: this.around.pool, beds: this.around.beds }
  }

  /** Runs a node and shows how far it is by itself. */
  #run<T>(node: AnalysisNode<T>): Promise<T> {
    const { scheduler, signal } = this.around
    const onProgress = (share: number) => this.show({ work: { what: node.label, share } })
    return scheduler.get(node, { signal, onProgress })
  }

  /** Runs a node as a piece of the first round, whose progress is shown as one. */
  #get<T>(node: AnalysisNode<T>, piece: string): Promise<T> {
    const { scheduler, signal } = this.around
    this.#shares.set(piece, 0)
    const onProgress = (share: number) => this.#advance(node.label, piece, share)
    return scheduler.get(node, { signal, onProgress }).then((result) => {
      onProgress(1)
      return result
    })
  }

  #advance(what: string, piece: string, share: number): void {
    this.#shares.set(piece, share)
    let sum = 0
    for (const s of this.#shares.values()) sum += s
    this.show({ work: { what, share: sum / this.#shares.size } })
  }

  #track(
    track: Track,
    plan: MixPlan,
    recordings: RecordingMap,
    filling: BedFilling | null,
  ): AnalysisNode<MeasuredTrack> {
    const { audio } = track
    if (!recordings.has(audio.hash)) throw new EngineError('Its audio is not in this browser.')
    const { session, around } = this
    const { scheduler } = around
    const stretch = this.#stretch
    const sound = only(recordings, soundOf(session, track.id, 'placed'))
    const alone = trackAlone(plan, track.id)
    const fill = filling && alone && { filling, track: alone }
    const settings = { ...sound, stretch, moments: this.#moments, fill }
    const key = [sound.sound, stretch, this.#momentsKey]
    return scheduler.node(trackNode, { ...settings, ...this.#tools }, [], key)
  }

  #withRings(
    track: Track,
    measured: AnalysisNode<MeasuredTrack>,
    recordings: RecordingMap,
  ): AnalysisNode<TrackWithRings> {
    const { session, around } = this
    const stretch = this.#stretch
    const recorded = only(recordings, soundOf(session, track.id, 'recorded'))
    const rings = around.scheduler.node(
      ringsNode,
      { ...recorded, stretch, ...this.#tools },
      [],
      [recorded.sound, stretch],
    )
    const { sampleRateHz } = session
    const chain = trimmedChain(track)
    return around.scheduler.node(trackWithRingsNode, { chain, sampleRateHz }, [
      measured,
      rings,
    ] as const)
  }

  /** Tracks with their rings, shown as they come and as one piece of work. */
  #findRings(
    present: readonly Track[],
    nodes: readonly AnalysisNode<TrackWithRings>[],
    before: Analysis['rings'],
  ): Promise<TrackWithRings[]> {
    const { scheduler, signal } = this.around
    const shown = new Map(before)
    let done = 0
    const all = nodes.map(async (node, i) => {
      const track = await scheduler.get(node, { signal, onProgress: () => {} })
      shown.set(present[i].id, track.reading.rings)
      done++
      const share = done / nodes.length
      this.show({ rings: new Map(shown), work: { what: node.label, share } })
      return track
    })
    return Promise.all(all)
  }

  async #showTracks(
    present: readonly Track[],
    nodes: readonly AnalysisNode<MeasuredTrack>[],
    before: Analysis,
    onSettled: () => void,
  ): Promise<MeasuredTrack[]> {
    const shown = new Map(before.tracks)
    const all = present.map(async ({ id }, i) => {
      const result = await this.#get(nodes[i], id)
      shown.set(id, result)
      this.show({ tracks: new Map(shown) })
      return result
    })
    void Promise.allSettled(all).then(onSettled)
    return Promise.all(all)
  }

  /** While tracks are measured they are added up to what the mix is rendered over: they are read once. */
  #fillBeds(plan: MixPlan, recordings: RecordingMap): BedFilling | null {
    const { key, parts, frames } = mixBeds(this.#mixInput(plan, recordings))
    return this.around.beds.fill(key, parts, frames)
  }

  #mixInput(plan: MixPlan, all: RecordingMap): MixInput {
    const stretch = this.#stretch
    const { sound, recordings } = only(all, mixSound(this.session, plan))
    const bedKey = hashOf([[...recordings.keys()].sort(), sound.sampleRateHz, stretch])
    return { sound, recordings, stretch, bedKey }
  }

  /** A mix that was measured while audio was missing has another key than the same with all of it. */
  #mix(plan: MixPlan, recordings: RecordingMap) {
    const input = this.#mixInput(plan, recordings)
    const key = keyOf(input)
    return this.around.scheduler.node(mixNode, { ...input, ...this.#tools }, [], key)
  }

  async #showGroups(recordings: RecordingMap): Promise<void> {
    const groups = new Map<string, Measured>()
    const { session, around } = this
    await Promise.all(
      session.groups.map(async ({ id }) => {
        const sound = only(recordings, soundOf(session, id, 'chain'))
        const input = { ...sound, stretch: this.#stretch }
        const settings = { ...input, ...this.#tools }
        groups.set(
          id,
          await this.#get(around.scheduler.node(groupNode, settings, [], keyOf(input)), id),
        )
        this.show({ groups: new Map(groups) })
      }),
    )
    this.show({ groups })
  }

  async #showReferences(recordings: RecordingMap): Promise<Map<string, Measured>> {
    const results = new Map<string, Measured>()
    const { session, around } = this
    for (const { id, audio } of session.references) {
      if (!recordings.has(audio.hash)) continue
      const stretch = { fromFrame: 0, toFrame: audio.frames }
      const input = { ...only(recordings, soundOf(session, id, 'recorded')), stretch }
      const settings = { ...input, ...this.#tools }
      const node = around.scheduler.node(referenceNode, settings, [], keyOf(input))
      results.set(id, await this.#get(node, id))
    }
    this.show({ references: results })
    return results
  }

  #masking(present: readonly Track[], nodes: readonly AnalysisNode<MeasuredTrack>[]) {
    const { scheduler } = this.around
    const patterns = present.map((track, i) => {
      const settings = { ...this.#hearing, gainDb: standingDb(this.session, track) }
      return scheduler.node(
        patternsNode,
        { ...settings, ...this.#tools },
        [nodes[i]] as const,
        settings,
      )
    })
    return scheduler.node(maskingNode, this.#tools, patterns, null)
  }

  #surveySettings(present: readonly Track[]): SurveySettings {
    const tracks = present.map((track) => ({
      id: track.id,
      gainDb: standingDb(this.session, track),
      faderDb: track.faderDb,
      isLead: this.session.leadIds.includes(track.id),
      role: track.role,
    }))
    return { ...this.#tools, ...this.#hearing, tracks }
  }

  #showFindings(findings: readonly Finding[]): void {
    const { session } = this
    const fromSeconds = this.#stretch.fromFrame / session.sampleRateHz
    const all = findings.map((f) => toSessionFinding(f, session, fromSeconds, this.#heard))
    const dismissed = ({ key, state }: SessionFinding) =>
      session.dismissed.some((d) => d.key === key && d.state === state)
    this.show({ findings: all.filter((f) => !dismissed(f)) })
  }

  /** What was measured of the tracks; null until all of it was. */
  get surveyed(): SurveyInput | null {
    return this.#survey
  }

  /** The plan for what was surveyed; worker and search can be given up like any measuring. */
  async plan(groups: readonly PlanGroup[]) {
    if (!this.#survey) return null
    const plan = await this.around.pool.run(
      'plan',
      { survey: this.#survey, findings: this.#findings, groups },
      {
        signal: this.around.signal,
        onProgress: (share) => this.show({ work: { what: 'Planning moves', share } }),
      },
    )
    return anchoredPlan(plan, this.#heard)
  }

  /**
   * What other moves would do to the measure of a finding; null when it belongs to another state.
   * @throws EngineError when it cannot be computed.
   */
  async predict(
    finding: SessionFinding,
    moves: readonly Edit[],
  ): Promise<SessionFinding['predicted']> {
    return finding.predicted ? this.foresee(finding.predicted.measure, moves) : null
  }

  /** Who is heard behind another playback; null while nothing was surveyed. @throws EngineError; the signal's reason. */
  async through(choice: PlaybackChoice, signal: AbortSignal): Promise<ThroughTrack[] | null> {
    if (!this.#survey) return null
    const { tracks, settings } = this.#survey
    const shares = new Map([...this.#heard].map(([id, { share }]) => [id, share]))
    const hereDbSpl = this.session.listeningDbSpl
    const input = { survey: { tracks, settings }, choice, hereDbSpl, shares }
    return this.around.pool.run('heardThrough', input, { signal, first: true })
  }

  /** What moves would do to a measure; null while nothing was surveyed. @throws EngineError when it cannot be computed. */
  async foresee(measure: Measure, moves: readonly Edit[]): Promise<SessionFinding['predicted']> {
    const survey = this.#survey
    if (!survey) return null
    const { tracks, settings, mixLevels } = survey
    const prediction = await this.around.pool.run(
      'predict',
      { survey: { tracks, settings, mixLevels }, measure, moves },
      { signal: this.around.signal, first: true },
    )
    return anchored(prediction, this.#heard)
  }
}

/** A plan whose shares are told from where tracks were measured to be; see {@link anchored}. */
function anchoredPlan(plan: Plan, heard: Shares): Plan {
  const anchor = (shares: Plan['heardBefore']) =>
    new Map(
      [...shares].map(([id, share]) => {
        const measured = heard.get(id)?.share
        const before = plan.heardBefore.get(id)
        const known = measured !== undefined && before !== undefined
        return [id, known ? shifted(share, measured - before) : share]
      }),
    )
  return {
    ...plan,
    heardBefore: anchor(plan.heardBefore),
    steps: plan.steps.map((step) => ({ ...step, heard: anchor(step.heard) })),
  }
}

/** A sound with the recordings that it is made of. */
function only<S extends Sound>(recordings: RecordingMap, sound: S | null) {
  if (!sound) throw new Error('A session has all of its nodes.')
  const used = recordingsIn(sound)
  return { sound, recordings: new Map([...recordings].filter(([hash]) => used.has(hash))) }
}

/** What decides a sound over a stretch: what is there of its recordings, too. */
function keyOf({ sound, recordings, stretch }: SoundInput): unknown {
  return [sound, [...recordings.keys()].sort(), stretch]
}

function targetOf(references: ReadonlyMap<string, Measured>) {
  return references.size > 0
    ? referenceTarget([...references.values()].map((r) => r.levels))
    : slopeTarget()
}

function surveyKey({
  tracks,
  calibration,
  mode,
  listening,
  sampleRateHz,
}: SurveySettings): unknown {
  return [tracks, calibration, mode, listening, sampleRateHz]
}
