import { makeClip } from '@sober-prism/core/audio'
import { longTermLevels } from '@sober-prism/core/spectrum'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { choose, freshPage, openDemo, recordFrom } from './session-page'

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
  await page.getByText('Who covers whom').waitFor()
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
    const card = page.getByRole('article').filter({ hasText: 'Accordion over Singer' })
    await card.getByRole('button', { name: 'Try ways to make room' }).click()
    const way = card.getByRole('listitem').filter({ hasText: 'Follow across the spectrum' })
    await way.getByRole('button', { name: 'Take it' }).click({ timeout: 20_000 })
    await expect.poll(() => page.getByLabel('Key', { exact: true }).inputValue()).not.toBe('')
    await expect
      .poll(() => page.getByLabel('Reason of Follow across the spectrum').inputValue())
      .toMatch(/^Room for Singer: heard from \d+ % to \d+ %/)
  })

  it('gives way only while the lead sounds, and is drawn while it plays', async () => {
    await page.getByRole('button', { name: 'solo Accordion' }).click()
    await page.waitForTimeout(300)
    const yielding = await heard()
    await expect.poll(deepest).toBeLessThan(-1)
    const box = page.getByRole('checkbox', { name: 'Follow across the spectrum on' })
    await box.uncheck()
    await page.waitForTimeout(300)
    plain = await heard()
    await box.check()
    expect(level(yielding, 300, 4000)).toBeLessThan(level(plain, 300, 4000) - 0.5)
    expect(level(yielding, 300, 4000)).toBeGreaterThan(level(plain, 300, 4000) - 6.5)
  })

  it('passes as it is with nothing to listen to', async () => {
    await choose(page, 'Key', 'listens to nothing')
    await page.waitForTimeout(400)
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
    await page.getByRole('menuitem', { name: 'Follow in bands' }).press('Enter')
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
    await choose(page, 'Listens', 'hears itself')
    await choose(page, 'Threshold against', 'full scale')
    await type('Threshold, dB', '-60')
    await page.getByText('1 band, up to 9.0 dB down').waitFor()
    await page.keyboard.press('Escape')
    await page.getByRole('button', { name: 'Play', exact: true }).click()
    await expect.poll(deepest).toBeLessThan(-6)
    await page.getByRole('button', { name: 'Pause' }).click()
  })
})

describe('lining up', () => {
  it('finds the far drum’s delay and takes it back', async () => {
    await track('Frame drum far').click()
    await choose(page, 'What leads', 'with E Frame drum near')
    await page.getByRole('button', { name: 'Search', exact: true }).click()
    await page.getByText(/frames \(.* ms\) earlier.*the sum of the two gains/).waitFor()
    await page.getByRole('button', { name: 'Line Frame drum far up' }).click()
    await page
      .getByText(/frames earlier/)
      .first()
      .waitFor()
    const reason = page.getByLabel('Reason of Align')
    await expect.poll(() => reason.inputValue()).toMatch(/^In line with Frame drum near/)
  })

  it('reports nothing wrong on the way', () => {
    expect(problems).toEqual([])
  })
})
