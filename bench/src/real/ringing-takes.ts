import { type Clip, makeClip, type Random } from '@sober-prism/core/audio'
import { addInto, partRandom, RATE_HZ } from '@sober-prism/demo'
import { BANDS, SENTENCES } from './parts'
import { type Instrument, play, type Stroke, speak } from './players'
import { type Planting, plantRing, type RingingSound } from './ringing-songs'
import { pick } from './song'

/** Instruments as they are recorded one at a time: what each can play, and whether several tones at once. */
interface Played {
  readonly program: number
  readonly low: number
  readonly high: number
  readonly isPolyphonic: boolean
}

type Range = readonly [low: number, high: number, isPolyphonic: boolean]

const FAMILIES: Readonly<Record<string, Range>> = {
  piano: [33, 93, true],
  keys: [36, 88, true],
  organ: [36, 88, true],
  guitar: [40, 80, true],
  bass: [28, 55, false],
  bow: [52, 88, false],
  strings: [36, 88, true],
  choir: [43, 79, true],
  brass: [41, 72, false],
  wind: [52, 90, false],
  synth: [45, 86, true],
}

/** Programs as in General MIDI, from 0; samples and voices are those of the bands, which share none. */
const PROGRAMS: Readonly<Record<keyof typeof BANDS, Readonly<Record<string, readonly number[]>>>> =
  {
    tuning: {
      piano: [0, 1, 3],
      keys: [4, 5, 6, 7, 11, 12],
      organ: [16, 18, 19, 21, 22],
      guitar: [24, 25, 26, 27, 29, 104, 105],
      bass: [32, 33, 34, 35],
      bow: [40, 41, 42, 110],
      strings: [44, 46, 48, 49],
      choir: [52, 53],
      brass: [57, 58, 60],
      wind: [56, 64, 65, 66, 68, 70, 71, 73],
      synth: [62, 80, 81, 89],
    },
    judging: {
      piano: [1, 2],
      keys: [5, 12],
      organ: [18, 22],
      guitar: [25, 27, 30],
      bass: [32, 35],
      bow: [42],
      strings: [49],
      choir: [53],
      brass: [57, 60],
      wind: [66, 71, 73],
      synth: [81],
    },
    third: {
      piano: [0, 1],
      keys: [4, 6],
      organ: [17, 19],
      guitar: [24, 27, 28],
      bass: [33, 36],
      bow: [40],
      strings: [44, 48],
      choir: [52],
      brass: [60],
      wind: [64, 68],
      synth: [50],
    },
  }

/** Besides those of the band. */
const MORE_VOICES: Readonly<Partial<Record<keyof typeof BANDS, readonly string[]>>> = {
  tuning: ['de+m3', 'fr+f3', 'nl+m2'],
}

const SECONDS = 14
const IN_TAKES: Planting = { lowestHz: 110, highestHz: 9000, modesShare: 0.4 }
const SCALES = [
  [0, 2, 4, 5, 7, 9, 11],
  [0, 2, 3, 5, 7, 8, 10],
  [0, 2, 4, 7, 9],
  [0, 2, 3, 5, 7, 8, 11],
  [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11],
] as const
/** Of a dozen takes in turn, who plays. */
const TURNS = [
  'one',
  'one',
  'one',
  'struck',
  'one',
  'one',
  'one',
  'mix',
  'mix',
  'kit',
  'speech',
  'speech',
] as const
/** What is struck and has one pitch or a few: keys of General MIDI's percussion, those of one thing together. */
const STRUCK = [
  [41, 43, 45],
  [45, 47, 48, 50],
  [60, 61],
  [62, 63, 64],
  [65, 66],
  [67, 68],
  [76, 77],
  [75],
  [56],
  [80, 81],
  [37],
] as const
const HIGHEST_KEY_OF_LOW_PARTS = 60

/** Single recordings, one a seed, each untouched and twice with one ring: an instrument, a kit, speech or a small mix. */
export function ringingTakes(
  players: keyof typeof BANDS,
  seeds: readonly number[],
): RingingSound[] {
  return seeds.flatMap((seed) => {
    const random = partRandom(seed, 'takes')
    const take = makeTake(players, TURNS[seed % TURNS.length], random)
    const base = `takes ${players} ${seed}`
    const rings = [1, 2].map(() => plantRing(take, random, IN_TAKES))
    return [
      { base, clip: take, ring: null },
      ...rings.flatMap((found) => (found ? [{ base, ...found }] : [])),
    ]
  })
}

