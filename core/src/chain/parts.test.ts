import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { emptyChain, emptySession, newBand, newTrack, type Session } from '../session'
import { whiteNoise } from '../testing/signals'
import { DelayLine } from './delay-line'
import { chainKernels, listeningPlan, readStretch, renderPlan, withKernels } from './index'
import { Ramp } from './ramp'

const RATE = 48000

function session(): Session {
  const made = emptySession('s', 'n', '2026-03-04T05:06:07.000Z', RATE)
  for (const id of ['a', 'b', 'c']) {
    const audio = { hash: 'c'.repeat(64), channels: 1, frames: RATE }
    made.tracks.push(newTrack(id, id, 'other', id.toUpperCase(), audio))
  }
  return made
}
const audible = (plan: { tracks: readonly { audible: boolean }[] }) =>
  plan.tracks.map((t) => t.audible)

describe('plans of a session', () => {
  it('listen with solo and lift, render without them', () => {
    const made = session()
    Object.assign(made.tracks[1], { solo: true, lift: true, faderDb: -3 })
    expect(audible(listeningPlan(made))).toEqual([false, true, false])
    expect(listeningPlan(made).tracks[1].faderDb).toBe(3)
    expect(audible(renderPlan(made))).toEqual([true, true, true])
    expect(renderPlan(made).tracks[1].faderDb).toBe(-3)
  })

  it('leave muted tracks out of both, even soloed ones', () => {
    const made = session()
    Object.assign(made.tracks[0], { mute: true, solo: true })
    expect(audible(listeningPlan(made))).toEqual([false, false, false])
    expect(audible(renderPlan(made))).toEqual([false, true, true])
  })

  it('get kernels where a phase mode needs them, and only there', () => {
    const made = session()
    made.tracks[0].chain.phase = 'linear'
    made.tracks[1].chain.phase = 'linear'
    const band = { ...newBand('bell', 3000), db: -3 }
    for (const t of made.tracks) {
      t.chain.fit.moves.push({ id: 'm', on: t.id !== 'b', reason: '', evidence: null, band })
    }
    const plan = withKernels(renderPlan(made), (chain) => chainKernels(chain, RATE))
    expect(plan.tracks.map((t) => (t.kernels ? t.kernels.inFir : null))).toEqual([
      ['m'],
      null,
      null,
    ])
    expect(plan.kernels).toBeNull()
    expect(chainKernels(emptyChain(), RATE)).toBeNull()
  })
})

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
