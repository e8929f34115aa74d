import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { sine } from '../testing/signals'
import { AudioError, makeClip, readAiff, readAudio, readWav, writeWav } from '.'

const clip = makeClip(44100, [sine(440, 0.02, 44100, 0.7), sine(660, 0.02, 44100, 0.5)])

/** A WAV with any coding, written independently of the code under test. */
function wavWith(options: {
  code: number
  bits: number
  write: (view: DataView, at: number, value: number) => void
  extensible?: boolean
  rf64?: boolean
  timeStamp?: bigint
}): Uint8Array<ArrayBuffer> {
  const width = options.bits / 8
  const samples = Array.from(clip.channels[0]).flatMap((l, i) => [l, clip.channels[1][i]])
  const fmtSize = options.extensible ? 40 : 16
  const ds64 = options.rf64 ? 36 : 0
  const bext = options.timeStamp === undefined ? 0 : 8 + 602
  const dataAt = 12 + ds64 + bext + 8 + fmtSize + 8
  const bytes = new Uint8Array(dataAt + samples.length * width)
  const view = new DataView(bytes.buffer)
  const tag = (at: number, text: string) => bytes.set(new TextEncoder().encode(text), at)
  tag(0, options.rf64 ? 'RF64' : 'RIFF')
  view.setUint32(4, options.rf64 ? 0xffffffff : bytes.length - 8, true)
  tag(8, 'WAVE')
  let at = 12
  if (options.rf64) {
    tag(at, 'ds64')
    view.setUint32(at + 4, 28, true)
    view.setBigUint64(at + 16, BigInt(samples.length * width), true)
    at += ds64
  }
  if (options.timeStamp !== undefined) {
    tag(at, 'bext')
    view.setUint32(at + 4, 602, true)
    view.setBigUint64(at + 8 + 338, options.timeStamp, true)
    at += bext
  }
  tag(at, 'fmt ')
  view.setUint32(at + 4, fmtSize, true)
  view.setUint16(at + 8, options.extensible ? 0xfffe : options.code, true)
  view.setUint16(at + 10, 2, true)
  view.setUint32(at + 12, 44100, true)
  view.setUint32(at + 16, 44100 * 2 * width, true)
  view.setUint16(at + 20, 2 * width, true)
  view.setUint16(at + 22, options.bits, true)
  if (options.extensible) {
    view.setUint16(at + 24, 22, true)
    view.setUint16(at + 26, options.bits, true)
    view.setUint16(at + 32, options.code, true)
  }
  at += 8 + fmtSize
  tag(at, 'data')
  view.setUint32(at + 4, options.rf64 ? 0xffffffff : samples.length * width, true)
  for (const [i, value] of samples.entries()) options.write(view, dataAt + i * width, value)
  return bytes
}

const i24 = (view: DataView, at: number, value: number) => {
  const v = Math.round(value * 8388608)
  view.setUint8(at, v & 255)
  view.setUint8(at + 1, (v >> 8) & 255)
  view.setUint8(at + 2, (v >> 16) & 255)
}