function makeTake(players: keyof typeof BANDS, turn: (typeof TURNS)[number], random: Random): Clip {
  const { font, voices: ofBand } = BANDS[players]
  const voices = [...ofBand, ...(MORE_VOICES[players] ?? [])]
  const all = Object.entries(PROGRAMS[players]).flatMap(([family, list]) => {
    const [low, high, isPolyphonic] = FAMILIES[family]
    return list.map((program): Played => ({ program, low, high, isPolyphonic }))
  })
  const one = (of: readonly Played[]) => {
    const played = pick(random, of)
    const vibrato = random() < 0.35 ? Math.round(20 + 40 * random()) : 0
    const instrument: Instrument = { font, program: played.program, room: random() < 0.5, vibrato }
    return middle(play(instrument, phrase(played, random), SECONDS, false))
  }
  const kit = () => {
    const instrument: Instrument = { font, program: 0, kit: true, room: random() < 0.5 }
    return middle(play(instrument, beat(random), SECONDS, false))
  }
  const struck = () => {
    const instrument: Instrument = { font, program: 0, kit: true, room: random() < 0.5 }
    return middle(play(instrument, strokesOf(pick(random, STRUCK), random), SECONDS, false))
  }
  const speech = () => {
    const out = new Float32Array(SECONDS * RATE_HZ)
    const [voice, speed, pitch] = [
      pick(random, voices),
      Math.round(135 + 45 * random()),
      Math.round(30 + 40 * random()),
    ]
    for (let at = 0; at < out.length; ) {
      const sentence = speak(voice, pick(random, SENTENCES), speed, pitch).channels[0]
      addInto(out, sentence, 1, at)
      at += sentence.length + Math.round(0.25 * RATE_HZ)
    }
    return out
  }
  const isLow = ({ high }: Played) => high <= HIGHEST_KEY_OF_LOW_PARTS
  const mix = () => {
    const parts = [one(all.filter(isLow)), one(all.filter((p) => !isLow(p)))]
    parts.push(one(all.filter((p) => !isLow(p))), kit())
    if (random() < 0.4) parts.push(speech())
    const out = new Float32Array(SECONDS * RATE_HZ)
    for (const part of parts) addInto(out, part, 10 ** ((8 * random() - 5) / 20) / rms(part))
    return out
  }
  const sound = { one: () => one(all), struck, kit, speech, mix }[turn]()
  const peak = sound.reduce((most, v) => Math.max(most, Math.abs(v)), 1e-9)
  const gain = Math.min(10 ** (-23 / 20) / rms(sound), 0.3 / peak)
  return makeClip(RATE_HZ, [sound.map((v) => gain * v)])
}

function middle({ channels: [left, right] }: Clip): Float32Array {
  return left.map((v, i) => (v + (right?.[i] ?? v)) / 2)
}

function rms(sound: Float32Array): number {
  return Math.sqrt(sound.reduce((sum, v) => sum + v * v, 0) / sound.length + 1e-20)
}

/** Scales, walks, broken chords, and where more than one tone sounds at once chords, with or without a line. */
export function phrase(
  { low, high, isPolyphonic }: Omit<Played, 'program'>,
  random: Random,
): Stroke[] {
  const root = Math.floor(12 * random())
  const scale = pick(random, SCALES)
  const all = Array.from({ length: high - low + 1 }, (_, i) => low + i).filter((key) =>
    (scale as readonly number[]).includes((key - root + 120) % 12),
  )
  const span = Math.min(all.length, 12 + Math.floor(10 * random()))
  const from = Math.floor((all.length - span + 1) * random())
  const keys = all.slice(from, from + span)
  const beatSeconds = 60 / (70 + 80 * random())
  const styles = isPolyphonic
    ? (['scale', 'walk', 'walk', 'broken', 'broken', 'chords', 'chords', 'both'] as const)
    : (['scale', 'walk', 'walk', 'broken'] as const)
  const style = pick(random, styles)
  return style === 'chords' || style === 'both'
    ? chordal(keys, beatSeconds, style === 'both', random)
    : melodic(keys, beatSeconds, style, random)
}

