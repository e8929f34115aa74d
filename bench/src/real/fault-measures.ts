import type { Clip } from '@sober-prism/core/audio'
import {
  type Band,
  erbBands,
  forEachSpectrum,
  makeBands,
  type StftSettings,
  sumIntoBands,
} from '@sober-prism/core/spectrum'
import { RATE_HZ } from '@sober-prism/demo'

/** A bed covers a lead where it takes this part of what is there of it. */
export const LEAST_COVERED = 0.1
/** What stands less than this over the lead's cell leaves it heard (Cooke 2006: cells 3 dB over the rest are glimpsed). */
const GLIMPSED = 10 ** 0.3
const CELLS: StftSettings = { size: 2048, hop: 1024, window: 'hann' }
/** A cell of the lead is there when it is within 30 dB of the strongest of its band. */
const THERE = 1e-3

interface Faded {
  readonly sound: Float32Array
  readonly gainDb: number
}

/** Of the cells that a lead has in a range, one ERB wide and 43 ms long, the part over which another stands nearly as high or higher. */
export function coveredShare(lead: Faded, other: Faded, [from, to]: readonly [number, number]) {
  const bands = erbBands(1).filter((b) => b.hz > from && b.hz < to)
  const cellsOf = ({ sound, gainDb }: Faded) => {
    const rows: Float64Array[] = []
    forEachSpectrum(sound, CELLS, (power) => {
      const row = sumIntoBands(power, RATE_HZ / CELLS.size, bands)
      rows.push(row.map((v) => v * 10 ** (gainDb / 10)))
    })
    return rows
  }
  const [own, others] = [lead, other].map(cellsOf)
  const most = bands.map((_, b) => own.reduce((max, row) => Math.max(max, row[b]), 0))
  let [there, taken] = [0, 0]
  own.forEach((row, i) => {
    row.forEach((power, b) => {
      if (power <= THERE * most[b]) return
      there++
      if (GLIMPSED * others[i][b] > power) taken++
    })
  })
  return taken / Math.max(1, there)
}

/** Thirds of an octave in which mixes are held against each other. */
export const THIRDS: readonly Band[] = makeBands('third').filter((b) => b.hz > 100 && b.hz < 8000)
/** Low mids pile up where a mix has so much more of them than others. */
export const LEAST_EXCESS_DB = 3

/** How far a mix stands over others in the octave around a frequency, each against its own mean over all thirds, in dB. */
export function excessDb(powers: Float64Array, usual: readonly Float64Array[], hz: number): number {
  const heightOf = (of: Float64Array) => {
    const levels = [...of].map((v) => 10 * Math.log10(v + 1e-20))
    const mean = (list: readonly number[]) => list.reduce((a, b) => a + b, 0) / list.length
    const near = levels.filter((_, i) => Math.abs(Math.log2(THIRDS[i].hz / hz)) <= 0.5)
    return mean(near) - mean(levels)
  }
  const others = usual.map(heightOf)
  return heightOf(powers) - others.reduce((a, b) => a + b, 0) / others.length
}

/** A ring that is heard raises the filters of the ear near it by 2 dB in this share of the sounding frames. */
export const LEAST_RISING = 0.3
export const HEARD_DB = 2
const FRAMES: StftSettings = { size: 4096, hop: 4096, window: 'hann' }

/** The share of sounding frames in which what was put in raises a filter of the ear near a frequency by so many dB; each of `byDb`. */
export function risingShares(
  before: Float32Array,
  after: Float32Array,
  hz: number,
  byDb: readonly number[],
): number[] {
  const near = erbBands(0.5).filter((b) => Math.abs(Math.log2(b.hz / hz)) < 0.25)
  const powersOf = (sound: Float32Array) => {
    const frames: { near: Float64Array; whole: number }[] = []
    forEachSpectrum(sound, FRAMES, (power) => {
      const whole = power.reduce((a, b) => a + b, 0)
      frames.push({ near: sumIntoBands(power, RATE_HZ / FRAMES.size, near), whole })
    })
    return frames
  }
  const [untouched, ringing] = [before, after].map(powersOf)
  const loudest = untouched.reduce((most, f) => Math.max(most, f.whole), 0)
  const sounding = untouched.flatMap((f, i) => (f.whole > 1e-4 * loudest ? [i] : []))
  return byDb.map((db) => {
    const rise = 10 ** (db / 10)
    const rising = sounding.filter((i) =>
      untouched[i].near.some(
        // What lies 50 dB under the frame's whole is not heard beside it.
        (power, b) => ringing[i].near[b] > rise * power && power > 1e-5 * untouched[i].whole,
      ),
    )
    return rising.length / Math.max(1, sounding.length)
  })
}

/** Sibilants are a fault where they are so much stronger than the voice had them. */
export const LEAST_HISS = 10 ** 0.5
const HISS_FRAMES: StftSettings = { size: 1024, hop: 1024, window: 'hann' }

/** Power above 4 kHz that a hundredth of the moments have. */
export function strongestHiss({ channels: [first] }: Clip): number {
  const powers: number[] = []
  forEachSpectrum(first, HISS_FRAMES, (power) => {
    powers.push(power.subarray(Math.ceil(4000 / (RATE_HZ / 1024))).reduce((a, b) => a + b, 0))
  })
  return powers.sort((a, b) => b - a)[Math.floor(powers.length / 100)]
}
