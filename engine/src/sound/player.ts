import type { HeardPart, Listening, Loop, MixPlan } from '@sober-prism/core/mix'
import { EngineError } from '../engine-error'
import { pffftBytes } from '../pffft-bytes'
import { Signal } from '../signal'
import type { RecordingAccess } from '../storage/recording-access'
import { WatchedWorker } from '../work/watched-worker'
import { AHEAD_STEPS, GAPS_PER_STEP, GapFinder, type Lateness, NEVER_LATE } from './lateness'
import type { LiveReading, ToLive } from './live'
import {
  type FromMixer,
  type MixerOptions,
  MOST_GAINS,
  type PlayedAudio,
  STATE,
  type ToFeeder,
  type ToMixer,
} from './messages'
import workletUrl from './mixer.worklet.ts?worker&url'
import { changedNodes } from './plan-changes'
import type { ProbeSettings } from './probe-spectrum'
import { TapBuffers } from './tap-buffers'
import { makeWindow, type SharedWindow } from './window-source'

const WATCH_MS = 500

interface Recording {
  readonly left: Float32Array
  readonly right: Float32Array
  readonly onFull: () => void
}

/** The rendition that is the session as it stands. */
export const SESSION = 'session'

/**
 * Plays a session: the page's side of the mixer in the audio worklet. Everything may be set before sound
 * is started; the audio device is opened by the first {@link Player.play}, which a user's gesture must cause.
 */
