import {
  designLater,
  listeningPlan,
  type MixPlan,
  mixSound,
  renderPlan,
  type Stretch,
} from '@sober-prism/core/mix'
import {
  AS_IT_CAME,
  applyEdits,
  type Chain,
  chainOf,
  type Session,
  sessionFrames,
  sessionWithChain,
  sessionWithout,
  type WithoutTarget,
} from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import { Analyser } from '../analysis/analyser'
import { ResultCache } from '../analysis/result-cache'
import { hashOf } from '../analysis/scheduler'
import type { SessionFinding } from '../analysis/session-finding'
import { SharesAhead } from '../analysis/shares-ahead'
import { type Ask, makeAsk } from '../questions/ask'
import type { Levelled } from '../questions/levelled'
import type { PlaybackChoice } from '../questions/playback'
import { wholeOf } from '../questions/question'
import { Signal } from '../signal'
import type { LiveReading } from '../sound/live'
import { Player, SESSION } from '../sound/player'
import { RecordingShelf } from '../storage/recording-access'
import { WorkerPool } from '../work/worker-pool'
import {
  type AuditionMode,
  auditionEdits,
  bandState,
  huntState,
  rangeState,
  referenceState,
  referenceStretch,
} from './audition'
import {
  type BlindPair,
  type BlindPlace,
  type ComparedLoudness,
  ComparedStates,
  gainsToQuietest,
  stateAt,
} from './compared-states'
import { DesignStore, type PhaseCost } from './design-store'
import { ElsewhereListening } from './elsewhere'
import { HeardLoop } from './heard-loop'

/** What is heard in place of the session as it stands. */
export type Rendition =
  /** Without some treatments, as loud as with them. */
  | { readonly kind: 'without'; readonly target: WithoutTarget }
  /** Only what treatments take away or add. */
  | { readonly kind: 'difference'; readonly target: WithoutTarget }
  /** A finding's band brought forward, its moves in, or neither. */
  | { readonly kind: 'finding'; readonly key: string; readonly mode: AuditionMode }
  /** Only the range of one band of a node, by itself; or everything but that range. It follows the band. */
  | {
      readonly kind: 'band'
      readonly node: string
      readonly band: string
      readonly way: 'only' | 'rest'
    }
  /** A region of one node's picture over time, alone and looped. */
  | ({ readonly kind: 'region' } & SoundRegion)
  /** A reference in place of the mix, as loud as it over the passage: all of it, or a range of both. */
  | {
      readonly kind: 'reference'
      readonly reference: string
      readonly range: FrequencyRange | null
    }
  /** Compare chains in place of a node's own, as loud as with that. */
  | {
      readonly kind: 'chain'
      readonly node: string
      readonly name: string
      readonly chain: Chain
    }
  /** A variation, or the session as it came, as loud as the quietest of those that are compared. */
  | { readonly kind: 'variation'; readonly variation: string }
  /** A place of a blind test: what is there is told to nobody. */
  | { readonly kind: 'blind'; readonly place: BlindPlace }
  /** Only a range of a node's sound. */
  | { readonly kind: 'range'; readonly node: string; readonly range: FrequencyRange }
  /** A narrow boost on one node, which is moved while listening. */
  | { readonly kind: 'hunt'; readonly at: HuntPlace }

export interface FrequencyRange {
  readonly fromHz: number
  readonly toHz: number
}

/** A stretch of time and a range of frequency of one node. */
export interface SoundRegion extends FrequencyRange {
  readonly node: string
  readonly stretch: Stretch
}

/** Where a boost stands while one hunts for taps. */
export interface HuntPlace {
  readonly node: string
  readonly hz: number
  readonly q: number
  /** How far it may go is told by `huntBoost`. */
  readonly db: number
}

/** The rendition that was asked for; `gainDb` makes it as loud as the session, and is null until it is known. */
export interface HeardRendition {
  readonly rendition: Rendition
  readonly gainDb: number | null
}

const OTHER = 'other'

const isVariation = (session: Session, id: string) =>
  id === AS_IT_CAME || session.variations.list.some((v) => v.id === id)

