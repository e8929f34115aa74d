import type { CrossoverSpec, CrossoverSum } from '@sober-prism/core/filters'
import type {
  Aside,
  LineUp,
  LineUpPicture,
  LineUpRange,
  LowEndReading,
  SourceReading,
  Tempo,
  YieldProposal,
} from '@sober-prism/core/findings'
import type { Profile, ProfileTitle } from '@sober-prism/core/match'
import {
  busPlan,
  designLater,
  isKeyed,
  renderPlan,
  type Stretch,
  trackPlan,
} from '@sober-prism/core/mix'
import {
  applyEdits,
  type Chain,
  chainOf,
  chainWith,
  type Edit,
  type Reference,
  type Role,
  type Session,
  sessionFrames,
  sessionWithChain,
  trimmedChain,
} from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import { ResultCache } from '../analysis/result-cache'
import { hashOf } from '../analysis/scheduler'
import { trackPath } from '../analysis/track-path'
import { isCancel } from '../engine-error'
import type { RecordingShelf } from '../storage/recording-access'
import type {
  DrawnSound,
  Levelled,
  PairedTrack,
  PairReading,
  Progress,
  SpectrogramView,
  Tasks,
} from '../work/tasks'
import type { WorkerPool } from '../work/worker-pool'

/** A leveller is run over the whole of a session that is no longer. */
const MOST_LEVELLED_SECONDS = 600
/** Parts in which what it takes is told. */
const COLUMNS = 1000
/** What a minute tells well enough is not listened to for longer. */
const ENOUGH_SECONDS = 60
/** Two tracks are added up over so much of the passage. */
const MOST_PAIRED_SECONDS = 30
/** What carries the beat and the low end stays in the middle. */
const MIDDLE_ROLES: ReadonlySet<Role> = new Set<Role>(['bass', 'drums'])
/** Ways to yield are tried on so much of it. */
const MOST_TRIED_SECONDS = 16

/** What is asked about sounds of an open session; workers answer. */
export class Questions {
  readonly #sources = new ResultCache(4)
  readonly #loudness = new ResultCache(400)

  /** @param current the session as it stands; null before there is one. */
  constructor(
    private readonly pool: Pick<WorkerPool, 'run'>,
    private readonly shelf: Pick<RecordingShelf, 'find'>,
    private readonly current: () => Session | null,
  ) {}

  private get session(): Session | null {
    return this.current()
  }

  /**
   * A picture of a track, group, the mix or a reference over a stretch: levels in dB, `rows` times one for each range of frequency.
   * @param side before the node's chain (a track as it was recorded), or behind it.
   * @returns null where audio is missing. @throws EngineError
   */
  async spectrogram(
    node: string,
    side: 'recorded' | 'treated',
    view: SpectrogramView & { readonly stretch: Stretch },
    { signal, onProgress }: { signal: AbortSignal; onProgress?: Progress },
  ): Promise<Float32Array | null> {
    const session = this.session
    if (!session) return null
    const { sampleRateHz } = session
    const sound = await this.#soundOf(session, node, side)
    if (!sound) return null
    const input = { ...view, sound, sampleRateHz }
    const { levels } = await this.pool.run('spectrogram', input, {
      signal,
      onProgress,
      first: true,
    })
    return levels
  }

