import axe from 'axe-core'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { freshPage, measured, openDemo } from './session-page'
import { noiseFile } from './sounds'

const RATE = 48_000
let browser: Browser
let page: Page
let problems: string[]
beforeAll(async () => {
  browser = await launch()
  ;({ page, problems } = await freshPage(browser))
})
afterAll(() => browser.close())

interface Player {
  readonly positionFrames: number
  readonly playing: boolean
  record(seconds: number): Promise<{ readonly left: Float32Array }>
}
/** Where the player stands, in seconds. */
const position = () =>
  page.evaluate((rate) => {
    const { player } = (window as unknown as { soberPrism: { desk: { player: Player } } })
      .soberPrism.desk
    return player.positionFrames / rate
  }, RATE)
const playing = () =>
  page.evaluate(
    () =>
      (window as unknown as { soberPrism: { desk: { player: Player } } }).soberPrism.desk.player
        .playing,
  )
/** Level of what is heard in the next part of a second, as mean square. */
const powerNow = (seconds: number) =>
  page.evaluate(async (length) => {
    const { player } = (window as unknown as { soberPrism: { desk: { player: Player } } })
      .soberPrism.desk
    const { left } = await player.record(length)
    return left.reduce((sum, v) => sum + v * v, 0) / left.length
  }, seconds)

describe('a short piece', () => {
  beforeAll(async () => {
    await page.getByRole('button', { name: 'New session' }).click()
    await page.waitForURL(/\/gather$/)
    await page
      .getByTestId('track-files')
      .setInputFiles([noiseFile('Lead voice.wav', 3, { seconds: 3 }), noiseFile('Bass.wav', 5)])
    await page.getByRole('button', { name: 'Clear list' }).waitFor({ timeout: 30_000 })
  })

  it('goes round as a whole with the loop ticked and no passage chosen, and never into silence', async () => {
    const loop = page.getByRole('checkbox', { name: 'Loop' })
    await loop.check()
    await page.getByRole('button', { name: 'Play', exact: true }).click()
    await expect.poll(position).toBeGreaterThan(2)
    await expect.poll(position, { timeout: 5000 }).toBeLessThan(1.5)
    expect(await playing()).toBe(true)
    // Over the seam and after it there is sound, round after round.
    for (let n = 0; n < 6; n++) {
      expect(await powerNow(0.5)).toBeGreaterThan(1e-6)
      expect(await position()).toBeLessThan(3.1)
    }
    // The key for the start works with the focus in the box, too.
    await loop.focus()
    await page.keyboard.press('Home')
    expect(await position()).toBeLessThan(0.8)
    await page.getByRole('button', { name: 'Pause', exact: true }).click()
    await page.keyboard.press('Home')
    await expect.poll(position).toBe(0)
  })

  it('stops at its end without the loop', async () => {
    await page.getByRole('checkbox', { name: 'Loop' }).uncheck()
    await page.getByRole('button', { name: 'Play', exact: true }).click()
    await page.getByRole('button', { name: 'Pause', exact: true }).waitFor()
    await page.getByRole('button', { name: 'Play', exact: true }).waitFor({ timeout: 10_000 })
    expect(await playing()).toBe(false)
    expect(await position()).toBeLessThanOrEqual(3.01)
  })

  it('takes back what was done before a reload', async () => {
    const name = page.getByLabel('Name of track A')
    const before = await name.inputValue()
    await name.fill('Altogether else')
    await name.press('Enter')
    await page.getByLabel('Mute Bass').click()
    await page.reload()
    await expect.poll(() => name.inputValue()).toBe('Altogether else')
    await page.getByRole('button', { name: 'Undo', exact: true }).first().click()
    await expect.poll(() => page.getByLabel('Mute Bass').getAttribute('aria-pressed')).toBe('false')
    // Each key that was pressed in the name may be a step of its own: back until the name is as it was.
    await expect
      .poll(async () => {
        if ((await name.inputValue()) !== before) {
          await page.getByRole('button', { name: 'Undo', exact: true }).first().click()
        }
        return name.inputValue()
      })
      .toBe(before)
    await page.getByRole('button', { name: 'Redo', exact: true }).first().click()
    await expect.poll(() => name.inputValue()).not.toBe(before)
  })

  it('has its leads chosen by their role', async () => {
    expect(await page.getByRole('checkbox', { name: /leads$/, checked: true }).count()).toBe(1)
    await page.getByRole('checkbox', { name: 'Bass leads' }).waitFor()
  })
})

