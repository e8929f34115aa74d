import { besselI0, type Clip, powerToDb } from '../audio'
import { doubleFft, longTermLevels, makeBands } from '../spectrum'
import { explainLevels } from './explain'

/** What is left of one sound less another. */
export interface NullReading {
  /** Power of what is left against the first sound, in dB; null where the first is silent, -200 for nothing left. */
  readonly nullDb: number | null
  /** Frames by which the second was moved later, and what it was raised by, in dB. */
  readonly delayFrames: number
  readonly gainDb: number
  /** Per third of an octave: what is left against the first; how far the first stands over the second. Null for silence. */
  readonly bands: readonly {
    readonly hz: number
    readonly db: number | null
    readonly levelDb: number | null
  }[]
  /** Power of what is left in each tenth of a second against the mean power of the first, in dB. */
  readonly overTime: readonly { readonly seconds: number; readonly db: number }[]
}

interface NullSettings {
  /** Moves the second sound to where it stands over the first best. */
  readonly align: boolean
  /** Raises or lowers it to where least is left. */
  readonly gain: boolean
}

/** Delays are looked for in so many frames around the loudest place. */
const LONGEST = 2 ** 19
/** A kernel for parts of a frame: below -120 dB up to 0.97 of half the sample rate. */
const KERNEL = 256
const KERNEL_BETA = 12
const HOP_SECONDS = 0.1
/** Bands further under the loudest one tell nothing. */
const FLOOR_DB = 100

/**
 * Takes a second sound from a first: both at one rate and from the same start. A mono sound stands for both channels.
 * @returns what is left, as long as the first, and what it says.
 */
export function nullTest(
  first: Clip,
  second: Clip,
  { align, gain }: NullSettings,
): { readonly reading: NullReading; readonly residue: Clip } {
  const count = Math.max(first.channels.length, second.channels.length)
  const a = spread(first, count)
  const b = spread(second, count)
  const tried = (align ? delaysOf(a, b) : [0]).map((delay) => {
    const moved = b.map((c) => shifted(c, delay, first.frames))
    const scale = gain ? bestGain(a, moved) : 1
    const left = a.map((c, k) => c.map((v, i) => v - scale * moved[k][i]))
    return { delay, scale, left, moved, power: powerOf(left) }
  })
  const best = tried.reduce((x, y) => (y.power < x.power ? y : x))
  const own = powerOf(a)
  const nullDb = own === 0 ? null : powerToDb(best.power / own)
  const rate = first.sampleRateHz
  const clip = (channels: Float32Array[]): Clip => ({ ...first, channels })
  const residue = clip(best.left)
  const scaledSecond = best.moved.map((c) => c.map((v) => best.scale * v))
  return {
    residue,
    reading: {
      nullDb,
      delayFrames: best.delay,
      gainDb: 20 * Math.log10(Math.abs(best.scale) || 1e-12),
      bands: bandsOf(clip(a), clip(scaledSecond), residue),
      overTime: overTime(best.left, own / Math.max(1, first.frames), rate),
    },
  }
}

function spread({ channels }: Clip, count: number): Float32Array[] {
  return Array.from({ length: count }, (_, k) => channels[Math.min(k, channels.length - 1)])
}

function powerOf(channels: readonly Float32Array[]): number {
  let sum = 0
  for (const c of channels) for (let i = 0; i < c.length; i++) sum += c[i] * c[i]
  return sum
}

/** The gain of the second with which least is left: at least squares. */
function bestGain(a: readonly Float32Array[], b: readonly Float32Array[]): number {
  let [cross, own] = [0, 0]
  a.forEach((c, k) => {
    for (let i = 0; i < c.length; i++) {
      cross += c[i] * b[k][i]
      own += b[k][i] * b[k][i]
    }
  })
  return own === 0 ? 1 : cross / own
}

/**
 * Delays of the second that are worth trying: none; whole frames, by the peak of the cross-correlation whose spectrum has
 * phase alone (Knapp and Carter 1976); and parts of a frame, by the slope of what phase is left.
 */
