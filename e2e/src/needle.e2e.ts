import { makeClip, writeWav } from '@sober-prism/core/audio'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { freshPage, recordFrom } from './session-page'
import { file } from './sounds'

const RATE = 48_000
const [TONE_HZ, BESIDE_HZ] = [1000, 1030]
let browser: Browser
let page: Page
let problems: string[]

/** Two tones, each of whole periods in a second, 30 Hz apart. */
const tones = Float32Array.from({ length: 8 * RATE }, (_, i) => {
  const turn = (2 * Math.PI * i) / RATE
  return 0.2 * Math.sin(TONE_HZ * turn) + 0.2 * Math.sin(BESIDE_HZ * turn)
})

beforeAll(async () => {
  browser = await launch()
  ;({ page, problems } = await freshPage(browser))
  await page.getByRole('button', { name: 'New session' }).click()
  await page.waitForURL(/\/gather$/)
  const made = file('Tones.wav', writeWav(makeClip(RATE, [tones]), '32f'))
  await page.getByTestId('track-files').setInputFiles([made])
  await page.getByRole('button', { name: 'Clear list' }).waitFor({ timeout: 30_000 })
  await page.getByRole('link', { name: 'Clean', exact: true }).click()
  await page.getByRole('toolbar', { name: 'Hunt' }).waitFor()
})
afterAll(() => browser.close())

/** Amplitude of a tone in a second of what is heard, by a Blackman window over whole periods, in dB. */
async function levels(): Promise<readonly number[]> {
  const [left] = await recordFrom(page, 3 * RATE, 1)
  const frames = left.length
  return [TONE_HZ, BESIDE_HZ].map((hz) => {
    let [re, im, sum] = [0, 0, 0]
    for (let i = 0; i < frames; i++) {
      const at = (2 * Math.PI * i) / frames
      const w = 0.42 - 0.5 * Math.cos(at) + 0.08 * Math.cos(2 * at)
      const turn = (2 * Math.PI * hz * i) / RATE
      re += w * left[i] * Math.cos(turn)
      im -= w * left[i] * Math.sin(turn)
      sum += w
    }
    return 20 * Math.log10((2 * Math.hypot(re, im)) / sum)
  })
}

describe('one needle', () => {
  it('takes a tone away by more than 60 dB, and leaves one 30 Hz beside it', async () => {
    const before = await levels()
    await page.getByRole('button', { name: 'Add a treatment to Clean' }).click()
    await page.getByRole('menuitem', { name: 'Drawn curve' }).click()
    const taps = page.getByLabel('Length, taps')
    await taps.fill('65536')
    await taps.press('Enter')
    await page.getByRole('button', { name: 'Notches…' }).click()
    const dialog = page.getByRole('dialog', { name: 'Notches' })
    await dialog.getByLabel('Tone or note, Hz').fill(`${TONE_HZ}`)
    await dialog.getByLabel('Tone or note, Hz').press('Enter')
    await dialog.getByLabel('Harmonics').fill('1')
    await dialog.getByLabel('Harmonics').press('Enter')
    await dialog.getByRole('button', { name: 'Add notch' }).click()
    await page
      .getByText(/latency .* ms/)
      .first()
      .waitFor({ timeout: 20_000 })
    // The long filter is designed in a worker.
    await expect
      .poll(async () => (await levels())[0] - before[0], { timeout: 20_000 })
      .toBeLessThan(-60)
    const after = await levels()
    expect(Math.abs(after[1] - before[1])).toBeLessThan(0.5)
    expect(problems).toEqual([])
  })
})
