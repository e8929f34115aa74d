import type { PHASE_NAMES } from './band-names'
import { type Biquad, sectionsDb } from './biquad'
import { partitionFor } from './convolver'
import { designBand } from './design'
import type { EqBand } from './eq-band'
import type { KeyedBand } from './equaliser'
import { type FirKernel, firMagnitudeDb, linearPhaseFir, preEchoOf } from './fir'

/**
 * How an equaliser treats phase. `minimum`: as analogue filters do, without latency. `linear`: all bands by
 * symmetric FIR filters. `mixed`: gentle bands by short ones, resonant ones as in `minimum`.
 */
export type PhaseMode = (typeof PHASE_NAMES)[number]

/** Two kernels for the two channels of a basis; the same one twice where both are treated alike. */
export interface FirGroup {
  readonly basis: 'left-right' | 'mid-side'
  readonly kernels: readonly [Float32Array, Float32Array]
}

/** Bands prepared for a phase mode. A plain value; designing it takes milliseconds, so not on the audio thread. */
export interface PhasePlan {
  /** Names what the plan was made for: plans of one key are the same. */
  readonly key: string
  readonly phase: PhaseMode
  /** Identities of the bands that FIR groups carry; the others run as recursive filters. */
  readonly inFir: readonly string[]
  readonly firs: readonly FirGroup[]
  /** Delay of the whole, in frames. */
  readonly latency: number
  /** The strongest moment of an impulse's response more than 5 ms before the main one, relative to it, in dB; `null` without FIR. */
  readonly preEchoDb: number | null
}

/** Delay of the mixed mode, everything included, stays below this. */
const MIXED_LATENCY_SECONDS = 0.0119
const TOLERANCE_DB = 0.1
/** Accuracy asked of a design, so that sums of several stay within the tolerance. */
const DESIGN_DB = 0.06
/** Accuracy holds from here on, and where the curve is not lower than the floor. */
const LOWEST_HZ = 30
const FLOOR_DB = -60
const WINDOW = { kind: 'tapered', share: 0.3 } as const
const SHORTEST_TAPS = 1023
const LONGEST_TAPS = 65535
const LEAST_MIXED_TAPS = 63

/**
 * Prepares bands for a phase mode.
 * @param taps length of linear-phase kernels set by hand; by default chosen from the sharpest band so that
 * the response holds within 0.1 dB above 30 Hz (where it is not lower than -60 dB).
 */
export function planPhase(
  bands: readonly KeyedBand[],
  phase: PhaseMode,
  rateHz: number,
  taps?: number,
): PhasePlan {
  const key = JSON.stringify([phase, rateHz, taps, bands])
  // An all-pass has no magnitude to keep: in linear phase nothing of it is left.
  const shaping = bands.filter((b) => b.band.type !== 'all-pass')
  switch (phase) {
    case 'minimum':
      return { key, phase, inFir: [], firs: [], latency: 0, preEchoDb: null }
    case 'linear': {
      const groups = groupByBasis(shaping).map((g) => makeGroup(g, rateHz, taps))
      return finish(key, phase, bands, groups, [], rateHz)
    }
    case 'mixed': {
      const gentle = gentleBands(shaping, rateHz)
      const groups = groupByBasis(gentle).map((g) => makeGroup(g, rateHz, mixedTaps(rateHz)))
      const others = bands.filter((b) => !gentle.includes(b))
      return finish(key, phase, gentle, groups, others, rateHz)
    }
  }
}

function finish(
  key: string,
  phase: PhaseMode,
  carried: readonly KeyedBand[],
  groups: readonly { group: FirGroup; latency: number }[],
  recursive: readonly KeyedBand[],
  rateHz: number,
): PhasePlan {
  const firs = groups.map((g) => g.group)
  return {
    key,
    phase,
    inFir: groups.length > 0 ? carried.map((b) => b.id) : [],
    firs,
    latency: groups.reduce((sum, g) => sum + g.latency, 0),
    preEchoDb: firs.length > 0 ? Math.max(...firs.map((f) => preEcho(f, recursive, rateHz))) : null,
  }
}

