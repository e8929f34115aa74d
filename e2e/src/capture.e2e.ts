import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeClip, writeWav } from '@sober-prism/core/audio'
import { measureProfile, THIRDS } from '@sober-prism/core/match'
import { parseProfile } from '@sober-prism/core/session'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { launch, launchAudible } from './browser'
import { bytesOf, freshPage, unfold } from './session-page'
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
  ;({ page, problems } = await openShape(browser))
})
afterAll(async () => {
  await browser.close()
  rmSync(folder, { recursive: true })
})

/** A session of one track, at the profiles of Shape. */
async function openShape(on: Browser): Promise<{ page: Page; problems: string[] }> {
  const fresh = await freshPage(on)
  await fresh.page.getByRole('button', { name: 'New session' }).click()
  await fresh.page.waitForURL(/\/gather$/)
  const files = [noiseFile('T0.wav', 1, { seconds: 2 })]
  await fresh.page.getByTestId('track-files').setInputFiles(files)
  await fresh.page.getByRole('button', { name: 'Clear list' }).waitFor({ timeout: 30_000 })
  await fresh.page.getByRole('link', { name: 'Shape', exact: true }).click()
  await unfold(fresh.page, 'Profiles')
  return fresh
}

/** Keeps the profile of what is heard, and reads how far its thirds are from those of the sound itself. */
async function keptAgainstOwn(on: Page, name: string): Promise<number[]> {
  await on.getByLabel('Name of the profile').fill(name)
  await on.getByRole('button', { name: 'Save profile', exact: true }).click()
  await on.getByLabel(`Name of ${name}`).waitFor()
  const waiting = on.waitForEvent('download')
  await on.getByRole('button', { name: `Export ${name}` }).click()
  const made = parseProfile(new TextDecoder().decode(await bytesOf(await waiting)))
  const long = Float32Array.from({ length: 5 * heard.length }, (_, i) => heard[i % heard.length])
  const own = measureProfile(makeClip(RATE, [long]), { name: 'own' })
  const at = (hz: number) => THIRDS.findIndex((b) => b.toHz > hz)
  const off = THIRDS.map((_, i) => made.thirds.meanDb[i] - own.thirds.meanDb[i])
  const judged = off.slice(at(200), at(10_000))
  const mean = judged.reduce((a, v) => a + v, 0) / judged.length
  return judged.map((v) => Math.abs(v - mean))
}

describe('listening to an input', () => {
  it('refuses under eight seconds, with the reason', async () => {
    await page.getByRole('button', { name: 'From an input…' }).click()
    await page.getByText(/^Listening\. 0:02/).waitFor({ timeout: 20_000 })
    await page.getByRole('button', { name: 'Save profile', exact: true }).click()
    await page.getByText(/A profile needs at least 8 s of sound; this has \d\.\d s\./).waitFor()
    await page.getByText(/s more needed/).waitFor()
    await page.getByRole('button', { name: 'Pause listening' }).click()
    const at = await page.getByText(/^Paused\./).textContent()
    await page.waitForTimeout(700)
    expect(await page.getByText(/^Paused\./).textContent()).toBe(at)
    await page.getByRole('button', { name: 'Resume' }).click()
  })

  it('keeps the profile of what was heard, and says when it is settled', async () => {
    await page.getByText(/^Settled: \d\.\d dB/).waitFor({ timeout: 20_000 })
    for (const off of await keptAgainstOwn(page, 'The input')) expect(off).toBeLessThan(0.3)
  })

  it('takes profiles of audio files too, and one that is too short stops no other', async () => {
    await page
      .getByLabel('Profile files')
      .setInputFiles([
        noiseFile('Brief.wav', 2, { seconds: 3 }),
        noiseFile('Hall.wav', 3, { seconds: 9 }),
      ])
    await page.getByLabel('Name of Hall').waitFor({ timeout: 20_000 })
    await page.getByText(/^Brief\.wav: A profile needs at least 8 s/).waitFor()
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

describe('listening to another tab', () => {
  let sharing: Browser
  let own: Page
  let tab: Page
  let found: string[]
  beforeAll(async () => {
    sharing = await launchAudible(['--auto-select-tab-capture-source-by-title=Played elsewhere'])
    ;({ page: own, problems: found } = await openShape(sharing))
    tab = await own.context().newPage()
    await tab.goto(inject('address'))
    await tab.evaluate(() => {
      document.title = 'Played elsewhere'
    })
  })
  afterAll(() => sharing.close())

  it('says that it is silent while it is', async () => {
    await own.bringToFront()
    await own.getByRole('button', { name: 'From a tab or screen…' }).click()
    await own.getByText('Only silence so far. Is its audio shared, and playing?').waitFor()
    await tab.evaluate(
      ([rate, samples]) => {
        const context = new AudioContext({ sampleRate: rate, latencyHint: 'playback' })
        const buffer = context.createBuffer(1, samples.length, rate)
        buffer.getChannelData(0).set(samples)
        const source = new AudioBufferSourceNode(context, { buffer, loop: true })
        source.connect(context.destination)
        source.start()
      },
      [RATE, [...heard]] as const,
    )
    await own.getByText(/s more needed/).waitFor()
  })

  it('keeps the profile of its sound, also when the tab was closed since', async () => {
    await own.getByText(/^Listening\. 0:1\d/).waitFor({ timeout: 30_000 })
    await tab.close()
    await own.getByText(/^Ended\. 0:1\d/).waitFor()
    for (const off of await keptAgainstOwn(own, 'The tab')) expect(off).toBeLessThan(0.5)
    expect(found).toEqual([])
  })
})
