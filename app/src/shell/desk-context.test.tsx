// @vitest-environment happy-dom
import { NOTHING_MEASURED } from '@sober-prism/engine'
import { act, screen } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { sessionOf, show } from '../testing/render'
import { useAnalysis, useHeard } from './desk-context'

const rendered = { mix: 0, work: 0 }
function OfMix() {
  const { mix } = useAnalysis('mix')
  rendered.mix++
  return <p data-testid="mix">{mix?.lufs ?? 'not measured'}</p>
}
function OfWork() {
  const { work, fresh } = useAnalysis('work', 'fresh')
  rendered.work++
  return <p data-testid="work">{work ? `${work.what}, ${work.share}` : `fresh: ${fresh}`}</p>
}

let seen = 0
function Heard() {
  const heard = useHeard()
  seen++
  return <p data-testid="heard">{heard?.rendition.kind ?? 'the session'}</p>
}

describe('what a part of the page follows of the measured', () => {
  it('is only what it names: progress draws no figure anew, nor a figure the progress', () => {
    const { state } = show(
      <>
        <OfMix />
        <OfWork />
      </>,
      sessionOf(['Voice']),
    )
    const before = { ...rendered }
    for (const share of [0.1, 0.2, 0.3]) {
      act(() => state.set({ ...state.value, work: { what: 'Measuring', share } }))
    }
    expect(screen.getByTestId('work').textContent).toBe('Measuring, 0.3')
    expect(rendered).toEqual({ mix: before.mix, work: before.work + 3 })
    const mix = { lufs: -16.5 } as (typeof state)['value']['mix']
    act(() => state.set({ ...state.value, mix }))
    expect(screen.getByTestId('mix').textContent).toBe('-16.5')
    expect(rendered).toEqual({ mix: before.mix + 1, work: before.work + 3 })
    act(() => state.set({ ...NOTHING_MEASURED, mix, fresh: true }))
    expect(screen.getByTestId('work').textContent).toBe('fresh: true')
    expect(rendered.mix).toBe(before.mix + 1)
  })
})

describe('what is heard in place of the session', () => {
  it('is one thing while one hunts, wherever the boost stands', () => {
    const { desk } = show(<Heard />, sessionOf(['Voice']))
    const hunt = (hz: number, node = 't0') =>
      act(() => {
        const rendition = { kind: 'hunt', at: { node, hz, q: 14, db: 6 } }
        desk.heard.set({ rendition, gainDb: 0 } as never)
      })
    hunt(1000)
    const begun = seen
    for (const hz of [1100, 1200, 1300]) hunt(hz)
    expect(seen).toBe(begun)
    hunt(1300, 't1')
    expect(seen).toBe(begun + 1)
    act(() => desk.heard.set(null))
    expect(screen.getByTestId('heard').textContent).toBe('the session')
  })
})
