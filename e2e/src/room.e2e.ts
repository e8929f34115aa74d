import { makeClip, seededRandom, writeWav } from '@sober-prism/core/audio'
import { Equaliser, newBand } from '@sober-prism/core/filters'
import { longTermLevels } from '@sober-prism/core/spectrum'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { freshPage, measured, recordFrom, soundSettled } from './session-page'

const RATE = 48_000
const SECONDS = 16
let browser: Browser
let page: Page
let problems: string[]

/** A voice that sings two seconds of four, with a hiss at the end of each half second. */
function voice(): Float32Array {
  const random = seededRandom(5)
  let phase = 0
  const sung = Float32Array.from({ length: SECONDS * RATE }, (_, i) => {
    const seconds = i / RATE
    if (seconds % 4 > 2) return 0
    const hz = 210 + 40 * Math.sin(2 * Math.PI * 0.4 * seconds)
    phase += (2 * Math.PI * hz) / RATE
    let sum = 0
    for (let n = 1; n <= 20; n++) sum += Math.cos(n * phase) / n ** 0.7
    return 0.04 * sum
  })
  const hiss = filtered(noise(random, 0.5), 5000, 9000)
  return sung.map((v, i) => ((i / RATE) % 0.5 > 0.38 && v !== 0 ? 0.03 * v + 0.4 * hiss[i] : v))
}

const noise = (random: () => number, amplitude: number) =>
  Float32Array.from({ length: SECONDS * RATE }, () => amplitude * (2 * random() - 1))

function filtered(signal: Float32Array, fromHz: number, toHz: number): Float32Array {
  const equaliser = new Equaliser()
  equaliser.prepare(RATE, 1)
  equaliser.set([
    { id: 'low', band: newBand('low-cut', fromHz) },
    { id: 'high', band: newBand('high-cut', toHz) },
  ])
  equaliser.process([signal], signal.length)
  return signal
}

const file = (name: string, signal: Float32Array) => ({
  name: `${name}.wav`,
  mimeType: 'audio/wav',
  buffer: Buffer.from(writeWav(makeClip(RATE, [signal]), 24)),
})

beforeAll(async () => {
  browser = await launch()
  ;({ page, problems } = await freshPage(browser))
  await page.getByRole('button', { name: 'New session' }).click()
  await page.waitForURL(/gather/)
  const bed = filtered(noise(seededRandom(9), 0.16), 500, 3500)
  await page.getByTestId('track-files').setInputFiles([file('Voice', voice()), file('Bed', bed)])
  await page
    .getByRole('textbox', { name: /^Name of track/ })
    .nth(1)
    .waitFor()
  await page.getByRole('link', { name: 'Survey', exact: true }).click()
  await measured(page)
})
afterAll(() => browser.close())

const clip = async (atSeconds: number) =>
  makeClip(RATE, await recordFrom(page, atSeconds * RATE, 0.6))
type Heard = Awaited<ReturnType<typeof clip>>
const level = (heard: Heard, fromHz: number, toHz: number) =>
  longTermLevels(heard, [{ hz: Math.sqrt(fromHz * toHz), fromHz, toHz }])[0]
const byKey = async (
  name: string | RegExp,
  within: Page | ReturnType<Page['getByRole']> = page,
) => {
  await within.getByRole('button', { name, exact: true }).first().focus()
  await page.keyboard.press('Enter')
}
const solo = (name: string) => page.getByRole('button', { name: `solo ${name}` }).click()

describe('what is made of findings', () => {
  it('softens sibilants while they last and leaves the voice between them alone', async () => {
    await solo('Voice')
    await soundSettled(page)
    const before = await clip(0.1)
    await page.getByText(/^Voice is harsh at/).click()
    await page.getByText(/^Cut Voice at .* only above/).waitFor()
    await byKey('Apply')
    await measured(page)
    await page.getByRole('heading', { name: 'Moves made' }).waitFor()
    await expect.poll(() => page.getByText(/measured now, with all moves/).count()).toBe(1)
    const after = await clip(0.1)
    expect(level(after, 5500, 8500)).toBeLessThan(level(before, 5500, 8500) - 2)
    expect(level(after, 200, 2000)).toBeCloseTo(level(before, 200, 2000), 1)
    await solo('Voice')
  })

  it('stands what yields aside of the middle, where that is what is taken', async () => {
    await solo('Bed')
    await soundSettled(page)
    const [left, right] = (await clip(2.6)).channels.map((c) => makeClip(RATE, [c]))
    expect(level(left, 500, 3500)).toBeCloseTo(level(right, 500, 3500), 2)
    await page.getByRole('link', { name: 'Fit', exact: true }).click()
    await page.getByRole('heading', { name: 'Masking' }).waitFor()
    const card = page.getByRole('article').filter({ hasText: 'Bed masks Voice' })
    await card.getByRole('button', { name: 'Test ways to make room' }).click()
    const way = card.getByRole('listitem').filter({ hasText: 'Pan off centre' })
    await way.getByText(/Panned 70 R\. .* heard/).waitFor({ timeout: 20_000 })
    await byKey('Apply', way)
    await soundSettled(page)
    const [far, near] = (await clip(2.6)).channels.map((c) => makeClip(RATE, [c]))
    expect(level(near, 500, 3500) - level(far, 500, 3500)).toBeGreaterThan(6)
    await page.keyboard.press('Control+z')
  })

  it('plans moves that follow the lead, and gives way only while it sounds', async () => {
    // Where the move stands.
    const apart = async () =>
      level(await clip(0.6), 2500, 3400) - level(await clip(2.6), 2500, 3400)
    expect(Math.abs(await apart())).toBeLessThan(0.7)
    await page.getByRole('link', { name: 'Survey', exact: true }).click()
    await measured(page)
    await page.getByRole('tab', { name: 'Plan' }).click()
    await byKey('Plan moves')
    await page
      .getByText(/^Cut Bed at 2\.9\d kHz .* while its key sounds \(Voice\)/)
      .first()
      .waitFor()
    await byKey(/^Apply the first/)
    await measured(page)
    await soundSettled(page)
    expect(await apart()).toBeLessThan(-1.5)
  })

  it('reports nothing wrong on the way', () => {
    expect(problems).toEqual([])
  })
})
