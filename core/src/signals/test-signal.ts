import { type Clip, dbToAmplitude, makeClip, seededRandom } from '../audio'
import { realFft } from '../spectrum'

/** A sound to see with what a chain, a meter or a picture does. Levels are of the peak for tones, RMS for noise. */
export type TestSignal =
  | { readonly kind: 'sine'; readonly hz: number }
  /** Thirds of an octave from 20 Hz to 20 kHz, each as long as the next. */
  | { readonly kind: 'stepped-sine' }
  /** Exponential, 20 Hz to 20 kHz: Farina (2000), eq. 1. */
  | { readonly kind: 'swept-sine' }
  | { readonly kind: 'pink-noise' }
  | { readonly kind: 'white-noise' }
  /** One full sample a second, the first after half a second. */
  | { readonly kind: 'impulse' }
export type TestSignalKind = TestSignal['kind']

export interface TestSignalSettings {
  readonly sampleRateHz: number
  readonly seconds: number
  /** dB relative to full scale: of a tone's or an impulse's peak; of noise, its RMS against that of a full square. */
  readonly levelDb: number
  readonly seed?: number
}

const LOWEST_HZ = 20
const HIGHEST_HZ = 20000
const FADE_SECONDS = 0.01
/** Noise repeats after so many frames at least: about 11 s at 48 kHz, or the whole where that is shorter. */
const NOISE_FRAMES = 2 ** 19
/** Pink noise begins here: below lies nothing that is heard. */
const PINK_FROM_HZ = 8

/** A mono test signal. */
export function testSignal(signal: TestSignal, settings: TestSignalSettings): Clip {
  const { sampleRateHz, seconds, levelDb } = settings
  const samples = made(signal, settings, Math.max(1, Math.round(seconds * sampleRateHz)))
  const gain = dbToAmplitude(levelDb)
  for (let i = 0; i < samples.length; i++) samples[i] *= gain
  return makeClip(sampleRateHz, [samples])
}

function made(signal: TestSignal, settings: TestSignalSettings, frames: number): Float32Array {
  const { sampleRateHz: rate, seed = 1 } = settings
  switch (signal.kind) {
    case 'sine':
      return faded(
        phases(frames, () => (2 * Math.PI * signal.hz) / rate),
        rate,
      )
    case 'stepped-sine':
      return faded(
        phases(frames, (i) => (2 * Math.PI * stepHz(i / frames)) / rate),
        rate,
      )
    case 'swept-sine':
      return faded(
        phases(
          frames,
          (i) => (2 * Math.PI * LOWEST_HZ * (HIGHEST_HZ / LOWEST_HZ) ** (i / frames)) / rate,
        ),
        rate,
      )
    case 'pink-noise':
      return noise(frames, seed, (hz) => (hz < PINK_FROM_HZ ? 0 : 1 / Math.sqrt(hz)), rate)
    case 'white-noise':
      return noise(frames, seed, () => 1, rate)
    case 'impulse': {
      const out = new Float32Array(frames)
      for (let at = Math.round(rate / 2); at < frames; at += rate) out[at] = 1
      return out
    }
  }
}

const THIRDS = 30

/** Thirty-one steps, 1000·10^(k/10): IEC 61260-1:2014, base ten. */
function stepHz(share: number): number {
  const step = Math.min(THIRDS, Math.floor(share * (THIRDS + 1)))
  return 1000 * 10 ** ((step - 17) / 10)
}

/** A sine whose phase grows by so much per frame: without a jump where its frequency changes. */
function phases(frames: number, grow: (frame: number) => number): Float32Array {
  const out = new Float32Array(frames)
  let phase = 0
  for (let i = 0; i < frames; i++) {
    out[i] = Math.sin(phase)
    phase += grow(i)
    if (phase > Math.PI) phase -= 2 * Math.PI
  }
  return out
}

function faded(samples: Float32Array, rate: number): Float32Array {
  const frames = Math.min(Math.round(FADE_SECONDS * rate), samples.length >> 1)
  for (let i = 0; i < frames; i++) {
    const gain = 0.5 - 0.5 * Math.cos((Math.PI * i) / frames)
    samples[i] *= gain
    samples[samples.length - 1 - i] *= gain
  }
  return samples
}

/** Noise of random phase and of exactly the magnitude that is asked for, RMS 1: it reads flatter than dice would. */
function noise(
  frames: number,
  seed: number,
  magnitude: (hz: number) => number,
  rate: number,
): Float32Array {
  const size = Math.min(NOISE_FRAMES, 2 ** Math.ceil(Math.log2(frames)))
  const random = seededRandom(seed)
  const spectrum = new Float32Array(size + 2)
  for (let bin = 1; bin < size / 2; bin++) {
    const angle = 2 * Math.PI * random()
    const m = magnitude((bin * rate) / size)
    spectrum[2 * bin] = m * Math.cos(angle)
    spectrum[2 * bin + 1] = m * Math.sin(angle)
  }
  const period = new Float32Array(size)
  realFft(size).inverse(spectrum, period)
  let power = 0
  for (const v of period) power += v * v
  const scale = 1 / Math.sqrt(power / size)
  return Float32Array.from({ length: frames }, (_, i) => scale * period[i % size])
}
