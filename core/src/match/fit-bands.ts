import { analogueDb, type EqBand } from '../filters'
import { TWELFTHS } from './profile'

/** Bands fitted to a curve. */
export interface FittedBands {
  readonly bands: readonly EqBand[]
  /** What has to be added to the bands' gains to lie on the curve, in dB: where its zero is. */
  readonly zeroDb: number
  /** What the bands do at each twelfth of an octave. */
  readonly givenDb: readonly number[]
  /** Weighted root mean square of what remains. */
  readonly rmsErrorDb: number
}

export interface FitSettings {
  /** The most bands that may be taken. */
  readonly most: number
  /** Fitting ends with the first number of bands that comes within this, in dB rms; 0 takes all. */
  readonly withinDb: number
  readonly mostBoostDb: number
  readonly mostCutDb: number
  readonly fromHz: number
  readonly toHz: number
}

type BandShape = 'bell' | 'low-shelf' | 'high-shelf'
/** What is fitted of a band: log2 of its frequency, gain in dB, natural log of its Q. */
interface Guess {
  readonly type: BandShape
  readonly values: Float64Array
}

const Q_LIMITS: Readonly<Record<BandShape, readonly [number, number]>> = {
  bell: [0.5, 6],
  'low-shelf': [0.4, 1],
  'high-shelf': [0.4, 1],
}
const PER_BAND = 3
const STEPS = [1e-3, 1e-2, 1e-3]
const ROUNDS = 40
const QUICK_ROUNDS = 8
const FIRST_DAMPING = 0.01
/** Another band has to bring at least this, in dB rms. */
const LEAST_GAIN_DB = 0.005
/** A shelf begins at least this many octaves inside the span. */
const SHELF_INSIDE = 0.5
/**
 * Each squared decibel of a band counts this much beside the squared error: of two ways that come equally near, the one
 * that does less is taken. Two shelves from either side would else make up a constant between them.
 */
const EFFORT = 0.004
/** Bells of one sign that are nearer than this to each other, and as wide within a factor of two, are twins. */
const TWIN_OCTAVES = 1 / 3
const TWIN_LOG_Q = Math.log(2)
/** Gains smaller than this are no band. */
const LEAST_DB = 0.15

/**
 * Fits the fewest ordinary bands to a curve over twelfths of an octave: one band after the other, put where it answers
 * most of what is left, and all of them moved together after each by damped least squares (Levenberg 1944, Marquardt
 * 1963). The curve's zero is fitted along, so that a constant in it costs no band.
 * @param db wanted gain per twelfth. @param weight of each; what has none is left out.
 */
export function fitBands(
  db: readonly number[],
  weight: readonly number[],
  settings: FitSettings,
): FittedBands {
  const all = fitEach(db, weight, settings)
  return all[all.length - 1]
}

/** {@link fitBands} with each number of bands on the way, none of them first. */
export function fitEach(
  db: readonly number[],
  weight: readonly number[],
  settings: FitSettings,
  onProgress: (share: number) => void = () => {},
): FittedBands[] {
  const fit = new Fit(db, weight, settings)
  let states = [fit.none()]
  const all = [fit.finish(states[0])]
  if (fit.isEmpty) return all
  for (let n = 0; n < settings.most && states[0].rms > settings.withinDb; n++) {
    onProgress(n / settings.most)
    const next = fit.withOneMore(states)
    if (next.length === 0 || states[0].rms - next[0].rms < LEAST_GAIN_DB) break
    states = next
    all.push(fit.finish(states[0]))
  }
  return all
}

interface State {
  readonly guesses: readonly Guess[]
  readonly zeroDb: number
  readonly rms: number
  /** What is made least: squared error and effort. */
  readonly cost: number
}

