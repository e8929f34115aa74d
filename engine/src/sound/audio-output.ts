import { EngineError } from '../engine-error'
import { pffftBytes } from '../pffft-bytes'
import { Signal } from '../signal'
import { AHEAD_STEPS, GAPS_PER_STEP, GapFinder, type Lateness, NEVER_LATE } from './lateness'
import type { FromMixer, MixerOptions, ToMixer } from './messages'
import workletUrl from './mixer.worklet.ts?worker&url'

const WATCH_MS = 500
/** So long a device may take to begin. */
const MOST_WAIT_MS = 6000
const POLL_MS = 5
const NO_OUTPUT =
  'No sound output answers. Connect headphones or loudspeakers, choose them in the system’s sound settings, and press Play again.'

interface OutputEvents {
  /** The worklet is there and knows nothing yet. */
  onOpen(): void
  onMessage(message: FromMixer): void
  isPlaying(): boolean
}

/** The audio device with the mixer's worklet: opened when it is first needed, and opened anew where the machine is too slow for it. */
export class AudioOutput {
  /** Gaps in the sound because the machine was late. */
  readonly late = new Signal<Lateness>(NEVER_LATE)
  #context: AudioContext | null = null
  #port: MessagePort | null = null
  #opening: Promise<void> | null = null
  /** Which of the steps ahead is in use, and gaps since then. */
  #step = 0
  #gapsHere = 0
  #watching: ReturnType<typeof setInterval> | undefined

  /** @param shared what the worklet and the page both see. */
  constructor(
    private readonly sampleRateHz: number,
    private readonly shared: Pick<MixerOptions, 'state' | 'gains'>,
    private readonly events: OutputEvents,
  ) {}

  get isOpen(): boolean {
    return this.#port !== null
  }

  /** The machine was late too often for what is prepared ahead: the next start is to prepare more. */
  get wantsMoreAhead(): boolean {
    return this.#gapsHere >= GAPS_PER_STEP && this.#step + 1 < AHEAD_STEPS.length
  }

  /** @throws EngineError when the browser gives no audio output. */
  open(): Promise<void> {
    this.#opening ??= this.#start().catch((error: unknown) => {
      this.#opening = null
      throw error
    })
    return this.#opening
  }

  /**
   * Lets the clock of the device run.
   *
   * @throws EngineError when it stands still: no output answers
   */
  async resume(): Promise<void> {
    const context = this.#context
    if (!context) return
    const from = context.currentTime
    const until = performance.now() + MOST_WAIT_MS
    // Where there is no device, some browsers never resume, and in others the clock stands.
    let isResumed = false
    let isRefused = false
    context.resume().then(
      () => {
        isResumed = true
      },
      () => {
        isRefused = true
      },
    )
    while (!isResumed || context.currentTime === from) {
      if (isRefused || performance.now() > until) throw new EngineError(NO_OUTPUT)
      await new Promise((resolve) => setTimeout(resolve, POLL_MS))
    }
  }

  send(message: ToMixer, transfer: Transferable[] = []): void {
    this.#port?.postMessage(message, transfer)
  }

  /** Lets the device go, so that it is opened anew with more prepared ahead. */
  async shut(): Promise<void> {
    const context = this.#context
    this.#letGo()
    this.#opening = null
    this.#step++
    this.#gapsHere = 0
    this.late.set({ ...this.late.value, aheadSeconds: AHEAD_STEPS[this.#step] })
    await context?.close()
  }

  async close(): Promise<void> {
    const context = this.#context
    this.#letGo()
    await context?.close()
  }

  #letGo(): void {
    clearInterval(this.#watching)
    this.#context = null
    this.#port = null
  }

  async #start(): Promise<void> {
    let opened: AudioContext | null = null
    try {
      const context = new AudioContext({
        sampleRate: this.sampleRateHz,
        latencyHint: AHEAD_STEPS[this.#step] ?? 'interactive',
      })
      opened = context
      await context.audioWorklet.addModule(workletUrl)
      const processorOptions: MixerOptions = { ...this.shared, pffft: await pffftBytes() }
      const node = new AudioWorkletNode(context, 'sober-prism-mixer', {
        numberOfInputs: 0,
        outputChannelCount: [2],
        processorOptions,
      })
      node.connect(context.destination)
      node.port.onmessage = (event: MessageEvent<FromMixer>) => this.events.onMessage(event.data)
      this.#context = context
      this.#port = node.port
      this.#watchGaps(context)
    } catch (error) {
      await opened?.close()
      throw new EngineError(
        `The browser gives no audio output at ${this.sampleRateHz} Hz (${(error as Error).message}).`,
      )
    }
    this.events.onOpen()
  }

  /** Counts gaps while sound plays. */
  #watchGaps(context: AudioContext): void {
    const finder = new GapFinder(Math.max(context.baseLatency, AHEAD_STEPS[this.#step] ?? 0))
    this.#watching = setInterval(() => {
      if (context.state !== 'running' || !this.events.isPlaying()) return finder.pause()
      const lost = finder.note(context.currentTime, performance.now() / 1000)
      if (lost === 0) return
      this.#gapsHere++
      const { gaps, seconds, aheadSeconds } = this.late.value
      this.late.set({ gaps: gaps + 1, seconds: seconds + lost, aheadSeconds })
    }, WATCH_MS)
  }
}