interface BasisGroup {
  readonly basis: FirGroup['basis']
  readonly bands: readonly EqBand[]
}

/** Consecutive bands that can be treated in one basis; stereo bands fit into either. */
function groupByBasis(bands: readonly KeyedBand[]): BasisGroup[] {
  const groups: { basis: FirGroup['basis'] | null; bands: EqBand[] }[] = []
  for (const { band } of bands) {
    const basis =
      band.channel === 'stereo'
        ? null
        : band.channel === 'mid' || band.channel === 'side'
          ? 'mid-side'
          : 'left-right'
    const last = groups.at(-1)
    if (last && (basis === null || last.basis === null || last.basis === basis)) {
      last.basis ??= basis
      last.bands.push(band)
    } else {
      groups.push({ basis, bands: [band] })
    }
  }
  return groups.map(({ basis, bands: list }) => ({ basis: basis ?? 'left-right', bands: list }))
}

function makeGroup(
  { basis, bands }: BasisGroup,
  rateHz: number,
  taps: number | undefined,
): { group: FirGroup; latency: number } {
  const [first, second] =
    basis === 'mid-side' ? (['mid', 'side'] as const) : (['left', 'right'] as const)
  const pick = (channel: EqBand['channel']) =>
    bands.filter((b) => b.channel === 'stereo' || b.channel === channel)
  const a = pick(first)
  const b = pick(second)
  const alike = a.length === bands.length && b.length === bands.length
  const length = taps ?? Math.max(neededTaps(a, rateHz), alike ? 0 : neededTaps(b, rateHz))
  const one = kernelOf(a, length, rateHz)
  const two = alike ? one : kernelOf(b, length, rateHz)
  return {
    group: { basis, kernels: [one.taps, two.taps] },
    latency: one.latency + partitionFor(one.taps.length),
  }
}

function sectionsOf(bands: readonly EqBand[], rateHz: number): Biquad[] {
  return bands.flatMap((b) => designBand(b, rateHz))
}

function kernelOf(bands: readonly EqBand[], taps: number, rateHz: number): FirKernel {
  const sections = sectionsOf(bands, rateHz)
  return linearPhaseFir((hz) => sectionsDb(sections, hz, rateHz), taps, WINDOW, rateHz)
}

/** The shortest length, doubling, with which the curve is held. */
function neededTaps(bands: readonly EqBand[], rateHz: number): number {
  if (bands.length === 0) return SHORTEST_TAPS
  const sections = sectionsOf(bands, rateHz)
  for (let taps = firstGuess(sections); taps < LONGEST_TAPS; taps = 2 * taps + 1) {
    if (worstError(bands, taps, rateHz) < DESIGN_DB) return taps
  }
  return LONGEST_TAPS
}

/** A length from the slowest pole: an eighth of the time in which it falls by 60 dB. */
function firstGuess(sections: readonly Biquad[]): number {
  let frames = 0
  for (const { a1, a2 } of sections) {
    const disc = a1 * a1 - 4 * a2
    const radius = disc < 0 ? Math.sqrt(a2) : (Math.abs(a1) + Math.sqrt(disc)) / 2
    frames = Math.max(frames, 6.9 / Math.max(1e-9, 1 - radius))
  }
  let taps = SHORTEST_TAPS
  while (taps < frames / 8 && taps < LONGEST_TAPS) taps = 2 * taps + 1
  return taps
}

function worstError(bands: readonly EqBand[], taps: number, rateHz: number): number {
  const sections = sectionsOf(bands, rateHz)
  const { taps: kernel } = kernelOf(bands, taps, rateHz)
  const size = 2 ** Math.ceil(Math.log2(4 * taps))
  const db = firMagnitudeDb(kernel, size)
  const top = Math.min(20000, 0.49 * rateHz)
  let worst = 0
  let last = 0
  for (let hz = LOWEST_HZ; hz < top; hz *= 1.01) {
    const bin = Math.round((hz * size) / rateHz)
    if (bin === last) continue
    last = bin
    const wanted = sectionsDb(sections, (bin * rateHz) / size, rateHz)
    if (wanted > FLOOR_DB) worst = Math.max(worst, Math.abs(db[bin] - wanted))
  }
  return worst
}

