import { type EqBand, hasGain, newBand } from '../../filters'
import { FILTER_COUNT, FILTER_HZ } from '../../hearing'
import { activeBands, type Treatment } from '../../treatments'
import { LEVEL_BANDS } from '../level-bands'
import { lowestSource } from '../source/lowest-source'
import type { SourceReading } from '../source/source-reading'
import { isLowCutMade, proposeLowCut } from './low-cut'

/** What a voice's spectrum says of its microphone. */
export interface VoiceReading {
  /**
   * How much more lies below 300 Hz, against 400 to 1250 Hz, than in speech from a metre away, in dB; null where the
   * voice is too high to have anything there.
   */
  readonly nearnessDb: number | null
  /** How much more lies above 10 kHz, against 1.25 to 4 kHz; null where there is only noise, or nothing. */
  readonly clarityDb: number | null
  /** The lowest fundamental in Hz; null where none can be followed. */
  readonly lowestHz: number | null
  /** The low cut that is proposed for it, here and elsewhere; null where none can be. */
  readonly lowCut: EqBand | null
}

/** One small edit of three, and why. */
export interface VoiceMove {
  readonly what: 'roll-off' | 'nearness' | 'clarity'
  readonly band: EqBand
  readonly why: string
}

/**
 * Long-term average spectrum of speech, both sexes, in dB SPL per third of an octave at 70 dB in all: Byrne et al. 1994
 * (JASA 96, 2108), table II, from memory.
 */
const SPEECH: readonly (readonly [number, number])[] = [
  [100, 54.4],
  [125, 57.7],
  [160, 56.8],
  [200, 60.2],
  [250, 60.3],
  [315, 59],
  [400, 62.1],
  [500, 62.1],
  [630, 60.5],
  [800, 56.8],
  [1000, 53.7],
  [1250, 53],
  [1600, 52],
  [2000, 48.7],
  [2500, 48.1],
  [3150, 46.8],
  [4000, 45.6],
  [10000, 43.4],
  [12500, 41.3],
  [16000, 40.7],
]

const LOW_TO_HZ = 300
const BODY = [400, 1250] as const
const PRESENCE = [1250, 4000] as const
const TOP = [10_000, 16_000] as const
/** A voice that begins higher has no low end to be too near in. */
const HIGHEST_LOW_HZ = 220
/** The top goes with the voice: it is so much stronger in its loud moments than in its soft ones. */
const LEAST_RISE_DB = 9
/** Further under the range below it, the top has nothing to be lifted. */
const LEAST_TOP_DB = -45
/** The end of what a shelf there lifts, and how far under it may be. */
const EDGE = [12_500, 16_000] as const
const LEAST_EDGE_DB = -55

/** Nearness and clarity of a voice, against speech as it is from a metre away. */
export function readVoice(
  reading: Pick<SourceReading, 'levels' | 'lowest' | 'bands' | 'rumble'>,
): VoiceReading {
  const { levels } = reading
  const source = lowestSource(reading)
  const lowestHz = source?.isNote ? source.hz : null
  const body = meanLevel(levels, BODY)
  const low = [Math.max(100, lowestHz ?? 100), LOW_TO_HZ] as const
  const nearnessDb =
    lowestHz !== null && lowestHz <= HIGHEST_LOW_HZ
      ? meanLevel(levels, low) - body - (meanSpeech(low) - meanSpeech(BODY))
      : null
  const presence = meanLevel(levels, PRESENCE)
  const top = meanLevel(levels, TOP)
  // A recording that ends at 10 kHz has nothing above to be lifted, whatever its edge lets through.
  const edge = meanLevel(levels, EDGE)
  const isThere =
    top - presence > LEAST_TOP_DB &&
    edge - presence > LEAST_EDGE_DB &&
    topRise(reading) >= LEAST_RISE_DB
  const clarityDb = isThere ? top - presence - (meanSpeech(TOP) - meanSpeech(PRESENCE)) : null
  return { nearnessDb, clarityDb, lowestHz, lowCut: proposeLowCut(reading) }
}

const LEAST_NEAR_DB = 3
const MOST_SHELF_DB = 4
const LEAST_DULL_DB = -4
const MOST_LIFT_DB = 3

