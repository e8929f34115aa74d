import type { Random } from '@sober-prism/core/audio'
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
import { DULL, FAR_DRUM, PILE_UP, RING } from './planted'
import { addRoom } from './room'
import {
  arpeggio,
  bassPart,
  chordsPart,
  drumPart,
  harmonyBelow,
  longTones,
  melody,
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
}

export const DEMO_SEED = 1907

/** Makers of the nine tracks, so that they can be made one after another or in parallel. */
export function waltzMakers(options: DemoOptions): readonly (() => DemoTrack)[] {
  const { seed, planted } = options
  const random = (part: string) => partRandom(seed, part)
  const line = melody(WALTZ, random('melody'), 60, 76, 2)
  const strokes = drumPart(WALTZ, random('strokes'))
  let struck: Float32Array | undefined
  const drum = () => {
    struck ??= frameDrum(WALTZ, strokes, random('drum'))
    return struck.slice()
  }
  const dull = (...channels: Float32Array[]) => {
    if (!planted) return
    for (const c of channels) shape(c, band('high-shelf', DULL.fromHz, { db: DULL.db }))
  }
  const pileUp = (...channels: Float32Array[]) => {
    if (!planted) return
    for (const c of channels) shape(c, band('bell', PILE_UP.hz, { db: PILE_UP.db, q: PILE_UP.q }))
  }
  return [
    () => {
      const sound = voice(WALTZ, line, random('singer'), {
        throat: 1.12,
        breath: 0.1,
        vibratoCents: 38,
      })
      if (planted) {
        shape(sound, band('bell', RING.hz, { db: RING.db, q: RING.q }))
        addRumble(sound, random('rumble'))
      }
      addRoom(sound, 0.1, 0.9)
      dull(sound)
      return track('Singer', 'voice', -1, sound)
    },
    () => {
      const sound = voice(WALTZ, harmonyBelow(WALTZ, line, 52, 67), random('second'), {
        throat: 0.95,
        breath: 0.05,
        vibratoCents: 22,
      })
      pileUp(sound)
      addRoom(sound, 0.15, 1)
      dull(sound)
      return track('Second singer', 'voice', -6, sound)
    },
    () => {
      const sound = accordion(WALTZ, chordsPart(WALTZ, random('chords')), random('accordion'))
      if (planted) for (const c of sound) shape(c, band('bell', 2200, { db: 5, q: 0.8 }))
      pileUp(...sound)
      sound.forEach((c, side) => {
        addRoom(c, 0.12, 0.9, side as 0 | 1)
      })
      dull(...sound)
      return track('Accordion', 'keys', -7.5, ...sound)
    },
    () => {
      const sound = tuba(WALTZ, bassPart(WALTZ), random('tuba'))
      if (planted) shape(sound, band('bell', 85, { db: 3, q: 1 }))
      addRoom(sound, 0.08, 0.8)
      dull(sound)
      return track('Tuba', 'bass', -5, sound)
    },
    () => {
      const sound = drum()
      addRoom(sound, 0.05, 0.6)
      dull(sound)
      return track('Frame drum near', 'drums', 3, sound)
    },
    () => {
      const far = shape(drum(), band('high-cut', 5000), band('low-cut', 50))
      const moved = planted ? turnPhase(far, FAR_DRUM.turnDeg) : far
      const late = new Float32Array(moved.length)
      addInto(late, moved, 1, planted ? FAR_DRUM.delayFrames : 0)
      addRoom(late, 0.35, 1)
      dull(late)
      return track('Frame drum far', 'drums', -3, late)
    },
    () => {
      const sound = zither(WALTZ, arpeggio(WALTZ, random('arpeggio')), random('zither'))
      pileUp(...sound)
      sound.forEach((c, side) => {
        addRoom(c, 0.12, 1, side as 0 | 1)
      })
      dull(...sound)
      return track('Zither', 'strings', -5, ...sound)
    },
    () => {
      const notes = longTones(WALTZ, 48, 74)
      const sound = glass(WALTZ, notes, random('glass'))
      if (planted) wander(sound)
      sound.forEach((c, side) => {
        addRoom(c, 0.2, 1.4, side as 0 | 1)
      })
      dull(...sound)
      return track('Glass harmonica', 'other', -10, ...sound)
    },
    () => {
      const seconds = pieceSeconds(WALTZ) + TAIL_SECONDS
      const one = deckNoise(seconds, random('deck left'))
      const two = deckNoise(seconds, random('deck right'))
      const left = one.map((v, i) => v + 0.5 * two[i])
      const right = two.map((v, i) => v + 0.5 * one[i])
      dull(left, right)
      return track('Deck noise', 'ambience', -27, left, right)
    },
  ]
}

function track(
  name: string,
  role: DemoTrack['role'],
  faderDb: number,
  ...channels: Float32Array[]
): DemoTrack {
  toPeak(channels, -6)
  return { name, role, faderDb, channels }
}

/** Low noise and thumps that come up the microphone stand, under the voice. */
function addRumble(sound: Float32Array, random: Random): void {
  const low = new Float32Array(sound.length)
  for (let i = 0; i < low.length; i++) low[i] = random() - 0.5
  shape(low, band('high-cut', 42, { slopeDbPerOct: 24 }), band('low-cut', 18))
  let peak = 0
  let lowPeak = 0
  for (const v of sound) peak = Math.max(peak, Math.abs(v))
  for (const v of low) lowPeak = Math.max(lowPeak, Math.abs(v))
  const gain = (0.125 * peak) / lowPeak
  for (let i = 0; i < sound.length; i++) {
    sound[i] += low[i] * gain * (0.6 + 0.4 * Math.sin((2 * Math.PI * i) / RATE_HZ / 5))
  }
}

/** Turns the low end of a stereo sound slowly in and out of phase between left and right. */
function wander(channels: readonly Float32Array[]): void {
  const lows = channels.map((c) => shape(c.slice(), band('high-cut', 250, { slopeDbPerOct: 24 })))
  const turned = turnPhase(lows[0], 90)
  for (let i = 0; i < lows[0].length; i++) {
    const angle = 2.2 * Math.sin((2 * Math.PI * i) / RATE_HZ / 6.1)
    channels[1][i] +=
      1.5 * (Math.cos(angle) * lows[0][i] + Math.sin(angle) * turned[i] - lows[1][i])
    channels[0][i] += 0.5 * lows[0][i]
  }
}
