import { MemorySource } from '@sober-prism/core/audio'
import { installKernels } from '@sober-prism/core/host'
import {
  type HeardPart,
  type MixPlan,
  type MixTaps,
  type NodePlan,
  Renditions,
  Transport,
} from '@sober-prism/core/mix'
import { type FromMixer, type MixerOptions, STATE, type ToMixer } from './messages'
import { TapBuffers } from './tap-buffers'
import { WindowSource } from './window-source'

/** The audio worklet's surroundings, as far as they are used here. */
declare const sampleRate: number
declare function registerProcessor(name: string, processor: unknown): void
declare class AudioWorkletProcessor {
  readonly port: MessagePort
}

/** Longest stretch that is mixed at one go: chains with latency are fed ahead in such pieces. */
const MAX_FRAMES = 1024
/** Frames that must be at hand before sound begins. */
const READY_FRAMES = 8192
/** Frames from one report of the play head to the next. */
const REPORT_FRAMES = 8192

/** Runs the core's mixer on the audio thread and shows what it plays in shared memory. */
class MixerProcessor extends AudioWorkletProcessor implements MixTaps {
  readonly #renditions = new Renditions(sampleRate, MAX_FRAMES)
  readonly #transport = new Transport(this.#renditions, sampleRate, (frame) => this.#isReady(frame))
  readonly #state: Int32Array
  readonly #plans = new Map<string, MixPlan>()
  readonly #windows = new Map<string, WindowSource>()
  #taps: TapBuffers | null = null
  #lines = new Map<string, number>()
  #probed: string | null = null
  /** Nodes whose sides are shown. */
  #compared: readonly [string, string] | null = null
  readonly #gains: Float32Array
  readonly #gainValues: Float32Array
  #shown: { readonly node: string; readonly treatment: string } | null = null
  #record: { left: Float32Array; right: Float32Array; at: number } | null = null
  #feeder: MessagePort | null = null
  #jumps = 0
  #reportedAt = Number.NaN
  #playing = false
  #missed = 0
  #turn = 0

  constructor(options: { processorOptions: MixerOptions }) {
    super()
    const { state, pffft, gains } = options.processorOptions
    this.#gains = new Float32Array(gains)
    this.#gainValues = this.#gains.subarray(1)
    installKernels(pffft)
    this.#state = new Int32Array(state)
    this.#renditions.onHeard = () => this.#tell({ kind: 'heard', turn: this.#turn })
    this.port.onmessage = (event: MessageEvent<ToMixer>) => this.#receive(event.data)
  }

