import { type AudioSource, DelayLine, dbToAmplitude, Ramp } from '../audio'
import { Chain, type KindRegistry, type ReadKey, workingsOf } from '../treatments'
import { type MixPlan, type NodePlan, panGains } from './plan'
import { sortNodes } from './sort-nodes'

/** Listens to what each node puts out; called once per block with arrays that are reused. */
export interface MixTaps {
  node(id: string, left: Float32Array, right: Float32Array, frames: number): void
  /** What goes into a node's chain, and what comes out of it, before its fader. Both stand at their own time. */
  chain?(
    id: string,
    side: 'before' | 'after',
    left: Float32Array,
    right: Float32Array,
    frames: number,
  ): void
}

/**
 * Copies what a channel of a recording has to play into `out`, `ahead` frames later on the time line than where
 * the mix stands: chains with latency are fed early, so that everything comes out in time.
 */
export type ReadAudio = (
  source: AudioSource,
  channel: number,
  offsetFrames: number,
  ahead: number,
  out: Float32Array,
  frames: number,
) => void

/** A channel that flows on as it is, with a gain. */
export interface Addend {
  readonly source: AudioSource
  readonly channel: number
  readonly offsetFrames: number
  readonly gain: number
}

/** Adds to `out` what {@link ReadAudio} would copy of each channel, times its gain. */
export type AddAudio = (
  addends: readonly Addend[],
  ahead: number,
  out: Float32Array,
  frames: number,
) => void

/** Longest block that a mixer takes unless it is told another. */
export const MAX_BLOCK_FRAMES = 4096

/** Carries a node's sound to a treatment that listens to it, in time with it. */
class KeyLine {
  readonly signal: Float32Array[]
  #delay: DelayLine | null = null

  constructor(
    readonly consumer: string,
    readonly treatment: string,
    readonly tap: 'before-fader' | 'after-fader',
    readonly as: 'mono' | 'mid-side',
    maxFrames: number,
  ) {
    const count = as === 'mono' ? 1 : 2
    this.signal = Array.from({ length: count }, () => new Float32Array(maxFrames))
  }

