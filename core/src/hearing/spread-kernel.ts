import {
  advance,
  get,
  instantiate,
  type KernelRun,
  leb,
  OP,
  set,
  untilReached,
  type WasmHost,
  writeModule,
} from '../wasm'

/** Skirts of one sort by band: shares of a band's power, from its place (or the next one) outwards. */
export type Skirts = readonly ArrayLike<number>[]

/** What spreads where: lowest level of a table of skirts, how many levels it has, and how to make one. */
export interface SkirtTables {
  readonly bands: number
  readonly levels: number
  /** Towards lower filters, alike at all levels. */
  readonly upper: () => Skirts
  /** Towards higher filters. */
  readonly lower: (level: number) => Skirts
}

const LANES = 4
const VECTOR_BYTES = 16
const FLOAT_BYTES = 4
/** Shares are cut at whole powers of ten, from 1 to this many below it. */
const DECADES = 10
const PAGE_BYTES = 65536
const JOB_BYTES = 16
const [SHARES_OF, OUT_OF, END_OF, SCALE_OF] = [0, 4, 8, 12]

/** Places of one sort's skirts in memory: where each begins (or ends), and how many shares it has down to each decade. */
interface Placed {
  readonly at: Int32Array
  /** `bands × (DECADES + 1)`, rounded up to whole vectors. */
  readonly counts: Uint8Array
}

/** Adds skirts to excitation patterns, in single precision, four filters at a time. */
export class SpreadKernel {
  readonly #floats: Float32Array
  readonly #numbers: Int32Array
  readonly #run: KernelRun
  readonly #outAt: number
  readonly #jobsAt: number
  #free: number
  #jobs = 0
  readonly #upper: Placed
  readonly #lower: (Placed | undefined)[]

  constructor(
    wasm: WasmHost,
    private readonly tables: SkirtTables,
  ) {
    const { bands, levels } = tables
    // A vector more at either end, for the shares that skirts are filled up with.
    this.#outAt = VECTOR_BYTES
    this.#jobsAt = this.#outAt + FLOAT_BYTES * (whole(bands) + 2 * LANES)
    // Bands before and after a change, each to either side.
    this.#free = this.#jobsAt + 4 * bands * JOB_BYTES
    // On the mean a skirt reaches over half of the bands.
    const skirt = FLOAT_BYTES * (bands / 2 + LANES)
    const bytes = this.#free + (levels + 2) * bands * skirt
    const { buffer, run } = instantiate(wasm, (fused) =>
      writeModule([spreadFunction(fused)], Math.ceil(bytes / PAGE_BYTES)),
    )
    this.#floats = new Float32Array(buffer)
    this.#numbers = new Int32Array(buffer)
    this.#run = run.spread
    this.#upper = this.#place(tables.upper(), true)
    this.#lower = new Array(levels)
  }

  /** Begins a pattern. @param from which it goes on; null for silence. */
  begin(from: ArrayLike<number> | null): void {
    const at = this.#outAt / FLOAT_BYTES
    const { bands } = this.tables
    this.#jobs = 0
    if (!from) this.#floats.fill(0, at, at + bands)
    else for (let b = 0; b < bands; b++) this.#floats[at + b] = from[b]
  }

  /** Adds what a band brings. @param decades how far under it its skirts are followed. */
  add(band: number, power: number, level: number, decades: number): void {
    const { bands } = this.tables
    this.#lower[level] ??= this.#place(this.tables.lower(level), false)
    const cell = band * (DECADES + 1) + Math.max(0, Math.min(DECADES, decades))
    const below = this.#upper.counts[cell]
    const end = this.#outAt + FLOAT_BYTES * (band + 1)
    this.#job(this.#upper.at[band] - FLOAT_BYTES * below, end - FLOAT_BYTES * below, end, power)
    const lower = this.#lower[level]
    const above = lower.counts[cell]
    if (above > 0 && band + 1 < bands) {
      this.#job(lower.at[band], end, end + FLOAT_BYTES * above, power)
    }
  }

  /** Makes what was asked for. */
  finish(out: Float64Array): void {
    if (this.#jobs > 0) this.#run(this.#jobsAt, this.#jobsAt + this.#jobs * JOB_BYTES, 0)
    const at = this.#outAt / FLOAT_BYTES
    for (let b = 0; b < this.tables.bands; b++) out[b] = this.#floats[at + b]
  }

  #job(shares: number, out: number, end: number, scale: number): void {
    if (end <= out) return
    const at = (this.#jobsAt + this.#jobs * JOB_BYTES) / FLOAT_BYTES
    this.#numbers[at + SHARES_OF / FLOAT_BYTES] = shares
    this.#numbers[at + OUT_OF / FLOAT_BYTES] = out
    this.#numbers[at + END_OF / FLOAT_BYTES] = end
    this.#floats[at + SCALE_OF / FLOAT_BYTES] = scale
    this.#jobs++
  }

  /** Lays skirts down, filled up with zeros to whole vectors; `back` from their end to their beginning. */
  #place(skirts: Skirts, back: boolean): Placed {
    const at = new Int32Array(skirts.length)
    const counts = new Uint8Array(skirts.length * (DECADES + 1))
    skirts.forEach((skirt, band) => {
      const length = whole(skirt.length)
      const start = this.#free / FLOAT_BYTES
      for (let i = 0; i < skirt.length; i++) {
        this.#floats[back ? start + length - 1 - i : start + i] = skirt[i]
      }
      this.#free += FLOAT_BYTES * length
      at[band] = FLOAT_BYTES * (back ? start + length : start)
      for (let decade = 0; decade <= DECADES; decade++) {
        let count = 0
        while (count < skirt.length && skirt[count] > 10 ** -decade) count++
        counts[band * (DECADES + 1) + decade] = whole(count)
      }
    })
    return { at, counts }
  }
}

function whole(count: number): number {
  return LANES * Math.ceil(count / LANES)
}

const [JOB, JOBS_END] = [0, 1]
const SCALE = 3
const [SHARES, OUT, END] = [4, 5, 6]
const at = (offset: number) => [2, ...leb(offset)]
const load = (local: number) => [...get(local), ...OP.v128Load, ...at(0)]

/** Job by job: a skirt times its power, added to the filters it reaches. */
function spreadFunction(fused: boolean) {
  const read = (offset: number, to: number) => [
    ...[...get(JOB), ...OP.i32Load, ...at(offset)],
    ...set(to),
  ]
  const sum = fused
    ? [...load(SHARES), ...get(SCALE), ...load(OUT), ...OP.f32x4RelaxedMadd]
    : [...load(SHARES), ...get(SCALE), ...OP.f32x4Mul, ...load(OUT), ...OP.f32x4Add]
  return {
    name: 'spread',
    vectors: 1,
    numbers: 3,
    code: [
      ...OP.loop,
      ...read(SHARES_OF, SHARES),
      ...read(OUT_OF, OUT),
      ...read(END_OF, END),
      ...[...get(JOB), ...OP.v128Load32Splat, ...at(SCALE_OF), ...set(SCALE)],
      ...OP.loop,
      ...[...get(OUT), ...sum, ...OP.v128Store, ...at(0)],
      ...advance(SHARES, VECTOR_BYTES),
      ...advance(OUT, VECTOR_BYTES),
      ...untilReached(OUT, END),
      ...advance(JOB, JOB_BYTES),
      ...untilReached(JOB, JOBS_END),
    ],
  }
}
