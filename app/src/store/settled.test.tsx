// @vitest-environment happy-dom
import { act, screen } from '@testing-library/react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { sessionOf, show } from '../testing/render'
import { sessionActions } from './session-slice'
import { useSettledSession } from './settled'
import { store } from './store'

function Fader() {
  return <output>{useSettledSession().tracks[0].faderDb}</output>
}
const drag = (faderDb: number) =>
  act(() => {
    const edits = [{ kind: 'set-node', node: 't0', change: { faderDb } } as const]
    store.dispatch(sessionActions.edited(edits))
  })
const shown = () => Number(screen.getByRole('status').textContent)
const later = (ms: number) => act(() => vi.advanceTimersByTime(ms))
const point = (type: string) => act(() => void window.dispatchEvent(new Event(type)))

describe('a session that has settled', () => {
  beforeEach(() => vi.useFakeTimers())
  afterEach(() => {
    point('pointerup')
    vi.useRealTimers()
  })

  it('is seen at once after a pause, and then when it rests', () => {
    show(<Fader />, sessionOf(['Voice']))
    drag(-1)
    expect(shown()).toBe(-1)
    drag(-2)
    expect(shown()).toBe(-1)
    later(200)
    expect(shown()).toBe(-2)
  })

  it('is seen at once after a choice from a list, whose end of the press the page is not told', () => {
    show(<Fader />, sessionOf(['Voice']))
    point('pointerdown')
    point('change')
    drag(-1)
    expect(shown()).toBe(-1)
  })

  it('rests only for long while a pointer is held down, and at once when it is let go', () => {
    show(<Fader />, sessionOf(['Voice']))
    point('pointerdown')
    // What is pressed takes the focus from something else.
    act(() => void document.body.dispatchEvent(new Event('blur')))
    for (const db of [-1, -2, -3, -4]) {
      drag(db)
      later(300)
      expect(shown()).toBe(0)
    }
    later(800)
    expect(shown()).toBe(-4)
    drag(-5)
    drag(-6)
    point('pointerup')
    later(200)
    expect(shown()).toBe(-6)
  })
})