  /**
   * Gated loudness of a track through its chain and those of its groups, before its fader, over the passage; null
   * where it is silent or its audio is missing. It comes before all other work, and is kept.
   * @throws EngineError
   */
  async trackLoudness(id: string): Promise<number | null> {
    const session = this.session
    const track = session?.tracks.find((t) => t.id === id)
    if (!session || !track) return null
    const { audio, offsetFrames, pan } = track
    const [chain, stretch] = [trimmedChain(track), wholeOf(session)]
    const { sampleRateHz } = session
    const plan = trackPath(session, renderPlan(session, designLater), track)
    const key = hashOf([audio.hash, offsetFrames, pan, chain, stretch, plan])
    return this.#loudness.get(key, async () => {
      const tracks = plan ? session.tracks : [track]
      const recordings = await this.shelf.find(tracks.map((t) => t.audio))
      const recording = recordings.get(audio.hash)
      if (!recording) return null
      const options = { first: true }
      const common = { sampleRateHz, stretch }
      const { lufs } = plan
        ? await this.pool.run('mixLoudness', { ...common, plan, recordings }, options)
        : await this.pool.run(
            'trackLoudness',
            { ...common, chain, recording, offsetFrames, pan },
            options,
          )
      return lufs
    })
  }

  async #soundOf(
    session: Session,
    node: string,
    side: 'recorded' | 'treated',
  ): Promise<DrawnSound | null> {
    const track = session.tracks.find((t) => t.id === node)
    if (track) {
      const recording = (await this.shelf.find([track.audio])).get(track.audio.hash)
      if (!recording) return null
      const { offsetFrames } = track
      const chain = trimmedChain(track)
      if (side === 'treated' && isKeyed(chain.treatments)) {
        return { of: 'mix', ...(await this.#aloneInMix(session, node)) }
      }
      const heard = side === 'treated' ? chain : { ...chainWith([]), trimDb: track.trimDb }
      return { of: 'chain', chain: heard, recording, offsetFrames }
    }
    const reference = session.references.find((r) => r.id === node)
    if (reference) return this.#referenceSound(reference)
    const recordings = await this.shelf.find(session.tracks.map((t) => t.audio))
    const plan = busPlan(renderPlan(session, designLater), node, side === 'treated')
    return { of: 'mix', plan, recordings }
  }

  /**
   * The profile of a track, group or the mix behind its chain, or another one, over the passage, or another stretch; or
   * of one of the session's references.
   * @returns null where audio is missing. @throws EngineError, also where it is too short or silent.
   */
  async profile(
    of:
      | { readonly node: string; readonly stretch?: Stretch; readonly chain?: Chain }
      | { readonly reference: string },
    title: ProfileTitle,
    { signal, onProgress }: { signal: AbortSignal; onProgress?: (share: number) => void },
  ): Promise<Profile | null> {
    const session = this.session
    if (!session) return null
    const target =
      'node' in of
        ? await this.#nodeTarget(
            of.chain ? sessionWithChain(session, of.node, of.chain) : session,
            of.node,
            of.stretch,
          )
        : await this.#referenceTarget(session, of.reference)
    if (!target) return null
    const input = { ...target, sampleRateHz: session.sampleRateHz, title }
    const { profile } = await this.pool.run('profile', input, { signal, onProgress, first: true })
    return profile
  }

  async #nodeTarget(session: Session, node: string, stretch = wholeOf(session)) {
    const sound = await this.#soundOf(session, node, 'treated')
    return sound && { sound, stretch }
  }

  async #referenceTarget({ references }: Session, id: string) {
    const reference = references.find((r) => r.id === id)
    const sound = reference && (await this.#referenceSound(reference))
    return sound ? { sound, stretch: { fromFrame: 0, toFrame: reference.audio.frames } } : null
  }

  async #referenceSound({ audio }: Reference): Promise<DrawnSound | null> {
    const recording = (await this.shelf.find([audio])).get(audio.hash)
    return recording ? { of: 'recording', recording, offsetFrames: 0 } : null
  }

  /**
   * What short-time spectra tell of a node behind its chain over the passage, resonances among it; kept while nothing
   * changes.
   * @returns null where audio is missing. @throws EngineError
   */
  async source(node: string, signal: AbortSignal): Promise<SourceReading | null> {
    const session = this.session
    const sound = session && (await this.#soundOf(session, node, 'treated'))
    if (!session || !sound) return null
    const { sampleRateHz } = session
    const stretch = wholeOf(session)
    const of = sound.of === 'mix' ? sound.plan : { ...sound, recording: sound.recording.hash }
    const ask = () =>
      this.#sources.get(hashOf([of, stretch]), async () => {
        const input = { sound, sampleRateHz, stretch }
        return (await this.pool.run('source', input, { signal, first: true })).reading
      })
    return ask().catch((error: unknown) => {
      // Another one asked for the same first, and gave it up.
      if (isCancel(error) && !signal.aborted) return ask()
      throw error
    })
  }

  /**
   * The low end of a node behind its chain in the middle of the passage, without one of its treatments and with it.
   * @returns null where audio is missing. @throws EngineError
   */
  async lowEnd(
    node: string,
    treatment: string,
    hz: number,
    signal: AbortSignal,
  ): Promise<{ readonly before: LowEndReading; readonly after: LowEndReading } | null> {
    const session = this.session
    const chain = session && chainOf(session, node)
    if (!session || !chain) return null
    const read = async (of: Session) => {
      const target = await this.#nodeTarget(of, node, this.#middleOf(session))
      if (!target) return null
      const input = { ...target, sampleRateHz: session.sampleRateHz, hz }
      return (await this.pool.run('lowEnd', input, { signal, first: true })).reading
    }
    const treatments = chain.treatments.filter((t) => t.id !== treatment)
    const without = sessionWithChain(session, node, { ...chain, treatments })
    const [before, after] = await Promise.all([read(without), read(session)])
    return before && after && { before, after }
  }

  /**
   * What the bands of a crossover add up to while none is touched, by the sound of a node behind its chain, in the
   * middle of the passage.
   * @returns null where audio is missing. @throws EngineError
   */
  async crossoverSum(
    node: string,
    spec: CrossoverSpec,
    signal: AbortSignal,
  ): Promise<CrossoverSum | null> {
    const session = this.session
    const target = session && (await this.#nodeTarget(session, node, this.#middleOf(session)))
    if (!session || !target) return null
    const input = { ...target, sampleRateHz: session.sampleRateHz, spec }
    return this.pool.run('crossoverSum', input, { signal, first: true })
  }

  /** What is listened to where a minute tells enough. */
  #middleOf(session: Session): Stretch {
    const { fromFrame, toFrame } = wholeOf(session)
    const length = Math.min(toFrame - fromFrame, ENOUGH_SECONDS * session.sampleRateHz)
    const from = fromFrame + Math.floor((toFrame - fromFrame - length) / 2)
    return { fromFrame: from, toFrame: from + length }
  }

  /**
   * How fast the piece goes, by the mix in the middle of the passage; null where nothing recurs evenly, or audio is
   * missing. @throws EngineError
   */
  async tempo(signal: AbortSignal): Promise<Tempo | null> {
    const session = this.session
    const target = session && (await this.#nodeTarget(session, MIX, this.#middleOf(session)))
    if (!session || !target) return null
    const input = { ...target, sampleRateHz: session.sampleRateHz }
    return (await this.pool.run('tempo', input, { signal, first: true })).tempo
  }

  /**
   * How the passage stands to the whole mix, and the stretch of as many seconds that stands nearest to it.
   * @returns null where audio is missing. @throws EngineError
   */
  async passage(
    seconds: number,
    { signal, onProgress }: { signal: AbortSignal; onProgress?: (share: number) => void },
  ): Promise<Tasks['passage']['out'] | null> {
    const session = this.session
    const sound = session && (await this.#soundOf(session, MIX, 'treated'))
    if (!session || !sound) return null
    const { sampleRateHz, passage: chosen } = session
    const stretch = { fromFrame: 0, toFrame: sessionFrames(session) }
    const input = { sound, sampleRateHz, stretch, chosen, seconds }
    return this.pool.run('passage', input, { signal, onProgress, first: true })
  }

  /** Bands, and one filter's zero, that bring a profile to another. @throws EngineError */
  match(
    input: Tasks['match']['in'],
    { signal, onProgress }: { signal: AbortSignal; onProgress?: (share: number) => void },
  ): Promise<Tasks['match']['out']> {
    return this.pool.run('match', input, { signal, onProgress, first: true })
  }

  /** The same from one published response to another. @throws EngineError */
  matchResponses(
    input: Tasks['responses']['in'],
    { signal }: { signal: AbortSignal },
  ): Promise<Tasks['responses']['out']> {
    return this.pool.run('responses', input, { signal, first: true })
  }

  /**
   * The threshold with which a leveller behind a node's chain, or another one, takes just so much at the loudest moment of the passage.
   * @returns null where audio is missing. @throws EngineError
   */
  async levelling(
    node: string,
    settings: Tasks['levelling']['in']['settings'],
    options: { signal: AbortSignal; onProgress?: (share: number) => void; chain?: Chain },
  ): Promise<Tasks['levelling']['out'] | null> {
    const { signal, onProgress, chain } = options
    const session =
      this.session && chain ? sessionWithChain(this.session, node, chain) : this.session
    const target = session && (await this.#nodeTarget(session, node))
    if (!session || !target) return null
    const input = { ...target, sampleRateHz: session.sampleRateHz, settings }
    return this.pool.run('levelling', input, { signal, onProgress, first: true })
  }

  /**
   * What a leveller of a node's chain takes over the whole session, or over the passage where that is long.
   * @returns null where audio is missing, or the leveller is gone. @throws EngineError
   */
  async levelled(
    node: string,
    treatment: string,
    { signal, onProgress }: { signal: AbortSignal; onProgress?: (share: number) => void },
  ): Promise<{ levelled: Levelled; stretch: Stretch } | null> {
    const session = this.session
    const chain = session && chainOf(session, node)?.treatments
    const at = chain?.findIndex((t) => t.id === treatment) ?? -1
    const leveller = chain?.[at]
    if (!session || !chain || leveller?.kind !== 'leveller') return null
    const whole = { fromFrame: 0, toFrame: sessionFrames(session) }
    const isLong = whole.toFrame > MOST_LEVELLED_SECONDS * session.sampleRateHz
    const stretch = isLong ? wholeOf(session) : whole
    const behind = chain.slice(at).map(
      ({ id }): Edit => ({
        kind: 'remove-treatment',
        node,
        treatment: id,
      }),
    )
    const target = await this.#nodeTarget(applyEdits(session, behind), node, stretch)
    if (!target) return null
    const { params } = leveller
    const input = { ...target, sampleRateHz: session.sampleRateHz, params, columns: COLUMNS }
    const levelled = await this.pool.run('levelled', input, { signal, onProgress })
    return { levelled, stretch }
  }

  /**
   * How two tracks add up over the beginning of the passage, each at its fader's level.
   * @returns null where audio of either is missing. @throws EngineError
   */
  async pair(tracks: readonly [string, string], signal: AbortSignal): Promise<PairReading | null> {
    const input = await this.#pairInput(tracks, MOST_PAIRED_SECONDS)
    return input && this.pool.run('pair', input, { signal, first: true })
  }

  /**
   * Ways in which a track may yield to another, each tried on both over a part of the passage.
   * @returns null where audio of either is missing. @throws EngineError
   */
  async proposeYielding(
    key: string,
    yielding: string,
    { signal, onProgress }: { signal: AbortSignal; onProgress?: (share: number) => void },
  ): Promise<YieldProposal | null> {
    const input = await this.#pairInput([key, yielding], MOST_TRIED_SECONDS)
    if (!input) return null
    const aside = this.#asideFor(key, yielding)
    return this.pool.run('yielding', { ...input, aside }, { signal, onProgress, first: true })
  }

  /** The emptier side, where both tracks stand in the middle, and the one that yields is none that belongs there. */
  #asideFor(key: string, yielding: string): Aside {
    const session = this.session
    const nodes = [key, yielding].map((id) => session?.tracks.find((t) => t.id === id))
    const [lead, own] = nodes
    if (!session || !lead || !own || lead.pan !== 0 || own.pan !== 0) return null
    if (MIDDLE_ROLES.has(own.role) || session.leadIds.includes(own.id)) return null
    const power = (t: Session['tracks'][number]) => (t.mute ? 0 : 10 ** (t.faderDb / 10))
    const lean = session.tracks.reduce((sum, t) => sum + t.pan * power(t), 0)
    return lean > 0 ? 'left' : 'right'
  }

  /**
   * What lines a track up with another that leads, by what their sum gains in a range of frequency.
   * @returns `found` null where they do not carry one source; null where audio is missing. @throws EngineError
   */
  async lineUp(
    lead: string,
    other: string,
    range: LineUpRange,
    signal: AbortSignal,
  ): Promise<{ readonly found: LineUp | null; readonly picture: LineUpPicture | null } | null> {
    const input = await this.#pairInput([lead, other], MOST_PAIRED_SECONDS)
    if (!input) return null
    const asked = { ...input, range }
    const { lineUp, picture } = await this.pool.run('lineUp', asked, { signal, first: true })
    return { found: lineUp, picture }
  }

  /** The mix in which a track that listens to others is made. */
  async #aloneInMix(session: Session, track: string) {
    const recordings = await this.shelf.find(session.tracks.map((t) => t.audio))
    return { plan: trackPlan(renderPlan(session, designLater), track), recordings }
  }

  async #pairInput(tracks: readonly [string, string], mostSeconds: number) {
    const session = this.session
    if (!session) return null
    const paired: PairedTrack[] = []
    for (const id of tracks) {
      const track = session.tracks.find((t) => t.id === id)
      const recording = track && (await this.shelf.find([track.audio])).get(track.audio.hash)
      if (!track || !recording) return null
      const { offsetFrames, faderDb } = track
      const chain = trimmedChain(track)
      const mix = isKeyed(chain.treatments) ? await this.#aloneInMix(session, id) : null
      paired.push({ chain, recording, offsetFrames, mix, gain: 10 ** (faderDb / 20) })
    }
    const { sampleRateHz } = session
    const whole = wholeOf(session)
    const toFrame = Math.min(whole.toFrame, whole.fromFrame + mostSeconds * sampleRateHz)
    return {
      tracks: [paired[0], paired[1]] as const,
      sampleRateHz,
      stretch: { fromFrame: whole.fromFrame, toFrame },
    }
  }
}

/** The passage, or everything. */
export function wholeOf(session: Session): Stretch {
  return session.passage ?? { fromFrame: 0, toFrame: sessionFrames(session) }
}