function delaysOf(a: readonly Float32Array[], b: readonly Float32Array[]): number[] {
  const from = loudestPlace(a)
  const length = Math.min(LONGEST, Math.max(a[0].length, b[0].length))
  const size = 2 ** Math.ceil(Math.log2(Math.max(2, 2 * length)))
  const fft = doubleFft(size)
  const cross = new Float64Array(size + 2)
  const part = (c: Float32Array) => {
    const time = new Float64Array(size)
    time.set(c.subarray(from, from + length))
    return fft.forward(time)
  }
  a.forEach((c, k) => {
    const [x, y] = [part(c), part(b[k])]
    for (let i = 0; i < cross.length; i += 2) {
      cross[i] += x[i] * y[i] + x[i + 1] * y[i + 1]
      cross[i + 1] += x[i + 1] * y[i] - x[i] * y[i + 1]
    }
  })
  let most = 0
  for (let i = 0; i < cross.length; i += 2)
    most = Math.max(most, Math.hypot(cross[i], cross[i + 1]))
  if (most === 0) return [0]
  const phase = cross.slice()
  for (let i = 0; i < cross.length; i += 2) {
    const size = Math.hypot(cross[i], cross[i + 1])
    const weight = size > 1e-9 * most ? 1 / size : 0
    phase[i] *= weight
    phase[i + 1] *= weight
  }
  const correlation = fft.inverse(phase)
  let peak = 0
  for (let i = 1; i < size; i++) {
    if (Math.abs(correlation[i]) > Math.abs(correlation[peak])) peak = i
  }
  const whole = peak > size / 2 ? peak - size : peak
  const finer = whole + restOf(cross, whole, size, Math.sign(correlation[peak]))
  return [0, whole, finer]
}

/** The slope of the phase that is left beside a whole delay, in frames, each frequency by what it has in common. */
function restOf(cross: Float64Array, whole: number, size: number, sign: number): number {
  let [over, under] = [0, 0]
  for (let k = 1; k < size / 2; k++) {
    const turn = (2 * Math.PI * k * whole) / size
    const [re, im] = [cross[2 * k] * sign, cross[2 * k + 1] * sign]
    // The whole delay undone.
    const x = re * Math.cos(turn) - im * Math.sin(turn)
    const y = re * Math.sin(turn) + im * Math.cos(turn)
    const weight = Math.hypot(x, y)
    const step = (2 * Math.PI * k) / size
    over -= weight * step * Math.atan2(y, x)
    under += weight * step * step
  }
  return under === 0 ? 0 : over / under
}

/** Where the stretch that is looked at begins. */
function loudestPlace(a: readonly Float32Array[]): number {
  const { length } = a[0]
  if (length <= LONGEST) return 0
  const hop = LONGEST / 8
  let best = 0
  let most = -1
  for (let from = 0; from + LONGEST <= length; from += hop) {
    const power = powerOf(a.map((c) => c.subarray(from, from + LONGEST)))
    if (power > most) [most, best] = [power, from]
  }
  return best
}

/** A channel moved later by so many frames, also parts of one, and as long as asked. */
function shifted(channel: Float32Array, delay: number, frames: number): Float32Array {
  const whole = Math.round(delay)
  const part = delay - whole
  const out = new Float32Array(frames)
  if (Math.abs(part) < 1e-9) {
    for (let i = Math.max(0, whole); i < frames && i - whole < channel.length; i++) {
      out[i] = channel[i - whole]
    }
    return out
  }
  const half = KERNEL / 2
  const kernel = Float64Array.from({ length: KERNEL + 1 }, (_, i) => {
    const at = i - half - part
    const x = at / (half + 1)
    const window = besselI0(KERNEL_BETA * Math.sqrt(Math.max(0, 1 - x * x))) / besselI0(KERNEL_BETA)
    return (at === 0 ? 1 : Math.sin(Math.PI * at) / (Math.PI * at)) * window
  })
  for (let i = 0; i < frames; i++) {
    let sum = 0
    // Kernel tap k stands for a delay of k - half frames.
    const newest = i - whole + half
    const [from, to] = [Math.max(0, newest - channel.length + 1), Math.min(KERNEL, newest)]
    for (let k = from; k <= to; k++) sum += kernel[k] * channel[newest - k]
    out[i] = sum
  }
  return out
}

