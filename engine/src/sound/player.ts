import type { Bypass, Loop, MixPlan, TrackAudio } from '@sober-prism/core/chain'
import { EngineError } from '../engine-error'
import { pffftBytes } from '../pffft-bytes'
import type { LiveReading, ToLive } from './live'
import { type MixerOptions, STATE, type ToMixer } from './messages'
import workletUrl from './mixer.worklet.ts?worker&url'
import { Rings } from './rings'

/**
 * Plays a session: the page's side of the mixer in the audio worklet. Everything may be set before sound
 * is started; the audio device is opened by the first {@link Player.play}, which a user's gesture must cause.
 */
export class Player {
  readonly #state = new Int32Array(new SharedArrayBuffer(STATE.length * 4))
  readonly #sampleRateHz: number
  #context: AudioContext | null = null
  #port: MessagePort | null = null
  #opening: Promise<void> | null = null
  /** What the worklet must know when it starts. */
  readonly #audio = new Map<string, TrackAudio>()
  #plan: MixPlan | null = null
  #loop: Loop | null = null
  #mono = false
  #bypass: { bypass: Bypass; gainDb: number } = { bypass: { of: 'none' }, gainDb: 0 }
  #seekFrame = 0
  #live: Worker | null = null
  #watched = ''
  onLive: (reading: LiveReading) => void = () => {}

  constructor(sampleRateHz: number) {
    this.#sampleRateHz = sampleRateHz
  }

  get sampleRateHz(): number {
    return this.#sampleRateHz
  }

  /** Frame that is played now, or will be played first. */
  get positionFrames(): number {
    return this.#port ? Atomics.load(this.#state, STATE.position) : this.#seekFrame
  }

  get playing(): boolean {
    return Atomics.load(this.#state, STATE.playing) === 1
  }

  setAudio(id: string, channels: TrackAudio | null): void {
    if (channels) this.#audio.set(id, channels)
    else this.#audio.delete(id)
    this.#send({ kind: 'audio', id, channels })
  }

  setPlan(plan: MixPlan): void {
    this.#plan = plan
    this.#send({ kind: 'plan', plan })
    this.#watchTracks()
  }

  setLoop(loop: Loop | null): void {
    this.#loop = loop
    this.#send({ kind: 'loop', loop })
  }

  setMono(on: boolean): void {
    this.#mono = on
    this.#send({ kind: 'mono', on })
  }

  /** Passes moves by, raising or lowering the output by `gainDb` meanwhile. */
  setBypass(bypass: Bypass, gainDb: number): void {
    this.#bypass = { bypass, gainDb }
    this.#send({ kind: 'bypass', bypass, gainDb })
  }

  seek(frame: number): void {
    this.#seekFrame = frame
    this.#send({ kind: 'seek', frame })
  }

  /** @throws EngineError when the browser gives no audio output. */
  async play(): Promise<void> {
    await this.#open()
    await this.#context?.resume()
    this.#send({ kind: 'play' })
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
    Atomics.store(this.#state, STATE.recorded, 0)
    this.#send({ kind: 'record', left, right })
    while (Atomics.load(this.#state, STATE.recorded) < frames) {
      await new Promise((resolve) => setTimeout(resolve, 20))
    }
    return { left: left.slice(), right: right.slice() }
  }

  async close(): Promise<void> {
    this.#live?.terminate()
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
    try {
      const context = new AudioContext({
        sampleRate: this.#sampleRateHz,
        latencyHint: 'interactive',
      })
      await context.audioWorklet.addModule(workletUrl)
      const processorOptions: MixerOptions = {
        state: this.#state.buffer as SharedArrayBuffer,
        pffft: await pffftBytes(),
      }
      const node = new AudioWorkletNode(context, 'sober-prism-mixer', {
        numberOfInputs: 0,
        outputChannelCount: [2],
        processorOptions,
      })
      node.connect(context.destination)
      this.#context = context
      this.#port = node.port
    } catch (error) {
      throw new EngineError(
        `The browser gives no audio output at ${this.#sampleRateHz} Hz (${(error as Error).message}).`,
      )
    }
    for (const [id, channels] of this.#audio) this.#send({ kind: 'audio', id, channels })
    if (this.#plan) this.setPlan(this.#plan)
    this.#send({ kind: 'loop', loop: this.#loop })
    this.#send({ kind: 'mono', on: this.#mono })
    this.#send({ kind: 'bypass', ...this.#bypass })
    this.#send({ kind: 'seek', frame: this.#seekFrame })
  }

  /** Gives each track a ring when the tracks change. */
  #watchTracks(): void {
    if (!this.#port || !this.#plan) return
    const ids = this.#plan.tracks.map((t) => t.id)
    if (ids.join() === this.#watched) return
    this.#watched = ids.join()
    const { buffer } = Rings.forTracks(ids.length)
    this.#send({ kind: 'taps', rings: buffer, ids })
    void this.#watch({
      kind: 'watch',
      rings: buffer,
      tracks: ids.length,
      sampleRateHz: this.#sampleRateHz,
    })
  }

  async #watch(message: ToLive): Promise<void> {
    const bytes = await pffftBytes()
    if (!this.#live) {
      this.#live = new Worker(new URL('./live.worker.ts', import.meta.url), { type: 'module' })
      this.#live.onmessage = (event: MessageEvent<LiveReading>) => this.onLive(event.data)
      this.#live.postMessage({ kind: 'start', pffft: bytes } satisfies ToLive)
    }
    this.#live.postMessage(message)
  }

  #send(message: ToMixer): void {
    this.#port?.postMessage(message)
  }
}
