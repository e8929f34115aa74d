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
 * @throws AudioError when a float sample is not a number or infinite.
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
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const read = sampleReader(view, bytes, format, endian === 'little')
  const step = width * channelCount
  for (let c = 0; c < channelCount; c++) {
    const out = channels[c]
    for (let i = 0, at = c * width; i < frames; i++, at += step) out[i] = read(at)
  }
  if (format.kind === 'float') requireFinite(channels)
  return channels
}

function sampleReader(
  view: DataView,
  bytes: Uint8Array,
  format: SampleFormat,
  little: boolean,
): (offset: number) => number {
  switch (format.kind) {
    case 'unsigned-8':
      return (o) => (bytes[o] - 128) / 128
    case 'float':
      return format.bytes === 4
        ? (o) => view.getFloat32(o, little)
        : (o) => view.getFloat64(o, little)
    case 'integer':
      switch (format.bytes) {
        case 1:
          return (o) => view.getInt8(o) / 128
        case 2:
          return (o) => view.getInt16(o, little) / 32768
        case 3:
          return little
            ? (o) => ((bytes[o] << 8) | (bytes[o + 1] << 16) | (bytes[o + 2] << 24)) / 2147483648
            : (o) => ((bytes[o + 2] << 8) | (bytes[o + 1] << 16) | (bytes[o] << 24)) / 2147483648
        case 4:
          return (o) => view.getInt32(o, little) / 2147483648
      }
  }
}

function requireFinite(channels: readonly Float32Array[]): void {
  for (const channel of channels) {
    for (let i = 0; i < channel.length; i++) {
      if (!Number.isFinite(channel[i])) {
        throw new AudioError(
          `Sample ${i} is not a number or is infinite; the file is damaged or is not audio.`,
        )
      }
    }
  }
}
