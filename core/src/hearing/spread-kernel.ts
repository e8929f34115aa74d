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
  /** How far under a band's power its skirts are followed, in whole decades. */
  readonly decades: (level: number) => number
}

const LANES = 4
const VECTOR_BYTES = 16
const FLOAT_BYTES = 4
/** Shares are cut at whole powers of ten, from 1 to this many below it. */
const DECADES = 10
const PAGE_BYTES = 65536
/** A job: which skirts, and the power that they are multiplied by. */
const JOB_BYTES = 8
const [SKIRTS_OF, SCALE_OF] = [0, 4]
/** Both skirts of a band at a level: where their shares begin, and from where to where they go in the pattern. */
const SKIRTS_BYTES = 24
const [UP, DOWN] = [0, 12]
const [SHARES_OF, OUT_OF, END_OF] = [0, 4, 8]

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
  /** Where the skirts of each level's bands are told. */
  readonly #skirtsAt: Int32Array

  constructor(
    wasm: WasmHost,
    private readonly tables: SkirtTables,
  ) {
    const { bands, levels } = tables
    // A vector more at either end, for the shares that skirts are filled up with.
    this.#outAt = VECTOR_BYTES
    this.#jobsAt = this.#outAt + FLOAT_BYTES * (whole(bands) + 2 * LANES)
    // Bands before and after a change.
    this.#free = this.#jobsAt + 2 * bands * JOB_BYTES
    // On the mean a skirt reaches over half of the bands.
    const skirt = FLOAT_BYTES * (bands / 2 + LANES)
    const bytes = this.#free + (levels + 2) * bands * (skirt + SKIRTS_BYTES)
    const { buffer, run } = instantiate(wasm, (fused) =>
      writeModule([spreadFunction(fused)], Math.ceil(bytes / PAGE_BYTES)),
    )
    this.#floats = new Float32Array(buffer)
    this.#numbers = new Int32Array(buffer)
    this.#run = run.spread
    this.#upper = this.#place(tables.upper(), true)
    this.#skirtsAt = new Int32Array(levels)
  }

  /** Begins a pattern. @param from which it goes on; null for silence. */
  begin(from: ArrayLike<number> | null): void {
    const at = this.#outAt / FLOAT_BYTES
    const { bands } = this.tables
    this.#jobs = 0
    if (!from) this.#floats.fill(0, at, at + bands)
    else for (let b = 0; b < bands; b++) this.#floats[at + b] = from[b]
  }

  /** Adds what a band brings. */
  add(band: number, power: number, level: number): void {
    if (this.#skirtsAt[level] === 0) this.#makeLevel(level)
    const at = (this.#jobsAt + this.#jobs * JOB_BYTES) / FLOAT_BYTES
    this.#numbers[at + SKIRTS_OF / FLOAT_BYTES] = this.#skirtsAt[level] + band * SKIRTS_BYTES
    this.#floats[at + SCALE_OF / FLOAT_BYTES] = power
    this.#jobs++
  }

  /** Makes what was asked for. */
  finish(out: Float64Array): void {
    if (this.#jobs > 0) this.#run(this.#jobsAt, this.#jobsAt + this.#jobs * JOB_BYTES, 0)
    const at = this.#outAt / FLOAT_BYTES
    for (let b = 0; b < this.tables.bands; b++) out[b] = this.#floats[at + b]
  }

  /** Tells where the skirts of a level's bands are. */
  #makeLevel(level: number): void {
    const { bands, lower, decades } = this.tables
    const above = this.#place(lower(level), false)
    const skirtsAt = this.#free
    this.#free += bands * SKIRTS_BYTES
    this.#skirtsAt[level] = skirtsAt
    const down = Math.max(0, Math.min(DECADES, decades(level)))
    for (let band = 0; band < bands; band++) {
      const cell = band * (DECADES + 1) + down
      const end = this.#outAt + FLOAT_BYTES * (band + 1)
      const below = FLOAT_BYTES * this.#upper.counts[cell]
      const reach = FLOAT_BYTES * above.counts[cell]
      const at = skirtsAt + band * SKIRTS_BYTES
      this.#tell(at + UP, this.#upper.at[band] - below, end - below, end)
      this.#tell(at + DOWN, above.at[band], end, end + reach)
    }
  }

  #tell(at: number, shares: number, out: number, end: number): void {
    this.#numbers[(at + SHARES_OF) / FLOAT_BYTES] = shares
    this.#numbers[(at + OUT_OF) / FLOAT_BYTES] = out
    this.#numbers[(at + END_OF) / FLOAT_BYTES] = end
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
const [SKIRTS, SHARES, OUT, END] = [4, 5, 6, 7]
const at = (offset: number) => [2, ...leb(offset)]
const load = (local: number) => [...get(local), ...OP.v128Load, ...at(0)]

/** Job by job: both skirts of a band times its power, added to the filters they reach. */
function spreadFunction(fused: boolean) {
  const read = (from: number, offset: number, to: number) => [
    ...[...get(from), ...OP.i32Load, ...at(offset)],
    ...set(to),
  ]
  const sum = fused
    ? [...load(SHARES), ...get(SCALE), ...load(OUT), ...OP.f32x4RelaxedMadd]
    : [...load(SHARES), ...get(SCALE), ...OP.f32x4Mul, ...load(OUT), ...OP.f32x4Add]
  const skirt = (side: number) => [
    ...read(SKIRTS, side + SHARES_OF, SHARES),
    ...read(SKIRTS, side + OUT_OF, OUT),
    ...read(SKIRTS, side + END_OF, END),
    ...[...get(OUT), ...get(END), ...OP.i32LtU, ...OP.if],
    ...OP.loop,
    ...[...get(OUT), ...sum, ...OP.v128Store, ...at(0)],
    ...advance(SHARES, VECTOR_BYTES),
    ...advance(OUT, VECTOR_BYTES),
    ...untilReached(OUT, END),
    ...OP.end,
  ]
  return {
    name: 'spread',
    vectors: 1,
    numbers: 4,
    code: [
      ...OP.loop,
      ...read(JOB, SKIRTS_OF, SKIRTS),
      ...[...get(JOB), ...OP.v128Load32Splat, ...at(SCALE_OF), ...set(SCALE)],
      ...skirt(UP),
      ...skirt(DOWN),
      ...advance(JOB, JOB_BYTES),
      ...untilReached(JOB, JOBS_END),
    ],
  }
}
