import {
  type Profile,
  ProfileError,
  ProfileMeter,
  type ProfileTitle,
  THIRDS,
} from '@sober-prism/core/match'
import { EngineError } from '../engine-error'
import type { CapturedPiece } from './capture.worklet'
import workletUrl from './capture.worklet.ts?worker&url'

/** Where sound is taken from: a browser tab or screen, or an input of the machine. */
export type CaptureSource = 'screen' | 'input'

/** How far a capture is. */
export interface CaptureReading {
  readonly seconds: number
  /** Largest amplitude of the last piece. */
  readonly peak: number
  /** Nothing louder than -80 dBFS was heard yet. */
  readonly silent: boolean
  /** By how much the spectrum moved since half of the time, in dB rms over thirds of an octave; null at first. */
  readonly movedDb: number | null
  readonly paused: boolean
  /** The other side has ended it; what was heard stays. */
  readonly ended: boolean
}

const RATE_HZ = 48_000
const SILENT_PEAK = 1e-4
/** The spectrum is looked at so often, to tell how settled it is. */
const LOOK_SECONDS = 1
/** Thirds in which sound is judged settled. */
const [FROM_HZ, TO_HZ] = [60, 12_000]
const JUDGED = THIRDS.flatMap(({ hz }, i) => (hz >= FROM_HZ && hz <= TO_HZ ? [i] : []))

/** Listens to live sound for a profile. Nothing of the sound is kept: each piece is measured and forgotten. */
export class LiveCapture {
  #meter: ProfileMeter | null = null
  #channels = 0
  #paused = false
  #ended = false
  #peak = 0
  #silent = true
  readonly #looks: { readonly seconds: number; readonly thirds: Float64Array }[] = []

  private constructor(
    private readonly context: AudioContext,
    private readonly stream: MediaStream,
    node: AudioWorkletNode,
    private readonly onReading: (reading: CaptureReading) => void,
  ) {
    node.port.onmessage = ({ data }: MessageEvent<CapturedPiece>) => this.#take(data)
    for (const track of stream.getAudioTracks()) {
      track.onended = () => {
        this.#ended = true
        this.#tell()
      }
    }
  }

  /** Asks for sound, and begins to listen. @throws EngineError when it is refused, or what was chosen has no sound. */
  static async begin(
    source: CaptureSource,
    onReading: (reading: CaptureReading) => void,
  ): Promise<LiveCapture> {
    const stream = await ask(source)
    const context = new AudioContext({ sampleRate: RATE_HZ, latencyHint: 'playback' })
    try {
      await context.audioWorklet.addModule(workletUrl)
      const node = new AudioWorkletNode(context, 'sober-prism-capture', { numberOfOutputs: 0 })
      context.createMediaStreamSource(stream).connect(node)
      await context.resume()
      return new LiveCapture(context, stream, node, onReading)
    } catch (error) {
      for (const track of stream.getTracks()) track.stop()
      await context.close()
      throw new EngineError(`This source cannot be heard (${(error as Error).message}).`)
    }
  }

  pause(paused: boolean): void {
    this.#paused = paused
    this.#tell()
  }

  /** @throws EngineError when it is too short or silent. */
  profile(title: ProfileTitle): Profile {
    try {
      if (!this.#meter) throw new ProfileError('No sound yet.')
      return this.#meter.read(title)
    } catch (error) {
      if (error instanceof ProfileError) throw new EngineError(error.message)
      throw error
    }
  }

  /** Ends listening; the browser's sign for it goes. */
  async stop(): Promise<void> {
    for (const track of this.stream.getTracks()) track.stop()
    if (this.context.state !== 'closed') await this.context.close()
  }

  #take(piece: CapturedPiece): void {
    if (this.#paused || this.#ended) return
    // A source may turn from mono to stereo once it begins: only then it begins anew.
    if (!this.#meter || (this.#channels !== piece.length && this.#meter.seconds < 1)) {
      this.#meter = new ProfileMeter(RATE_HZ, piece.length)
      this.#channels = piece.length
    }
    const [left, right = left] = piece
    this.#meter.add(this.#channels === 1 ? [left] : [left, right])
    this.#peak = piece.reduce((most, c) => c.reduce((m, v) => Math.max(m, Math.abs(v)), most), 0)
    if (this.#peak > SILENT_PEAK) this.#silent = false
    const { seconds } = this.#meter
    if (seconds >= this.#looks.length * LOOK_SECONDS) {
      this.#looks.push({ seconds, thirds: this.#meter.thirdsNow() })
    }
    this.#tell()
  }

  #tell(): void {
    const seconds = this.#meter?.seconds ?? 0
    const [now, half] = [this.#looks.at(-1), this.#looks[Math.floor(this.#looks.length / 2)]]
    const movedDb = now && half && now !== half ? apart(now.thirds, half.thirds) : null
    const [peak, silent, paused, ended] = [this.#peak, this.#silent, this.#paused, this.#ended]
    this.onReading({ seconds, peak, silent, movedDb, paused, ended })
  }
}

async function ask(source: CaptureSource): Promise<MediaStream> {
  const plain = { echoCancellation: false, noiseSuppression: false, autoGainControl: false }
  try {
    const stream =
      source === 'screen'
        ? await navigator.mediaDevices.getDisplayMedia({ audio: plain, video: true })
        : await navigator.mediaDevices.getUserMedia({ audio: plain })
    if (stream.getAudioTracks().length > 0) return stream
    for (const track of stream.getTracks()) track.stop()
  } catch (error) {
    const { name, message } = error as DOMException
    if (name === 'NotAllowedError') throw new EngineError('Listening was not allowed.')
    if (name === 'NotFoundError') throw new EngineError('No input to listen to.')
    throw new EngineError(`This source cannot be heard (${message}).`)
  }
  throw new EngineError('This source has no audio. Select a tab and share its audio.')
}

/** Root mean square of the differences, the level taken out. */
function apart(a: Float64Array, b: Float64Array): number {
  const off = JUDGED.map((i) => a[i] - b[i])
  const mean = off.reduce((s, v) => s + v, 0) / off.length
  return Math.sqrt(off.reduce((s, v) => s + (v - mean) ** 2, 0) / off.length)
}
