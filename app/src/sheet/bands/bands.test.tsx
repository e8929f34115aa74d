// @vitest-environment happy-dom
import { newBand } from '@sober-prism/core/filters'
import type { Edit } from '@sober-prism/core/session'
import { newChainBand, newTreatment } from '@sober-prism/core/treatments'
import { act, fireEvent, render, screen } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
import { interfaceActions } from '../../store/interface-slice'
import { store } from '../../store/store'
import { sessionOf, show } from '../../testing/render'
import { EqualiserSheet } from '../equaliser-sheet'
import { useDrag } from '../layers/mark-handles'

const mark = (id: string, hz: number, db: number) =>
  newChainBand(id, { ...newBand('bell', hz), db, q: 1 })
const params = {
  phase: 'minimum' as const,
  bands: [mark('a', 200, -2), mark('b', 1000, -4), mark('c', 5000, 3)],
}
const edits: Edit[] = [
  {
    kind: 'add-treatment',
    node: 't0',
    treatment: newTreatment('equaliser', 'e', 'fit', params),
    before: null,
  },
]
const shown = () => show(<EqualiserSheet />, sessionOf(['Voice', 'Guitar'], ...edits))
const bandsOf = (session: ReturnType<typeof sessionOf>, track = 0) =>
  session.tracks[track].chain.treatments.flatMap((t) =>
    t.kind === 'equaliser' ? t.params.bands : [],
  )
const flag = (letter: string) => screen.getByRole('slider', { name: `Band ${letter}` })

describe('several bands at once', () => {
  it('are chosen with Ctrl, moved in proportion as one step, and removed together', async () => {
    const { user, session } = shown()
    fireEvent.pointerDown(flag('a'), { button: 0, pointerId: 1 })
    fireEvent.pointerDown(flag('b'), { button: 0, pointerId: 1, ctrlKey: true })
    screen.getByText('and 1 more')
    act(() => flag('b').focus())
    await user.keyboard('{ArrowUp}{ArrowRight}{PageUp}')
    const values = () => bandsOf(session()).map(({ band }) => [band.hz, band.db, band.q])
    expect(values()).toEqual([
      [211.8, -1.5, 1.125],
      [1059, -3.5, 1.125],
      [5000, 3, 1],
    ])
    await user.keyboard('{Delete}')
    expect(bandsOf(session()).map((m) => m.id)).toEqual(['c'])
  })

  it('are all chosen by Ctrl A, and one alone again by Escape', async () => {
    const { user } = shown()
    act(() => flag('c').focus())
    await user.keyboard('{Control>}a{/Control}')
    expect(store.getState().interface.alsoBands).toEqual(['b', 'c'])
    await user.keyboard('{Escape}')
    expect([store.getState().interface.bandId, store.getState().interface.alsoBands]).toEqual([
      'c',
      [],
    ])
  })

  it('are copied and pasted into another chain', () => {
    const { session } = shown()
    const clipboard = { text: '' }
    const clipboardData = {
      setData: (_: string, text: string) => Object.assign(clipboard, { text }),
      getData: () => clipboard.text,
    }
    const happen = (kind: 'copy' | 'paste') => {
      const event = new Event(kind, { bubbles: true, cancelable: true })
      act(() => void document.body.dispatchEvent(Object.assign(event, { clipboardData })))
    }
    act(() => void store.dispatch(interfaceActions.bandsChosen(['a', 'c'])))
    happen('copy')
    act(() => void store.dispatch(interfaceActions.nodeChosen('t1')))
    happen('paste')
    expect(bandsOf(session(), 1).map(({ band }) => [band.hz, band.db])).toEqual([
      [200, -2],
      [5000, 3],
    ])
    expect(session().tracks[1].chain.treatments).toHaveLength(1)
    clipboard.text = '{"version":1,"bands":[{"type":"bell"}]}'
    happen('paste')
    expect(store.getState().interface.notice?.text).toMatch(/EQ file at bands\[0\]/)
    expect(bandsOf(session(), 1)).toHaveLength(2)
  })
})

/** Something to be dragged from (100, 100); tells where it is taken. */
function Dragged({ onMove }: { onMove: (x: number, y: number) => void }) {
  const drag = useDrag(() => {}, onMove)
  return <div data-testid="dragged" {...drag(100, 100)} />
}

describe('dragging', () => {
  it('goes along one axis alone with Alt, and a tenth as far with Shift', () => {
    const onMove = vi.fn()
    render(<Dragged onMove={onMove} />)
    const target = screen.getByTestId('dragged')
    const drag = (to: [number, number], held: object = {}) => {
      fireEvent.pointerDown(target, { button: 0, pointerId: 1, clientX: 7, clientY: 7 })
      fireEvent.pointerMove(target, { pointerId: 1, clientX: to[0], clientY: to[1], ...held })
      fireEvent.pointerUp(target, { pointerId: 1 })
      return onMove.mock.lastCall?.slice(0, 2)
    }
    expect(drag([47, 27])).toEqual([140, 120])
    expect(drag([47, 27], { altKey: true })).toEqual([140, 100])
    expect(drag([17, 27], { altKey: true })).toEqual([100, 120])
    expect(drag([47, 27], { shiftKey: true })).toEqual([104, 102])
  })
})

describe('a flag', () => {
  it('gets narrower by the wheel', () => {
    const { session } = shown()
    fireEvent.wheel(flag('b'), { deltaY: -100 })
    fireEvent.wheel(flag('b'), { deltaY: -100 })
    expect(bandsOf(session())[1].band.q).toBe(1.266)
    expect(store.getState().session.past).toHaveLength(1)
  })
})
