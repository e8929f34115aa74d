import type { Random } from '@sober-prism/core/audio'
import { band, RATE_HZ, Resonator, sawValue, shape, silence } from './sound'

/** Syllables of the announcement: onset noise (hiss, stop or none), vowel formants, pitch and length. */
interface Syllable {
  readonly onset: 'hiss' | 'stop' | 'none'
  readonly formants: readonly [number, number, number]
  readonly hz: number
  readonly seconds: number
  readonly pause: number
}

const FORMANTS: readonly (readonly [number, number, number])[] = [
  [700, 1150, 2500],
  [420, 850, 2500],
  [500, 1750, 2500],
  [330, 900, 2400],
  [310, 2150, 2900],
  [600, 1400, 2500],
]

/** The announcement: five phrases of syllables with falling pitch. */
export function announcementScript(random: Random): Syllable[] {
  return Array.from({ length: 5 }, () => 4 + Math.floor(random() * 5)).flatMap((count) =>
    Array.from({ length: count }, (_, i) => ({
      onset: (['hiss', 'stop', 'none', 'stop'] as const)[Math.floor(random() * 4)],
      formants: FORMANTS[Math.floor(random() * FORMANTS.length)],
      hz: 122 - (22 * i) / count + 8 * random(),
      seconds: 0.16 + 0.14 * random(),
      pause: i === count - 1 ? 0.55 : 0.02,
    })),
  )
}

/** Speaks a script: a dry voice, close to the microphone. */
export function speak(script: readonly Syllable[], random: Random): Float32Array {
  const seconds = script.reduce((sum, s) => sum + s.seconds + s.pause + 0.07, 0.6)
  const out = silence(seconds)
  const hiss = silence(seconds)
  const formants = [new Resonator(), new Resonator(), new Resonator(), new Resonator()]
  let at = Math.round(0.3 * RATE_HZ)
  let phase = 0
  let source = 0
  for (const syllable of script) {
    const onset = Math.round(
      (syllable.onset === 'hiss' ? 0.07 : syllable.onset === 'stop' ? 0.02 : 0) * RATE_HZ,
    )
    for (let i = 0; i < onset; i++)
      hiss[at + i] = (random() - 0.5) * Math.sin((Math.PI * i) / onset)
    at += onset
    const length = Math.round(syllable.seconds * RATE_HZ)
    for (const [f, hz] of syllable.formants.entries()) formants[f].tune(hz, 70 + hz * 0.05)
    formants[3].tune(3600, 320)
    for (let i = 0; i < length; i++) {
      const step = (syllable.hz * (1 - (0.06 * i) / length)) / RATE_HZ
      phase = (phase + step) % 1
      source = 0.7 * source + 0.3 * sawValue(phase, step)
      const level = Math.sin(Math.PI * Math.min(1, (i + 1) / length)) ** 0.5
      const drive = (source + 0.02 * (random() - 0.5)) * level
      out[at + i] +=
        formants[0].next(drive) +
        0.8 * formants[1].next(drive) +
        0.6 * formants[2].next(drive) +
        0.4 * formants[3].next(drive)
    }
    at += length + Math.round(syllable.pause * RATE_HZ)
  }
  shape(hiss, band('band-pass', 6000, { q: 0.9 }))
  return out.map((v, i) => v + 0.25 * hiss[i])
}
