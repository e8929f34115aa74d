// @vitest-environment happy-dom
import { screen } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
import { sessionOf, show } from '../testing/render'
import { NullTest } from './null-test'
import type { ComparedState } from './use-states'

vi.mock('./null-over-time', () => ({ default: () => null }))

const session = sessionOf(['Voice', 'Tuba'])
const states: ComparedState[] = [
  { id: 'came', sign: '−', name: 'As it came', isWorkedIn: false, session },
  { id: 'stands', sign: '', name: 'What stands', isWorkedIn: true, session },
]
const answer = {
  verdict: 'The same to -120 dB.',
  residueLufs: null,
  residue: [new Float32Array(10)],
  reading: {
    nullDb: -120,
    delayFrames: 0,
    gainDb: -0.3,
    bands: [{ hz: 1000, db: -120, levelDb: 0 }],
    overTime: [{ seconds: 0, db: -120 }],
  },
}

describe('the null test', () => {
  it('takes one from the other as asked, and says what is left', async () => {
    const { user, desk } = show(<NullTest states={states} />, session)
    desk.ask.nullOf.mockResolvedValue(answer)
    await user.selectOptions(screen.getByLabelText('First'), 'Tuba, treated')
    await user.selectOptions(screen.getByLabelText('Second'), 'Tuba, untreated')
    await user.click(screen.getByRole('checkbox', { name: 'Line up' }))
    await user.click(screen.getByRole('button', { name: 'Test' }))
    expect((await screen.findByRole('status')).textContent).toBe('The same to −120 dB.')
    expect(desk.ask.nullOf.mock.calls[0][0]).toEqual({
      first: { kind: 'node', node: 't1', tap: 'chain' },
      second: { kind: 'node', node: 't1', tap: 'recorded' },
      align: false,
      gain: true,
    })
    expect(screen.getByText(/moved 0\.00 samples later and raised by −0\.30 dB/)).toBeTruthy()
    expect(
      screen.getByRole<HTMLButtonElement>('button', { name: 'Listen to what is left' }).disabled,
    ).toBe(true)
  })

  it('says where audio is missing', async () => {
    const { user } = show(<NullTest states={states} />, session)
    await user.click(screen.getByRole('button', { name: 'Test' }))
    expect(await screen.findByText('Its audio is missing. Import it again.')).toBeTruthy()
  })
})