/** Two bells that do one thing between them: one would do. */
function hasTwins(guesses: readonly Guess[]): boolean {
  return guesses.some((a, i) =>
    guesses.slice(0, i).some((b) => {
      if (a.type !== b.type || a.values[1] * b.values[1] <= 0) return false
      if (a.type !== 'bell') return true
      const octaves = Math.abs(a.values[0] - b.values[0])
      return octaves < TWIN_OCTAVES && Math.abs(a.values[2] - b.values[2]) < TWIN_LOG_Q
    }),
  )
}

class Fit {
  readonly #hz: number[]
  readonly #wanted: number[]
  readonly #weight: number[]
  readonly #total: number

  constructor(
    db: readonly number[],
    weight: readonly number[],
    private readonly settings: FitSettings,
  ) {
    const { fromHz, toHz } = settings
    const used = TWELFTHS.flatMap(({ hz }, i) =>
      weight[i] > 0 && hz >= fromHz * 0.97 && hz <= toHz * 1.03 ? [i] : [],
    )
    this.#hz = used.map((i) => TWELFTHS[i].hz)
    this.#wanted = used.map((i) => db[i])
    this.#weight = used.map((i) => weight[i])
    this.#total = this.#weight.reduce((a, v) => a + v, 0)
  }

  get isEmpty(): boolean {
    return this.#hz.length === 0
  }

  none(): State {
    return this.#state([])
  }

  /** The best ways to take another band to one of several states, everything moved together; the first is the best. */
  withOneMore(states: readonly State[]): State[] {
    const tried = states
      .flatMap((state) =>
        this.#candidates(this.#leftOf(state)).map((guess) =>
          this.#refine([...state.guesses, guess], QUICK_ROUNDS),
        ),
      )
      .filter(({ guesses }) => !hasTwins(guesses))
      .sort((a, b) => a.cost - b.cost)
    return distinct(tried)
      .map(({ guesses }) => this.#refine(guesses, ROUNDS))
      .filter(({ guesses }) => !hasTwins(guesses))
      .sort((a, b) => a.cost - b.cost)
  }

  finish({ guesses, zeroDb }: State): FittedBands {
    const bands = guesses
      .map(rounded)
      .filter((b) => Math.abs(b.db) >= LEAST_DB)
      .sort((a, b) => a.hz - b.hz)
    const givenDb = TWELFTHS.map(({ hz }) => bands.reduce((sum, b) => sum + analogueDb(b, hz), 0))
    const here = this.#hz.map((hz) => bands.reduce((sum, b) => sum + analogueDb(b, hz), 0))
    const zero = this.isEmpty ? 0 : this.#meanOf(this.#wanted.map((w, i) => w - here[i]))
    const error = this.#wanted.map((w, i) => w - here[i] - zero)
    return { bands, zeroDb: this.isEmpty ? zeroDb : zero, givenDb, rmsErrorDb: this.#rmsOf(error) }
  }

  #state(guesses: readonly Guess[]): State {
    const left = this.#without(guesses)
    const zeroDb = this.#meanOf(left)
    const rms = this.#rmsOf(left.map((v) => v - zeroDb))
    const effort = guesses.reduce((sum, { values }) => sum + values[1] ** 2, 0)
    return { guesses, zeroDb, rms, cost: rms ** 2 + EFFORT * effort }
  }