  setDelay(frames: number): void {
    if (frames === (this.#delay?.frames ?? 0)) return
    this.#delay = frames > 0 ? new DelayLine(this.signal.length, frames) : null
  }

  write(left: Float32Array, right: Float32Array, frames: number): void {
    const [first, second] = this.signal
    for (let i = 0; i < frames; i++) first[i] = (left[i] + right[i]) / 2
    if (second) for (let i = 0; i < frames; i++) second[i] = (left[i] - right[i]) / 2
    this.#delay?.process(this.signal, frames)
  }

  silence(frames: number): void {
    for (const channel of this.signal) channel.fill(0, 0, frames)
  }

  reset(): void {
    this.#delay?.reset()
    for (const channel of this.signal) channel.fill(0)
  }
}

interface Node {
  plan: NodePlan
  readonly chain: Chain
  readonly source: AudioSource | null
  /** What flows in, summed; null for tracks, whose sound is read. */
  readonly sum: readonly Float32Array[] | null
  /** Gain ahead of its chain. */
  readonly trim: Ramp
  /** Gains of its two sides behind the fader, and what listening adds. */
  readonly left: Ramp
  readonly right: Ramp
  readonly listening: Ramp
  /** Lines from it to the treatments that listen to it, and from others to its own treatments. */
  keysOut: KeyLine[]
  keysIn: KeyLine[]
  readonly readKey: ReadKey
  output: Node | null
  /** How far ahead of the mix its input and its output stand, in frames. */
  inLead: number
  outLead: number
  /** Holds its sound back where others that it feeds need it earlier. */
  delay: DelayLine | null
  /** It is not in the plan any more and fades out. */
  leaving: boolean
}

/**
 * Mixes tracks → groups → mix, each through its chain, in blocks. It runs unchanged in the audio worklet, in
 * render workers and in Node: what is heard is what is rendered.
 */
export class Mixer {
  readonly #audio = new Map<string, AudioSource>()
  /** In the order of sound: whatever feeds a node stands before it. The last is the mix. */
  #nodes: Node[] = []
  #plan: MixPlan | null = null
  readonly #scratch: readonly Float32Array[]
  readonly #monoView: readonly Float32Array[]
  #started = false

  /** @param kinds kinds of treatment besides the built-in ones, for tests. */
  constructor(
    readonly sampleRateHz: number,
    private readonly maxFrames = MAX_BLOCK_FRAMES,
    private readonly kinds?: KindRegistry,
  ) {
    this.#scratch = [new Float32Array(maxFrames), new Float32Array(maxFrames)]
    this.#monoView = [this.#scratch[0]]
  }

  /** Frames by which the earliest input stands ahead of the mix. */
  get lead(): number {
    return this.#nodes.reduce((most, n) => Math.max(most, n.inLead), 0)
  }

  /** Writes how far the bands of a node's treatment are drawn at this moment, in dB. @returns how many. */
  readGains(node: string, treatment: string, out: Float32Array): number {
    for (const each of this.#nodes) {
      if (each.plan.id === node && !each.leaving) return each.chain.readGains(treatment, out)
    }
    return 0
  }

  /** Gives a recording its samples, by its hash; null takes them away. Not for use within `process`. */
  setAudio(hash: string, source: AudioSource | null): void {
    if (source) this.#audio.set(hash, source)
    else this.#audio.delete(hash)
    this.#nodes = this.#nodes.filter((node) => {
      if (node.plan.source !== hash) return true
      node.chain.dispose()
      return false
    })
    if (this.#plan) this.set(this.#plan)
  }

  /** Takes over a plan. Nodes that stay glide to their new values; tracks without audio are silent. */
  set(plan: MixPlan): void {
    this.#plan = plan
    const old = new Map(this.#nodes.filter((n) => !n.leaving).map((n) => [n.plan.id, n]))
    const nodes = sortNodes(plan.nodes).flatMap((each) => {
      const known = old.get(each.id)
      const node = known && isSameSource(known.plan, each) ? known : this.#newNode(each)
      if (!node) return []
      if (node === known) old.delete(each.id)
      node.plan = each
      node.chain.set(each)
      this.#setGains(node, each)
      return [node]
    })
    const gone = [...old.values(), ...this.#nodes.filter((n) => n.leaving)]
    this.#nodes = [...this.#fadeOut(gone, nodes), ...nodes]
    this.#connect()
  }

  #setGains({ trim, left, right, listening }: Node, plan: NodePlan): void {
    const gain = plan.mute ? 0 : dbToAmplitude(plan.faderDb)
    const [l, r] = plan.output === null ? [1, 1] : panGains(plan.pan, plan.channels)
    this.#move(trim, plan.trim)
    this.#move(left, gain * l)
    this.#move(right, gain * r)
    this.#move(listening, plan.listening)
  }

  /** What was taken away fades out, as long as the node that it flows into is still there. */
  #fadeOut(gone: readonly Node[], kept: readonly Node[]): Node[] {
    return gone.filter((node) => {
      const fades =
        this.#started &&
        node.source !== null &&
        !(node.leaving && node.listening.settled) &&
        kept.some((n) => n.plan.id === node.plan.output)
      if (fades) {
        node.leaving = true
        node.keysIn = []
        node.listening.moveTo(0, this.sampleRateHz)
      } else node.chain.dispose()
      return fades
    })
  }

  /** True when a plan can be taken over while sounding: ways and latencies stay as they are. */
  fits(plan: MixPlan): boolean {
    const wanted = new Map(plan.nodes.map((n) => [n.id, n]))
    return this.#nodes.every((node) => {
      if (node.leaving) return true
      const next = wanted.get(node.plan.id)
      // A track can fade out; a group would take its way with it.
      if (!next) return node.source !== null && node.keysOut.length === 0
      return (
        next.output === node.plan.output &&
        isSameSource(node.plan, next) &&
        keysOf(next) === keysOf(node.plan) &&
        node.chain.fits(next)
      )
    })
  }

  #newNode(plan: NodePlan): Node | null {
    const source = plan.source === null ? null : this.#audio.get(plan.source)
    if (source === undefined) return null
    // A track that joins while others play fades in from silence.
    const node: Node = {
      plan,
      source,
      chain: new Chain(this.sampleRateHz, plan.channels, this.maxFrames, (kind) =>
        workingsOf(kind, this.kinds),
      ),
      sum: source ? null : [new Float32Array(this.maxFrames), new Float32Array(this.maxFrames)],
      trim: new Ramp(plan.trim),
      left: new Ramp(0),
      right: new Ramp(0),
      listening: new Ramp(1),
      keysOut: [],
      keysIn: [],
      output: null,
      inLead: 0,
      outLead: 0,
      delay: null,
      leaving: false,
      readKey: (treatment) => readKey(node.keysIn, treatment),
    }
    return node
  }

  /** Lays the ways between nodes, and finds how far ahead each must run so that all that meets, meets in time. */
  #connect(): void {
    const byId = new Map(this.#nodes.filter((n) => !n.leaving).map((n) => [n.plan.id, n]))
    for (const node of this.#nodes) {
      node.output = node.plan.output === null ? null : (byId.get(node.plan.output) ?? null)
    }
    this.#connectKeys(byId)
    for (let n = this.#nodes.length - 1; n >= 0; n--) {
      const node = this.#nodes[n]
      let lead = node.output?.inLead ?? 0
      for (const line of node.keysOut) lead = Math.max(lead, leadOf(byId, line))
      node.outLead = lead
      node.inLead = lead + node.chain.latency
      const wait = lead - (node.output?.inLead ?? lead)
      if (wait !== (node.delay?.frames ?? 0)) node.delay = wait > 0 ? new DelayLine(2, wait) : null
      for (const line of node.keysOut) line.setDelay(lead - leadOf(byId, line))
    }
  }

  #connectKeys(byId: ReadonlyMap<string, Node>): void {
    const before = new Map(this.#nodes.map((n) => [n, n.keysIn]))
    for (const node of this.#nodes) {
      node.keysOut = []
      node.keysIn = []
    }
    for (const node of this.#nodes) {
      if (node.leaving) continue
      for (const { id, key } of node.plan.treatments) {
        const heard = key && byId.get(key.node)
        if (!key || !heard) continue
        const line =
          before
            .get(node)
            ?.find((l) => l.treatment === id && l.tap === key.tap && l.as === key.as) ??
          new KeyLine(node.plan.id, id, key.tap, key.as, this.maxFrames)
        heard.keysOut.push(line)
        node.keysIn.push(line)
      }
    }
  }

  /** Forgets past sound; parameters stand where they were going. */
  reset(): void {
    this.#started = false
    for (const node of this.#nodes) {
      node.chain.reset()
      node.delay?.reset()
      for (const line of node.keysOut) line.reset()
      for (const ramp of [node.trim, node.left, node.right, node.listening])
        ramp.jumpTo(ramp.target)
    }
    this.#dropFaded()
  }

  /**
   * Feeds chains with latency what comes before their first output. To be called after
   * {@link Mixer.reset}, before the first block.
   */
  prime(read: ReadAudio): void {
    const leads = [...new Set(this.#nodes.map((n) => n.inLead))].sort((a, b) => b - a)
    for (const [i, lead] of leads.entries()) {
      const end = leads[i + 1] ?? 0
      for (let at = lead; at > end; at -= this.maxFrames) {
        this.#run(Math.min(this.maxFrames, at - end), read, at)
      }
    }
  }

  /**
   * Renders the next `frames` (at most what the mixer was made for) into `left` and `right`.
   * @param read gives the recordings' samples.
   * @param add adds them right into a sum, for tracks that are left as they are and that nobody taps.
   */
  process(
    left: Float32Array,
    right: Float32Array,
    frames: number,
    read: ReadAudio,
    taps?: MixTaps,
    add?: AddAudio,
  ): void {
    this.#started = true
    const mix = this.#run(frames, read, 0, taps, taps ? undefined : add)
    if (!mix) {
      left.fill(0, 0, frames)
      right.fill(0, 0, frames)
      return
    }
    const [a, b] = mix.sum as readonly Float32Array[]
    mix.left.applyTo(a, left, frames)
    mix.right.applyTo(b, right, frames)
  }

  /**
   * Runs all nodes whose input has begun. @param early frames by which the mix stands before its first frame.
   * @returns the mix, with what its chain put out in its sum.
   */
  #run(
    frames: number,
    read: ReadAudio,
    early: number,
    taps?: MixTaps,
    add?: AddAudio,
  ): Node | null {
    for (const { sum } of this.#nodes) {
      sum?.[0].fill(0, 0, frames)
      sum?.[1].fill(0, 0, frames)
    }
    const plain = add ? this.#addPlain(frames, add) : null
    let faded = false
    let mix: Node | null = null
    for (let n = 0; n < this.#nodes.length; n++) {
      const node = this.#nodes[n]
      if (plain?.has(node)) continue
      if (node.inLead < early) {
        for (const line of node.keysOut) line.silence(frames)
        continue
      }
      this.#runNode(node, node.inLead - early, frames, read, taps)
      if (node.output === null && !node.leaving) mix = node
      faded ||= node.leaving && node.listening.settled
    }
    if (faded) this.#dropFaded()
    return mix
  }

  #runNode(
    node: Node,
    ahead: number,
    frames: number,
    read: ReadAudio,
    taps: MixTaps | undefined,
  ): void {
    const { plan, source, chain, trim } = node
    const [a, b] = node.sum ?? this.#scratch
    const stereo = plan.channels === 2
    if (source) {
      read(source, 0, plan.offsetFrames, ahead, a, frames)
      if (stereo) read(source, 1, plan.offsetFrames, ahead, b, frames)
    }
    applyGain(trim, a, stereo ? b : a, frames)
    taps?.chain?.(plan.id, 'before', a, stereo ? b : a, frames)
    chain.process(
      source ? (stereo ? this.#scratch : this.#monoView) : (node.sum as readonly Float32Array[]),
      frames,
      node.readKey,
    )
    if (!stereo) for (let i = 0; i < frames; i++) b[i] = a[i]
    taps?.chain?.(plan.id, 'after', a, b, frames)
    if (node.output === null) return
    const { keysOut, left, right, listening, delay, output } = node
    const [sumLeft, sumRight] = output.sum as readonly Float32Array[]
    if (!taps && !delay && keysOut.length === 0 && listening.settled) {
      left.addTo(sumLeft, a, listening.value, frames)
      right.addTo(sumRight, b, listening.value, frames)
      return
    }
    for (const line of keysOut) if (line.tap === 'before-fader') line.write(a, b, frames)
    left.applyTo(a, a, frames)
    right.applyTo(b, b, frames)
    for (const line of keysOut) if (line.tap === 'after-fader') line.write(a, b, frames)
    applyGain(listening, a, b, frames)
    if (delay) delay.process(source ? this.#scratch : (node.sum as readonly Float32Array[]), frames)
    taps?.node(plan.id, a, b, frames)
    for (let i = 0; i < frames; i++) {
      sumLeft[i] += a[i]
      sumRight[i] += b[i]
    }
  }

  /** Adds all tracks that nothing but gains is done to, and tells which they were. */
  #addPlain(frames: number, add: AddAudio): ReadonlySet<Node> {
    const plain = new Set<Node>()
    const byOutput = new Map<Node, { left: Addend[]; right: Addend[] }>()
    for (const node of this.#nodes) {
      const { plan, source, chain, trim, left, right, listening, output } = node
      const gain = chain.plainGain
      if (!source || !output || gain === null || node.keysOut.length > 0 || node.delay) continue
      if (!trim.settled || !left.settled || !right.settled || !listening.settled) continue
      let sides = byOutput.get(output)
      if (!sides) {
        sides = { left: [], right: [] }
        byOutput.set(output, sides)
      }
      const { offsetFrames } = plan
      const heard = trim.value * gain * listening.value
      const second = plan.channels - 1
      sides.left.push({ source, channel: 0, offsetFrames, gain: heard * left.value })
      sides.right.push({ source, channel: second, offsetFrames, gain: heard * right.value })
      plain.add(node)
    }
    for (const [output, sides] of byOutput) {
      const [left, right] = output.sum as readonly Float32Array[]
      add(sides.left, output.inLead, left, frames)
      add(sides.right, output.inLead, right, frames)
    }
    return plain
  }

  #dropFaded(): void {
    this.#nodes = this.#nodes.filter((node) => {
      const gone = node.leaving && (node.listening.settled || !this.#started)
      if (gone) node.chain.dispose()
      return !gone
    })
  }

  /** Gives memory back; the mixer is not to be used any more. */
  dispose(): void {
    for (const { chain } of this.#nodes) chain.dispose()
    this.#nodes = []
  }

  #move(ramp: Ramp, target: number): void {
    if (this.#started) ramp.moveTo(target, this.sampleRateHz)
    else ramp.jumpTo(target)
  }
}

/** Multiplies one or two channels by a gain, in place; `b` may be `a` itself. */
function applyGain(ramp: Ramp, a: Float32Array, b: Float32Array, frames: number): void {
  if (ramp.settled && ramp.value === 1) return
  for (let i = 0; i < frames; i++) {
    const gain = ramp.next()
    a[i] *= gain
    if (b !== a) b[i] *= gain
  }
}

function readKey(lines: readonly KeyLine[], treatment: string): readonly Float32Array[] | null {
  for (let k = 0; k < lines.length; k++)
    if (lines[k].treatment === treatment) return lines[k].signal
  return null
}

/** How far ahead of the mix the input of the treatment stands that a line leads to. */
function leadOf(byId: ReadonlyMap<string, Node>, line: KeyLine): number {
  const consumer = byId.get(line.consumer)
  return consumer ? consumer.outLead + consumer.chain.latencyFrom(line.treatment) : 0
}

function isSameSource(a: NodePlan, b: NodePlan): boolean {
  return a.source === b.source && a.channels === b.channels
}

function keysOf({ treatments }: NodePlan): string {
  return JSON.stringify(treatments.filter((t) => t.key).map((t) => [t.id, t.key]))
}
