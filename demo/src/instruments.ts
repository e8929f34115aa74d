import type { Random } from '@sober-prism/core/audio'
import { beatSeconds, type Note, type Piece, pieceSeconds } from './score'
import { addInto, band, noteHz, RATE_HZ, Resonator, sawValue, shape, silence } from './sound'

/** Silence after the last bar, for tails. */
export const TAIL_SECONDS = 1.5

function startFrame(piece: Piece, note: Note): number {
  return Math.round(note.beat * beatSeconds(piece) * RATE_HZ)
}

function empty(piece: Piece): Float32Array {
  return silence(pieceSeconds(piece) + TAIL_SECONDS)
}

/** Vowels by their first five formants, in Hz, and gains in dB. */
const VOWELS = {
  a: [
    [700, 0],
    [1150, -4],
    [2700, -18],
    [3500, -22],
    [4600, -30],
  ],
  o: [
    [420, 0],
    [800, -8],
    [2600, -24],
    [3400, -26],
    [4500, -34],
  ],
  e: [
    [480, 0],
    [1850, -9],
    [2600, -14],
    [3500, -20],
    [4600, -28],
  ],
  u: [
    [330, 0],
    [720, -14],
    [2500, -28],
    [3300, -30],
    [4400, -38],
  ],
  i: [
    [300, 0],
    [2200, -14],
    [2950, -15],
    [3600, -20],
    [4700, -28],
  ],
} as const
type Vowel = keyof typeof VOWELS

export interface VoiceSettings {
  /** Scales all formants: longer throats below 1, shorter above. */
  readonly throat: number
  readonly breath: number
  readonly vibratoCents: number
}

/** A wordless voice: a pulse source with vibrato through moving formants, with breath. */
export function voice(
  piece: Piece,
  notes: readonly Note[],
  random: Random,
  settings: VoiceSettings,
): Float32Array {
  const out = empty(piece)
  const vowels = Object.keys(VOWELS) as Vowel[]
  const formants = Array.from({ length: 5 }, () => new Resonator())
  let hz = noteHz(notes[0].note)
  let phase = 0
  let source = 0
  let vowel: Vowel = 'a'
  let previous: Vowel = 'a'
  for (const note of notes) {
    previous = vowel
    vowel = vowels[Math.floor(random() * vowels.length)]
    const start = startFrame(piece, note)
    const length = Math.round(note.beats * beatSeconds(piece) * RATE_HZ)
    const target = noteHz(note.note)
    const vibratoHz = 5.1 + 0.6 * random()
    const articulation = UPPER_FORMANT_SPREAD.map((spread) => 1 + spread * (2 * random() - 1))
    for (let i = 0; i < length + RATE_HZ * 0.12 && start + i < out.length; i++) {
      const t = i / RATE_HZ
      if (i % 64 === 0)
        tuneFormants(
          formants,
          previous,
          vowel,
          Math.min(1, t / 0.09),
          settings.throat,
          articulation.map((a, f) => a * (1 + WANDER * Math.sin(WANDER_HZ[f] * (start + i)))),
        )
      hz += (target - hz) * PORTAMENTO
      const depth = settings.vibratoCents * Math.min(1, Math.max(0, (t - 0.25) / 0.5))
      const now = hz * 2 ** ((depth * Math.sin(2 * Math.PI * vibratoHz * t)) / 1200)
      const step = now / RATE_HZ
      phase += step
      if (phase >= 1) phase -= 1
      // A leaky integral of the saw tilts it towards a glottal flow.
      source = 0.75 * source + sawValue(phase, step) * 0.25
      const noise = (random() - 0.5) * settings.breath
      const swell =
        Math.min(1, t / 0.06) * Math.min(1, Math.max(0, (length - i) / RATE_HZ + 0.12) / 0.12)
      const drive = (source + noise) * swell * note.strength
      let sum = 0
      for (let f = 0; f < 5; f++) sum += FORMANT_GAINS[f] * formants[f].next(drive)
      out[start + i] += sum
    }
  }
  return out
}

/** How far each formant strays from note to note: the upper ones follow tongue and larynx, not the vowel alone. */
const UPPER_FORMANT_SPREAD = [0, 0.02, 0.06, 0.08, 0.1]
/** Formants wander a little all the time, each at its own slow pace (radians per sample). */
const WANDER = 0.05
const WANDER_HZ = [1.3, 1.7, 2.3, 2.9, 3.7].map((hz) => (2 * Math.PI * hz) / RATE_HZ)
/** How quickly the pitch slides to the next note, per sample. */
const PORTAMENTO = 0.00035
const FORMANT_GAINS = [1, 0.85, 0.75, 0.6, 0.45]

