import { EngineError } from '../engine-error'
import { Signal } from '../signal'

const FADE_SECONDS = 0.02

/** Plays a clip over and over, beside the session's own sound: what is no node of a session. */
export class LoopedClip {
  readonly playing = new Signal(false)
  #context: AudioContext | null = null
  #source: AudioBufferSourceNode | null = null
  #gain: GainNode | null = null

  /** @throws EngineError when the browser gives no audio output. */
  async play(
    channels: readonly Float32Array[],
    sampleRateHz: number,
    gainDb: number,
  ): Promise<void> {
    this.stop()
    try {
      const context = new AudioContext({ sampleRate: sampleRateHz })
      this.#context = context
      await context.resume()
      const buffer = context.createBuffer(channels.length, channels[0].length, sampleRateHz)
      for (const [i, c] of channels.entries()) buffer.copyToChannel(Float32Array.from(c), i)
      const gain = context.createGain()
      gain.gain.setValueAtTime(0, context.currentTime)
      gain.gain.linearRampToValueAtTime(10 ** (gainDb / 20), context.currentTime + FADE_SECONDS)
      const source = context.createBufferSource()
      source.buffer = buffer
      source.loop = true
      source.connect(gain).connect(context.destination)
      source.start()
      this.#source = source
      this.#gain = gain
      this.playing.set(true)
    } catch {
      this.stop()
      throw new EngineError('The browser gives no audio output.')
    }
  }

  stop(): void {
    const [context, source, gain] = [this.#context, this.#source, this.#gain]
    this.#context = null
    this.#source = null
    this.#gain = null
    this.playing.set(false)
    if (!context) return
    gain?.gain.setTargetAtTime(0, context.currentTime, FADE_SECONDS / 3)
    source?.stop(context.currentTime + 2 * FADE_SECONDS)
    setTimeout(() => void context.close(), 4000 * FADE_SECONDS)
  }
}
