// @vitest-environment happy-dom
import { newBand } from '@sober-prism/core/filters'
import type { Edit } from '@sober-prism/core/session'
import { newChainBand } from '@sober-prism/core/treatments'
import { act, screen } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
import { interfaceActions } from '../store/interface-slice'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { ChainForOthers } from './chain-for-others'

const bell: Edit = {
  kind: 'add-band',
  node: 't0',
  stage: 'shape',
  treatment: null,
  newTreatment: 'e',
  chainBand: newChainBand('b', { ...newBand('bell', 300), db: -3, q: 1 }),
}
const choose = (node: string) => act(() => void store.dispatch(interfaceActions.nodeChosen(node)))

describe('a chain for other programs', () => {
  it('is of what is chosen, in the form that is asked for, with what it leaves out', async () => {
    const { user, desk } = show(<ChainForOthers />, sessionOf(['Voice', 'Guitar'], bell))
    desk.ask.chainFor.mockImplementation(async (args) => ({
      kind: 'text',
      text: `as ${(args as { form: string }).form}`,
      worstDeviationDb: 0.0004,
      notSaid: ['Leveller: in words only'],
    }))
    choose('t1')
    expect(await screen.findByText(/^The chain of Guitar is empty/)).toBeTruthy()
    choose('t0')
    expect((await screen.findByLabelText('Text')).textContent).toBe('as text')
    await user.selectOptions(screen.getByLabelText('Form'), 'Command line for sox')
    await vi.waitFor(() => expect(screen.getByLabelText('Text').textContent).toBe('as sox'))
    expect(screen.getByRole('status').textContent).toMatch(/^Less than 0\.001 dB from the chain/)
    expect(screen.getByText('Leveller: in words only')).toBeTruthy()
  })

  it('of an impulse response tells how near it comes', async () => {
    const { user, desk } = show(<ChainForOthers />, sessionOf(['Voice'], bell))
    choose('t0')
    desk.ask.chainFor.mockResolvedValue({
      kind: 'impulse',
      clip: { sampleRateHz: 48000, frames: 512, channels: [new Float32Array(512)] },
      latencyFrames: 0,
      nullDb: -141,
      notSaid: [],
    })
    await user.selectOptions(await screen.findByLabelText('Form'), 'Impulse response (WAV)')
    expect(await screen.findByText(/^512 samples, 0 before the impulse; null against/)).toBeTruthy()
    expect(screen.getByRole('button', { name: 'Download' })).toBeTruthy()
  })
})
