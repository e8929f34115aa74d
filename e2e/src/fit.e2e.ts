import { makeClip } from '@sober-prism/core/audio'
import { longTermLevels } from '@sober-prism/core/spectrum'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { choose, freshPage, openDemo, recordFrom, soundSettled } from './session-page'

const RATE = 48000
const [FROM, SECONDS] = [15 * RATE, 1.5]
let browser: Browser
let page: Page
let problems: string[]
beforeAll(async () => {
  browser = await launch()
  ;({ page, problems } = await freshPage(browser))
  await openDemo(page)
  await page.getByRole('link', { name: 'Fit', exact: true }).click()
  await page.getByRole('heading', { name: 'Masking' }).waitFor()
  await track('Accordion').click()
})
afterAll(() => browser.close())

const track = (name: string) => page.getByRole('button', { name, exact: true })
const heard = async () => makeClip(RATE, await recordFrom(page, FROM, SECONDS))
type Heard = Awaited<ReturnType<typeof heard>>
const level = (clip: Heard, fromHz: number, toHz: number) =>
  longTermLevels(clip, [{ hz: Math.sqrt(fromHz * toHz), fromHz, toHz }])[0]
/** How far the bands of the shown treatment are drawn at this moment. */
const gainsNow = () =>
  page.evaluate(() => {
    interface Shown {
      soberPrism: { desk: { player: { gainsNow: Float32Array } } }
    }
    return [...(window as unknown as Shown).soberPrism.desk.player.gainsNow]
  })
const deepest = async () => Math.min(0, ...(await gainsNow()))

describe('making room', () => {
  let plain: Heard

  it('tries ways on both tracks and takes one, whose key is the covered track', async () => {
    const card = page.getByRole('article').filter({ hasText: 'Accordion masks Singer' })
    await card.getByRole('button', { name: 'Test ways to make room' }).click()
    const way = card.getByRole('listitem').filter({ hasText: 'Spectral ducking' })
    await way.getByRole('button', { name: 'Apply' }).click({ timeout: 20_000 })
    await expect.poll(() => page.getByLabel('Key', { exact: true }).inputValue()).not.toBe('')
    await expect
      .poll(() => page.getByLabel('Reason of Spectral ducking').inputValue())
      .toMatch(/^Room for Singer: heard from \d+ % to \d+ %/)
  })

  it('gives way only while the lead sounds, and is drawn while it plays', async () => {
    await page.getByRole('button', { name: 'solo Accordion' }).click()
    await soundSettled(page)
    const yielding = await heard()
    await expect.poll(deepest).toBeLessThan(-1)
    const box = page.getByRole('checkbox', { name: 'Spectral ducking on' })
    await box.uncheck()
    await soundSettled(page)
    plain = await heard()
    await box.check()
    expect(level(yielding, 300, 4000)).toBeLessThan(level(plain, 300, 4000) - 0.5)
    expect(level(yielding, 300, 4000)).toBeGreaterThan(level(plain, 300, 4000) - 6.5)
  })

  it('gives way in linear phase as it did with bells, in time with the rest', async () => {
    const bells = await heard()
    await page.getByRole('button', { name: /^More: key level/ }).click()
    await choose(page, 'Phase', 'linear phase')
    await page.getByText('latency 42.7 ms').first().waitFor()
    await soundSettled(page)
    const linear = await heard()
    expect(Math.abs(level(linear, 300, 4000) - level(bells, 300, 4000))).toBeLessThan(1)
    // Where nothing is done it is the same sound at the same time.
    let [apart, power] = [0, 0]
    const both = [linear, bells].map((c) => c.channels[0])
    for (let i = 0; i < both[0].length; i++) {
      apart += (both[0][i] - both[1][i]) ** 2
      power += both[1][i] ** 2
    }
    expect(apart / power).toBeLessThan(0.2)
    await choose(page, 'Phase', 'bells, minimum phase')
    await soundSettled(page)
  })

  it('lets the key be heard alone, as the bands hear it', async () => {
    const hear = page.getByRole('button', { name: 'Listen to key' })
    await hear.focus()
    await hear.press('Enter')
    await page.getByText(/Listening only: Singer, only 80/).waitFor()
    await soundSettled(page)
    const key = await heard()
    await hear.press('Enter')
    expect(level(key, 300, 4000)).toBeGreaterThan(-60)
    expect(level(key, 20, 45)).toBeLessThan(level(key, 300, 4000) - 40)
    await page.getByText(/solo C/).waitFor()
  })

  it('passes as it is with nothing to listen to', async () => {
    await choose(page, 'Key', 'No key')
    await soundSettled(page)
    const keyless = await heard()
    expect(Math.abs(level(keyless, 300, 4000) - level(plain, 300, 4000))).toBeLessThan(0.01)
    await page.getByRole('button', { name: 'solo Accordion' }).click()
  })
})

