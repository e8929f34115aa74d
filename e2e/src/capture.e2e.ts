import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeClip, writeWav } from '@sober-prism/core/audio'
import { measureProfile, THIRDS } from '@sober-prism/core/match'
import { parseProfile } from '@sober-prism/core/session'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { bytesOf, freshPage } from './session-page'
import { noiseFile } from './sounds'

const RATE = 48_000
const folder = mkdtempSync(join(tmpdir(), 'prism-live-'))
let browser: Browser
let page: Page
let problems: string[]
/** Steady noise that falls by 3 dB per octave, over and over. */
const heard = (() => {
  const rows = new Float64Array(12)
  let seed = 1
  const random = () => {
    seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff
    return seed / 0x7fffffff - 0.5
  }
  return Float32Array.from({ length: 2 * RATE }, (_, i) => {
    rows[Math.min(11, Math.clz32(i & -i) ^ 31)] = random()
    return 0.05 * rows.reduce((a, v) => a + v, random())
  })
})()

beforeAll(async () => {
  const file = join(folder, 'input.wav')
  writeFileSync(file, writeWav(makeClip(RATE, [heard, heard]), 16))
  browser = await launch([
    '--use-fake-device-for-media-stream',
    '--use-fake-ui-for-media-stream',
    `--use-file-for-fake-audio-capture=${file}`,
  ])
  ;({ page, problems } = await freshPage(browser))
  await page.getByRole('button', { name: 'New session' }).click()
  await page.waitForURL(/\/gather$/)
  await page.getByTestId('track-files').setInputFiles([noiseFile('T0.wav', 1, { seconds: 2 })])
  await page.getByRole('button', { name: 'Clear this list' }).waitFor({ timeout: 30_000 })
  await page.getByRole('link', { name: 'Shape', exact: true }).click()
})
afterAll(async () => {
  await browser.close()
  rmSync(folder, { recursive: true })
})

describe('listening to an input', () => {
  it('refuses under eight seconds, with the reason', async () => {
    await page.getByRole('button', { name: 'From an input …' }).click()
    await page.getByText(/^Listening\. 0:02/).waitFor({ timeout: 20_000 })
    await page.getByRole('button', { name: 'Keep its profile' }).click()
    await page.getByText(/A profile needs 8 s of sound at least; there are \d\.\d s\./).waitFor()
    await page.getByText(/s more are needed/).waitFor()
    await page.getByRole('button', { name: 'Pause listening' }).click()
    const at = await page.getByText(/^Paused\./).textContent()
    await page.waitForTimeout(700)
    expect(await page.getByText(/^Paused\./).textContent()).toBe(at)
    await page.getByRole('button', { name: 'Go on' }).click()
  })

  it('keeps the profile of what was heard, and says when it is settled', async () => {
    await page.getByText(/^Settled: it moved by/).waitFor({ timeout: 20_000 })
    await page.getByLabel('Name of what is heard').fill('The input')
    await page.getByRole('button', { name: 'Keep its profile' }).click()
    await page.getByLabel('Name of The input').waitFor()
    const waiting = page.waitForEvent('download')
    await page.getByRole('button', { name: 'Write The input as a file' }).click()
    const made = parseProfile(new TextDecoder().decode(await bytesOf(await waiting)))
    const own = measureProfile(
      makeClip(RATE, [
        Float32Array.from({ length: 5 * heard.length }, (_, i) => heard[i % heard.length]),
      ]),
      { name: 'own' },
    )
    const at = (hz: number) => THIRDS.findIndex((b) => b.toHz > hz)
    const off = THIRDS.map((_, i) => made.thirds.meanDb[i] - own.thirds.meanDb[i]).slice(
      at(200),
      at(10_000),
    )
    const mean = off.reduce((a, v) => a + v, 0) / off.length
    for (const v of off) expect(Math.abs(v - mean)).toBeLessThan(0.3)
  })

  it('takes profiles of audio files too, and one that is too short stops no other', async () => {
    await page
      .getByLabel('Profile files')
      .setInputFiles([
        noiseFile('Brief.wav', 2, { seconds: 3 }),
        noiseFile('Hall.wav', 3, { seconds: 9 }),
      ])
    await page.getByLabel('Name of Hall').waitFor({ timeout: 20_000 })
    await page.getByText(/^Brief\.wav: A profile needs 8 s/).waitFor()
    expect(await page.getByLabel('Name of Brief').count()).toBe(0)
  })

  it('leaves no sound behind', async () => {
    const bytes = await page.evaluate(async () => {
      const { usageDetails } = (await navigator.storage.estimate()) as {
        usageDetails?: { indexedDB?: number }
      }
      return usageDetails?.indexedDB ?? 0
    })
    // The imported track of two seconds is there; eight seconds of stereo would be three megabytes more.
    expect(bytes).toBeLessThan(2_500_000)
    expect(problems).toEqual([])
  })
})
