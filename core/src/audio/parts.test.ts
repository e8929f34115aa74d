import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { whiteNoise } from '../testing/signals'
import {
  DelayLine,
  makeClip,
  Ramp,
  Resampler,
  readStretch,
  resample,
  WavWriter,
  writeWav,
} from './index'

const RATE = 48000

describe('a ramp', () => {
  it('goes from value to value without a jump or an overshoot, and arrives exactly', () => {
    const value = fc.double({ min: -4, max: 4, noNaN: true })
    fc.assert(
      fc.property(value, value, value, fc.integer({ min: 1, max: 700 }), (a, b, c, turn) => {
        const ramp = new Ramp(a)
        ramp.moveTo(b, RATE)
        let last = a
        const steepest = (1.6 * Math.max(Math.abs(b - a), Math.abs(c - b), Math.abs(c - a))) / 720
        for (let i = 0; i < 1600; i++) {
          if (i === turn) ramp.moveTo(c, RATE)
          const now = ramp.next()
          expect(Math.abs(now - last)).toBeLessThanOrEqual(steepest + 1e-12)
          last = now
        }
        expect(last).toBe(c)
        expect(ramp.settled).toBe(true)
      }),
      { numRuns: 60 },
    )
  })

  it('multiplies a block as it would frame by frame', () => {
    const signal = whiteNoise(1000, 1)
    const [one, two] = [new Ramp(1), new Ramp(1)]
    for (const ramp of [one, two]) ramp.moveTo(0.25, RATE)
    const out = new Float32Array(1000)
    one.applyTo(signal, out, 1000)
    for (let i = 0; i < 1000; i++) expect(out[i]).toBe(Math.fround(signal[i] * two.next()))
  })
})

describe('a delay line', () => {
  it('holds back by its frames in blocks of any length', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 300 }),
        fc.array(fc.integer({ min: 1, max: 200 }), { minLength: 1, maxLength: 12 }),
        (frames, blocks) => {
          const line = new DelayLine(1, frames)
          const total = blocks.reduce((a, b) => a + b, 0)
          const signal = whiteNoise(total, 9)
          const out = signal.slice()
          let at = 0
          for (const n of blocks) {
            line.process([out.subarray(at, at + n)], n)
            at += n
          }
          for (let i = 0; i < total; i++) expect(out[i]).toBe(i < frames ? 0 : signal[i - frames])
        },
      ),
    )
  })
})

describe('reading a stretch', () => {
  it('gives silence before and behind the channel, and its samples between', () => {
    const channel = Float32Array.of(1, 2, 3)
    fc.assert(
      fc.property(
        fc.integer({ min: -12, max: 12 }),
        fc.integer({ min: 0, max: 12 }),
        (position, n) => {
          const out = new Float32Array(14).fill(9)
          readStretch(channel, position, out, n, 2)
          for (let i = 0; i < 14; i++) {
            const inside = i >= 2 && i < 2 + n
            expect(out[i]).toBe(inside ? (channel[position + i - 2] ?? 0) : 9)
          }
        },
      ),
    )
  })
})

describe('a resampler', () => {
  it('gives in pieces of any length what it gives at once', () => {
    const signal = whiteNoise(5000, 3, 0.5)
    fc.assert(
      fc.property(
        fc.constantFrom([44100, 48000], [48000, 44100], [96000, 48000], [8000, 48000]),
        fc.array(fc.integer({ min: 1, max: 3000 }), { minLength: 1, maxLength: 8 }),
        ([from, to], lengths) => {
          const whole = resample(makeClip(from, [signal]), to).channels[0]
          const resampler = new Resampler(from, to, 1, signal.length)
          const out: number[] = []
          for (let at = 0, n = 0; at < signal.length; n++) {
            const end = Math.min(signal.length, at + lengths[n % lengths.length])
            out.push(...resampler.add([signal.subarray(at, end)])[0])
            at = end
          }
          out.push(...resampler.finish()[0])
          expect(out.length).toBe(whole.length)
          const apart = out.reduce((most, v, i) => Math.max(most, Math.abs(v - whole[i])), 0)
          expect(apart).toBeLessThan(5e-7)
        },
      ),
      { numRuns: 20 },
    )
  })
})

describe('a WAV that is written in pieces', () => {
  it('is to the byte what is written at once', () => {
    const channels = [whiteNoise(5001, 1, 0.9), whiteNoise(5001, 2, 0.9)]
    for (const bits of [16, 24, '32f'] as const) {
      const whole = writeWav(makeClip(RATE, channels), bits)
      const writer = new WavWriter(RATE, 2, 5001, bits)
      const parts = [writer.header()]
      for (let at = 0; at < 5001; at += 700) {
        const piece = channels.map((c) => c.subarray(at, at + 700))
        parts.push(writer.encode(piece, piece[0].length))
      }
      parts.push(writer.end())
      expect(Buffer.concat(parts).equals(Buffer.from(whole))).toBe(true)
    }
  })
})
