// @vitest-environment happy-dom
import type { SourceReading } from '@sober-prism/core/findings'
import { act, screen } from '@testing-library/react'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { interfaceActions } from '../store/interface-slice'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { cleanActions } from './clean-slice'
import { HuntLayer } from './hunt-layer'
import { HuntTools } from './hunt-tools'
import { useHunt } from './use-hunt'

const bands = {
  frames: 0,
  secondsPerFrame: 0.04,
  mid: new Float32Array(),
  side: new Float32Array(),
}
const reading = { bands, rings: [] } as unknown as SourceReading

interface Made {
  readonly bands: readonly { readonly band: { hz: number; q: number; db: number } }[]
}

function Hunting() {
  const hunt = useHunt()
  return (
    <>
      <HuntTools />
      <HuntLayer scale={{ width: 600, height: 300, topDb: 12, bottomDb: -12 }} hunt={hunt} />
    </>
  )
}

describe('the hunt on the mix', () => {
  beforeEach(() => act(() => void store.dispatch(cleanActions.huntSwitched(false))))

  it('is measured when it is asked for, and cuts there', async () => {
    const { user, desk, session } = show(<Hunting />, sessionOf(['Voice']))
    let arrive = (_: SourceReading) => {}
    const source = vi.fn(() => new Promise<SourceReading>((resolve) => (arrive = resolve)))
    const hunt = vi.fn((at: unknown) =>
      desk.heard.set({ rendition: { kind: 'hunt', at } } as never),
    )
    Object.assign(desk, { hunt })
    Object.assign(desk.ask, { source })
    act(() => void store.dispatch(interfaceActions.nodeChosen('mix')))
    expect(source).not.toHaveBeenCalled()
    await user.click(screen.getByRole('button', { name: 'Hunt by ear' }))
    expect(source).toHaveBeenCalledWith({ node: 'mix' }, expect.anything())
    screen.getByText('Measuring Mix…')
    // Nothing is heard yet that could be cut.
    act(() => screen.getByRole('slider', { name: 'Boost of the hunt' }).focus())
    await user.keyboard('{Enter}')
    expect(hunt).not.toHaveBeenCalled()
    expect(session().mix.chain.treatments).toEqual([])
    await act(async () => arrive(reading))
    expect(hunt).toHaveBeenLastCalledWith(expect.objectContaining({ node: 'mix' }))
    await screen.findByText(/Move with pointer or arrow keys/)
    act(() => screen.getByRole('slider', { name: 'Boost of the hunt' }).focus())
    await user.keyboard('{Enter}')
    expect(session().mix.chain.treatments).toMatchObject([
      { kind: 'equaliser', stage: 'clean', params: { bands: [{ band: { db: -6 } }] } },
    ])
  })

  it('cuts just where it stands, as deep and as narrow as was set, and offers what was measured beside it', async () => {
    const ring = { hz: 940, q: 25, db: 14, score: 2, likelihood: 0.9 }
    const tracks = new Map([['t0', { reading, lufs: -20, levels: new Float64Array() }]])
    const measured = { tracks, rings: new Map([['t0', [ring]]]) } as never
    const { user, desk, session } = show(<Hunting />, sessionOf(['Voice']), measured)
    Object.assign(desk, {
      hunt: (at: unknown) => desk.heard.set({ rendition: { kind: 'hunt', at } } as never),
    })
    await user.click(screen.getByRole('button', { name: 'Hunt by ear' }))
    const depth = screen.getByRole('textbox', { name: 'Cut, dB' })
    await user.clear(depth)
    await user.type(depth, '-8{Enter}')
    act(() => void store.dispatch(cleanActions.widthChanged(12)))
    const boost = screen.getByRole('slider', { name: 'Boost of the hunt' })
    // It begins where it is likeliest.
    expect(boost.getAttribute('aria-valuenow')).toBe('940')
    for (;;) {
      const hz = Number(boost.getAttribute('aria-valuenow'))
      if (hz >= 944) break
      act(() => boost.focus())
      await user.keyboard('{Shift>}{ArrowRight}{/Shift}')
      await act(() => new Promise((resolve) => requestAnimationFrame(() => resolve(null))))
    }
    const at = (desk.heard.value as never as { rendition: { at: { hz: number } } }).rendition.at.hz
    expect(Math.abs(at - 945)).toBeLessThan(4)
    await user.keyboard('{Enter}')
    const cut = () =>
      (session().tracks[0].chain.treatments[0].params as never as Made).bands[0].band
    expect(cut()).toMatchObject({ hz: Number(at.toPrecision(5)), q: 12, db: -8 })
    screen.getByText(/Measured there: a resonance at 940 Hz, Q 25, 14\.0 dB high/)
    await user.click(screen.getByRole('button', { name: 'Use −12.0 dB at 940 Hz, Q 25' }))
    expect(cut()).toMatchObject({ hz: 940, q: 25, db: -12 })
  })

  it('says why it cannot be measured', async () => {
    const { user, desk } = show(<Hunting />, sessionOf(['Voice']))
    const source = vi.fn(async () => {
      throw new Error('It is gone.')
    })
    Object.assign(desk.ask, { source })
    act(() => void store.dispatch(interfaceActions.nodeChosen('mix')))
    await user.click(screen.getByRole('button', { name: 'Hunt by ear' }))
    await vi.waitFor(() => expect(store.getState().interface.notice?.text).toMatch(/gone/))
  })
})