describe('bands that follow', () => {
  it('are set by keys alone, and become a dynamic equaliser that hears itself', async () => {
    await track('Tuba').click()
    const add = page.getByRole('button', { name: 'Add a treatment to Fit' })
    await add.focus()
    await add.press('Enter')
    await page.getByRole('menuitem', { name: 'Dynamic EQ' }).press('Enter')
    const band = page.getByRole('button', { name: 'Band', exact: true })
    await band.focus()
    await band.press('Enter')
    const type = async (label: string, text: string) => {
      const field = page.getByRole('textbox', { name: label, exact: true })
      await field.focus()
      await field.fill(text)
      await field.press('Enter')
    }
    await type('Frequency, Hz', '150')
    await type('Range, dB', '-9')
    await choose(page, 'Detector', 'Own signal')
    await choose(page, 'Threshold reference', 'Absolute')
    await type('Threshold, dB', '-60')
    await page.getByText('1 band, up to −9.0 dB').waitFor()
    await page.keyboard.press('Escape')
    await page.getByRole('button', { name: 'Play', exact: true }).click()
    await expect.poll(deepest).toBeLessThan(-6)
    await page.getByRole('button', { name: 'Pause' }).click()
  })

  it('move all below a corner, and nothing above it, where that is what is set', async () => {
    await choose(page, 'Type', 'All below')
    await page.getByRole('button', { name: 'solo Tuba' }).click()
    await soundSettled(page)
    const moved = await heard()
    const box = page.getByRole('checkbox', { name: 'Dynamic EQ on' })
    await box.uncheck()
    await soundSettled(page)
    const still = await heard()
    await box.check()
    await page.getByRole('button', { name: 'solo Tuba' }).click()
    const change = (fromHz: number, toHz: number) =>
      level(moved, fromHz, toHz) - level(still, fromHz, toHz)
    expect(change(50, 90)).toBeLessThan(-4)
    expect(Math.abs(change(500, 2000))).toBeLessThan(0.5)
  })
})

describe('bands that sum back', () => {
  const typed = async (label: string, text: string) => {
    const field = page.getByRole('textbox', { name: label, exact: true })
    await field.focus()
    await field.fill(text)
    await field.press('Enter')
  }

  let before: Heard

  it('are parted by keys alone, and add up to what went in', async () => {
    await track('Zither').click()
    await page.getByRole('button', { name: 'solo Zither' }).click()
    await soundSettled(page)
    before = await heard()
    const add = page.getByRole('button', { name: 'Add a treatment to Fit' })
    await add.focus()
    await add.press('Enter')
    await page.getByRole('menuitem', { name: 'Multiband', exact: true }).press('Enter')
    await typed('Crossover 1, Hz', '400')
    await typed('Crossover 2, Hz', '2500')
    await soundSettled(page)
    const untouched = await heard()
    for (const [from, to] of [
      [100, 300],
      [300, 600],
      [600, 2000],
      [2000, 4000],
    ] as const) {
      expect(Math.abs(level(untouched, from, to) - level(before, from, to))).toBeLessThan(0.25)
    }
    const test = page.getByRole('button', { name: 'Test the sum' })
    await test.focus()
    await test.press('Enter')
    await page.getByText(/Unprocessed sum flat within 0\.0/).waitFor({ timeout: 20_000 })
  })

  it('are treated and heard alone by keys alone', async () => {
    const third = page.getByRole('button', { name: /^Band 3, above/ })
    await third.focus()
    await third.press('Enter')
    await typed('Level, dB', '-12')
    await soundSettled(page)
    const softer = await heard()
    expect(level(softer, 7000, 10_000) - level(before, 7000, 10_000)).toBeCloseTo(-12, 0)
    expect(Math.abs(level(softer, 100, 300) - level(before, 100, 300))).toBeLessThan(0.25)
    const solo = page.getByRole('button', { name: 'Solo', exact: true })
    await solo.focus()
    await solo.press('Enter')
    await page.getByText('only band 3 of Zither').waitFor()
    await soundSettled(page)
    const alone = await heard()
    expect(level(alone, 200, 320)).toBeLessThan(level(before, 200, 320) - 20)
    await page.keyboard.press('Escape')
    await page.getByRole('button', { name: 'Turn all off' }).click()
    await page.getByText('As rendered').waitFor()
  })
})