describe('by keys', () => {
  beforeAll(async () => {
    await page.getByRole('link', { name: 'Sober Prism' }).click()
    await openDemo(page)
  })

  it('is at the first finding’s Apply in ten presses from the top of the page', async () => {
    await page.reload()
    await measured(page)
    let pressed = 0
    const focused = () => page.evaluate(() => document.activeElement?.textContent?.trim() ?? '')
    const press = async (key: string) => {
      await page.keyboard.press(key)
      pressed++
    }
    while ((await focused()) !== 'Skip to the panel' && pressed < 10) await press('Tab')
    await press('Enter')
    while ((await focused()) !== 'Apply' && pressed < 30) await press('Tab')
    expect(await focused()).toBe('Apply')
    expect(pressed).toBeLessThanOrEqual(10)
  })

  /** What breaks a rule on the page as it stands, of WCAG or beyond it. */
  const faults = async (tags = ['wcag2a', 'wcag2aa', 'best-practice']) => {
    await page.evaluate(axe.source)
    return page.evaluate(async (values) => {
      const { axe: checker } = window as unknown as { axe: typeof axe }
      const runOnly = { type: 'tag' as const, values }
      const { violations } = await checker.run(document, { runOnly })
      return violations.flatMap((v) => v.nodes.map((n) => `${v.id}: ${n.html.slice(0, 160)}`))
    }, tags)
  }

  it('has a list of all commands that is clean by the rules of WCAG 2 A and AA', async () => {
    await page.keyboard.press('Escape')
    await page.locator('body').press('.')
    await page.getByRole('combobox', { name: 'Command' }).waitFor()
    expect(await faults()).toEqual([])
    const names = await page.getByRole('option').allTextContents()
    for (const wanted of ['Propose levels', 'Render', 'Hunt', 'Plan moves', 'Apply', 'Presets']) {
      expect(names.some((n) => n.toLowerCase().includes(wanted.toLowerCase()))).toBe(true)
    }
    await page.keyboard.press('Escape')
  })

  it('has help that opens at the step in view, and menus, clean by the same rules', async () => {
    await page.getByRole('link', { name: 'Clean', exact: true }).click()
    await page.waitForURL(/clean$/)
    await page.locator('body').press('Shift+?')
    await page.getByRole('heading', { name: 'Clean: a walk' }).waitFor()
    expect(await faults()).toEqual([])
    await page.keyboard.press('Escape')
    await page.getByRole('button', { name: 'Tuba', exact: true }).click({ button: 'right' })
    await page.getByRole('menuitem', { name: 'Open in Shape' }).waitFor()
    // A menu lies over the page, in none of its parts.
    expect(await faults(['wcag2a', 'wcag2aa'])).toEqual([])
    await page.getByRole('menuitem', { name: 'Open in Shape' }).click()
    await page.waitForURL(/shape$/)
    await page.getByRole('region', { name: 'Chain of Tuba' }).waitFor()
  })

  it('has one heading of the first order and one main part on each page', async () => {
    for (const step of ['Gather', 'Survey', 'Clean', 'Fit', 'Shape', 'Check', 'Deliver']) {
      await page.getByRole('link', { name: step, exact: true }).click()
      await page.waitForURL(new RegExp(`/${step.toLowerCase()}$`))
      await expect.poll(() => page.locator('h1').count()).toBe(1)
      expect(await page.getByRole('main').count()).toBe(1)
      const empty = await page
        .locator('th')
        .evaluateAll((heads) => heads.filter((h) => h.textContent?.trim() === '').length)
      expect(empty).toBe(0)
    }
  })

  it('reports nothing wrong on the way', () => {
    expect(problems).toEqual([])
  })
})
