import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { makeClip, readWav, sliceClip } from '@sober-prism/core/audio'
import { longTermLevels, makeBands } from '@sober-prism/core/spectrum'
import type { Browser, Download, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { bytesOf, freshPage, measured, openDemo, recordFrom } from './session-page'

const RATE = 48000
const demo = join(import.meta.dirname, '..', '..', '.cache', 'demo')

let browser: Browser
beforeAll(async () => {
  browser = await launch()
})
afterAll(() => browser.close())

const heardOf = async (page: Page, track: string): Promise<number> => {
  const label = await page
    .getByRole('img', { name: new RegExp(`^Spectrum of ${track}, `) })
    .getAttribute('aria-label')
  return Number(/(\d+) % heard/.exec(label ?? '')?.[1])
}

describe('from dropped files to a clearer, rendered mix', () => {
  it('goes the whole path as a user would, from an empty profile', async () => {
    const { page, problems } = await freshPage(browser)
    await openDemo(page)

    // Play: the position moves and level is seen.
    await page.getByRole('button', { name: 'Play' }).click()
    await expect.poll(() => page.getByRole('timer').textContent()).not.toBe('0:14.0')
    const momentary = page.locator('.meters dd').first()
    await expect
      .poll(async () => Number((await momentary.textContent())?.replace('−', '-')))
      .toBeGreaterThan(-40)

    // The worst finding is the planted one; apply it.
    const first = page.locator('.finding').first()
    const text = (await first.textContent()) ?? ''
    expect(text).toContain('Accordion covers Singer')
    const [, before, predicted] = /heard:\s+([\d.]+) % → ([\d.]+) %/.exec(text) ?? []
    const [, khz, depth] = /at ([\d.]+) kHz by ([\d.]+) dB/.exec(text) ?? []
    expect(Number(predicted)).toBeGreaterThan(Number(before))
    await first.getByRole('button', { name: 'Apply' }).click()
    await page.getByRole('slider', { name: 'Move a' }).waitFor()
    await page.getByText(/measured now/).waitFor()
    await measured(page)
    const applied = (await page.locator('.finding.applied').textContent()) ?? ''
    const now = Number(/moves, ([\d.]+) %/.exec(applied)?.[1])
    expect(now).toBeGreaterThan(Number(before))
    expect(Math.abs(now - Number(predicted))).toBeLessThan(1.5)

    // Fair compare says by how much it makes up, and ends again.
    await page.keyboard.press('f')
    await page.getByText(/without moves, [+−]?\d\.\d LU to match/).waitFor({ timeout: 20_000 })
    await page.keyboard.press('f')

    // Undo takes the move back, redo makes it again; reload loses nothing.
    await page.keyboard.press('Control+z')
    await expect.poll(() => page.locator('.finding.applied').count()).toBe(0)
    await page.keyboard.press('Control+Shift+z')
    await expect.poll(() => page.locator('.finding.applied').count()).toBe(1)
    await page.reload()
    await measured(page)
    expect(await page.locator('.finding.applied').count()).toBe(1)
    expect(Math.abs((await heardOf(page, 'Singer')) - now)).toBeLessThan(0.6)

    // The accordion in linear phase: later by some milliseconds, which the mixer makes up for.
    await page.getByRole('button', { name: 'Accordion', exact: true }).click()
    await page.getByLabel('Phase').selectOption('linear')
    await page.getByText(/ms late/).waitFor()
    await measured(page)

    // Render the mix and the tracks as float.
    const played = await recordFrom(page, 0, 4)
    await page.getByRole('link', { name: 'Deliver' }).click()
    await page.getByLabel(/Each treated track/).check()
    await page.getByLabel(/32 bit float/).check()
    const files = new Map<string, Download>()
    page.on('download', (file) => files.set(file.suggestedFilename(), file))
    await page.getByRole('button', { name: 'Render', exact: true }).click()
    await page.getByRole('table', { name: 'Rendered files' }).waitFor({ timeout: 90_000 })
    await expect.poll(() => files.size, { timeout: 20_000 }).toBe(10)

    // Right length; and what was played is what was rendered.
    const mixFile = files.get('Tern Island ferry night.wav')
    const mix = readWav(await bytesOf(mixFile as Download))
    const source = readWav(new Uint8Array(readFileSync(join(demo, 'accordion.wav'))))
    expect([mix.sampleRateHz, mix.channels.length, mix.frames]).toEqual([RATE, 2, source.frames])
    let worst = 0
    let loudest = 0
    for (let c = 0; c < 2; c++) {
      // The transport fades in for 8 ms.
      for (let i = Math.round(0.02 * RATE); i < played[c].length; i++) {
        worst = Math.max(worst, Math.abs(played[c][i] - mix.channels[c][i]))
        loudest = Math.max(loudest, Math.abs(played[c][i]))
      }
    }
    expect(loudest).toBeGreaterThan(0.05)
    expect(20 * Math.log10(worst + 1e-12)).toBeLessThan(-110)

    // The cut is there by spectrum, and the rest is as it was.
    const stemFile = [...files.keys()].find((name) => name.endsWith('C Accordion.wav')) ?? ''
    const stem = readWav(await bytesOf(files.get(stemFile) as Download))
    const bands = makeBands('sixth')
    const levels = (clip: typeof stem) =>
      longTermLevels(sliceClip(makeClip(RATE, clip.channels), 14 * RATE, 38 * RATE), bands)
    const change = levels(stem).map((db, i) => db - levels(source)[i])
    const nearest = (hz: number) =>
      bands.reduce((a, b, i) => (Math.abs(b.hz - hz) < Math.abs(bands[a].hz - hz) ? i : a), 0)
    expect(Math.abs(change[nearest(1000 * Number(khz))] + Number(depth))).toBeLessThan(1.2)
    expect(Math.abs(change[nearest(8000)])).toBeLessThan(0.5)
    expect(problems).toEqual([])
  })
})
