import { type Random, seededRandom } from '@sober-prism/core/audio'
import type { FindingKind } from '@sober-prism/core/findings'

/** Kinds of fault that are planted; the words that findings use. */
export type PlantedKind = FindingKind

/** One fault that the synthesis puts in on purpose. */
export interface Planted {
  readonly kind: PlantedKind
  /** Names of the tracks it concerns; `mix` for the whole. */
  readonly tracks: readonly string[]
  readonly fromHz: number
  readonly toHz: number
  /** How strong, in dB: height of a ring, excess of a band, level of rumble relative to the voice. */
  readonly strengthDb: number
  readonly note: string
}

/** Seed of "Tern Island ferry night". */
export const DEMO_SEED = 1907

/** The values of all faults; frequencies in Hz. */
export interface Faults {
  /** The ring in the singer's microphone. */
  readonly ring: { readonly hz: number; readonly q: number; readonly db: number }
  /** How the far drum microphone differs: later, and turned in phase. */
  readonly farDrum: { readonly delayFrames: number; readonly turnDeg: number }
  /** The dullness of the whole ensemble, as a high shelf. */
  readonly dull: { readonly hz: number; readonly db: number }
  /** Boost of the low mids on three tracks. */
  readonly pileUp: { readonly hz: number; readonly q: number; readonly db: number }
  /** Boost of the accordion where the singer's words lie. */
  readonly cover: { readonly hz: number; readonly db: number }
  /** Boost of the tuba where the frame drum beats. */
  readonly boom: { readonly hz: number; readonly db: number }
  /** Below this the glass harmonica wanders in stereo. */
  readonly wanderHz: number
  /** Peak of the rumble relative to the singer's. */
  readonly rumbleDb: number
}

const DEMO_FAULTS: Faults = {
  ring: { hz: 2740, q: 20, db: 14 },
  farDrum: { delayFrames: 149, turnDeg: 140 },
  dull: { hz: 4000, db: -5 },
  pileUp: { hz: 320, q: 1.1, db: 10 },
  cover: { hz: 2200, db: 14 },
  boom: { hz: 85, db: 9 },
  wanderHz: 118,
  rumbleDb: -18,
}

/** The faults of the demo; other seeds plant the same kinds at other places and strengths. */
export function faultsOf(seed: number): Faults {
  if (seed === DEMO_SEED) return DEMO_FAULTS
  const random = seededRandom(seed * 7919)
  return {
    ring: {
      hz: Math.round(between(random, 2600, 4000)),
      q: Math.round(between(random, 14, 26)),
      db: between(random, 12, 15),
    },
    farDrum: {
      delayFrames: Math.round(between(random, 60, 300)),
      turnDeg: Math.round(between(random, 110, 175)),
    },
    dull: { hz: Math.round(between(random, 3200, 5000)), db: -between(random, 4.5, 7) },
    pileUp: { hz: Math.round(between(random, 260, 420)), q: 1.1, db: between(random, 9, 11) },
    cover: { hz: Math.round(between(random, 1600, 2800)), db: between(random, 9, 11) },
    boom: { hz: Math.round(between(random, 72, 105)), db: between(random, 8, 10) },
    wanderHz: Math.round(between(random, 108, 122)),
    rumbleDb: -between(random, 15, 20),
  }
}

/** Uniform over log frequency or over the span, which for these ranges is much the same. */
function between(random: Random, from: number, to: number): number {
  return from + (to - from) * random()
}

/** Where faults lie, as a table that tests read. */
export function plantedTable(faults: Faults): Planted[] {
  const { ring, farDrum, dull, pileUp, cover, boom, wanderHz, rumbleDb } = faults
  return [
    {
      kind: 'masking',
      tracks: ['Accordion', 'Singer'],
      fromHz: cover.hz * 0.55,
      toHz: cover.hz * 1.55,
      strengthDb: cover.db,
      note: 'the accordion covers the singer',
    },
    {
      kind: 'resonance',
      tracks: ['Singer'],
      fromHz: ring.hz * 0.975,
      toHz: ring.hz * 1.025,
      strengthDb: ring.db,
      note: 'a ring in the singer',
    },
    {
      kind: 'masking',
      tracks: ['Tuba', 'Frame drum near'],
      fromHz: boom.hz * 0.65,
      toHz: boom.hz * 1.5,
      strengthDb: boom.db,
      note: 'tuba against frame drum',
    },
    {
      kind: 'pile-up',
      tracks: ['Accordion', 'Zither', 'Second singer'],
      fromHz: pileUp.hz * 0.69,
      toHz: pileUp.hz * 1.44,
      strengthDb: pileUp.db,
      note: 'low mids pile up',
    },
    {
      kind: 'rumble',
      tracks: ['Singer'],
      fromHz: 20,
      toHz: 60,
      strengthDb: rumbleDb,
      note: 'rumble under the singer',
    },
    {
      kind: 'wide-low-end',
      tracks: ['Glass harmonica'],
      fromHz: wanderHz * 0.5,
      toHz: wanderHz * 1.1,
      strengthDb: 0,
      note: 'the low end wanders in stereo',
    },
    {
      kind: 'alignment',
      tracks: ['Frame drum near', 'Frame drum far'],
      fromHz: 60,
      toHz: 400,
      strengthDb: -6,
      note: `the far drum microphone is ${farDrum.delayFrames} frames late and turned`,
    },
    {
      kind: 'balance',
      tracks: ['mix'],
      fromHz: dull.hz,
      toHz: 12000,
      strengthDb: dull.db,
      note: 'a dull mix',
    },
  ]
}

/** Everything that is planted in "Tern Island ferry night". */
export const PLANTED: readonly Planted[] = plantedTable(DEMO_FAULTS)
