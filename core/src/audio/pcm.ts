import { AudioError } from './audio-error'
import type { Endian } from './byte-reader'

/** How one sample is stored in a file. */
export type SampleFormat =
  | { readonly kind: 'unsigned-8' }
  | { readonly kind: 'integer'; readonly bytes: 1 | 2 | 3 | 4 }
  | { readonly kind: 'float'; readonly bytes: 4 | 8 }

export function bytesPerSample(format: SampleFormat): number {
  return format.kind === 'unsigned-8' ? 1 : format.bytes
}

/**
 * Interleaved samples to one array per channel, ±1 full scale.
 * @throws AudioError when a float sample is not a number, infinite, or so large that it is no sound.
 */
export function decodePcm(
  bytes: Uint8Array,
  format: SampleFormat,
  channelCount: number,
  endian: Endian,
): Float32Array[] {
  const width = bytesPerSample(format)
  const frames = Math.floor(bytes.byteLength / (width * channelCount))
  const channels = Array.from({ length: channelCount }, () => new Float32Array(frames))
  decodePcmInto(bytes, format, endian, channels, frames)
  return channels
}

/** {@link decodePcm} into the first `frames` of arrays that are there. */
export function decodePcmInto(
  bytes: Uint8Array,
  format: SampleFormat,
  endian: Endian,
  channels: readonly Float32Array[],
  frames: number,
): void {
  const little = endian === 'little'
  const width = bytesPerSample(format)
  const step = width * channels.length
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (width === 3 && little && channels.length <= 2 && bytes.byteOffset % 4 === 0) {
    decode24(bytes, channels, frames)
    return
  }
  channels.forEach((out, c) => {
    const from = c * width
    if (format.kind === 'unsigned-8') {
      for (let i = 0, at = from; i < frames; i++, at += step) out[i] = (bytes[at] - 128) / 128
    } else if (format.kind === 'float')
      decodeFloats(view, format.bytes, little, from, step, out, frames)
    else decodeIntegers(view, bytes, format.bytes, little, from, step, out, frames)
  })
  if (format.kind === 'float') requireSound(channels, frames)
}

function decodeFloats(
  view: DataView,
  width: 4 | 8,
  little: boolean,
  from: number,
  step: number,
  out: Float32Array,
  frames: number,
): void {
  if (width === 4 && little && view.byteOffset % 4 === 0) {
    const words = new Float32Array(view.buffer, view.byteOffset, view.byteLength >> 2)
    const stride = step / 4
    for (let i = 0, at = from / 4; i < frames; i++, at += stride) out[i] = words[at]
  } else if (width === 4) {
    for (let i = 0, at = from; i < frames; i++, at += step) out[i] = view.getFloat32(at, little)
  } else {
    for (let i = 0, at = from; i < frames; i++, at += step) out[i] = view.getFloat64(at, little)
  }
}

function decodeIntegers(
  view: DataView,
  bytes: Uint8Array,
  width: 1 | 2 | 3 | 4,
  little: boolean,
  from: number,
  step: number,
  out: Float32Array,
  frames: number,
): void {
  switch (width) {
    case 1:
      for (let i = 0, at = from; i < frames; i++, at += step) out[i] = view.getInt8(at) / 128
      return
    case 2:
      if (little && bytes.byteOffset % 2 === 0) {
        // Words that lie right are read as such, several times as fast.
        const words = new Int16Array(bytes.buffer, bytes.byteOffset, bytes.byteLength >> 1)
        const stride = step / 2
        for (let i = 0, at = from / 2; i < frames; i++, at += stride) out[i] = words[at] / 32768
        return
      }
      for (let i = 0, at = from; i < frames; i++, at += step) {
        out[i] = view.getInt16(at, little) / 32768
      }
      return
    case 3: {
      const [low, high] = little ? [0, 2] : [2, 0]
      for (let i = 0, at = from; i < frames; i++, at += step) {
        const word = (bytes[at + low] << 8) | (bytes[at + 1] << 16) | (bytes[at + high] << 24)
        out[i] = word / 2147483648
      }
      return
    }
    case 4:
      for (let i = 0, at = from; i < frames; i++, at += step) {
        out[i] = view.getInt32(at, little) / 2147483648
      }
  }
}

/**
 * 24-bit words of one or two channels: four of them lie in three words of 32 bits, so that three reads serve
 * twelve bytes.
 */
function decode24(bytes: Uint8Array, channels: readonly Float32Array[], frames: number): void {
  const SCALE = 1 / 2147483648
  const words = new Uint32Array(bytes.buffer, bytes.byteOffset, bytes.byteLength >> 2)
  const [left, right] = channels
  const samples = frames * channels.length
  const whole = samples - (samples % 4)
  if (right) {
    for (let s = 0, w = 0, i = 0; s < whole; s += 4, w += 3, i += 2) {
      const a = words[w]
      const b = words[w + 1]
      const c = words[w + 2]
      left[i] = (a << 8) * SCALE
      right[i] = (((a >>> 16) & 0xff00) | (b << 16)) * SCALE
      left[i + 1] = (((b >>> 8) & 0xffff00) | (c << 24)) * SCALE
      right[i + 1] = (c & 0xffffff00) * SCALE
    }
  } else {
    for (let s = 0, w = 0; s < whole; s += 4, w += 3) {
      const a = words[w]
      const b = words[w + 1]
      const c = words[w + 2]
      left[s] = (a << 8) * SCALE
      left[s + 1] = (((a >>> 16) & 0xff00) | (b << 16)) * SCALE
      left[s + 2] = (((b >>> 8) & 0xffff00) | (c << 24)) * SCALE
      left[s + 3] = (c & 0xffffff00) * SCALE
    }
  }
  for (let s = whole; s < samples; s++) {
    const at = 3 * s
    const word = (bytes[at] << 8) | (bytes[at + 1] << 16) | (bytes[at + 2] << 24)
    channels[s % channels.length][Math.floor(s / channels.length)] = word * SCALE
  }
}

/** 160 dB over full scale: no sound is so large, and gains behind it must not reach infinity. */
const LARGEST_SAMPLE = 1e8

function requireSound(channels: readonly Float32Array[], frames: number): void {
  for (const channel of channels) {
    for (let i = 0; i < frames; i++) {
      const v = channel[i]
      if (v <= LARGEST_SAMPLE && v >= -LARGEST_SAMPLE) continue
      throw new AudioError(
        Number.isFinite(v)
          ? `Sample ${i} is more than 160 dB over full scale; the file is damaged or is not audio.`
          : `Sample ${i} is not a number or is infinite; the file is damaged or is not audio.`,
      )
    }
  }
}
