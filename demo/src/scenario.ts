import type { Random } from '@sober-prism/core/audio'
import type { EqBand } from '@sober-prism/core/filters'
import {
  accordion,
  deckNoise,
  frameDrum,
  glass,
  TAIL_SECONDS,
  tuba,
  voice,
  zither,
} from './instruments'
import { turnPhase } from './phase-turn'
import { faultsOf } from './planted'
import { addRoom } from './room'
import {
  arpeggio,
  bassPart,
  chordsPart,
  drumPart,
  harmonyBelow,
  longTones,
  melody,
  type Piece,
  pieceSeconds,
  WALTZ,
} from './score'
import { addInto, band, partRandom, RATE_HZ, shape, toPeak } from './sound'

/** One recording of the demo. */
export interface DemoTrack {
  readonly name: string
  readonly role: 'voice' | 'speech' | 'keys' | 'strings' | 'bass' | 'drums' | 'other' | 'ambience'
  /** Fader in the rough mix that the demo opens with, in dB. */
  readonly faderDb: number
  readonly channels: readonly Float32Array[]
}

/** How the demo is made: `planted` false gives the same music without its faults. */
export interface DemoOptions {
  readonly seed: number
  readonly planted: boolean
  /** Length in bars of two seconds and a bit; the whole waltz has 30. */
  readonly bars?: number
}

/** Makers of the nine tracks, so that they can be made one after another or in parallel. */
export function waltzMakers(options: DemoOptions): readonly (() => DemoTrack)[] {
  const { seed, planted, bars = WALTZ.chords.length } = options
  const { ring, farDrum, dull: dullness, pileUp: pile, cover, boom, ...faults } = faultsOf(seed)
  const piece: Piece = { ...WALTZ, chords: WALTZ.chords.slice(0, bars) }
  const random = (part: string) => partRandom(seed, part)
  const line = melody(piece, random('melody'), 60, 76, 2)
  const strokes = drumPart(piece, random('strokes'))
  let struck: Float32Array | undefined
  const drum = () => {
    struck ??= frameDrum(piece, strokes, random('drum'))
    return struck.slice()
  }
  /** Levels are set before faults are put in, so that a fault does not turn the rest of its track down. */
  const faulty = (channels: readonly Float32Array[], ...bands: readonly EqBand[]) => {
    toPeak(channels, PEAK_DBFS)
    for (const c of channels) shape(c, ...TONE)
    if (!planted) return
    for (const c of channels) {
      shape(c, ...bands, band('high-shelf', dullness.hz, { db: dullness.db }))
    }
  }
  const pileUp = band('bell', pile.hz, { db: pile.db, q: pile.q })
  return [
    () => {
      const sound = voice(piece, line, random('singer'), {
        throat: 1.12,
        breath: 0.2,
        vibratoCents: 38,
      })
      addRoom(sound, 0.1, 0.9)
      faulty([sound], band('bell', ring.hz, { db: ring.db, q: ring.q }))
      if (planted) addRumble(sound, random('rumble'), faults.rumbleDb)
      return track('Singer', 'voice', FADERS[0], sound)
    },
    () => {
      const sound = voice(piece, harmonyBelow(piece, line, 52, 67), random('second'), {
        throat: 0.95,
        breath: 0.15,
        vibratoCents: 22,
      })
      addRoom(sound, 0.15, 1)
      faulty([sound], pileUp)
      return track('Second singer', 'voice', FADERS[1], sound)
    },
    () => {
      const sound = accordion(piece, chordsPart(piece, random('chords')), random('accordion'))
      sound.forEach((c, side) => {
        addRoom(c, 0.12, 0.9, side as 0 | 1)
      })
      faulty(sound, pileUp, band('bell', cover.hz, { db: cover.db, q: 0.8 }))
      return track('Accordion', 'keys', FADERS[2], ...sound)
    },
    () => {
      const sound = tuba(piece, bassPart(piece), random('tuba'))
      addRoom(sound, 0.08, 0.8)
      faulty([sound], band('bell', boom.hz, { db: boom.db, q: 1 }))
      return track('Tuba', 'bass', FADERS[3], sound)
    },
    () => {
      const sound = drum()
      addRoom(sound, 0.05, 0.6)
      faulty([sound])
      return track('Frame drum near', 'drums', FADERS[4], sound)
    },
    () => {
      const far = shape(drum(), band('high-cut', 5000), band('low-cut', 50))
      const moved = planted ? turnPhase(far, farDrum.turnDeg) : far
      const late = new Float32Array(moved.length)
      addInto(late, moved, 1, planted ? farDrum.delayFrames : 0)
      addRoom(late, 0.35, 1)
      faulty([late])
      return track('Frame drum far', 'drums', FADERS[5], late)
    },
    () => {
      const sound = zither(piece, arpeggio(piece, random('arpeggio')), random('zither'))
      sound.forEach((c, side) => {
        addRoom(c, 0.12, 1, side as 0 | 1)
      })
      faulty(sound, pileUp)
      return track('Zither', 'strings', FADERS[6], ...sound)
    },
    () => {
      const notes = longTones(piece, 38, 74)
      const sound = glass(piece, notes, random('glass'))
      if (planted) wander(sound, faults.wanderHz)
      sound.forEach((c, side) => {
        addRoom(c, 0.2, 1.4, side as 0 | 1)
      })
      faulty(sound)
      return track('Glass harmonica', 'other', FADERS[7], ...sound)
    },
    () => {
      const seconds = pieceSeconds(piece) + TAIL_SECONDS
      const one = deckNoise(seconds, random('deck left'))
      const two = deckNoise(seconds, random('deck right'))
      const left = one.map((v, i) => v + 0.5 * two[i])
      const right = two.map((v, i) => v + 0.5 * one[i])
      faulty([left, right])
      return track('Deck noise', 'ambience', FADERS[8], left, right)
    },
  ]
}