function tuneFormants(
  formants: readonly Resonator[],
  from: Vowel,
  to: Vowel,
  share: number,
  throat: number,
  articulation: readonly number[],
): void {
  formants.forEach((formant, f) => {
    const a = VOWELS[from][f][0]
    const hz = (a + (VOWELS[to][f][0] - a) * share) * throat * articulation[f]
    formant.tune(hz, 60 + hz * 0.05)
  })
}

/** An accordion: two reeds a few cents apart per note, bellows that breathe, in stereo by pitch. */
export function accordion(piece: Piece, notes: readonly Note[], random: Random): Float32Array[] {
  const left = empty(piece)
  const right = empty(piece)
  for (const note of notes) {
    const hz = noteHz(note.note)
    const pan = 0.5 + 0.25 * Math.sin(note.note * 1.7)
    const length = Math.round(note.beats * beatSeconds(piece) * RATE_HZ)
    const release = Math.round(0.07 * RATE_HZ)
    const tone = new Float32Array(length + release)
    let one = random()
    let two = random()
    const step = hz / RATE_HZ
    const beating = step * 1.0058
    for (let i = 0; i < tone.length; i++) {
      one = (one + step) % 1
      two = (two + beating) % 1
      const bellows = 0.85 + 0.15 * Math.sin((2 * Math.PI * i) / RATE_HZ / 1.3)
      const attack = Math.min(1, i / (0.025 * RATE_HZ))
      const end = i < length ? 1 : 1 - (i - length) / release
      const pulse = sawValue(one, step) - 0.6 * sawValue((one + 0.31) % 1, step)
      tone[i] = (pulse + sawValue(two, beating)) * 0.3 * bellows * attack * end * note.strength
    }
    const at = startFrame(piece, note)
    addInto(left, tone, Math.sqrt(1 - pan), at)
    addInto(right, tone, Math.sqrt(pan), at)
  }
  for (const channel of [left, right]) {
    shape(
      channel,
      band('high-cut', 3200),
      band('bell', 900, { db: 2, q: 0.8 }),
      band('low-cut', 110),
    )
  }
  return [left, right]
}

/** A tuba: a buzzing source whose brightness follows its strength. */
export function tuba(piece: Piece, notes: readonly Note[], random: Random): Float32Array {
  const out = empty(piece)
  for (const note of notes) {
    const hz = noteHz(note.note)
    const at = startFrame(piece, note)
    const length = Math.round(note.beats * beatSeconds(piece) * RATE_HZ)
    let phase = random()
    let dull = 0
    let duller = 0
    for (let i = 0; i < length + 4800 && at + i < out.length; i++) {
      const t = i / RATE_HZ
      const step = (hz * (1 + 0.004 * Math.exp(-t * 18))) / RATE_HZ
      phase = (phase + step) % 1
      const level =
        Math.min(1, t / 0.045) * Math.exp(-t * 0.5) * (i < length ? 1 : 1 - (i - length) / 4800)
      const open = 1 - Math.exp((-2 * Math.PI * hz * (2 + 6 * level)) / RATE_HZ)
      dull += open * (sawValue(phase, step) - dull)
      duller += open * (dull - duller)
      out[at + i] += duller * level * note.strength * 0.6
    }
  }
  return out
}

/** Modes of a circular membrane relative to the lowest, with decay rates per second and gains. */
const MEMBRANE = [
  [1, 5.5, 1],
  [1.593, 8, 0.5],
  [2.136, 11, 0.3],
  [2.296, 12, 0.25],
  [2.653, 15, 0.2],
  [2.918, 17, 0.15],
  [3.6, 22, 0.1],
] as const

/** A frame drum: membrane modes, tuned higher for light strokes, and the skin's slap. */
export function frameDrum(piece: Piece, notes: readonly Note[], random: Random): Float32Array {
  const out = empty(piece)
  for (const note of notes) {
    const at = startFrame(piece, note)
    const base = (note.note === 0 ? 82 : 118) * (1 + 0.01 * (random() - 0.5))
    const length = Math.min(out.length - at, Math.round(0.9 * RATE_HZ))
    for (const [ratio, decay, gain] of MEMBRANE) {
      const step = (2 * Math.PI * base * ratio) / RATE_HZ
      const fade = Math.exp(-decay / RATE_HZ)
      const settle = Math.exp(-30 / RATE_HZ)
      // 80 dB down, a mode is over.
      const end = Math.min(length, Math.round((9.2 / decay) * RATE_HZ))
      let level = note.strength * gain
      let bend = 0.05
      for (let i = 0; i < end; i++) {
        const attack = i < 53 ? i / 53 : 1
        out[at + i] += level * attack * Math.sin(step * (1 + bend) * i)
        level *= fade
        bend *= settle
      }
    }
    const slap = new Float32Array(Math.min(length, 4800))
    for (let i = 0; i < slap.length; i++) slap[i] = (random() - 0.5) * Math.exp(-i / 420)
    shape(slap, band('bell', 2800, { db: 9, q: 0.8 }), band('low-cut', 600))
    addInto(out, slap, (note.note === 0 ? 0.7 : 1.1) * note.strength, at)
  }
  return out
}