describe('WAV reading', () => {
  it.each([
    [
      '8-bit',
      {
        code: 1,
        bits: 8,
        write: (v: DataView, a: number, x: number) => v.setUint8(a, Math.round(x * 127) + 128),
      },
      0.02,
    ],
    [
      '16-bit',
      {
        code: 1,
        bits: 16,
        write: (v: DataView, a: number, x: number) => v.setInt16(a, Math.round(x * 32767), true),
      },
      1e-4,
    ],
    ['24-bit', { code: 1, bits: 24, write: i24 }, 1e-6],
    ['24-bit extensible', { code: 1, bits: 24, write: i24, extensible: true }, 1e-6],
    [
      '32-bit',
      {
        code: 1,
        bits: 32,
        write: (v: DataView, a: number, x: number) =>
          v.setInt32(a, Math.round(x * 2147483647), true),
      },
      1e-6,
    ],
    [
      '32-bit float',
      { code: 3, bits: 32, write: (v: DataView, a: number, x: number) => v.setFloat32(a, x, true) },
      1e-9,
    ],
    [
      '64-bit float RF64',
      {
        code: 3,
        bits: 64,
        write: (v: DataView, a: number, x: number) => v.setFloat64(a, x, true),
        rf64: true,
      },
      1e-9,
    ],
  ])('reads %s', (_, options, tolerance) => {
    const file = readWav(wavWith(options))
    expect(file.sampleRateHz).toBe(44100)
    expect(file.frames).toBe(clip.frames)
    for (let c = 0; c < 2; c++) {
      for (let i = 0; i < clip.frames; i++) {
        expect(Math.abs(file.channels[c][i] - clip.channels[c][i])).toBeLessThan(tolerance)
      }
    }
  })

  it('reads the time stamp of a broadcast WAV', () => {
    const file = readWav(wavWith({ code: 1, bits: 24, write: i24, timeStamp: 158_760_000n }))
    expect(file.timeStampFrames).toBe(158_760_000)
  })

  it('reads back what was written, 24-bit within a step and a half, float exactly', () => {
    const back = readWav(writeWav(clip, 24))
    const worst = Math.max(...back.channels[0].map((v, i) => Math.abs(v - clip.channels[0][i])))
    expect(worst * 8388608).toBeLessThan(1.51)
    expect(readWav(writeWav(clip, '32f')).channels[0]).toEqual(clip.channels[0])
  })

  it.each([
    ['cut short', writeWav(clip, 16).subarray(0, 600), /cut short: \d+ % of its audio/],
    ['without audio', writeWav(makeClip(48000, [new Float32Array(0)]), 16), /length is zero/],
    ['empty', new Uint8Array(0), /empty/],
    ['text', new TextEncoder().encode('It was a dark night on the ferry.'), /not an audio file/],
  ])('a file that is %s is told in a sentence', (_, bytes, sentence) => {
    expect(() => readAudio(bytes)).toThrow(sentence)
  })

  it('names the first sample that is not a number', () => {
    const bad = writeWav(clip, '32f')
    new DataView(bad.buffer).setFloat32(44 + 8 * 5, Number.NaN, true)
    expect(() => readWav(bad)).toThrow(/Sample 5 is not a number/)
  })
})

describe('AIFF reading', () => {
  it('reads 16-bit big-endian', () => {
    const bytes = aiff()
    const file = readAiff(bytes)
    expect(file.sampleRateHz).toBe(44100)
    expect(file.channels[1][3]).toBeCloseTo(clip.channels[1][3], 4)
  })
})

function aiff(): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(12 + 8 + 18 + 8 + 8 + clip.frames * 4)
  const view = new DataView(bytes.buffer)
  const tag = (at: number, text: string) => bytes.set(new TextEncoder().encode(text), at)
  tag(0, 'FORM')
  view.setUint32(4, bytes.length - 8)
  tag(8, 'AIFFCOMM')
  view.setUint32(16, 18)
  view.setUint16(20, 2)
  view.setUint32(22, clip.frames)
  view.setUint16(26, 16)
  view.setUint16(28, 16383 + 15)
  view.setUint32(30, 44100 * 2 ** 16)
  tag(38, 'SSND')
  view.setUint32(42, 8 + clip.frames * 4)
  for (let i = 0; i < clip.frames; i++) {
    view.setInt16(54 + i * 4, Math.round(clip.channels[0][i] * 32767))
    view.setInt16(56 + i * 4, Math.round(clip.channels[1][i] * 32767))
  }
  return bytes
}

describe('damaged files', () => {
  const sources = [writeWav(clip, 16), writeWav(clip, '32f'), aiff()]

  it('a truncation anywhere gives a clip or a sentence', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...sources),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (source, share) => {
          survives(source.slice(0, Math.floor(share * source.length)))
        },
      ),
      { seed: 42, numRuns: 300 },
    )
  })

  it('flipped bits anywhere give a clip or a sentence', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...sources),
        fc.array(fc.tuple(fc.nat(200), fc.nat(7)), { minLength: 1, maxLength: 6 }),
        (source, flips) => {
          const bytes = source.slice()
          for (const [at, bit] of flips) bytes[at] ^= 1 << bit
          survives(bytes)
        },
      ),
      { seed: 43, numRuns: 1500 },
    )
  })
})

function survives(bytes: Uint8Array): void {
  try {
    const file = readAudio(bytes)
    expect(file.frames).toBeGreaterThan(0)
    expect(file.channels.length * file.frames).toBeLessThanOrEqual(bytes.length)
  } catch (error) {
    expect(error).toBeInstanceOf(AudioError)
    expect((error as Error).message).toMatch(/^[A-Z].*\.$/)
  }
}