export class Player {
  readonly #state = new Int32Array(new SharedArrayBuffer(STATE.length * 4))
  readonly #gains = new Float32Array(new SharedArrayBuffer((MOST_GAINS + 1) * 4))
  #gainsOf: { readonly node: string | null; readonly treatment: string } = {
    node: null,
    treatment: '',
  }
  readonly #sampleRateHz: number
  #context: AudioContext | null = null
  #port: MessagePort | null = null
  #opening: Promise<void> | null = null
  /** What the worklet must know when it starts. */
  #audio = new Map<string, RecordingAccess>()
  readonly #windows = new Map<string, SharedWindow>()
  readonly #plans = new Map<string, MixPlan>()
  #heard: readonly HeardPart[] = [{ name: SESSION, gain: 1 }]
  #loop: Loop | null = null
  #end: number | null = null
  #listening: Listening = { position: 'stereo', dim: false }
  #frame = 0
  #jumps = 0
  #turn = 0
  /** Brings what is to be played into the windows, and measures what was played; each is followed by another if it ends. */
  readonly #feeder: WatchedWorker<ToFeeder>
  readonly #live: WatchedWorker<ToLive>
  #fed: ToFeeder = { kind: 'feed', recordings: [] }
  #seen: ToLive | null = null
  #pffft: ArrayBuffer | null = null
  #isClosed = false
  #watched = ''
  #compared: readonly [string, string] | null = null
  #probed: { readonly id: string | null; readonly settings: ProbeSettings | null } = {
    id: null,
    settings: null,
  }
  /** What is being kept of the output, until it is full. */
  #recording: Recording | null = null
  readonly #onHeard = new Map<number, () => void>()
  /** Whether it plays. */
  readonly playingSignal = new Signal(false)
  /** Reads of audio that was not at hand in time. */
  readonly missed = new Signal(0)
  /** Gaps in the sound because the machine was late. */
  readonly late = new Signal<Lateness>(NEVER_LATE)
  /** Which of the steps ahead is in use, and gaps since then. */
  #step = 0
  #gapsHere = 0
  #watching: ReturnType<typeof setInterval> | undefined
  onLive: (reading: LiveReading) => void = () => {}

  constructor(sampleRateHz: number) {
    this.#sampleRateHz = sampleRateHz
    this.#feeder = new WatchedWorker(
      () => new Worker(new URL('./feeder.worker.ts', import.meta.url), { type: 'module' }),
      () => this.#tellFeeder(),
    )
    this.#live = new WatchedWorker(
      () => new Worker(new URL('./live.worker.ts', import.meta.url), { type: 'module' }),
      () => this.#tellLive(),
      (reading) => this.onLive(reading as LiveReading),
    )
    this.#feeder.start()
  }

  /** Tells a feeder all that it works by: where it is, what loops, what there is to read. */
  #tellFeeder(): void {
    if (this.#port) this.#connectFeeder()
    this.#feed({ kind: 'loop', loop: this.#loop })
    this.#feed(this.#fed)
    this.#feed({ kind: 'jump', frame: this.positionFrames, jumps: this.#jumps })
  }

  #connectFeeder(): void {
    const { port1, port2 } = new MessageChannel()
    this.#feeder.send({ kind: 'port', port: port1 }, [port1])
    this.#port?.postMessage({ kind: 'port', port: port2 } satisfies ToMixer, [port2])
  }

  #tellLive(): void {
    if (this.#pffft) this.#live.send({ kind: 'start', pffft: this.#pffft })
    this.#live.send({ kind: 'probe', settings: this.#probed.settings })
    this.#live.send({ kind: 'sides', shown: this.#compared !== null })
    if (this.#seen) this.#live.send(this.#seen)
  }

  get sampleRateHz(): number {
    return this.#sampleRateHz
  }

  /** Frame that is played now, or will be played first. */
  get positionFrames(): number {
    // What the audio thread says is of before a jump until it says that it has made it.
    const isThere = this.#port !== null && Atomics.load(this.#state, STATE.jumps) === this.#jumps
    return isThere ? Atomics.load(this.#state, STATE.position) : this.#frame
  }

  /** Blocks that the audio thread has been asked for since it started. */
  get blocks(): number {
    return Atomics.load(this.#state, STATE.blocks)
  }

  get playing(): boolean {
    return Atomics.load(this.#state, STATE.playing) === 1
  }

  /** The recordings to be played, by hash, with the places on the time line at which each begins. */
  setAudio(
    recordings: ReadonlyMap<string, RecordingAccess>,
    offsets: ReadonlyMap<string, readonly number[]>,
  ): void {
    for (const hash of this.#audio.keys()) {
      if (recordings.has(hash)) continue
      this.#windows.delete(hash)
      this.#send({ kind: 'audio', hash, audio: null })
    }
    const known = this.#audio
    this.#audio = new Map(recordings)
    for (const [hash, access] of recordings) {
      if (known.get(hash) === access) continue
      this.#send({ kind: 'audio', hash, audio: this.#played(access, offsets.get(hash)?.length) })
    }
    this.#fed = {
      kind: 'feed',
      recordings: [...this.#windows].flatMap(([hash, window]) => {
        const access = recordings.get(hash)
        return access
          ? [{ hash, window, blocks: access.blocks, offsets: offsets.get(hash) ?? [] }]
          : []
      }),
    }
    this.#feed(this.#fed)
  }

  #played({ hash, memory, channels, frames }: RecordingAccess, places = 1): PlayedAudio {
    if (memory) return { kind: 'memory', channels: memory }
    const window = this.#windows.get(hash) ?? makeWindow(channels, frames, places)
    this.#windows.set(hash, window)
    return { kind: 'window', window }
  }

  /** Holds a state ready to be heard; what of it is new is sent. */
  setPlan(rendition: string, plan: MixPlan): void {
    const before = this.#plans.get(rendition) ?? null
    this.#plans.set(rendition, plan)
    const changed = changedNodes(before, plan)
    const order = plan.nodes.map((n) => n.id)
    const isSameOrder = before?.nodes.map((n) => n.id).join() === order.join()
    if (changed.length > 0 || !isSameOrder) this.#send({ kind: 'plan', rendition, changed, order })
    if (rendition === SESSION) this.#watchNodes()
  }

  dropPlan(rendition: string): void {
    if (!this.#plans.delete(rendition)) return
    this.#send({ kind: 'drop', rendition })
  }

  /**
   * Lets states be heard that are held: one, or the difference of two. Resolves when they begin to be heard;
   * without a device, at once.
   */
  hear(parts: readonly HeardPart[]): Promise<void> {
    this.#heard = parts
    const turn = ++this.#turn
    if (!this.#port) return Promise.resolve()
    return new Promise((resolve) => {
      this.#onHeard.set(turn, resolve)
      this.#send({ kind: 'hear', parts, turn })
    })
  }

  /** What repeats, and where the piece ends; null where it does not. */
  setLoop(loop: Loop | null, end: number | null): void {
    this.#loop = loop
    this.#end = end
    this.#send({ kind: 'loop', loop, end })
    this.#feed({ kind: 'loop', loop })
  }

  /** How the output is listened to; for listening only, it is in no render. */
  listen(listening: Listening): void {
    const { position, dim } = this.#listening
    if (listening.position === position && listening.dim === dim) return
    this.#listening = listening
    this.#send({ kind: 'listen', listening })
  }

  /** Shows in {@link gainsNow} how far the bands of a treatment are drawn while it sounds; null for none. */
  showGains(node: string | null, treatment: string): void {
    this.#gainsOf = { node, treatment }
    this.#send({ kind: 'gains', node, treatment })
  }

  /** Gains of the treatment that is shown, in dB, at this moment; none where it is not heard yet. */
  get gainsNow(): Float32Array {
    return this.#gains.subarray(1, 1 + this.#gains[0])
  }

  /** Shows in {@link LiveReading.probe} what goes into a node's chain and what comes out of it; null for none. */
  probe(id: string | null, settings: ProbeSettings): void {
    this.#probed = { id, settings: id === null ? null : settings }
    this.#send({ kind: 'probe', id })
    this.#live.send({ kind: 'probe', settings: this.#probed.settings })
  }

  /** Shows in {@link LiveReading.sides} what two nodes have at their sides; null for none. */
  compareSides(of: readonly [string, string] | null): void {
    this.#compared = of
    this.#send({ kind: 'sides', of })
    this.#live.send({ kind: 'sides', shown: of !== null })
  }

  seek(frame: number): void {
    this.#frame = frame
    this.#jumps++
    const jump = { kind: 'jump', frame, jumps: this.#jumps } as const
    this.#feed(jump)
    this.#send(jump)
  }

  /** @throws EngineError when the browser gives no audio output. */
  async play(): Promise<void> {
    if (this.#wantsMoreAhead && !this.playing) await this.#shut()
    await this.#open()
    await this.#context?.resume()
    this.#send({ kind: 'play' })
  }

  /** The machine was late too often for what is prepared ahead: the next start prepares more. */
  get #wantsMoreAhead(): boolean {
    return this.#gapsHere >= GAPS_PER_STEP && this.#step + 1 < AHEAD_STEPS.length
  }

  /** Lets the audio output go, so that it is opened anew with more prepared ahead. */
  async #shut(): Promise<void> {
    this.#frame = this.positionFrames
    clearInterval(this.#watching)
    const context = this.#context
    this.#context = null
    this.#port = null
    this.#opening = null
    this.#watched = ''
    this.#step++
    this.#gapsHere = 0
    this.late.set({ ...this.late.value, aheadSeconds: AHEAD_STEPS[this.#step] })
    await context?.close()
  }

  /** Counts gaps while sound plays. */
  #watchGaps(context: AudioContext): void {
    const finder = new GapFinder(Math.max(context.baseLatency, AHEAD_STEPS[this.#step] ?? 0))
    this.#watching = setInterval(() => {
      if (context.state !== 'running' || !this.playing) return finder.pause()
      const lost = finder.note(context.currentTime, performance.now() / 1000)
      if (lost === 0) return
      this.#gapsHere++
      const { gaps, seconds, aheadSeconds } = this.late.value
      this.late.set({ gaps: gaps + 1, seconds: seconds + lost, aheadSeconds })
    }, WATCH_MS)
  }

  pause(): void {
    this.#send({ kind: 'pause' })
  }

  /** Keeps the next seconds of output as it leaves the mixer, for measuring; resolves when they are full. */
  async record(seconds: number): Promise<{ left: Float32Array; right: Float32Array }> {
    await this.#open()
    const frames = Math.round(seconds * this.#sampleRateHz)
    const left = new Float32Array(new SharedArrayBuffer(frames * 4))
    const right = new Float32Array(new SharedArrayBuffer(frames * 4))
    await new Promise<void>((onFull) => {
      this.#recording = { left, right, onFull }
      this.#send({ kind: 'record', left, right })
    })
    this.#recording = null
    return { left: left.slice(), right: right.slice() }
  }

  async close(): Promise<void> {
    this.#isClosed = true
    this.#live.close()
    this.#feeder.close()
    clearInterval(this.#watching)
    await this.#context?.close()
    this.#context = null
    this.#port = null
  }

  #open(): Promise<void> {
    this.#opening ??= this.#start().catch((error: unknown) => {
      this.#opening = null
      throw error
    })
    return this.#opening
  }

  async #start(): Promise<void> {
    let opened: AudioContext | null = null
    try {
      const context = new AudioContext({
        sampleRate: this.#sampleRateHz,
        latencyHint: AHEAD_STEPS[this.#step] ?? 'interactive',
      })
      opened = context
      await context.audioWorklet.addModule(workletUrl)
      const processorOptions: MixerOptions = {
        state: this.#state.buffer as SharedArrayBuffer,
        gains: this.#gains.buffer as SharedArrayBuffer,
        pffft: await pffftBytes(),
      }
      const node = new AudioWorkletNode(context, 'sober-prism-mixer', {
        numberOfInputs: 0,
        outputChannelCount: [2],
        processorOptions,
      })
      node.connect(context.destination)
      node.port.onmessage = (event: MessageEvent<FromMixer>) => this.#hearMixer(event.data)
      this.#context = context
      this.#port = node.port
      this.#watchGaps(context)
    } catch (error) {
      await opened?.close()
      throw new EngineError(
        `The browser gives no audio output at ${this.#sampleRateHz} Hz (${(error as Error).message}).`,
      )
    }
    this.#tellAll()
  }

  /** Tells the new worklet everything that was set before it was there. */
  #tellAll(): void {
    this.#connectFeeder()
    for (const [hash, access] of this.#audio) {
      this.#send({ kind: 'audio', hash, audio: this.#played(access) })
    }
    for (const [rendition, { nodes }] of this.#plans) {
      this.#send({ kind: 'plan', rendition, changed: nodes, order: nodes.map((n) => n.id) })
    }
    this.#send({ kind: 'hear', parts: this.#heard, turn: ++this.#turn })
    this.#send({ kind: 'loop', loop: this.#loop, end: this.#end })
    this.#send({ kind: 'listen', listening: this.#listening })
    this.#send({ kind: 'probe', id: this.#probed.id })
    this.#send({ kind: 'sides', of: this.#compared })
    this.#send({ kind: 'gains', ...this.#gainsOf })
    if (this.#recording) {
      const { left, right } = this.#recording
      this.#send({ kind: 'record', left, right })
    }
    this.seek(this.#frame)
    this.#watchNodes()
  }

  #hearMixer(message: FromMixer): void {
    switch (message.kind) {
      case 'playing':
        this.playingSignal.set(message.on)
        return
      case 'heard':
        for (const [turn, resolve] of this.#onHeard) {
          if (turn > message.turn) continue
          this.#onHeard.delete(turn)
          resolve()
        }
        return
      case 'recorded':
        this.#recording?.onFull()
        return
      case 'missed':
        this.missed.set(message.reads)
        return
      case 'at':
        return
      default:
        message satisfies never
    }
  }

  /** Gives each track and group a buffer when they change. */
  #watchNodes(): void {
    const plan = this.#plans.get(SESSION)
    if (!this.#port || !plan) return
    const ids = plan.nodes.flatMap((n) => (n.output === null ? [] : [n.id]))
    if (ids.join() === this.#watched) return
    this.#watched = ids.join()
    const { buffer } = TapBuffers.forTracks(ids.length)
    this.#send({ kind: 'taps', taps: buffer, ids })
    this.#seen = {
      kind: 'watch',
      taps: buffer,
      tracks: ids.length,
      sampleRateHz: this.#sampleRateHz,
    }
    void this.#watchLive(this.#seen)
  }

  async #watchLive(seen: ToLive): Promise<void> {
    this.#pffft = await pffftBytes()
    if (this.#isClosed) return
    if (this.#live.started) this.#live.send(seen)
    else this.#live.start()
  }

  #send(message: ToMixer): void {
    this.#port?.postMessage(message)
  }

  #feed(message: ToFeeder): void {
    this.#feeder.send(message)
  }
}