describe('what is read of Fit', () => {
  it('is the low end, left against right, without the treatment and with it', async () => {
    await track('Tuba').click()
    await page.getByRole('button', { name: 'Add a treatment to Fit' }).click()
    await page.getByRole('menuitem', { name: 'Mono low end' }).click()
    await choose(page, 'Graph below', 'Low end, left and right')
    const panel = page.getByRole('region', { name: 'Low end' })
    await panel.getByText(/mono/).waitFor({ timeout: 20_000 })
    await panel.getByRole('img', { name: /How unlike left and right are below/ }).waitFor()
  })

  it('is the tempo of the passage, as an estimate that becomes the length of a note', async () => {
    await page.getByRole('button', { name: 'Dynamic EQ on' }).or(track('Tuba')).first().click()
    await page.getByText('Dynamic EQ', { exact: true }).first().click()
    // What is read of the chain stands in the place of its values.
    await page.getByRole('tab', { name: 'Settings' }).click()
    await page.getByRole('button', { name: /As a note/ }).click()
    await page.getByRole('button', { name: 'Estimate from the passage' }).click()
    const tempo = page.getByRole('textbox', { name: /^Tempo/ })
    await expect.poll(() => tempo.inputValue(), { timeout: 20_000 }).toMatch(/^84(\.0)?$/)
    await page.keyboard.press('Escape')
  })

  it('is how far bands were drawn over the last seconds, while it plays', async () => {
    await choose(page, 'Graph below', 'Gain over time')
    const panel = page.getByRole('region', { name: 'Gain over time' })
    await panel.getByText(/^Solid: largest cut/).waitFor()
    const ink = () =>
      panel.locator('canvas').evaluate((canvas: HTMLCanvasElement) => {
        const { width, height } = canvas
        const data = canvas.getContext('2d')?.getImageData(0, 0, width, height).data ?? []
        let sum = 0
        for (let i = 3; i < data.length; i += 4) sum += data[i] > 128 ? 1 : 0
        return sum
      })
    const before = await ink()
    await page.getByRole('button', { name: 'Play', exact: true }).click()
    await expect.poll(ink, { timeout: 8000 }).toBeGreaterThan(before + 50)
    await page.getByRole('button', { name: 'Pause' }).click()
    await choose(page, 'Graph below', 'No graph below')
  })
})

describe('lining up', () => {
  it('finds the far drum’s delay and takes it back', async () => {
    await track('Frame drum far').click()
    await choose(page, 'Align with', 'E Frame drum near')
    await page.getByRole('button', { name: 'Search', exact: true }).click()
    await page.getByText(/samples \(.* ms\) earlier.*their sum gains/).waitFor()
    await page.getByRole('button', { name: 'Align Frame drum far' }).click()
    await page
      .getByText(/samples earlier/)
      .first()
      .waitFor()
    const reason = page.getByLabel('Reason of Align')
    await expect.poll(() => reason.inputValue()).toMatch(/^Aligned with Frame drum near/)
  })

  it('reports nothing wrong on the way', () => {
    expect(problems).toEqual([])
  })
})
