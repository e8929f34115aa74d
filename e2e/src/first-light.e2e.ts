import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { makeClip, readWav, sliceClip } from '@sober-prism/core/audio'
import { type EqBand, magnitudeDb, newBand } from '@sober-prism/core/filters'
import { longTermLevels, makeBands } from '@sober-prism/core/spectrum'
import { unzipSync } from 'fflate'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { bypass, bytesOf, choose, freshPage, measured, openDemo, recordFrom } from './session-page'

const RATE = 48000
const demo = join(import.meta.dirname, '..', '..', '.cache', 'demo')

let browser: Browser
let page: Page
let problems: string[]
beforeAll(async () => {
  browser = await launch()
  ;({ page, problems } = await freshPage(browser))
  await openDemo(page)
})
afterAll(() => browser.close())

const heardOf = async (track: string): Promise<number> => {
  const label = await page
    .getByRole('img', { name: new RegExp(`^Spectrum of ${track}, `) })
    .getAttribute('aria-label')
  return Number(/(\d+) % heard/.exec(label ?? '')?.[1])
}
const finding = (text: string) =>
  page
    .getByRole('article')
    .filter({ hasNotText: /measured now/ })
    .filter({ hasText: text })

/** Each step goes on where the one before it ended, as a user would. */
describe('from dropped files to a clearer, rendered mix', () => {
  let cut: EqBand
  let heard: number
  let played: [Float32Array, Float32Array]
  let files: Record<string, Uint8Array>
  const wav = (end: string) => {
    const name = Object.keys(files).find((n) => n.endsWith(end)) ?? ''
    return readWav(new Uint8Array(files[name]))
  }

  it('plays the demo, opened from an empty profile', async () => {
    await page.getByRole('button', { name: 'Play', exact: true }).click()
    await expect.poll(() => page.getByRole('timer').textContent()).not.toBe('0:14.0')
    const momentary = page.getByLabel('Meters').locator('dd').first()
    await expect
      .poll(async () => Number((await momentary.textContent())?.replace('−', '-')))
      .toBeGreaterThan(-40)
  })

  it('names what covers the lead and mends it as it said it would', async () => {
    const first = finding('Accordion masks Singer').first()
    await first.getByRole('button').first().click()
    await first.getByRole('button', { name: 'Apply' }).waitFor()
    const text = (await first.textContent()) ?? ''
    const [, before, predicted] = /heard:\s+([\d.]+) % → ([\d.]+) %/.exec(text) ?? []
    const [, khz, depth, q] = /at ([\d.]+) kHz by ([\d.]+) dB, Q (\d+(?:\.\d+)?)/.exec(text) ?? []
    cut = { ...newBand('bell', 1000 * Number(khz)), db: -Number(depth), q: Number(q) }
    expect(Number(predicted)).toBeGreaterThan(Number(before))
    await first.getByRole('button', { name: 'Apply' }).click()
    await page.getByRole('slider', { name: 'Band a' }).waitFor()
    await page.getByText(/measured now/).waitFor()
    await measured(page)
    const applied =
      (await page
        .getByRole('article')
        .filter({ hasText: /measured now/ })
        .textContent()) ?? ''
    heard = Number(/moves, ([\d.]+) %/.exec(applied)?.[1])
    expect(heard).toBeGreaterThan(Number(before))
    expect(Math.abs(heard - Number(predicted))).toBeLessThan(1.5)
  })

  it('is compared at equal loudness, without everything and without one treatment', async () => {
    await page.keyboard.press('f')
    await page
      .getByText(/everything bypassed, [+−]?\d\.\d LU to match/)
      .waitFor({ timeout: 20_000 })
    await page.keyboard.press('f')
    await bypass(page, 'Treatment')
    await page.getByText(/one treatment bypassed, [+−]?\d\.\d LU/).waitFor({ timeout: 20_000 })
    await bypass(page, 'Difference only')
    await page.getByText('only what one treatment changes').waitFor()
    await bypass(page, 'Treatment')
    await page.getByText('only what one treatment changes').waitFor({ state: 'detached' })
  })

  it('takes the move back and makes it again, and a reload loses nothing', async () => {
    await page.keyboard.press('Control+z')
    await expect
      .poll(() =>
        page
          .getByRole('article')
          .filter({ hasText: /measured now/ })
          .count(),
      )
      .toBe(0)
    await page.keyboard.press('Control+Shift+z')
    await expect
      .poll(() =>
        page
          .getByRole('article')
          .filter({ hasText: /measured now/ })
          .count(),
      )
      .toBe(1)
    await page.reload()
    await measured(page)
    expect(
      await page
        .getByRole('article')
        .filter({ hasText: /measured now/ })
        .count(),
    ).toBe(1)
    expect(Math.abs((await heardOf('Singer')) - heard)).toBeLessThan(0.6)
  })

  it('lines the drums up and keeps the glass harmonica’s low end in the middle', async () => {
    for (const [fault, treatment] of [
      ['cancel', 'Align'],
      ['Wide low end', 'Mono low end'],
    ] as const) {
      const apply = finding(fault).getByRole('button', { name: 'Apply' })
      // The first of the list is open already.
      if ((await apply.count()) === 0) await finding(fault).getByRole('button').first().click()
      await apply.click()
      await page
        .getByLabel(/^Chain of/)
        .getByRole('button')
        .filter({ hasText: treatment })
        .waitFor()
      await measured(page)
    }
  })

  it('sends the drums to a group with a chain of its own, and the accordion through linear phase', async () => {
    await page.getByRole('link', { name: 'Gather' }).click()
    await page.getByRole('button', { name: 'Add group' }).click()
    await page.getByLabel('Name of group').fill('Drums')
    for (const drum of ['Frame drum near', 'Frame drum far'])
      await choose(page, `${drum} routed to`, /Drums/)
    await page.getByLabel('Level of Drums').fill('-1.5')
    await page.getByLabel('Level of Drums').press('Enter')
    await page.getByRole('link', { name: 'Survey', exact: true }).click()
    await page.getByRole('button', { name: 'Drums', exact: true }).click()
    await page.getByRole('button', { name: 'Bell', exact: true }).click()
    await page.getByRole('button', { name: 'Accordion', exact: true }).click()
    await choose(page, 'Phase', 'linear')
    await page
      .getByText(/latency .* ms/)
      .first()
      .waitFor()
    await measured(page)
  })

  /** Renders what is ticked; gives the zip's files. */
  async function rendered(): Promise<Record<string, Uint8Array>> {
    const saving = page.waitForEvent('download', { timeout: 90_000 })
    await page.getByRole('button', { name: 'Render', exact: true }).click()
    const download = await saving
    expect(download.suggestedFilename()).toBe('Tern Island ferry night.zip')
    return unzipSync(await bytesOf(download))
  }

  it('plays, and renders the mix and each group into one zip', async () => {
    played = await recordFrom(page, 13 * RATE, 3)
    await page.getByRole('link', { name: 'Deliver' }).click()
    await page.getByLabel(/Each group as a stem/).check()
    await page.getByLabel(/32 bit float/).check()
    files = await rendered()
    expect(Object.keys(files)).toHaveLength(2)
  })

  it('rendered what it played, to below -110 dBFS', () => {
    const mix = wav('ferry night.wav')
    const source = readWav(new Uint8Array(readFileSync(join(demo, 'accordion.wav'))))
    expect([mix.sampleRateHz, mix.channels.length, mix.frames]).toEqual([RATE, 2, source.frames])
    let worst = 0
    let loudest = 0
    for (let c = 0; c < 2; c++) {
      // In the first moments filters have not heard what came before.
      for (let i = RATE; i < played[c].length; i++) {
        worst = Math.max(worst, Math.abs(played[c][i] - mix.channels[c][13 * RATE + i]))
        loudest = Math.max(loudest, Math.abs(played[c][i]))
      }
    }
    expect(loudest).toBeGreaterThan(0.05)
    expect(20 * Math.log10(worst + 1e-12)).toBeLessThan(-110)
  })

  it('renders each treated track, with the cut that was asked for and nothing else', async () => {
    await page.getByLabel('The mix', { exact: true }).uncheck()
    await page.getByLabel(/Each group as a stem/).uncheck()
    await page.getByLabel(/Each treated track/).check()
    files = await rendered()
    expect(Object.keys(files)).toHaveLength(9)
    const source = readWav(new Uint8Array(readFileSync(join(demo, 'accordion.wav'))))
    const stem = wav('C Accordion.wav')
    const bands = makeBands('sixth')
    const levels = (clip: typeof stem) =>
      longTermLevels(sliceClip(makeClip(RATE, clip.channels), 14 * RATE, 38 * RATE), bands)
    const [after, before] = [levels(stem), levels(source)]
    const nearest = (hz: number) =>
      bands.reduce((a, b, i) => (Math.abs(b.hz - hz) < Math.abs(bands[a].hz - hz) ? i : a), 0)
    const changeAt = (hz: number) => after[nearest(hz)] - before[nearest(hz)]
    // A wide bell reaches far: what it does is what it was asked to do, everywhere.
    for (const hz of [200, 500, cut.hz, 4000, 8000]) {
      const [wanted] = magnitudeDb([cut], [bands[nearest(hz)].hz], RATE)
      expect(Math.abs(changeAt(hz) - wanted), `${hz} Hz`).toBeLessThan(0.3)
    }
    expect(problems).toEqual([])
  })
})
