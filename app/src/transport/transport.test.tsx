// @vitest-environment happy-dom
import type { Edit } from '@sober-prism/core/session'
import { act, fireEvent, screen, within } from '@testing-library/react'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { KeptPassages, named } from './kept-passages'
import { Overview } from './overview'
import { TransportBar } from './transport-bar'

const RATE = 48000
const passage = { fromFrame: 10 * RATE, toFrame: 20 * RATE }
const chosen: Edit = { kind: 'set-session', change: { passage } }
const edge = (name: string) => screen.getByRole('slider', { name })

describe('the passage', () => {
  const shown = (...edits: Edit[]) => show(<Overview />, sessionOf(['Voice'], ...edits))

  it('has edges that keys move, finely with Shift, in steps that are undone', () => {
    const { session } = shown(chosen)
    const from = edge('Start of the passage')
    expect(from.getAttribute('aria-valuetext')).toBe('0:10.0')
    fireEvent.keyDown(from, { key: 'ArrowRight' })
    const coarse = session().passage?.fromFrame ?? 0
    expect(coarse).toBeGreaterThan(passage.fromFrame)
    fireEvent.keyDown(edge('Start of the passage'), { key: 'ArrowLeft', shiftKey: true })
    const fine = session().passage?.fromFrame ?? 0
    expect(fine).toBeLessThan(coarse)
    expect(coarse - fine).toBeLessThan(coarse - passage.fromFrame)
    fireEvent.keyDown(edge('End of the passage'), { key: 'Enter' })
    expect(session().passage?.toFrame).toBe(passage.toFrame)
  })

  it('never turns inside out, nor leaves the piece', () => {
    const { session } = shown(chosen)
    for (let i = 0; i < 40; i++) {
      fireEvent.keyDown(edge('Start of the passage'), { key: 'ArrowRight' })
      const { fromFrame, toFrame } = session().passage ?? passage
      expect(toFrame).toBeGreaterThan(fromFrame)
    }
    for (let i = 0; i < 80; i++) {
      fireEvent.keyDown(edge('End of the passage'), { key: 'ArrowRight' })
      expect(session().passage?.toFrame).toBeLessThanOrEqual(60 * RATE)
    }
  })

  it('is the whole piece where none is chosen', () => {
    shown()
    expect(edge('Start of the passage').getAttribute('aria-valuetext')).toBe('0:00.0')
    expect(edge('End of the passage').getAttribute('aria-valuetext')).toBe('1:00.0')
  })
})

describe('passages kept by name', () => {
  const open = async (...edits: Edit[]) => {
    const made = show(<KeptPassages />, sessionOf(['Voice'], ...edits))
    await made.user.click(screen.getByRole('button', { name: 'Saved passages' }))
    return made
  }

  it('keep the one of now once, and take it again', async () => {
    const { user, session } = await open(chosen)
    await user.click(screen.getByRole('menuitem', { name: 'Save this passage' }))
    expect(session().passages).toMatchObject([{ name: 'Passage', ...passage }])
    await user.click(screen.getByRole('button', { name: 'Saved passages' }))
    const again = screen.getByRole('menuitem', { name: 'Save this passage' })
    expect(again.getAttribute('aria-disabled')).toBe('true')
    screen.getByRole('menuitem', { name: 'Passage, 0:10.0 to 0:20.0' })
  })

  it('are gone to', async () => {
    const kept = { id: 'p', name: 'Chorus', fromFrame: 30 * RATE, toFrame: 40 * RATE }
    const { user, session } = await open({ kind: 'add-passage', passage: kept })
    await user.click(screen.getByRole('menuitem', { name: /^Chorus/ }))
    expect(session().passage).toEqual({ fromFrame: 30 * RATE, toFrame: 40 * RATE })
  })

  it('have names that no other has', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 12 }), fc.string({ maxLength: 8 }), (count, wish) => {
        const list: ReturnType<typeof named>[] = []
        for (let i = 0; i < count; i++) list.push(named(list, passage, wish))
        expect(new Set(list.map((p) => p.name)).size).toBe(count)
      }),
    )
  })
})

describe('the bar of time', () => {
  const shown = (tracks: string[], ...edits: Edit[]) =>
    show(<TransportBar />, sessionOf(tracks, ...edits))

  it('plays nothing where nothing is', () => {
    shown([])
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Play' }).disabled).toBe(true)
  })

  it('plays and stops by one button, and says what kept it from it', async () => {
    const { user, desk } = shown(['Voice'])
    await user.click(screen.getByRole('button', { name: 'Play' }))
    expect(desk.player.play).toHaveBeenCalledTimes(1)
    act(() => desk.player.playingSignal.set(true))
    await user.click(screen.getByRole('button', { name: 'Pause' }))
    expect(desk.player.pause).toHaveBeenCalledTimes(1)
  })

  it('loops, names the passage, and makes it the whole again', async () => {
    const { user, session } = shown(['Voice'], chosen)
    expect(screen.getByTestId('passage').textContent).toBe('passage 0:10.0 to 0:20.0')
    await user.click(screen.getByRole('checkbox', { name: 'Loop' }))
    await user.click(screen.getByRole('button', { name: 'Use the whole piece as passage' }))
    expect(session().passage).toBeNull()
    expect(screen.getByTestId('passage').textContent).toBe('passage: the whole piece')
  })

  it('tells gaps in the sound, and that it is prepared further ahead, at a place kept for that', async () => {
    const { desk, user } = shown(['Voice'])
    const place = screen.getByLabelText('Audio problems')
    expect(place.textContent).toBe('')
    act(() => desk.player.late.set({ gaps: 1, seconds: 0.01, aheadSeconds: null } as never))
    within(place).getByLabelText(/^1 dropout: computer less than 0\.1 s late$/)
    act(() => desk.player.late.set({ gaps: 2, seconds: 0.31, aheadSeconds: 0.5 } as never))
    act(() => desk.player.missed.set(3))
    expect(place.textContent).toBe('5 dropouts')
    const said =
      /^2 dropouts: computer 0\.3 s late; now buffering 0\.5 s; 3 dropouts: audio read too late$/
    await user.click(within(place).getByLabelText(said))
    expect(store.getState().interface.notice?.text).toMatch(said)
  })

  it('has meters that follow what sounds, and say when the peak is over', () => {
    const mix = { lufs: -14.2, truePeakDbtp: 0.4, levels: new Float64Array() }
    const { desk } = show(<TransportBar />, sessionOf(['Voice']), { mix } as never)
    const of = (name: string) => screen.getByText(name).parentElement as HTMLElement
    expect(of('I').textContent).toBe('I−14.2')
    expect(of('TP').dataset.over).toBe('true')
    expect(of('M').textContent).toBe('M–')
    act(() => desk.live.set({ momentaryLufs: -18.04, shortTermLufs: -19 } as never))
    expect(of('M').textContent).toBe('M−18.0')
    expect(of('S').textContent).toBe('S−19.0')
  })
})
