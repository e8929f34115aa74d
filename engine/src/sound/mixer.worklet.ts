import { Mixer, type MixTaps, Transport } from '@sober-prism/core/chain'
import { installSectionKernel } from '@sober-prism/core/filters'
import { installPffft, loadPffft, type WasmHost } from '@sober-prism/core/spectrum'
import { type MixerOptions, STATE, type ToMixer } from './messages'
import { Rings } from './rings'

/** The audio worklet's surroundings, as far as they are used here. */
declare const sampleRate: number
declare function registerProcessor(name: string, processor: unknown): void
declare class AudioWorkletProcessor {
  readonly port: MessagePort
}

/** Runs the core's mixer on the audio thread and shows what it plays in shared memory. */
class MixerProcessor extends AudioWorkletProcessor implements MixTaps {
  readonly #mixer = new Mixer(sampleRate)
  readonly #transport = new Transport(this.#mixer, sampleRate)
  readonly #state: Int32Array
  #rings: Rings | null = null
  #lines = new Map<string, number>()
  #record: { left: Float32Array; right: Float32Array; at: number } | null = null

  constructor(options: { processorOptions: MixerOptions }) {
    super()
    const { state, pffft } = options.processorOptions
    installPffft(loadPffft(WebAssembly as unknown as WasmHost, new Uint8Array(pffft)))
    installSectionKernel(WebAssembly as unknown as WasmHost)
    this.#state = new Int32Array(state)
    this.port.onmessage = (event: MessageEvent<ToMixer>) => this.#receive(event.data)
  }

  process(_inputs: unknown, outputs: Float32Array[][]): boolean {
    const [left, right] = outputs[0]
    this.#transport.process(left, right, left.length, this)
    Atomics.store(this.#state, STATE.position, this.#transport.positionFrames)
    Atomics.store(this.#state, STATE.playing, this.#transport.playing ? 1 : 0)
    Atomics.add(this.#state, STATE.blocks, 1)
    if (this.#record && this.#transport.sounding) this.#keep(left, right)
    return true
  }

  track(id: string, left: Float32Array, right: Float32Array, frames: number): void {
    const line = this.#lines.get(id)
    if (line !== undefined) this.#rings?.writeMiddle(line, left, right, frames)
  }

  mix(left: Float32Array, right: Float32Array, frames: number): void {
    this.#rings?.write(0, left, frames)
    this.#rings?.write(1, right, frames)
    this.#rings?.advance(frames)
  }

  #keep(left: Float32Array, right: Float32Array): void {
    const record = this.#record
    if (!record) return
    const count = Math.min(left.length, record.left.length - record.at)
    for (let i = 0; i < count; i++) {
      record.left[record.at + i] = left[i]
      record.right[record.at + i] = right[i]
    }
    record.at += count
    Atomics.store(this.#state, STATE.recorded, record.at)
    if (record.at === record.left.length) this.#record = null
  }

  #receive(message: ToMixer): void {
    switch (message.kind) {
      case 'audio':
        this.#mixer.setAudio(message.id, message.channels)
        return
      case 'plan':
        this.#transport.setPlan(message.plan)
        return
      case 'play':
        this.#transport.play()
        return
      case 'pause':
        this.#transport.pause()
        return
      case 'seek':
        this.#transport.seek(message.frame)
        return
      case 'loop':
        this.#transport.setLoop(message.loop)
        return
      case 'mono':
        this.#mixer.setMono(message.on)
        return
      case 'bypass':
        this.#mixer.setBypass(message.bypass, message.gainDb)
        return
      case 'taps':
        this.#rings = new Rings(message.rings)
        this.#lines = new Map(message.ids.map((id, i) => [id, i + 2]))
        return
      case 'record':
        Atomics.store(this.#state, STATE.recorded, 0)
        this.#record = { left: message.left, right: message.right, at: 0 }
        return
      default:
        message satisfies never
    }
  }
}

registerProcessor('sober-prism-mixer', MixerProcessor)
