import { makeClip, seededRandom, type WavBits, writeWav } from '@sober-prism/core/audio'

/** A file as it is handed to a file field. */
export interface TestFile {
  readonly name: string
  readonly mimeType: string
  readonly buffer: Buffer
}

/** A short file of shaped noise around a pitch, different for each seed. */
export function noiseFile(
  name: string,
  seed: number,
  { rateHz = 48000, seconds = 3, channels = 2, bits = 16 as WavBits } = {},
): TestFile {
  const random = seededRandom(seed)
  const frames = Math.round(rateHz * seconds)
  const step = (2 * Math.PI * 110 * 2 ** (seed % 5)) / rateHz
  const sides = Array.from({ length: channels }, () => {
    let low = 0
    return Float32Array.from({ length: frames }, (_, i) => {
      low += 0.05 * (random() - 0.5 - low)
      return 0.5 * low + 0.1 * Math.sin(step * i) * (1 - ((i / rateHz) % 0.5))
    })
  })
  return file(name, writeWav(makeClip(rateHz, sides), bits))
}

export function file(name: string, bytes: Uint8Array): TestFile {
  return { name, mimeType: 'application/octet-stream', buffer: Buffer.from(bytes) }
}
