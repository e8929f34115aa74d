import { type AudioSource, type Clip, makeClip } from '../audio'
import { Chain, type KindRegistry, type ReadKey, workingsOf } from '../treatments'
import { addStretches } from './add-stretches'
import { type AddAudio, Mixer, type MixTaps, type ReadAudio } from './mixer'
import type { MixPlan, NodeChain } from './plan'

const BLOCK_FRAMES = 1024
/** Sound before a stretch that filters hear first, so that they are in swing when it begins. */
const PRE_ROLL_SECONDS = 0.5
/** Longest piece that is rendered at one go, in frames, and so the most audio that is at hand at once. */
const PIECE_FRAMES = 65536

/** A stretch of the time line, in frames. */
export interface Stretch {
  readonly fromFrame: number
  readonly toFrame: number
}

/** Recordings by their content hash. */
export type Recordings = ReadonlyMap<string, AudioSource>

export interface RenderOptions {
  /** Called now and then with the share done; may throw to give up. */
  readonly onProgress?: (share: number) => void
  readonly kinds?: KindRegistry
  readonly taps?: MixTaps
}

/** A stretch of a mix that is rendered piece by piece, by the same mixer that plays it. */
export class MixRun {
  readonly #mixer: Mixer
  #position: number
  #primed = false
  readonly #blockLeft = new Float32Array(BLOCK_FRAMES)
  readonly #blockRight = new Float32Array(BLOCK_FRAMES)

  constructor(
    plan: MixPlan,
    private readonly recordings: Recordings,
    sampleRateHz: number,
    private readonly stretch: Stretch,
    private readonly options: RenderOptions = {},
  ) {
    this.#mixer = new Mixer(sampleRateHz, BLOCK_FRAMES, options.kinds)
    for (const [hash, source] of recordings) this.#mixer.setAudio(hash, source)
    this.#mixer.set(plan)
    this.#position = startOf(stretch, sampleRateHz)
    for (const { source, offsetFrames } of plan.nodes) {
      if (source) this.#offsets.set(source, [...(this.#offsets.get(source) ?? []), offsetFrames])
    }
  }

  /** Where on the time line each recording is played: one may serve several tracks. */
  readonly #offsets = new Map<string, number[]>()

  get done(): boolean {
    return this.#position >= this.stretch.toFrame
  }