function bandsOf(a: Clip, b: Clip, left: Clip): NullReading['bands'] {
  const thirds = makeBands('third').filter((band) => band.toHz < a.sampleRateHz / 2)
  const [own, other, rest] = [a, b, left].map((c) => longTermLevels(c, thirds))
  const floor = own.reduce((most, v) => Math.max(most, v), -400) - FLOOR_DB
  return thirds.map(({ hz }, i) =>
    own[i] < floor
      ? { hz, db: null, levelDb: null }
      : { hz, db: rest[i] - own[i], levelDb: own[i] - other[i] },
  )
}

function overTime(
  left: readonly Float32Array[],
  meanPower: number,
  rateHz: number,
): NullReading['overTime'] {
  const hop = Math.round(HOP_SECONDS * rateHz)
  return Array.from({ length: Math.floor(left[0].length / hop) }, (_, i) => {
    const power = powerOf(left.map((c) => c.subarray(i * hop, (i + 1) * hop))) / hop
    return { seconds: (i * hop) / rateHz, db: powerToDb(power / (meanPower || 1e-30)) }
  })
}

/** Under this nothing is left that a 16-bit file could hold. */
const SAME_DB = -90
const LEAST_LEVEL_DB = 0.1

/** What a null says, in a sentence. */
export function nullVerdict({ nullDb, bands }: NullReading): string {
  if (nullDb === null) return 'The first is silent.'
  if (nullDb <= SAME_DB) return `The same to ${Math.round(Math.max(nullDb, -200))} dB.`
  const known = bands.filter((b) => b.levelDb !== null && b.db !== null)
  const levels = known.map((b) => Math.abs(b.levelDb ?? 0))
  const most = Math.max(0, ...levels)
  if (most < LEAST_LEVEL_DB) {
    return `Alike in level at all frequencies, but not in time: ${Math.round(nullDb)} dB are left.`
  }
  const out = known.filter((_, i) => levels[i] >= Math.max(LEAST_LEVEL_DB, most / 2))
  const [from, to] = [out[0].hz, out[out.length - 1].hz]
  const isAll = out[0] === known[0] && out[out.length - 1] === known[known.length - 1]
  const where = isAll
    ? 'at most frequencies'
    : from === to
      ? `at ${hzText(from)}`
      : out[out.length - 1] === known[known.length - 1]
        ? `above ${hzText(from)}`
        : out[0] === known[0]
          ? `below ${hzText(to)}`
          : `between ${hzText(from)} and ${hzText(to)}`
  const differs = `Differs ${where} by up to ${most.toFixed(1)} dB`
  const told = known.map(({ hz, levelDb }) => ({ hz, levelDb: levelDb ?? 0 }))
  const explained = explainLevels(told)
  if (!explained) return `${differs}.`
  const { band, gainDb } = explained
  const name = { 'high-shelf': 'a high shelf', 'low-shelf': 'a low shelf', bell: 'a bell' }
  const kind = name[band.type as keyof typeof name]
  const beside = Math.abs(gainDb) >= LEAST_LEVEL_DB ? ` and ${signedDb(gainDb)} of gain` : ''
  return `${differs}: ${kind} of ${signedDb(band.db)} at ${hzText(band.hz)}${beside} would explain it.`
}

const signedDb = (db: number) => `${db > 0 ? '+' : ''}${db.toFixed(1)} dB`
const hzText = (hz: number) =>
  hz >= 1000 ? `${(hz / 1000).toPrecision(2)} kHz` : `${Math.round(hz)} Hz`
