import { PLAIN_LEVELS } from '@sober-prism/core/playback'
import { emptySession } from '@sober-prism/core/session'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { PlaybackChoice, ReadyPlayback } from '../questions/playback'
import { ElsewhereListening } from './elsewhere'

const choice = {
  kind: 'recorded',
  id: 'a',
  name: 'Shed',
  sampleRateHz: 48000,
  channels: [Float32Array.of(1)],
} satisfies PlaybackChoice
const ready: ReadyPlayback = {
  response: { basis: 'left-right', kernels: [Float32Array.of(1), null], noise: null },
  levels: { ...PLAIN_LEVELS, gain: 0.5 },
}

describe('listening elsewhere', () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => void vi.useRealTimers())
  const settled = () => vi.advanceTimersByTimeAsync(1000)

  it('is heard once its levels are known, and anew when the session stands still', async () => {
    const prepare = vi.fn(async () => ready)
    const play = vi.fn()
    const elsewhere = new ElsewhereListening(prepare, play)
    elsewhere.update(emptySession('s', 'Session', '2026-01-01', 48000))
    elsewhere.set(choice)
    expect(elsewhere.state.value?.gainDb).toBeNull()
    await settled()
    expect(elsewhere.state.value?.gainDb).toBeCloseTo(-6.02, 2)
    expect(play).toHaveBeenCalledTimes(1)
    const key = play.mock.calls[0][0].key
    for (let i = 0; i < 5; i++)
      elsewhere.update({ ...emptySession('s', 'Session', '2026-01-01', 48000), name: `${i}` })
    await settled()
    expect(prepare).toHaveBeenCalledTimes(2)
    expect(play.mock.calls[1][0].key).toBe(key)
    elsewhere.set(null)
    expect(play).toHaveBeenLastCalledWith(null)
  })

  it('lets an answer go that came for another one, and says what went wrong', async () => {
    const answers: ((ready: ReadyPlayback) => void)[] = []
    const play = vi.fn()
    const elsewhere = new ElsewhereListening(
      () => new Promise((resolve) => answers.push(resolve)),
      play,
    )
    elsewhere.update(emptySession('s', 'Session', '2026-01-01', 48000))
    elsewhere.set(choice)
    elsewhere.set(null)
    answers[0](ready)
    await settled()
    expect(play.mock.calls.every(([through]) => through === null)).toBe(true)
    const failing = new ElsewhereListening(async () => {
      throw new Error('no memory')
    }, play)
    failing.update(emptySession('s', 'Session', '2026-01-01', 48000))
    failing.set(choice)
    await settled()
    expect(failing.state.value?.trouble).toContain('no memory')
  })
})