  get batch(): number {
    return Math.max(1, Math.floor(BATCH_PIECES / Math.max(1, this.#offsets.size)))
  }

  prefetch(pieces: number): Promise<unknown> | undefined {
    const from = this.#position
    const to = Math.min(from + pieces * PIECE_FRAMES, this.stretch.toFrame) + this.#mixer.lead
    const waits: Promise<void>[] = []
    for (const [hash, offsets] of this.#offsets) {
      const ranges = offsets.map((o) => ({ fromFrame: from - o, toFrame: to - o }))
      const wait = this.recordings.get(hash)?.prefetch(ranges)
      if (wait) waits.push(wait)
    }
    return waits.length > 0 ? Promise.all(waits) : undefined
  }

  /** Renders the next piece. What lies before the stretch is left out: a piece may be empty. */
  next(): [Float32Array, Float32Array] {
    if (!this.#primed) this.#mixer.prime(this.#read)
    this.#primed = true
    const end = Math.min(this.#position + PIECE_FRAMES, this.stretch.toFrame)
    const skipped = Math.max(0, this.stretch.fromFrame - this.#position)
    const frames = Math.max(0, end - this.#position - skipped)
    const out: [Float32Array, Float32Array] = [new Float32Array(frames), new Float32Array(frames)]
    let at = -Math.min(skipped, end - this.#position)
    while (this.#position < end) {
      const count = Math.min(BLOCK_FRAMES, end - this.#position)
      this.#mixer.process(
        this.#blockLeft,
        this.#blockRight,
        count,
        this.#read,
        this.options.taps,
        this.#add,
      )
      const first = Math.max(0, -at)
      if (first < count) {
        out[0].set(this.#blockLeft.subarray(first, count), at + first)
        out[1].set(this.#blockRight.subarray(first, count), at + first)
      }
      at += count
      this.#position += count
    }
    const { fromFrame, toFrame } = this.stretch
    this.options.onProgress?.(Math.max(0, end - fromFrame) / (toFrame - fromFrame))
    return out
  }

  dispose(): void {
    this.#mixer.dispose()
  }

  readonly #read: ReadAudio = (source, channel, offset, ahead, out, n) => {
    requireWhole(source.read(channel, this.#position + ahead - offset, out, n))
  }

  readonly #add: AddAudio = (addends, ahead, out, n) => {
    requireWhole(addStretches(addends, this.#position + ahead, out, n))
  }
}

/** A gap in a recording must not become silence in a file. */
export function requireWhole(read: boolean): void {
  if (!read) throw new Error('A recording was not at hand while it was rendered.')
}

/** Renders a stretch of a mix in pieces of a second or so, from recordings that are read by windows. */
export function streamMix(
  plan: MixPlan,
  recordings: Recordings,
  sampleRateHz: number,
  stretch: Stretch,
  options: RenderOptions = {},
): AsyncGenerator<[Float32Array, Float32Array]> {
  return streamRun(new MixRun(plan, recordings, sampleRateHz, stretch, options))
}

/** Sound that is made piece by piece from recordings that have to be read. */
interface StreamedRun<Piece> {
  readonly done: boolean
  /** Pieces whose audio is read in one go: each wait costs, each piece takes room. */
  readonly batch: number
  /** Brings the audio for the next pieces to hand; undefined when nothing has to be waited for. */
  prefetch(pieces: number): Promise<unknown> | undefined
  next(): Piece
  dispose(): void
}

/** Recordings' pieces that are read in one go. */
const BATCH_PIECES = 6

/** What comes out of a run, piece by piece; its recordings are read ahead. The run is disposed of at the end. */
export async function* streamRun<Piece extends readonly Float32Array[]>(
  run: StreamedRun<Piece>,
): AsyncGenerator<Piece> {
  try {
    const { batch } = run
    let coming = run.prefetch(batch)
    for (let n = 0; !run.done; n++) {
      if (n % batch === 0) {
        await coming
        // The next pieces are read while these are made.
        coming = run.prefetch(2 * batch)
        coming?.catch(() => {})
      }
      const piece = run.next()
      if (piece[0].length > 0) yield piece
    }
  } finally {
    run.dispose()
  }
}

/** Renders a stretch of the mix, stereo, into memory; its recordings must be at hand. */
export function renderMix(
  plan: MixPlan,
  recordings: Recordings,
  sampleRateHz: number,
  stretch: Stretch,
  options: RenderOptions = {},
): Clip {
  const run = new MixRun(plan, recordings, sampleRateHz, stretch, options)
  const frames = stretch.toFrame - stretch.fromFrame
  const channels = [new Float32Array(frames), new Float32Array(frames)]
  let at = 0
  while (!run.done) {
    const piece = run.next()
    piece.forEach((part, c) => {
      channels[c].set(part, at)
    })
    at += piece[0].length
  }
  run.dispose()
  return makeClip(sampleRateHz, channels)
}

/** A sound through a chain alone, in pieces: treated, before fader and pan, channels as they came. */
export class ChainRun {
  readonly #chain: Chain
  readonly #trim: number
  readonly #blocks: Float32Array[]
  /** What treatments with a key hear: one channel, or middle and sides. */
  readonly #key: Float32Array[]
  #position: number
  #primed = false
  readonly #readKey: ReadKey = (treatment) => this.#keyFor(treatment)
  #treated = { position: 0, count: 0 }

  /**
   * @param chain with its designs.
   * @param stretch in frames of the time line; the source begins at `offsetFrames` of it.
   * @param key what treatments that take one listen to, on the time line; null for nothing.
   */
  constructor(
    chain: NodeChain,
    private readonly source: AudioSource,
    private readonly offsetFrames: number,
    sampleRateHz: number,
    private readonly stretch: Stretch,
    private readonly key: AudioSource | null = null,
  ) {
    this.#key = Array.from({ length: key?.channels ?? 0 }, () => new Float32Array(BLOCK_FRAMES))
    this.#chain = new Chain(sampleRateHz, source.channels, BLOCK_FRAMES, workingsOf)
    this.#chain.set(chain)
    this.#trim = chain.trim
    this.#blocks = Array.from({ length: source.channels }, () => new Float32Array(BLOCK_FRAMES))
    this.#position = startOf(stretch, sampleRateHz)
  }

  get latency(): number {
    return this.#chain.latency
  }

  get done(): boolean {
    return this.#position >= this.stretch.toFrame
  }

  readonly batch = BATCH_PIECES

  prefetch(pieces: number): Promise<void> | undefined {
    const from = this.#position - this.offsetFrames
    const toFrame = from + pieces * PIECE_FRAMES + this.#chain.latency
    const own = this.source.prefetch([{ fromFrame: from, toFrame }])
    const fromKey = this.#position - this.#chain.latency
    const key = this.key?.prefetch([
      { fromFrame: fromKey, toFrame: fromKey + toFrame - from + this.#chain.latency },
    ])
    return own || key ? Promise.all([own, key]).then(() => {}) : undefined
  }

  next(): Float32Array[] {
    const ahead = this.#chain.latency
    if (!this.#primed) {
      for (let at = 0; at < ahead; at += BLOCK_FRAMES) {
        this.#treat(this.#position + at, Math.min(BLOCK_FRAMES, ahead - at))
      }
    }
    this.#primed = true
    const end = Math.min(this.#position + PIECE_FRAMES, this.stretch.toFrame)
    const skipped = Math.min(
      end - this.#position,
      Math.max(0, this.stretch.fromFrame - this.#position),
    )
    const frames = end - this.#position - skipped
    const out = this.#blocks.map(() => new Float32Array(frames))
    for (let at = -skipped; this.#position < end; ) {
      const count = Math.min(BLOCK_FRAMES, end - this.#position)
      this.#treat(this.#position + ahead, count)
      const first = Math.max(0, -at)
      if (first < count) {
        out.forEach((channel, c) => {
          channel.set(this.#blocks[c].subarray(first, count), at + first)
        })
      }
      at += count
      this.#position += count
    }
    return out
  }

  #treat(position: number, count: number): void {
    for (const [c, block] of this.#blocks.entries()) {
      requireWhole(this.source.read(c, position - this.offsetFrames, block, count))
      if (this.#trim !== 1) for (let i = 0; i < count; i++) block[i] *= this.#trim
    }
    this.#treated = { position, count }
    this.#chain.process(this.#blocks, count, this.#readKey)
  }

  /** The key as late as the sound is where the treatment stands. */
  #keyFor(treatment: string): readonly Float32Array[] | null {
    if (!this.key) return null
    const { position, count } = this.#treated
    const before = this.#chain.latency - this.#chain.latencyFrom(treatment)
    for (let c = 0; c < this.#key.length; c++) {
      requireWhole(this.key.read(c, position - before, this.#key[c], count))
    }
    if (this.#key.length < 2) return this.#key
    const [mid, side] = this.#key
    for (let i = 0; i < count; i++) {
      const [left, right] = [mid[i], side[i]]
      mid[i] = (left + right) / 2
      side[i] = (left - right) / 2
    }
    return this.#key
  }

  dispose(): void {
    this.#chain.dispose()
  }
}

/** Where rendering begins: some pre-roll ahead, on the block grid that playback from zero has. */
function startOf(stretch: Stretch, rateHz: number): number {
  const early = Math.max(0, stretch.fromFrame - PRE_ROLL_SECONDS * rateHz)
  return Math.floor(early / BLOCK_FRAMES) * BLOCK_FRAMES
}
