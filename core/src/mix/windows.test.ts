import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { type AudioSource, blocksOf, type FrameRange, MemorySource } from '../audio'
import { planOf, RATE, sessionOf } from '../testing/sessions'
import { rms, whiteNoise } from '../testing/signals'
import { renderMix, streamMix } from './index'

const BLOCK = 4096

/** Holds what was asked for last, as recordings on disk do. */
class Windowed implements AudioSource {
  readonly channels = 1
  readonly frames: number
  readonly #whole: MemorySource
  #held = new Set<number>()

  constructor(samples: Float32Array) {
    this.#whole = new MemorySource([samples])
    this.frames = samples.length
  }

  read(channel: number, position: number, out: Float32Array, frames: number, into = 0): boolean {
    const asked = blocksOf(
      [{ fromFrame: position, toFrame: position + frames }],
      BLOCK,
      this.frames,
    )
    this.#whole.read(channel, position, out, frames, into)
    return asked.every((b) => this.#held.has(b))
  }

  view(): null {
    return null
  }

  async prefetch(ranges: readonly FrameRange[]): Promise<void> {
    this.#held = new Set(blocksOf(ranges, BLOCK, this.frames))
  }
}

describe('recordings that are read by windows', () => {
  it('serve several tracks at different places of the time line at once', async () => {
    const samples = whiteNoise(3 * RATE, 5, 0.1)
    const session = sessionOf(['a', 'b', 'c'])
    const hash = session.tracks[0].audio.hash
    const places = [0, 81_600, -52_800]
    const tracks = session.tracks.map((t, i) => ({
      ...t,
      audio: session.tracks[0].audio,
      offsetFrames: places[i],
    }))
    const plan = planOf({ ...session, tracks })
    const stretch = { fromFrame: 0, toFrame: 4 * RATE }
    const whole = renderMix(plan, new Map([[hash, new MemorySource([samples])]]), RATE, stretch)
    let at = 0
    let apart = 0
    const windows = new Map([[hash, new Windowed(samples)]])
    for await (const piece of streamMix(plan, windows, RATE, stretch)) {
      piece.forEach((channel, c) => {
        channel.forEach((v, i) => {
          apart = Math.max(apart, Math.abs(v - whole.channels[c][at + i]))
        })
      })
      at += piece[0].length
    }
    expect(at).toBe(stretch.toFrame)
    expect(apart).toBeLessThan(1e-7)
    expect(rms(whole.channels[0], 0, RATE)).toBeGreaterThan(0.01)
  })

  it.each([1, 10, 11, 24, 100])(
    'render %d tracks as the sum of them, at any rate and length',
    async (count) => {
      for (const [rate, frames] of [
        [44100, 3001],
        [48000, 70_000],
        [96000, 1024],
      ]) {
        const ids = Array.from({ length: count }, (_, i) => `t${i}`)
        const made = sessionOf(ids)
        const sounds = ids.map((_, i) => whiteNoise(frames, i + 1, 0.02))
        const tracks = made.tracks.map((t) => ({ ...t, audio: { ...t.audio, frames } }))
        const plan = planOf({ ...made, tracks, sampleRateHz: rate })
        const sources = new Map(made.tracks.map((t, i) => [t.audio.hash, new Windowed(sounds[i])]))
        let at = 0
        let worst = 0
        for await (const [left] of streamMix(plan, sources, rate, {
          fromFrame: 0,
          toFrame: frames,
        })) {
          for (let i = 0; i < left.length; i++) {
            let sum = 0
            for (const sound of sounds) sum += Math.SQRT1_2 * sound[at + i]
            worst = Math.max(worst, Math.abs(left[i] - sum))
          }
          at += left.length
        }
        expect(at).toBe(frames)
        expect(worst).toBeLessThan(1e-6)
      }
    },
  )

  it('are refused where they are not at hand: no gap becomes silence in a file', async () => {
    const samples = whiteNoise(RATE, 5, 0.1)
    const session = sessionOf(['a'])
    const hash = session.tracks[0].audio.hash
    const never = new Windowed(samples)
    never.prefetch = async () => {}
    const pieces = streamMix(planOf(session), new Map([[hash, never]]), RATE, {
      fromFrame: 0,
      toFrame: RATE,
    })
    await expect(pieces.next()).rejects.toThrow('not at hand')
  })

  it('touch the blocks that their ranges touch', () => {
    const range = fc
      .tuple(fc.integer({ min: -20, max: 60 }), fc.integer({ min: 0, max: 30 }))
      .map(([fromFrame, length]) => ({ fromFrame, toFrame: fromFrame + length }))
    fc.assert(
      fc.property(
        fc.array(range, { maxLength: 4 }),
        fc.integer({ min: 1, max: 9 }),
        (ranges, block) => {
          const frames = 40
          const wanted = new Set<number>()
          for (let f = 0; f < frames; f++) {
            const inside = ranges.some((r) => f >= r.fromFrame && f < r.toFrame)
            if (inside) wanted.add(Math.floor(f / block))
          }
          expect(blocksOf(ranges, block, frames)).toEqual([...wanted].sort((a, b) => a - b))
        },
      ),
    )
  })
})
