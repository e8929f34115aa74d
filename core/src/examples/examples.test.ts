import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { describe, expect, it } from 'vitest'
import { makeClip, readAudio, writeWav } from '../audio'
import { newBand } from '../filters'
import { filtered } from '../testing/filtered'
import { rms, sine, whiteNoise } from '../testing/signals'
import { measureFile } from './measure-file'
import { runChain } from './run-chain'
import { whoMasksWhom } from './who-masks-whom'

const RATE = 48000
const wav = (...channels: Float32Array[]) => writeWav(makeClip(RATE, channels), '32f')
const text = (path: string) => readFileSync(fileURLToPath(new URL(path, import.meta.url)), 'utf8')

describe('the examples of core/README.md', () => {
  const readme = text('../../README.md')

  it.each(['measure-file', 'run-chain', 'who-masks-whom'])('are the files: %s', (name) => {
    expect(readme).toContain(text(`./${name}.ts`))
  })

  it('measure a file', () => {
    const tone = sine(997, 4, RATE, 0.1)
    expect(measureFile(wav(tone, tone))).toBe('-20.0 LUFS, -20.0 dBTP')
  })

  it('run a chain', async () => {
    const noise = whiteNoise(2 * RATE, 5, 0.1)
    const { channels, frames } = readAudio(await runChain(wav(noise)))
    expect(frames).toBe(noise.length)
    // Half a second in, where both are in swing, a band around 300 Hz is lower, one at 3 kHz is not.
    const level = (signal: Float32Array, hz: number) => {
      const band = { ...newBand('band-pass', hz), q: 2 }
      return 20 * Math.log10(rms(filtered(signal, band).subarray(RATE / 2, (3 * RATE) / 2)))
    }
    expect(level(channels[0], 300) - level(noise, 300)).toBeLessThan(-2)
    expect(Math.abs(level(channels[0], 3000) - level(noise, 3000))).toBeLessThan(0.2)
  })

  it('tell who masks whom', () => {
    const quiet = sine(1000, 2, RATE, 0.01)
    const loud = whiteNoise(2 * RATE, 6, 0.1)
    const far = sine(8000, 2, RATE, 0.003)
    const [heard, byNoise, byFar] = whoMasksWhom([wav(quiet), wav(loud), wav(far)])
    expect(Number.parseInt(heard, 10)).toBeLessThan(40)
    expect(Number.parseInt(byNoise, 10)).toBeGreaterThan(60)
    expect(byFar).toBe('0 % lost to 2')
  })
})