/** A zither: plucked strings whose partials die away the faster the higher they are. */
export function zither(piece: Piece, notes: readonly Note[], random: Random): Float32Array[] {
  const left = empty(piece)
  const right = empty(piece)
  for (const note of notes) {
    const at = startFrame(piece, note)
    const hz = noteHz(note.note)
    const period = RATE_HZ / hz
    const whole = Math.floor(period - 0.5)
    const share = period - 0.5 - whole
    const line = Float32Array.from({ length: whole + 2 }, () => random() - 0.5)
    const length = Math.min(left.length - at, Math.round(note.beats * beatSeconds(piece) * RATE_HZ))
    const damping = 0.9985 - 0.0000006 * hz
    const pan = 0.3 + 0.4 * random()
    const l = Math.sqrt(1 - pan) * note.strength
    const r = Math.sqrt(pan) * note.strength
    let before = 0
    // Plucked string by a recirculating delay with an averaging loss (Karplus and Strong 1983).
    for (let i = 0, head = 0; i < length; i++) {
      const a = line[head]
      const b = line[(head + 1) % line.length]
      const value = a + share * (b - a)
      const next = damping * (0.5 * value + 0.5 * before)
      before = value
      line[head] = next
      head = (head + 1) % line.length
      const out = value * Math.min(1, i / 24) * Math.min(1, (length - i) / 2400)
      left[at + i] += out * l
      right[at + i] += out * r
    }
  }
  for (const channel of [left, right])
    shape(channel, band('low-cut', 150), band('bell', 420, { db: 3, q: 1 }))
  return [left, right]
}

/** A glass harmonica: nearly pure tones that swell, each slowly wavering. */
export function glass(piece: Piece, notes: readonly Note[], random: Random): Float32Array[] {
  const left = empty(piece)
  const right = empty(piece)
  for (const note of notes) {
    const at = startFrame(piece, note)
    const hz = noteHz(note.note)
    const length = Math.min(
      left.length - at,
      Math.round((note.beats * beatSeconds(piece) + 0.8) * RATE_HZ),
    )
    const waver = 4.2 + random()
    for (const [ratio, gain] of [
      [1, 1],
      [2.001, 0.16],
      [3.01, 0.09],
      [4.02, 0.03],
    ] as const) {
      const pan = 0.5 + 0.2 * Math.sin(note.note + ratio)
      const l = Math.sqrt(1 - pan)
      const r = Math.sqrt(pan)
      const step = (2 * Math.PI * hz * ratio) / RATE_HZ
      let angle = random() * 6
      let level = 0
      let levelStep = 0
      for (let i = 0; i < length; i++) {
        if (i % 32 === 0) {
          const t = i / RATE_HZ
          const swell = Math.min(1, t / 0.5) * Math.min(1, (length - i) / RATE_HZ / 0.8)
          const wavering = 1 + 0.2 * Math.sin(2 * Math.PI * waver * t)
          const wanted = gain * swell * note.strength * wavering
          if (i === 0) level = wanted
          levelStep = (wanted - level) / 32
        }
        level += levelStep
        angle += step
        const value = level * Math.sin(angle)
        left[at + i] += value * l
        right[at + i] += value * r
      }
    }
  }
  return [left, right]
}

/** Noise whose density falls by about 6 dB per octave, with a slow swell: the ship and the sea. */
export function deckNoise(seconds: number, random: Random): Float32Array {
  const out = silence(seconds)
  let brown = 0
  let hiss = 0
  for (let i = 0; i < out.length; i++) {
    const white = random() - 0.5
    brown = 0.997 * brown + white * 0.05
    hiss += 0.2 * (white - hiss)
    const swell = 0.7 + 0.3 * Math.sin((2 * Math.PI * i) / RATE_HZ / 7.3)
    const engine =
      0.05 *
      Math.sin((2 * Math.PI * 47 * i) / RATE_HZ) *
      (1 + 0.3 * Math.sin((2 * Math.PI * 3.1 * i) / RATE_HZ))
    out[i] = brown + hiss * 0.1 * swell + engine
  }
  return out
}
