import type { Loop } from '@sober-prism/core/mix'
import { applyEdits, type Session, sessionFrames } from '@sober-prism/core/session'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { sessionOf } from '../../../core/src/testing/sessions'
import type { Rendition } from './desk'
import { HeardLoop } from './heard-loop'

/** A session whose passage goes from 1000 to 2000, with a reference of 5000 frames. */
function session(loop: boolean, own: { fromFrame: number; toFrame: number } | null): Session {
  const audio = { hash: 'f'.repeat(64), channels: 2, frames: 5000 }
  return applyEdits(sessionOf(['a']), [
    { kind: 'add-references', references: [{ id: 'r', name: 'R', audio }] },
    { kind: 'set-reference', reference: 'r', change: { passage: own } },
    { kind: 'set-session', change: { loop, passage: { fromFrame: 1000, toFrame: 2000 } } },
  ])
}
function player(positionFrames: number) {
  return {
    positionFrames,
    loop: null as Loop | null,
    end: null as number | null,
    seek(frame: number) {
      this.positionFrames = frame
    },
    setLoop(loop: Loop | null, end: number | null) {
      this.loop = loop
      this.end = end
    },
  }
}
const REFERENCE: Rendition = { kind: 'reference', reference: 'r', range: null }

describe('what loops while something is heard', () => {
  it('is the passage where it is to, and a region while that is heard', () => {
    const head = player(1500)
    const loop = new HeardLoop(head)
    loop.follow(session(true, null), null)
    expect(head.loop).toEqual({ fromFrame: 1000, toFrame: 2000 })
    const stretch = { fromFrame: 100, toFrame: 200 }
    const region = { kind: 'region', node: 'a', stretch, fromHz: 100, toHz: 200 } as const
    loop.follow(session(true, null), region)
    expect(head.loop).toEqual(stretch)
    loop.follow(session(false, null), null)
    expect(head.loop).toBeNull()
    expect(head.positionFrames).toBe(1500)
  })

  it('is the whole piece where no passage is chosen; without a loop the piece ends where it ends', () => {
    const head = player(0)
    const whole: Session = { ...session(true, null), passage: null }
    new HeardLoop(head).follow(whole, null)
    const end = sessionFrames(whole)
    expect([head.loop, head.end]).toEqual([{ fromFrame: 0, toFrame: end }, end])
    new HeardLoop(head).follow({ ...whole, loop: false }, null)
    expect([head.loop, head.end]).toEqual([null, end])
    // A reference has an end of its own.
    new HeardLoop(head).follow(whole, REFERENCE)
    expect(head.end).toBeNull()
  })

  it('is a reference’s own passage, into which one comes at the moment one was at', () => {
    const head = player(1700)
    const loop = new HeardLoop(head)
    // As long as 400 frames: the moment 700 frames into the passage is 300 into the second turn.
    loop.follow(session(true, { fromFrame: 3000, toFrame: 3400 }), REFERENCE)
    expect(head.loop).toEqual({ fromFrame: 1000, toFrame: 1400 })
    expect(head.positionFrames).toBe(1300)
    // The mix goes on from there, for its passage loops.
    loop.follow(session(true, null), null)
    expect(head.positionFrames).toBe(1300)
  })

  it('begins from anywhere else, and goes back there', () => {
    const head = player(4200)
    const loop = new HeardLoop(head)
    const open = session(false, null)
    loop.follow(open, REFERENCE)
    expect(head.positionFrames).toBe(1000)
    // Another step of the work changes nothing about where one is.
    head.positionFrames = 1234
    loop.follow(open, REFERENCE)
    expect(head.positionFrames).toBe(1234)
    loop.follow(open, null)
    expect(head.positionFrames).toBe(4200)
    loop.follow(open, null)
    expect(head.positionFrames).toBe(4200)
  })

  it('always has the play head in a reference’s loop while that is heard', () => {
    const stretches = fc
      .tuple(fc.nat(4900), fc.integer({ min: 1, max: 5000 }))
      .map(([fromFrame, length]) => ({ fromFrame, toFrame: fromFrame + length }))
    fc.assert(
      fc.property(fc.nat(9000), fc.option(stretches), fc.boolean(), (at, own, loops) => {
        const head = player(at)
        new HeardLoop(head).follow(session(loops, own), REFERENCE)
        const { fromFrame, toFrame } = head.loop ?? { fromFrame: 0, toFrame: 0 }
        expect(head.positionFrames).toBeGreaterThanOrEqual(fromFrame)
        expect(head.positionFrames).toBeLessThan(toFrame)
      }),
    )
  })
})