/** 0 where the rate is so low that no kernel of use is short enough. */
function mixedTaps(rateHz: number): number {
  const frames = Math.floor(MIXED_LATENCY_SECONDS * rateHz)
  // The partition depends on the length, and the length on what the partition leaves.
  for (const partition of [128, 256, 512]) {
    const taps = 2 * (frames - partition) + 1
    if (taps >= LEAST_MIXED_TAPS && partitionFor(taps) === partition) return taps
  }
  return 0
}

/** The bands that short kernels carry together within the tolerance; the worst are left out one by one. */
function gentleBands(bands: readonly KeyedBand[], rateHz: number): readonly KeyedBand[] {
  const taps = mixedTaps(rateHz)
  if (taps === 0) return []
  const usesMidSide = bands.some((b) => ['mid', 'side'].includes(b.band.channel))
  const usesLeftRight = bands.some((b) => ['left', 'right'].includes(b.band.channel))
  // Bands of both bases do not change places freely: then only stereo bands may go ahead.
  let rest =
    usesMidSide && usesLeftRight ? bands.filter((b) => b.band.channel === 'stereo') : [...bands]
  const alone = new Map(rest.map((b) => [b.id, worstError([b.band], taps, rateHz)]))
  rest = rest
    .filter((b) => (alone.get(b.id) ?? 1) < DESIGN_DB)
    .sort((a, b) => bands.indexOf(a) - bands.indexOf(b))
  while (rest.length > 1 && worstTogether(rest, taps, rateHz) > TOLERANCE_DB * 0.8) {
    const worst = rest.reduce((a, b) => ((alone.get(b.id) ?? 0) > (alone.get(a.id) ?? 0) ? b : a))
    rest = rest.filter((b) => b !== worst)
  }
  return rest
}

function worstTogether(bands: readonly KeyedBand[], taps: number, rateHz: number): number {
  return worstError(
    bands.map((b) => b.band),
    taps,
    rateHz,
  )
}

/** Of kernels together with the recursive bands of their channels. */
function preEcho(
  { basis, kernels }: FirGroup,
  recursive: readonly KeyedBand[],
  rateHz: number,
): number {
  const channels = basis === 'mid-side' ? (['mid', 'side'] as const) : (['left', 'right'] as const)
  return kernels.reduce((most, taps, i) => {
    const own = recursive.filter(
      ({ band: b }) => b.channel === 'stereo' || b.channel === channels[i],
    )
    const response = filtered(
      taps,
      sectionsOf(
        own.map((b) => b.band),
        rateHz,
      ),
    )
    const db = preEchoOf(response, loudestOf(response), rateHz)
    return Math.max(most, db ?? SILENT_DB)
  }, SILENT_DB)
}

/** A signal through sections, as long as it was. */
function filtered(signal: Float32Array, sections: readonly Biquad[]): Float64Array {
  const out = Float64Array.from(signal)
  for (const { b0, b1, b2, a1, a2 } of sections) {
    let [x1, x2, y1, y2] = [0, 0, 0, 0]
    for (let i = 0; i < out.length; i++) {
      const x = out[i]
      const y = b0 * x + b1 * x1 + b2 * x2 - a1 * y1 - a2 * y2
      ;[x2, x1, y2, y1] = [x1, x, y1, y]
      out[i] = y
    }
  }
  return out
}

/** The place of the largest value. */
function loudestOf(signal: Float64Array): number {
  let at = 0
  for (let i = 1; i < signal.length; i++) if (Math.abs(signal[i]) > Math.abs(signal[at])) at = i
  return at
}

/** Told of kernels that have nothing so early. */
const SILENT_DB = -200
