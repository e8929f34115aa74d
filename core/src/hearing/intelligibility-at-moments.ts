import { FILTER_COUNT } from './excitation'
import type { HeardMoments } from './heard-moments'
import type { Calibration } from './hearing-bands'
import { SII_BANDS, STRETCH_SECONDS, speechIntelligibility } from './intelligibility'
import { bandEdgeHz } from './specific-loudness'

/** A sound at the moments at which all tracks are listened to, with its level in the mix. */
interface Placed {
  readonly heard: Pick<HeardMoments, 'moments' | 'mid' | 'side'>
  readonly gainDb: number
}

interface StretchUnderstood {
  readonly seconds: number
  readonly sii: number
  /** The voice's level there against its loudest stretch, in dB. */
  readonly levelDb: number
}

/** How well a voice is understood, by the moments at which tracks are listened to. */
export interface Understood {
  /** Mean over the stretches in which the voice sounds, 0 to 1. */
  readonly sii: number
  /** Each of those stretches: its middle in seconds from the start of the passage, and the index there. */
  readonly overTime: readonly StretchUnderstood[]
}

/** Stretches this far under the voice's loudest are pauses. */
const PAUSE_DB = 30
/** Sixth of an octave to either side of a band's middle. */
const THIRD = 2 ** (1 / 6)

/** What part of each filter's band lies in each third of an octave: first filter, and its parts from there on. */
const PARTS = SII_BANDS.map(({ hz }) => {
  const [from, to] = [hz / THIRD, hz * THIRD]
  const parts = Array.from({ length: FILTER_COUNT }, (_, b) => {
    const [low, high] = [bandEdgeHz(b), bandEdgeHz(b + 1)]
    return Math.max(0, Math.min(high, to) - Math.max(low, from)) / (high - low)
  })
  const first = parts.findIndex((p) => p > 0)
  return {
    first,
    parts: parts.slice(first, parts.findLastIndex((p) => p > 0) + 1),
    width: to - from,
  }
})

/**
 * The Speech Intelligibility Index of a voice beside others over a passage, word by word: what `readIntelligibility` reads from
 * sounds, from what was measured of them already. Null where the voice never sounds.
 * @param sampleRateHz of the frames in which moments are told.
 */
export function understoodAt(
  voice: Placed,
  others: readonly Placed[],
  { lufs, dbSpl }: Calibration,
  sampleRateHz: number,
): Understood | null {
  const { at, seconds } = voice.heard.moments
  const stretches = new Map<number, number[]>()
  at.forEach((frame, m) => {
    const stretch = Math.floor(frame / (STRETCH_SECONDS * sampleRateHz))
    stretches.set(stretch, [...(stretches.get(stretch) ?? []), m])
  })
  const toSpl = dbSpl - lufs
  const spectrumOf = (sounds: readonly Placed[], moments: readonly number[]) => {
    const powers = new Float64Array(SII_BANDS.length)
    let time = 0
    for (const m of moments) time += seconds[m]
    for (const { heard, gainDb } of sounds) {
      for (const m of moments) {
        const counts = (10 ** (gainDb / 10) * seconds[m]) / time
        addThirds(powers, heard, m, counts)
      }
    }
    return powers
  }
  const level = (powers: Float64Array) =>
    powers.map((power, i) => 10 * Math.log10(power / PARTS[i].width + 1e-30) + toSpl)
  const all = [...stretches].map(([stretch, moments]) => {
    const speech = spectrumOf([voice], moments)
    return { stretch, moments, speech, power: speech.reduce((a, b) => a + b, 0) }
  })
  const loudest = all.reduce((most, s) => Math.max(most, s.power), 0)
  const least = loudest * 10 ** (-PAUSE_DB / 10)
  const overTime = all.flatMap(({ stretch, moments, speech, power }) => {
    if (!(power > least)) return []
    const { sii } = speechIntelligibility(level(speech), level(spectrumOf(others, moments)))
    const levelDb = 10 * Math.log10(power / loudest)
    return [{ seconds: (stretch + 0.5) * STRETCH_SECONDS, sii, levelDb }]
  })
  if (overTime.length === 0) return null
  return { sii: overTime.reduce((sum, s) => sum + s.sii, 0) / overTime.length, overTime }
}

/** Of channels the middle counts, as in a mono sum. */
function addThirds(
  powers: Float64Array,
  { mid }: Placed['heard'],
  moment: number,
  counts: number,
): void {
  PARTS.forEach(({ first, parts }, i) => {
    let sum = 0
    parts.forEach((part, k) => {
      sum += part * mid[moment * FILTER_COUNT + first + k]
    })
    powers[i] += counts * sum
  })
}
