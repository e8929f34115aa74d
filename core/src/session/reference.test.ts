import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { emptySession } from './defaults'
import { referencePassage } from './reference'
import type { Passage } from './schema'

const SESSION = emptySession('s', 'S', '2026-01-01T00:00:00.000Z', 48_000)
const ofFrames = (frames: number, passage: Passage | null) => ({
  id: 'r',
  name: 'R',
  audio: { hash: '0'.repeat(64), channels: 2, frames },
  passage,
})
const listened = (frames: number, own: Passage | null, session: Passage | null) =>
  referencePassage({ ...SESSION, passage: session }, ofFrames(frames, own))

describe('what of a reference is listened to', () => {
  it('is as much of its middle as the passage is long', () => {
    const passage = { fromFrame: 500, toFrame: 700 }
    expect(listened(1000, null, passage)).toEqual({ fromFrame: 400, toFrame: 600 })
  })

  it('is all of it where there is neither a passage nor a track', () => {
    expect(listened(1000, null, null)).toEqual({ fromFrame: 0, toFrame: 1000 })
  })

  it('is its own passage, as far as it reaches', () => {
    const passage = { fromFrame: 500, toFrame: 700 }
    const own = { fromFrame: 100, toFrame: 450 }
    expect(listened(1000, own, passage)).toEqual(own)
    expect(listened(300, own, passage)).toEqual({ fromFrame: 100, toFrame: 300 })
  })

  it('always lies within it, and is never nothing', () => {
    const stretches = fc
      .tuple(fc.nat(5000), fc.integer({ min: 1, max: 5000 }))
      .map(([fromFrame, length]) => ({ fromFrame, toFrame: fromFrame + length }))
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 3000 }),
        fc.option(stretches),
        fc.option(stretches),
        (frames, own, session) => {
          const { fromFrame, toFrame } = listened(frames, own, session)
          expect(fromFrame).toBeGreaterThanOrEqual(0)
          expect(toFrame).toBeGreaterThan(fromFrame)
          expect(toFrame).toBeLessThanOrEqual(frames)
        },
      ),
    )
  })
})
