import { makeClip } from '@sober-prism/core/audio'
import { loudnessSteps } from '@sober-prism/core/loudness'
import { longTermLevels } from '@sober-prism/core/spectrum'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { bypass, freshPage, openDemo, recordFrom, soundSettled } from './session-page'

const RATE = 48000
const [FROM, SECONDS] = [15 * RATE, 1.2]
let browser: Browser
let page: Page
let problems: string[]
beforeAll(async () => {
  browser = await launch()
  ;({ page, problems } = await freshPage(browser))
  await openDemo(page)
  await page.getByRole('link', { name: 'Clean', exact: true }).click()
  await page.getByRole('toolbar', { name: 'Hunt' }).waitFor()
  await page.getByRole('button', { name: 'Singer', exact: true }).click()
  // Alone, so that what is heard is the track.
  await page.getByRole('button', { name: 'solo Singer' }).click()
})
afterAll(() => browser.close())

const layer = () => page.getByRole('slider', { name: 'Boost of the hunt' })
const heard = async () => makeClip(RATE, await recordFrom(page, FROM, SECONDS))
type Heard = Awaited<ReturnType<typeof heard>>
const levelAround = (clip: Heard, hz: number) =>
  longTermLevels(clip, [{ hz, fromHz: hz / 1.01, toHz: hz * 1.01 }])[0]
const momentary = (clip: Heard) => {
  const steps = loudnessSteps(clip, 0, clip.frames)
  return Array.from(
    { length: steps.length - 3 },
    (_, i) => 10 * Math.log10(steps[i] + steps[i + 1] + steps[i + 2] + steps[i + 3] + 1e-12),
  )
}
const hzNow = async () => {
  const text = (await layer().getAttribute('aria-valuetext')) ?? ''
  const [, figure, kilo] = /^([\d.]+) (k?)Hz/.exec(text) ?? []
  return Number(figure) * (kilo ? 1000 : 1)
}

describe('the hunt', () => {
  it('lifts what is under the pointer, and no moment by more than 6 LU', async () => {
    const plain = await heard()
    await page.getByRole('button', { name: 'Hunt by ear' }).click()
    const box = await layer().boundingBox()
    if (!box) throw new Error('There is no hunt on the sheet.')
    for (const share of [0.42, 0.71]) {
      await page.mouse.move(box.x + share * box.width, box.y + 100)
      await expect.poll(hzNow).toBeGreaterThan(0)
      await soundSettled(page)
      const hz = await hzNow()
      const boosted = await heard()
      const [before, after] = [momentary(plain), momentary(boosted)]
      expect(Math.max(...after.map((lu, i) => lu - before[i]))).toBeLessThan(6)
      expect(levelAround(boosted, hz) - levelAround(plain, hz)).toBeGreaterThan(3)
    }
    await page.mouse.down()
    await page.mouse.up()
    await page.getByRole('slider', { name: 'Band a' }).waitFor()
    await layer().waitFor({ state: 'detached' })
  })

  it('leaves a cut of 6 dB there and nothing else; a key makes it 9, undo takes both back', async () => {
    const flag = page.getByRole('slider', { name: 'Band a' })
    const text = () => flag.getAttribute('aria-valuetext')
    await expect.poll(text).toMatch(/^Bell, .*, −6\.0 dB, Q 14\.00$/)
    await page.keyboard.press('9')
    await expect.poll(text).toMatch(/−9\.0 dB/)
    const [, figure, kilo] = /^Bell, ([\d.]+) (k?)Hz/.exec((await text()) ?? '') ?? []
    const hz = Number(figure) * (kilo ? 1000 : 1)
    const cut = await heard()
    await page.getByRole('button', { name: 'Undo' }).click()
    await page.getByRole('button', { name: 'Undo' }).click()
    await flag.waitFor({ state: 'detached' })
    const plain = await heard()
    expect(levelAround(cut, hz) - levelAround(plain, hz)).toBeCloseTo(-9, 0)
    for (const away of [0.5, 2]) {
      expect(Math.abs(levelAround(cut, hz * away) - levelAround(plain, hz * away))).toBeLessThan(
        0.3,
      )
    }
  })

  it('lets only the range of a band be heard, and all but it', async () => {
    const box = await page.getByTestId('sheet').boundingBox()
    if (!box) throw new Error('The sheet is not on the page.')
    const plain = await heard()
    await page.mouse.dblclick(box.x + 0.6 * box.width, box.y + 0.7 * box.height)
    const flag = page.getByRole('slider', { name: 'Band a' })
    await flag.waitFor()
    const hz = Number(await flag.getAttribute('aria-valuenow'))
    const against = (clip: Heard, at: number) => levelAround(clip, at) - levelAround(plain, at)
    await bypass(page, 'Band only')
    await page.getByText(/^Listening only: .*only one band/).waitFor()
    await soundSettled(page)
    const only = await heard()
    expect(against(only, hz / 4)).toBeLessThan(-18)
    expect(against(only, 4 * hz)).toBeLessThan(-18)
    await bypass(page, 'All but band')
    await page.getByText(/^Listening only: .*all but one band/).waitFor()
    await soundSettled(page)
    const rest = await heard()
    expect(against(rest, hz)).toBeLessThan(-10)
    expect(Math.abs(against(rest, 4 * hz))).toBeLessThan(1)
    await page.keyboard.press('Escape')
    await bypass(page, 'All but band')
    await page.getByRole('button', { name: 'Undo' }).click()
    await flag.waitFor({ state: 'detached' })
  })

  it('goes by keys alone', async () => {
    const button = page.getByRole('button', { name: 'Hunt by ear' })
    await button.focus()
    await button.press('Enter')
    await expect.poll(() => layer().evaluate((e) => e === document.activeElement)).toBe(true)
    await expect.poll(hzNow).toBeGreaterThan(0)
    const before = await hzNow()
    await layer().press('ArrowRight')
    await expect.poll(hzNow).toBeGreaterThan(1.02 * before)
    await layer().press('Enter')
    await page.getByRole('slider', { name: 'Band a' }).waitFor()
    await page.keyboard.press('Control+z')
    await page.getByRole('slider', { name: 'Band a' }).waitFor({ state: 'detached' })
    await button.focus()
    await button.press('Enter')
    await layer().press('Escape')
    await layer().waitFor({ state: 'detached' })
    expect(await page.getByText(/^Listening only: hunting/).count()).toBe(0)
  })

  it('reports nothing wrong on the way', () => {
    expect(problems).toEqual([])
  })
})