  #leftOf({ guesses, zeroDb }: State): number[] {
    return this.#without(guesses).map((v) => v - zeroDb)
  }

  /** What is wanted, less what the bands do. */
  #without(guesses: readonly Guess[]): number[] {
    const left = [...this.#wanted]
    for (const g of guesses)
      gainsOf(g, this.#hz).forEach((v, i) => {
        left[i] -= v
      })
    return left
  }

  #meanOf(values: readonly number[]): number {
    return this.#total > 0
      ? values.reduce((sum, v, i) => sum + this.#weight[i] * v, 0) / this.#total
      : 0
  }

  #rmsOf(values: readonly number[]): number {
    return Math.sqrt(this.#meanOf(values.map((v) => v * v)))
  }

  /** Bells at the strongest hills and valleys, a shelf at either end at three places. */
  #candidates(left: readonly number[]): Guess[] {
    const at = (i: number) => Math.log2(this.#hz[i])
    const smooth = left.map((_, i) => {
      const near = left.slice(Math.max(0, i - 2), i + 3)
      return near.reduce((a, v) => a + v, 0) / near.length
    })
    const extremes = smooth
      .flatMap((v, i) => {
        const a = Math.abs(v)
        const isPeak =
          a >= Math.abs(smooth[i - 1] ?? 0) && a >= Math.abs(smooth[i + 1] ?? 0) && a > 0.05
        return isPeak ? [i] : []
      })
      .sort((a, b) => Math.abs(smooth[b]) - Math.abs(smooth[a]))
      .slice(0, 3)
    const guesses: Guess[] = extremes.flatMap((i) =>
      [0.7, 2].map((q) => guess('bell', at(i), smooth[i], q)),
    )
    const last = this.#hz.length - 1
    const [low, high] = [at(0), at(last)]
    const mean = (from: number, to: number) => {
      const part = left.slice(from, to)
      return part.reduce((a, v) => a + v, 0) / Math.max(1, part.length)
    }
    for (const share of [0.2, 0.4, 0.6]) {
      const place = low + share * (high - low)
      const cut = Math.round(share * last)
      guesses.push(guess('low-shelf', place, mean(0, cut) - mean(cut, last), 0.7))
      guesses.push(guess('high-shelf', place, mean(cut, last) - mean(0, cut), 0.7))
    }
    return guesses
  }

  #refine(start: readonly Guess[], rounds: number): State {
    let state = this.#state(start.map((g) => this.#held(g)))
    let damping = FIRST_DAMPING
    for (let round = 0; round < rounds; round++) {
      const step = this.#step(state, damping)
      const next = this.#state(
        state.guesses.map((g, b) => {
          const values = g.values.map((v, k) => v + step[PER_BAND * b + k])
          return this.#held({ type: g.type, values })
        }),
      )
      if (next.cost < state.cost) {
        const gained = state.cost - next.cost
        state = next
        damping = Math.max(1e-6, damping / 4)
        if (gained < 1e-6) break
      } else {
        damping *= 6
        if (damping > 1e6) break
      }
    }
    return state
  }

  /** Solves (JᵀWJ + λ·diag) x = JᵀW r; the zero is the last unknown. */
  #step({ guesses, zeroDb }: State, damping: number): Float64Array {
    const unknowns = PER_BAND * guesses.length + 1
    const normal = Array.from({ length: unknowns }, () => new Float64Array(unknowns + 1))
    const row = new Float64Array(unknowns)
    const here = guesses.map((g) => gainsOf(g, this.#hz))
    const moved = guesses.map((g) =>
      STEPS.map((d, k) =>
        gainsOf({ type: g.type, values: g.values.map((v, i) => v + (i === k ? d : 0)) }, this.#hz),
      ),
    )
    for (let i = 0; i < this.#hz.length; i++) {
      let sum = zeroDb
      for (let b = 0; b < guesses.length; b++) {
        sum += here[b][i]
        for (let k = 0; k < PER_BAND; k++) {
          row[PER_BAND * b + k] = (moved[b][k][i] - here[b][i]) / STEPS[k]
        }
      }
      row[unknowns - 1] = 1
      const w = this.#weight[i]
      const rest = this.#wanted[i] - sum
      for (let a = 0; a < unknowns; a++) {
        const share = w * row[a]
        for (let b = 0; b <= a; b++) normal[a][b] += share * row[b]
        normal[a][unknowns] += share * rest
      }
    }
    for (let a = 0; a < unknowns; a++) {
      for (let b = a + 1; b < unknowns; b++) normal[a][b] = normal[b][a]
    }
    guesses.forEach(({ values }, b) => {
      const at = PER_BAND * b + 1
      normal[at][at] += EFFORT * this.#total
      normal[at][unknowns] -= EFFORT * this.#total * values[1]
    })
    for (let a = 0; a < unknowns; a++) normal[a][a] = normal[a][a] * (1 + damping) + 1e-9
    return solve(normal)
  }

  #held({ type, values }: Guess): Guess {
    const { fromHz, toHz, mostBoostDb, mostCutDb } = this.settings
    const inside = type === 'bell' ? 0 : SHELF_INSIDE
    const [low, high] = [
      Math.log2(Math.max(fromHz, this.#hz[0])) + inside,
      Math.log2(Math.min(toHz, this.#hz[this.#hz.length - 1])) - inside,
    ]
    const hold = (v: number, a: number, b: number) => Math.max(a, Math.min(Math.max(a, b), v))
    const [narrow, wide] = Q_LIMITS[type].map(Math.log)
    return {
      type,
      values: Float64Array.of(
        hold(values[0], low, high),
        hold(values[1], -mostCutDb, mostBoostDb),
        hold(values[2], narrow, wide),
      ),
    }
  }
}

/** Ways that are kept while bands are added: what is best at first may stand in the way later. */
const WAYS = 4

/** The first ones that do not come to the same bands. */
function distinct(states: readonly State[]): State[] {
  const kept: State[] = []
  for (const state of states) {
    if (kept.length === WAYS) break
    if (kept.every((k) => Math.abs(k.cost - state.cost) > 0.01 * k.cost + 1e-6)) kept.push(state)
  }
  return kept
}

function guess(type: BandShape, place: number, db: number, q: number): Guess {
  return { type, values: Float64Array.of(place, db, Math.log(q)) }
}

function bandOf({ type, values: [place, db, q] }: Guess): EqBand {
  return { type, hz: 2 ** place, db, q: Math.exp(q), slopeDbPerOct: 12, channel: 'stereo' }
}

/** `analogueDb` of {@link bandOf} at all frequencies, without making the band: it is asked for very often. */
function gainsOf({ type, values }: Guess, hz: readonly number[]): Float64Array {
  const corner = 2 ** values[0]
  const a = 10 ** (values[1] / 40)
  const q = Math.exp(values[2])
  const out = new Float64Array(hz.length)
  for (let i = 0; i < out.length; i++) {
    const x2 = (hz[i] / corner) ** 2
    let ratio: number
    if (type === 'bell') {
      const t = (1 - x2) * (1 - x2)
      ratio = (t + (x2 * a * a) / (q * q)) / (t + x2 / (a * a * q * q))
    } else {
      const r2 = a / (q * q)
      const up = (a - x2) * (a - x2) + r2 * x2
      const down = (1 - a * x2) * (1 - a * x2) + r2 * x2
      ratio = type === 'low-shelf' ? (a * a * up) / down : (a * a * down) / up
    }
    out[i] = (10 / Math.LN10) * Math.log(ratio)
  }
  return out
}

/** As one would type it. */
function rounded(g: Guess): EqBand {
  const band = bandOf(g)
  const hz = Number(band.hz.toPrecision(3))
  return { ...band, hz, db: Math.round(10 * band.db) / 10, q: Number(band.q.toPrecision(2)) }
}

/** Gauss's elimination with the largest pivot; the right side is the last column. */
function solve(rows: Float64Array[]): Float64Array {
  const n = rows.length
  for (let c = 0; c < n; c++) {
    let pivot = c
    for (let r = c + 1; r < n; r++) if (Math.abs(rows[r][c]) > Math.abs(rows[pivot][c])) pivot = r
    ;[rows[c], rows[pivot]] = [rows[pivot], rows[c]]
    const top = rows[c][c]
    if (Math.abs(top) < 1e-30) continue
    for (let r = 0; r < n; r++) {
      if (r === c) continue
      const share = rows[r][c] / top
      if (share === 0) continue
      for (let k = c; k <= n; k++) rows[r][k] -= share * rows[c][k]
    }
  }
  return Float64Array.from(rows, (row, i) => (Math.abs(row[i]) < 1e-30 ? 0 : row[n] / row[i]))
}
