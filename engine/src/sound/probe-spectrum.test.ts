import { testSignal } from '@sober-prism/core/signals'
import { describe, expect, it } from 'vitest'
import {
  PROBE_RESOLUTIONS,
  type ProbeResolution,
  ProbeSpectrum,
  probeBands,
} from './probe-spectrum'

const sampleRateHz = 48000
const STEP = 1920

/** The last reading of a running spectrum over a whole signal. */
function run(
  signal: Float32Array,
  settings: ConstructorParameters<typeof ProbeSpectrum>[1],
): Float32Array {
  const spectrum = new ProbeSpectrum(sampleRateHz, settings)
  let last: Float32Array = new Float32Array()
  for (let end = spectrum.frames; end <= signal.length; end += STEP) {
    last = spectrum.next(
      (out) => out.set(signal.subarray(end - out.length, end)),
      STEP / sampleRateHz,
    )
  }
  return last
}

const resolutions = Object.keys(PROBE_RESOLUTIONS) as ProbeResolution[]

describe('a running spectrum', () => {
  it.each(resolutions)('shows a sine at its level within 0.1 dB, %s', (resolution) => {
    const bands = probeBands(resolution)
    for (const band of bands.filter((b) => b.hz > 500 && b.hz < 16000)) {
      const settings = { sampleRateHz, seconds: 0.5, levelDb: -12 }
      const [samples] = testSignal({ kind: 'sine', hz: band.hz }, settings).channels
      const levels = run(samples.subarray(0, 22000), {
        resolution,
        speed: 'fast',
        show: 'peak',
      })
      expect(Math.abs(levels[bands.indexOf(band)] + 15.01)).toBeLessThan(0.1)
    }
  })

  it.each(resolutions)(
    'shows pink noise level within 1 dB of its mean over two seconds, %s',
    (resolution) => {
      const bands = probeBands(resolution)
      const pink = testSignal({ kind: 'pink-noise' }, { sampleRateHz, seconds: 14, levelDb: -20 })
      const levels = [
        ...run(pink.channels[0], { resolution, speed: 'slow', show: 'average' }),
      ].filter((_, b) => bands[b].hz > 1000 && bands[b].hz < 16000)
      const mean = levels.reduce((a, b) => a + b, 0) / levels.length
      for (const level of levels) expect(Math.abs(level - mean)).toBeLessThan(1)
    },
  )

  it('falls with its time constant when the sound ends, and peaks fall slower', () => {
    const sound = testSignal({ kind: 'sine', hz: 1000 }, { sampleRateHz, seconds: 1, levelDb: 0 })
    const ended = new Float32Array(sampleRateHz * 1.6)
    ended.set(sound.channels[0])
    const fallen = (speed: 'fast' | 'medium', show: 'average' | 'peak') =>
      Math.max(...run(ended, { resolution: 'coarse', speed, show }))
    // 0.6 s less the window: about 10 time constants of 50 ms, less than two of 300 ms.
    expect(fallen('fast', 'average')).toBeLessThan(-35)
    expect(fallen('medium', 'average')).toBeGreaterThan(-14)
    expect(fallen('medium', 'peak')).toBeGreaterThan(fallen('medium', 'average'))
  })
})