  process(_inputs: unknown, outputs: Float32Array[][]): boolean {
    const [left, right] = outputs[0]
    this.#transport.process(left, right, left.length, this)
    Atomics.store(this.#state, STATE.position, this.#transport.positionFrames)
    Atomics.store(this.#state, STATE.jumps, this.#jumps)
    Atomics.add(this.#state, STATE.blocks, 1)
    if (this.#transport.sounding) {
      if (this.#record) this.#keep(left, right)
      this.#taps?.write(0, left, left.length)
      this.#taps?.write(1, right, left.length)
      this.#taps?.advance(left.length)
      if (this.#shown) this.#showGains(this.#shown.node, this.#shown.treatment)
    }
    this.#report()
    return true
  }

  node(id: string, left: Float32Array, right: Float32Array, frames: number): void {
    const line = this.#lines.get(id)
    const taps = this.#taps
    if (!taps) return
    if (line !== undefined) taps.writeMiddle(line, left, right, frames)
    if (id === this.#compared?.[0]) taps.writeSides(taps.sidesLine, left, right, frames)
    if (id === this.#compared?.[1]) taps.writeSides(taps.sidesLine + 1, left, right, frames)
  }

  chain(
    id: string,
    side: 'before' | 'after',
    left: Float32Array,
    right: Float32Array,
    frames: number,
  ): void {
    const taps = this.#taps
    if (id !== this.#probed || !taps) return
    taps.writeMiddle(taps.probeLine + (side === 'before' ? 0 : 1), left, right, frames)
  }

  #showGains(node: string, treatment: string): void {
    this.#gains[0] = this.#renditions.readGains(node, treatment, this.#gainValues)
  }

  #tell(message: FromMixer): void {
    this.port.postMessage(message)
  }

  /** Says where the play head is, whether it plays, and what was missing: when it changes, or now and then. */
  #report(): void {
    const { positionFrames, playing, missed } = this.#transport
    if (playing !== this.#playing) {
      this.#playing = playing
      Atomics.store(this.#state, STATE.playing, playing ? 1 : 0)
      this.#tell({ kind: 'playing', on: playing })
    }
    if (missed !== this.#missed) {
      this.#missed = missed
      Atomics.store(this.#state, STATE.missed, missed)
      this.#tell({ kind: 'missed', reads: missed })
    }
    if (!(Math.abs(positionFrames - this.#reportedAt) < REPORT_FRAMES)) {
      this.#reportedAt = positionFrames
      const frame = positionFrames
      this.#feeder?.postMessage({ kind: 'at', frame, jumps: this.#jumps } satisfies FromMixer)
    }
  }

  /** Whether every window holds what is to be played from a frame on. */
  #isReady(frame: number): boolean {
    if (this.#windows.size === 0) return true
    const to = frame + this.#renditions.lead + READY_FRAMES
    for (const plan of this.#plans.values()) {
      for (const { source, offsetFrames } of plan.nodes) {
        const window = source === null ? undefined : this.#windows.get(source)
        if (window && !window.holds(frame - offsetFrames, to - offsetFrames)) return false
      }
    }
    return true
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
    if (record.at < record.left.length) return
    this.#record = null
    this.#tell({ kind: 'recorded' })
  }

  #setPlan(rendition: string, changed: readonly NodePlan[], order: readonly string[]): void {
    const nodes = new Map((this.#plans.get(rendition)?.nodes ?? []).map((n) => [n.id, n]))
    for (const node of changed) nodes.set(node.id, node)
    const plan = {
      nodes: order.flatMap((id) => {
        const node = nodes.get(id)
        return node ? [node] : []
      }),
    }
    this.#plans.set(rendition, plan)
    this.#transport.setPlan(rendition, plan)
  }

  #hear(parts: readonly HeardPart[], turn: number): void {
    this.#turn = turn
    this.#renditions.hear(parts)
  }

  #receive(message: ToMixer): void {
    switch (message.kind) {
      case 'port':
        this.#feeder = message.port
        return
      case 'audio': {
        const { hash, audio } = message
        this.#windows.delete(hash)
        const source =
          audio?.kind === 'memory'
            ? new MemorySource(audio.channels)
            : audio && new WindowSource(audio.window)
        if (source instanceof WindowSource) this.#windows.set(hash, source)
        this.#renditions.setAudio(hash, source)
        return
      }
      case 'plan':
        this.#setPlan(message.rendition, message.changed, message.order)
        return
      case 'drop':
        this.#plans.delete(message.rendition)
        this.#transport.dropPlan(message.rendition)
        return
      case 'hear':
        this.#hear(message.parts, message.turn)
        return
      case 'play':
        this.#transport.play()
        return
      case 'pause':
        this.#transport.pause()
        return
      case 'jump':
        this.#jumps = message.jumps
        this.#transport.seek(message.frame)
        return
      case 'loop':
        this.#transport.setLoop(message.loop, message.end)
        return
      case 'listen':
        this.#renditions.listen(message.listening)
        return
      case 'through':
        this.#renditions.playThrough(message.through)
        return
      case 'taps':
        this.#taps = new TapBuffers(message.taps)
        this.#lines = new Map(message.ids.map((id, i) => [id, i + 2]))
        return
      case 'probe':
        this.#probed = message.id
        return
      case 'sides':
        this.#compared = message.of
        return
      case 'gains': {
        const { node, treatment } = message
        this.#shown = node === null ? null : { node, treatment }
        this.#gains.fill(0)
        return
      }
      case 'record':
        this.#record = { left: message.left, right: message.right, at: 0 }
        return
      default:
        message satisfies never
    }
  }
}

registerProcessor('sober-prism-mixer', MixerProcessor)