/** An open session at work: its sound, its measurements, and the workers that do them. */
export class Desk {
  readonly pool = new WorkerPool()
  readonly shelf = new RecordingShelf()
  readonly analyser = new Analyser(this.pool, this.shelf, undefined, new SharesAhead())
  readonly live = new Signal<LiveReading | null>(null)
  /** What is heard in place of the session; null for the session itself. */
  readonly heard = new Signal<HeardRendition | null>(null)
  /** What the leveller that one looks at takes over time. */
  readonly levelledNow = new Signal<Levelled | null>(null)
  /** What is asked about its sounds. */
  readonly ask: Ask = makeAsk(this.pool, this.shelf, () => this.#session)
  readonly player: Player
  readonly #heardLoop: HeardLoop
  readonly #designs: DesignStore
  readonly #loudness = new ResultCache(50)
  /** States that are heard against each other. */
  readonly compared = new ComparedStates((session) => this.#mixLoudness(session, wholeOf(session)))
  /** What everything is heard through. */
  readonly elsewhere = new ElsewhereListening(
    (choice, session, signal) => this.#preparePlayback(choice, session, signal),
    (through) => this.player.playThrough(through),
  )
  #blind: BlindPair | null = null
  #session: Session | null = null
  /** The state of the session that the rendition plays. */
  #other: Session | null = null

  constructor(sampleRateHz: number) {
    this.player = new Player(sampleRateHz)
    this.#heardLoop = new HeardLoop(this.player)
    this.#designs = new DesignStore(this.pool, sampleRateHz, () => this.#sendPlans())
    this.player.onLive = (reading) => this.live.set(reading)
  }

  /** What treatments in linear or mixed phase cost, by node and treatment. */
  get phaseCosts(): Signal<ReadonlyMap<string, PhaseCost>> {
    return this.#designs.costs
  }

  /** What could not be prepared for the sound, as a sentence. */
  get designProblem(): Signal<string | null> {
    return this.#designs.problem
  }

  /** Takes a new state of the session: sound follows at once, measurements when it stands still. */
  update(session: Session): void {
    const before = this.#session
    this.#session = session
    if (before?.tracks !== session.tracks) void this.#loadAudio(session)
    const isLooped = (of: Session) => [of.passage, of.loop, sessionFrames(of)]
    if (!before || !isLooped(before).every((v, i) => v === isLooped(session)[i])) {
      this.#loop()
      // Starting from silence, the passage is what one wants to hear.
      if (!before && session.passage) this.player.seek(session.passage.fromFrame)
    }
    this.analyser.update(session)
    this.elsewhere.update(session)
    this.#sendPlans()
    const heard = this.heard.value
    if (heard && before !== session) {
      const { rendition } = heard
      const isGone = (id: string) => !session.references.some((r) => r.id === id)
      // A finding belongs to the state it was found in; a comparison goes on with the new one.
      if (rendition.kind === 'finding') this.stopHearing()
      else if (rendition.kind === 'reference' && isGone(rendition.reference)) this.stopHearing()
      else if (rendition.kind === 'chain' && !chainOf(session, rendition.node)) this.stopHearing()
      else if (rendition.kind === 'variation' && !isVariation(session, rendition.variation)) {
        this.stopHearing()
      } else if (rendition.kind === 'hunt') this.hunt(rendition.at)
      // What cannot be heard of this state is not heard of an older one either.
      else void this.hear(rendition).catch(() => this.stopHearing())
    }
    if (this.heard.value) this.#sendPlans()
    if (before !== session && this.compared.ids.length > 0) {
      this.compared.read(session).catch(() => {})
    }
  }

  /**
   * Lets another rendition be heard, as loud as the session over the passage.
   * @throws EngineError when it cannot be measured.
   */
  async hear(rendition: Rendition, finding?: SessionFinding): Promise<void> {
    const session = this.#session
    if (!session) return
    if (rendition.kind === 'variation' || rendition.kind === 'blind') {
      return this.#hearCompared(session, rendition)
    }
    const other = this.#stateOf(session, rendition, finding)
    const now = this.heard.value
    const goesOn = now && hashOf(now.rendition) === hashOf(rendition)
    if (!goesOn) this.heard.set({ rendition, gainDb: null })
    this.#other = other
    if (!goesOn || rendition.kind === 'reference') this.#loopAfter(now?.rendition)
    if ([rendition.kind, now?.rendition.kind].includes('reference')) await this.#loadAudio(session)
    // It runs in while its loudness is measured.
    this.#sendPlans()
    const isAsItIs = ['difference', 'band', 'region', 'range'].includes(rendition.kind)
    // A range of a reference is as much louder as all of it.
    const whole =
      rendition.kind === 'reference' ? referenceState(session, rendition.reference) : other
    const stretch =
      rendition.kind === 'reference' ? referenceStretch(session, rendition.reference) : null
    const gainDb = isAsItIs ? 0 : await this.#matchingGain(session, whole, stretch)
    if (this.#other !== other || this.#session !== session) return
    this.heard.set({ rendition, gainDb })
    const gain = 10 ** (gainDb / 20)
    void this.player.hear(
      rendition.kind === 'difference'
        ? [
            { name: SESSION, gain: 1 },
            { name: OTHER, gain: -1 },
          ]
        : [{ name: OTHER, gain }],
    )
    if (rendition.kind === 'region' && !goesOn) {
      this.player.seek(rendition.stretch.fromFrame)
      await this.player.play()
    }
    if (rendition.kind === 'finding' && !this.player.playing) {
      if (session.passage) this.player.seek(session.passage.fromFrame)
      await this.player.play()
    }
  }

  #stateOf(
    session: Session,
    rendition: Exclude<Rendition, { kind: 'variation' | 'blind' }>,
    finding: SessionFinding | undefined,
  ): Session {
    if (rendition.kind === 'hunt') return huntState(session, rendition.at)
    if (rendition.kind === 'band') return bandState(session, rendition)
    if (rendition.kind === 'region') return rangeState(session, rendition.node, rendition)
    if (rendition.kind === 'range') return rangeState(session, rendition.node, rendition.range)
    if (rendition.kind === 'reference') {
      const { reference, range } = rendition
      const alone = referenceState(session, reference)
      return range ? rangeState(alone, MIX, range) : alone
    }
    if (rendition.kind === 'chain') {
      return sessionWithChain(session, rendition.node, rendition.chain)
    }
    if (rendition.kind !== 'finding') return sessionWithout(session, rendition.target)
    const edits = finding ? auditionEdits(finding, rendition.mode) : []
    return applyEdits(session, edits)
  }

  /** Holds variations ready to be heard at a key; none ends the comparison. */
  compare(ids: readonly string[]): void {
    const session = this.#session
    const before = session ? [...this.compared.playedBeside(session).keys()] : []
    this.compared.hold(ids)
    if (!session) return
    const now = this.compared.playedBeside(session)
    const heard = this.heard.value?.rendition
    if (heard?.kind === 'variation' && !ids.includes(heard.variation)) this.stopHearing()
    for (const name of before) if (!now.has(name)) this.player.dropPlan(name)
    this.#sendPlans()
    if (ids.length > 0) this.compared.read(session).catch(() => {})
  }

  /** What a blind test is between; null ends it. */
  setBlind(pair: BlindPair | null): void {
    this.#blind = pair
    if (pair === null && this.heard.value?.rendition.kind === 'blind') this.stopHearing()
  }

  /** Goes over to a state that is held, in time. */
  async #hearCompared(
    session: Session,
    rendition: Extract<Rendition, { kind: 'variation' | 'blind' }>,
  ): Promise<void> {
    if (rendition.kind === 'blind' && !this.#blind) return
    const id =
      rendition.kind === 'variation'
        ? rendition.variation
        : stateAt(this.#blind as BlindPair, rendition.place)
    if (!this.compared.ids.includes(id)) this.compared.hold([...this.compared.ids, id])
    const running = [...this.compared.playedBeside(session).keys()]
    this.compared.run(id)
    const known = this.compared.known(session)
    // In a blind test the gain would tell.
    const shown = (gainDb: number) => (rendition.kind === 'blind' ? 0 : gainDb)
    const gainOf = (loudness: ComparedLoudness) => gainsToQuietest(loudness).get(id) ?? 0
    const before = this.heard.value?.rendition
    this.#other = null
    this.heard.set({ rendition, gainDb: known && shown(gainOf(known)) })
    this.#loopAfter(before)
    this.#sendPlans()
    const loudness = known ?? (await this.compared.read(session))
    const isWanted = hashOf(this.heard.value?.rendition) === hashOf(rendition)
    if (this.#session !== session || !isWanted) return
    const gainDb = gainOf(loudness)
    this.heard.set({ rendition, gainDb: shown(gainDb) })
    const name = ComparedStates.nameOf(session, id)
    void this.player.hear([{ name, gain: 10 ** (gainDb / 20) }])
    this.player.dropPlan(OTHER)
    const now = this.compared.playedBeside(session)
    for (const other of running) if (!now.has(other)) this.player.dropPlan(other)
  }

  /**
   * Lets a boost be heard where the pointer is; it glides from place to place, and is in no render and no history.
   */
  hunt(at: HuntPlace): void {
    const session = this.#session
    if (!session) return
    const before = this.heard.value?.rendition
    const goesOn = before?.kind === 'hunt'
    this.#other = huntState(session, at)
    this.heard.set({ rendition: { kind: 'hunt', at }, gainDb: 0 })
    if (!goesOn) this.#loopAfter(before)
    this.#sendPlans()
    if (!goesOn) void this.player.hear([{ name: OTHER, gain: 1 }])
  }

  /** Back to the session as it stands. */
  stopHearing(): void {
    const now = this.heard.value
    if (!now) return
    this.heard.set(null)
    this.#other = null
    this.#loopAfter(now.rendition)
    void this.player.hear([{ name: SESSION, gain: 1 }])
    this.player.dropPlan(OTHER)
    if (now.rendition.kind === 'reference' && this.#session) void this.#loadAudio(this.#session)
  }

  async close(): Promise<void> {
    this.analyser.close()
    this.elsewhere.close()
    this.pool.close()
    await this.player.close()
  }

  #loop(): void {
    if (this.#session) this.#heardLoop.follow(this.#session, this.heard.value?.rendition ?? null)
  }

  /** Between renditions of the whole passage its loop stays as it is. */
  #loopAfter(before: Rendition | undefined): void {
    const kinds = [before?.kind, this.heard.value?.rendition.kind]
    if (kinds.includes('region') || kinds.includes('reference')) this.#loop()
  }

  #sendPlans(): void {
    if (!this.#session) return
    this.player.setPlan(SESSION, this.#plan(this.#session, ''))
    if (this.#other) this.player.setPlan(OTHER, this.#plan(this.#other, OTHER))
    for (const [name, state] of this.compared.playedBeside(this.#session)) {
      this.player.setPlan(name, this.#plan(state, name))
    }
  }

  /** The plan of a state; treatments that are not designed yet are left out until they are. */
  #plan(session: Session, rendition: string): MixPlan {
    const plan = listeningPlan(session, (kind, params, treatment, node) =>
      this.#designs.get(kind, params, treatment, `${rendition}${node}`),
    )
    return {
      nodes: plan.nodes.map((node) =>
        node.treatments.every((t) => t.design !== null)
          ? node
          : { ...node, treatments: node.treatments.filter((t) => t.design !== null) },
      ),
    }
  }

  async #loadAudio(session: Session): Promise<void> {
    const audios = [...session.tracks, ...session.references].map((t) => t.audio)
    this.shelf.keep(new Set(audios.map((a) => a.hash)))
    const isReference = this.heard.value?.rendition.kind === 'reference'
    const played = [...session.tracks, ...((isReference && this.#other?.tracks) || [])]
    const recordings = await this.shelf.find(played.map((t) => t.audio))
    if (this.#session?.tracks !== session.tracks) return
    const offsets = new Map<string, number[]>()
    for (const { audio, offsetFrames } of played) {
      offsets.set(audio.hash, [...(offsets.get(audio.hash) ?? []), offsetFrames])
    }
    this.player.setAudio(recordings, offsets)
    this.#sendPlans()
  }

  /** @param stretch over which the other state is heard, where that is not the passage. */
  async #matchingGain(session: Session, other: Session, stretch: Stretch | null): Promise<number> {
    const passage = wholeOf(session)
    const [now, then] = await Promise.all([
      this.#mixLoudness(session, passage),
      this.#mixLoudness(other, stretch ?? passage),
    ])
    const others = [...this.compared.loudness.value.values()].filter((v) => v !== null)
    // Beside states that are compared, it is as loud as they are.
    const target = this.compared.ids.length > 0 ? Math.min(now ?? 0, ...others) : now
    return target === null || now === null || then === null ? 0 : target - then
  }

  async #preparePlayback(choice: PlaybackChoice, session: Session, signal: AbortSignal) {
    if (session.tracks.length === 0) return null
    const sound = mixSound(session, renderPlan(session, designLater))
    const recordings = await this.shelf.find(session.tracks.map((t) => t.audio))
    const stretch = wholeOf(session)
    const hereDbSpl = session.listeningDbSpl
    const input = { sound, recordings, stretch, choice, hereDbSpl }
    return this.pool.run('playback', input, { signal, first: true })
  }

  #mixLoudness(session: Session, stretch: Stretch): Promise<number | null> {
    const sound = mixSound(session, renderPlan(session, designLater))
    return this.#loudness.get(hashOf([sound, stretch]), async () => {
      const recordings = await this.shelf.find(session.tracks.map((t) => t.audio))
      return this.pool.run('loudness', { sound, recordings, stretch }, { first: true })
    })
  }
}
