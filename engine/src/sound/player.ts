import type { HeardPart, Listening, Loop, MixPlan } from '@sober-prism/core/mix'
import { Signal } from '../signal'
import type { RecordingAccess } from '../storage/recording-access'
import { AudioOutput } from './audio-output'
import type { Lateness } from './lateness'
import type { LiveReading } from './live'
import { LiveMeter } from './live-meter'
import { type FromMixer, type HeardThrough, MOST_GAINS, STATE } from './messages'
import { changedNodes } from './plan-changes'
import { PlayedRecordings } from './played-recordings'
import type { ProbeSettings } from './probe-spectrum'

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
  readonly #output: AudioOutput
  readonly #recordings: PlayedRecordings
  readonly #meter: LiveMeter
  /** What the worklet must know when it starts. */
  readonly #plans = new Map<string, MixPlan>()
  #heard: readonly HeardPart[] = [{ name: SESSION, gain: 1 }]
  #loop: Loop | null = null
  #end: number | null = null
  #listening: Listening = { position: 'stereo', dim: false }
  #through: HeardThrough | null = null
  #gainsOf: { readonly node: string | null; readonly treatment: string } = {
    node: null,
    treatment: '',
  }
  #frame = 0
  #jumps = 0
  #turn = 0
  /** What is being kept of the output, until it is full. */
  #recording: Recording | null = null
  readonly #onHeard = new Map<number, () => void>()
  /** Whether it plays. */
  readonly playingSignal = new Signal(false)
  /** Reads of audio that was not at hand in time. */
  readonly missed = new Signal(0)
  onLive: (reading: LiveReading) => void = () => {}

  constructor(readonly sampleRateHz: number) {
    const shared = {
      state: this.#state.buffer as SharedArrayBuffer,
      gains: this.#gains.buffer as SharedArrayBuffer,
    }
    this.#output = new AudioOutput(sampleRateHz, shared, {
      onOpen: () => this.#tellAll(),
      onMessage: (message) => this.#hearMixer(message),
      isPlaying: () => this.playing,
    })
    this.#recordings = new PlayedRecordings(this.#output, () => this.positionFrames)
    this.#meter = new LiveMeter(this.#output, sampleRateHz, (reading) => this.onLive(reading))
  }

  /** Gaps in the sound because the machine was late. */
  get late(): Signal<Lateness> {
    return this.#output.late
  }

  /** Frame that is played now, or will be played first. */
  get positionFrames(): number {
    // What the audio thread says is of before a jump until it says that it has made it.
    const isThere = this.#output.isOpen && Atomics.load(this.#state, STATE.jumps) === this.#jumps
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
    this.#recordings.set(recordings, offsets)
  }

  /** Holds a state ready to be heard; what of it is new is sent. */
  setPlan(rendition: string, plan: MixPlan): void {
    const before = this.#plans.get(rendition) ?? null
    this.#plans.set(rendition, plan)
    const changed = changedNodes(before, plan)
    const order = plan.nodes.map((n) => n.id)
    const isSameOrder = before?.nodes.map((n) => n.id).join() === order.join()
    if (changed.length > 0 || !isSameOrder) {
      this.#output.send({ kind: 'plan', rendition, changed, order })
    }
    if (rendition === SESSION) this.#watchNodes()
  }

  dropPlan(rendition: string): void {
    if (this.#plans.delete(rendition)) this.#output.send({ kind: 'drop', rendition })
  }

  /**
   * Lets states be heard that are held: one, or the difference of two. Resolves when they begin to be heard;
   * without a device, at once.
   */
  hear(parts: readonly HeardPart[]): Promise<void> {
    this.#heard = parts
    const turn = ++this.#turn
    if (!this.#output.isOpen) return Promise.resolve()
    return new Promise((resolve) => {
      this.#onHeard.set(turn, resolve)
      this.#output.send({ kind: 'hear', parts, turn })
    })
  }

  /** What repeats, and where the piece ends; null where it does not. */
  setLoop(loop: Loop | null, end: number | null): void {
    this.#loop = loop
    this.#end = end
    this.#output.send({ kind: 'loop', loop, end })
    this.#recordings.setLoop(loop)
  }

  /** How the output is listened to; for listening only, it is in no render. */
  listen(listening: Listening): void {
    const { position, dim } = this.#listening
    if (listening.position === position && listening.dim === dim) return
    this.#listening = listening
    this.#output.send({ kind: 'listen', listening })
  }

  /** What everything is heard through; for listening only. */
  playThrough(through: HeardThrough | null): void {
    this.#through = through
    this.#output.send({ kind: 'through', through })
  }

  /** Shows in {@link gainsNow} how far the bands of a treatment are drawn while it sounds; null for none. */
  showGains(node: string | null, treatment: string): void {
    this.#gainsOf = { node, treatment }
    this.#output.send({ kind: 'gains', node, treatment })
  }

  /** Gains of the treatment that is shown, in dB, at this moment; none where it is not heard yet. */
  get gainsNow(): Float32Array {
    return this.#gains.subarray(1, 1 + this.#gains[0])
  }

  /** Shows in {@link LiveReading.probe} what goes into a node's chain and what comes out of it; null for none. */
  probe(id: string | null, settings: ProbeSettings): void {
    this.#meter.probe(id, settings)
  }

  /** Shows in {@link LiveReading.sides} what two nodes have at their sides; null for none. */
  compareSides(of: readonly [string, string] | null): void {
    this.#meter.compareSides(of)
  }

  seek(frame: number): void {
    this.#frame = frame
    const jumps = ++this.#jumps
    this.#recordings.jump(frame, jumps)
    this.#output.send({ kind: 'jump', frame, jumps })
  }

  /** @throws EngineError when the browser gives no audio output. */
  async play(): Promise<void> {
    if (this.#output.wantsMoreAhead && !this.playing) {
      this.#frame = this.positionFrames
      await this.#output.shut()
    }
    await this.#output.open()
    await this.#output.resume()
    this.#output.send({ kind: 'play' })
  }

  pause(): void {
    this.#output.send({ kind: 'pause' })
  }

  /** Keeps the next seconds of output as it leaves the mixer, for measuring; resolves when they are full. */
  async record(seconds: number): Promise<{ left: Float32Array; right: Float32Array }> {
    await this.#output.open()
    const frames = Math.round(seconds * this.sampleRateHz)
    const left = new Float32Array(new SharedArrayBuffer(frames * 4))
    const right = new Float32Array(new SharedArrayBuffer(frames * 4))
    await new Promise<void>((onFull) => {
      this.#recording = { left, right, onFull }
      this.#output.send({ kind: 'record', left, right })
    })
    this.#recording = null
    return { left: left.slice(), right: right.slice() }
  }

  async close(): Promise<void> {
    this.#meter.close()
    this.#recordings.close()
    await this.#output.close()
  }

  /** Tells a new worklet everything that was set before it was there. */
  #tellAll(): void {
    this.#recordings.tellOutput()
    for (const [rendition, { nodes }] of this.#plans) {
      const order = nodes.map((n) => n.id)
      this.#output.send({ kind: 'plan', rendition, changed: nodes, order })
    }
    this.#output.send({ kind: 'hear', parts: this.#heard, turn: ++this.#turn })
    this.#output.send({ kind: 'loop', loop: this.#loop, end: this.#end })
    this.#output.send({ kind: 'listen', listening: this.#listening })
    this.#output.send({ kind: 'through', through: this.#through })
    this.#meter.tellOutput()
    this.#output.send({ kind: 'gains', ...this.#gainsOf })
    if (this.#recording) {
      const { left, right } = this.#recording
      this.#output.send({ kind: 'record', left, right })
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

  #watchNodes(): void {
    const plan = this.#plans.get(SESSION)
    if (plan) this.#meter.watch(plan.nodes.flatMap((n) => (n.output === null ? [] : [n.id])))
  }
}