/** Peak of each track before faults are put in, in dBFS. */
const PEAK_DBFS = -12
/** Tone of all tracks, so that their sum without faults balances like a finished recording. */
const TONE: readonly EqBand[] = [
  band('bell', 100, { db: -3, q: 1 }),
  band('bell', 450, { db: -6, q: 1 }),
  band('high-shelf', 4500, { db: 10 }),
]
/** Faders of the rough mix, in dB. */
const FADERS = [4, -15, -9.5, -6, 8, -1, -9.5, -15, -32] as const

function track(
  name: string,
  role: DemoTrack['role'],
  faderDb: number,
  ...channels: Float32Array[]
): DemoTrack {
  return { name, role, faderDb, channels }
}

/** Low noise and thumps that come up the microphone stand, under the voice. */
function addRumble(sound: Float32Array, random: Random, db: number): void {
  const low = new Float32Array(sound.length)
  for (let i = 0; i < low.length; i++) low[i] = random() - 0.5
  shape(low, band('high-cut', 42, { slopeDbPerOct: 24 }), band('low-cut', 18))
  let peak = 0
  let lowPeak = 0
  for (const v of sound) peak = Math.max(peak, Math.abs(v))
  for (const v of low) lowPeak = Math.max(lowPeak, Math.abs(v))
  const gain = (10 ** (db / 20) * peak) / lowPeak
  for (let i = 0; i < sound.length; i++) {
    sound[i] += low[i] * gain * (0.6 + 0.4 * Math.sin((2 * Math.PI * i) / RATE_HZ / 5))
  }
}

/** Turns the low end of a stereo sound slowly in and out of phase between left and right. */
function wander(channels: readonly Float32Array[], belowHz: number): void {
  const lows = channels.map((c) =>
    shape(c.slice(), band('high-cut', belowHz, { slopeDbPerOct: 24 })),
  )
  const turned = turnPhase(lows[0], 90)
  for (let i = 0; i < lows[0].length; i++) {
    const angle = 2.2 * Math.sin((2 * Math.PI * i) / RATE_HZ / 6.1)
    channels[1][i] +=
      1.5 * (Math.cos(angle) * lows[0][i] + Math.sin(angle) * turned[i] - lows[1][i])
    channels[0][i] += 0.5 * lows[0][i]
  }
}