function melodic(
  keys: readonly number[],
  beatSeconds: number,
  style: 'scale' | 'walk' | 'broken',
  random: Random,
): Stroke[] {
  const out: Stroke[] = []
  const step = pick(random, [0.25, 0.5, 0.5, 1])
  let at = Math.floor(keys.length * random())
  let up = 1
  for (let seconds = 0.1; seconds < SECONDS - 0.3; ) {
    const length = beatSeconds * step * (style === 'walk' ? pick(random, [1, 1, 1, 2]) : 1)
    if (style === 'scale') at += up
    else if (style === 'broken') at += random() < 0.9 ? 2 * up : -up
    else at += pick(random, [-4, -3, -2, -1, -1, 1, 1, 2, 3, 4, 0])
    if (at >= keys.length) [at, up] = [keys.length - 2, -1]
    if (at < 0) [at, up] = [1, 1]
    if (random() > 0.08) out.push(tone(seconds, length * (0.6 + 0.45 * random()), keys[at], random))
    seconds += length
  }
  return out
}

function chordal(
  keys: readonly number[],
  beatSeconds: number,
  hasLine: boolean,
  random: Random,
): Stroke[] {
  const out: Stroke[] = []
  const bar = beatSeconds * pick(random, [1, 2, 2, 4])
  for (let seconds = 0.1; seconds < SECONDS - 0.3; seconds += bar) {
    const base = Math.floor(Math.max(1, keys.length - 10) * random()) + Math.floor(6 * random())
    const steps = [0, 2, 4, 7, 9]
    const left = Array.from({ length: 3 + Math.floor(2 * random()) }, () =>
      steps.splice(Math.floor(steps.length * random()), 1),
    ).flat()
    const tones = new Set(left.map((s) => keys[Math.min(keys.length - 1, base + s)]))
    for (const key of tones) {
      out.push(tone(seconds + 0.02 * random(), bar * (0.7 + 0.25 * random()), key, random))
    }
    if (!hasLine) continue
    let at = Math.floor(keys.length * (0.5 + 0.5 * random()))
    for (let j = 0; j < 4; j++) {
      at = Math.max(0, Math.min(keys.length - 1, at + pick(random, [-2, -1, 1, 2])))
      out.push(tone(seconds + (j * bar) / 4, (bar / 4) * 0.95, keys[at], random))
    }
  }
  return out
}

function tone(seconds: number, length: number, key: number, random: Random): Stroke {
  const swing = random() + random() + random() - 1.5
  return {
    seconds,
    length,
    key,
    velocity: Math.max(40, Math.min(120, Math.round(88 + 28 * swing))),
  }
}

/** A beat of sixteenths with a fill in each fourth bar. Keys of General MIDI's percussion. */
export function beat(random: Random): Stroke[] {
  const [kick, snare, hat, open, crash] = [36, 38, 42, 46, 49]
  const toms = [41, 43, 45, 47, 48, 50]
  const sixteenth = 60 / (75 + 65 * random()) / 4
  const bar = Array.from({ length: 16 }, (_, i) => ({
    kick: random() < (i % 8 === 0 ? 0.95 : 0.18),
    snare: random() < (i % 8 === 4 ? 0.95 : 0.07),
    hat: random() < (i % 2 === 0 ? 0.9 : 0.2),
  }))
  const out: Stroke[] = []
  const hit = (i: number, key: number, velocity: number) =>
    out.push({
      seconds: Math.max(0, 0.06 + i * sixteenth + 0.006 * (random() - 0.5)),
      length: 0.2,
      key,
      velocity: Math.round(velocity + 20 * (random() - 0.5)),
    })
  for (let i = 0; i < SECONDS / sixteenth; i++) {
    const at = i % 16
    const isFill = Math.floor(i / 16) % 4 === 3 && at >= 10
    if (bar[at].kick) hit(i, kick, 95)
    if (bar[at].snare) hit(i, snare, 95)
    if (isFill) hit(i, pick(random, toms), 92)
    else if (bar[at].hat) hit(i, at === 14 && random() < 0.4 ? open : hat, 88)
    if (i % 64 === 0) hit(i, crash, 90)
  }
  return out
}

/** A pattern of two bars that goes round on the keys of one thing. */
export function strokesOf(keys: readonly number[], random: Random): Stroke[] {
  const step = 60 / (80 + 60 * random()) / 2
  const pattern = Array.from({ length: 16 }, (_, i) => random() < (i % 4 === 0 ? 0.9 : 0.4))
  const of = pattern.map(() => pick(random, keys))
  return Array.from({ length: Math.floor(SECONDS / step) }, (_, i) => i).flatMap((i) =>
    pattern[i % 16] ? [tone(0.05 + i * step + 0.004 * random(), 0.2, of[i % 16], random)] : [],
  )
}