/**
 * Three small edits at most: a roll-off under the lowest fundamental, half of what nearness adds taken away, half of
 * what the top lacks given, above the sibilants.
 * @param treatments of the chain that the voice was read behind: what stands there already is not proposed again.
 */
export function voiceMoves(
  { nearnessDb, clarityDb, lowestHz, lowCut }: VoiceReading,
  treatments: readonly Treatment[] = [],
): VoiceMove[] {
  const moves: VoiceMove[] = []
  if (lowestHz !== null && lowCut && !isLowCutMade(treatments, lowCut)) {
    const why = `the lowest fundamental is ${lowestHz.toFixed(0)} Hz; nothing of the voice is below it`
    moves.push({ what: 'roll-off', band: lowCut, why })
  }
  const isMade = (type: EqBand['type'], sign: number, [fromHz, toHz]: readonly [number, number]) =>
    treatments.some(
      (t) =>
        t.kind === 'equaliser' &&
        t.on &&
        activeBands(t.params).some(
          ({ band }) =>
            band.type === type &&
            hasGain(band.type) &&
            Math.sign(band.db) === sign &&
            band.hz >= fromHz &&
            band.hz <= toHz,
        ),
    )
  if (nearnessDb !== null && nearnessDb >= LEAST_NEAR_DB && !isMade('low-shelf', -1, [120, 500])) {
    const db = -Math.min(MOST_SHELF_DB, halfSteps(nearnessDb / 2))
    const why = `${nearnessDb.toFixed(1)} dB more below 300 Hz than speech from one metre: ${howMuch(nearnessDb, MOST_SHELF_DB)}`
    moves.push({ what: 'nearness', band: { ...newBand('low-shelf', 250), db, q: 0.6 }, why })
  }
  if (
    clarityDb !== null &&
    clarityDb <= LEAST_DULL_DB &&
    !isMade('high-shelf', 1, [6000, 16_000])
  ) {
    const db = Math.min(MOST_LIFT_DB, halfSteps(-clarityDb / 2))
    const why = `${(-clarityDb).toFixed(1)} dB less above 10 kHz than speech from one metre: ${howMuch(-clarityDb, MOST_LIFT_DB)}, above the sibilants`
    moves.push({ what: 'clarity', band: { ...newBand('high-shelf', 11_000), db, q: 0.7 }, why })
  }
  return moves
}

const howMuch = (db: number, most: number) =>
  halfSteps(db / 2) > most ? `corrected by ${most} dB` : 'corrected by half'

const halfSteps = (db: number) => Math.round(2 * db) / 2

/** Mean power of bands in a range, in dB; bands count as wide as they are on the ruler. */
function meanLevel(levels: ArrayLike<number>, [fromHz, toHz]: readonly [number, number]): number {
  let [sum, count] = [0, 0]
  LEVEL_BANDS.forEach(({ hz }, i) => {
    if (hz < fromHz || hz > toHz) return
    sum += 10 ** (levels[i] / 10)
    count++
  })
  // Two sixths make a third.
  return 10 * Math.log10((2 * sum) / Math.max(1, count) + 1e-30)
}

function meanSpeech([fromHz, toHz]: readonly [number, number]): number {
  const inside = SPEECH.filter(([hz]) => hz >= fromHz * 0.99 && hz <= toHz * 1.01)
  const sum = inside.reduce((a, [, db]) => a + 10 ** (db / 10), 0)
  return 10 * Math.log10(sum / inside.length)
}

/** How much stronger the range above 10 kHz is in its loud moments than in its soft ones, in dB. */
function topRise({ bands }: Pick<SourceReading, 'bands'>): number {
  const moments: number[] = []
  for (let frame = 0; frame < bands.frames; frame++) {
    let power = 0
    for (let b = 0; b < FILTER_COUNT; b++) {
      if (FILTER_HZ[b] >= TOP[0]) power += bands.mid[frame * FILTER_COUNT + b]
    }
    moments.push(power)
  }
  moments.sort((a, b) => a - b)
  const at = (share: number) => moments[Math.floor(share * (moments.length - 1))] ?? 0
  return 10 * Math.log10((at(0.9) + 1e-14) / (at(0.2) + 1e-14))
}
