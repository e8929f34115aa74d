import axe from 'axe-core'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { freshPage, openDemo } from './session-page'

let browser: Browser
let page: Page
let problems: string[]
beforeAll(async () => {
  browser = await launch()
  ;({ page, problems } = await freshPage(browser))
  await openDemo(page)
})
afterAll(() => browser.close())

/** What the evidence of each step is called. */
const EVIDENCE: Readonly<Record<string, string>> = {
  Gather: 'References and levels',
  Fit: 'Make room',
  Shape: 'Match and tone',
  Survey: 'Findings',
  Clean: 'Possible problems',
  Check: 'What differs',
  Deliver: 'What will be rendered',
}
const STEPS = ['Gather', 'Survey', 'Clean', 'Fit', 'Shape', 'Check', 'Deliver'] as const
/** The last one is a window of 1280x800 at 200 %. */
const SIZES = [
  { width: 1280, height: 800 },
  { width: 1024, height: 700 },
  { width: 1920, height: 1080 },
  { width: 640, height: 400 },
]

async function go(step: string): Promise<void> {
  await page.getByRole('link', { name: step, exact: true }).click()
  await page.waitForURL(new RegExp(`/${step.toLowerCase()}$`))
  await page.getByRole('complementary', { name: EVIDENCE[step] }).waitFor()
}

/** Names, roles and contrast by the rules of WCAG 2 A and AA. */
async function accessibilityFaults(): Promise<string[]> {
  await page.evaluate(axe.source)
  return page.evaluate(async () => {
    const { axe: checker } = window as unknown as { axe: typeof axe }
    const { violations } = await checker.run(document, {
      runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa'],
    })
    return violations.flatMap((v) => v.nodes.map((n) => `${v.id}: ${n.html.slice(0, 160)}`))
  })
}

/** Controls that the tab key should reach, in reading order; and those it reached, from the top on. */
async function walk(): Promise<{ there: string[]; reached: string[] }> {
  const there = await page.evaluate(() => {
    const wanted =
      'a[href], button, input, select, textarea, [tabindex="0"], [role="slider"][tabindex="0"]'
    const all = [...document.querySelectorAll<HTMLElement>(wanted)].filter(
      (e) =>
        e.tabIndex >= 0 &&
        !e.matches(':disabled, [inert], [inert] *') &&
        e.checkVisibility({ visibilityProperty: true }) &&
        e.getClientRects().length > 0,
    )
    // Of radio buttons of one name only the chosen one is reached.
    const stops = all.filter(
      (e) => !(e instanceof HTMLInputElement && e.type === 'radio' && !e.checked),
    )
    stops.forEach((e, i) => {
      e.dataset.stop = String(i)
    })
    // From the top of the page on, wherever was clicked last.
    const top = document.createElement('span')
    top.tabIndex = -1
    document.body.prepend(top)
    top.focus()
    top.remove()
    return stops.map((_, i) => String(i))
  })
  const reached: string[] = []
  for (let i = 0; i < there.length + 40 && reached.at(-1) !== there.at(-1); i++) {
    await page.keyboard.press('Tab')
    const stop = await page.evaluate(
      () => (document.activeElement as HTMLElement | null)?.dataset.stop ?? null,
    )
    if (stop !== null && stop !== reached.at(-1)) reached.push(stop)
  }
  return { there, reached }
}

describe('the frame', () => {
  it.each(SIZES)('stands in the same places on every step at $width x $height', async (size) => {
    await page.setViewportSize(size)
    const places = []
    for (const step of STEPS) {
      await go(step)
      const boxes = await Promise.all([
        page.getByRole('banner').boundingBox(),
        page.getByRole('contentinfo').boundingBox(),
        page.getByRole('complementary').boundingBox(),
      ])
      const tracks = await page.getByLabel('Tracks and groups').boundingBox()
      places.push({ boxes, tracks: tracks && [tracks.x, tracks.y] })
      const wide = await page.evaluate(() => document.documentElement.scrollWidth)
      expect(wide).toBeLessThanOrEqual(size.width)
    }
    for (const place of places) expect(place).toEqual(places[0])
  })

  it('gives the sheet at least 300 pixels when strips are folded, and more by its divider', async () => {
    await page.setViewportSize(SIZES[0])
    await go('Survey')
    const height = async () => (await page.getByTestId('sheet').boundingBox())?.height ?? 0
    const divider = page.getByRole('separator', { name: /Divider/ })
    await divider.focus()
    for (let i = 0; i < 12; i++) await page.keyboard.press('ArrowUp')
    await expect.poll(height).toBeGreaterThanOrEqual(300)
    await divider.dblclick()
    await expect.poll(height).toBeLessThan(300)
  })

  it('folds the evidence away and opens it again, with its key', async () => {
    const width = async () => (await page.getByRole('complementary').boundingBox())?.width ?? 0
    await page.keyboard.press('v')
    await expect.poll(width).toBeLessThan(40)
    await page.reload()
    await page.getByLabel('Tracks and groups').waitFor()
    await expect.poll(() => width()).toBeLessThan(40)
    await page.keyboard.press('v')
    await expect.poll(width).toBeGreaterThan(300)
  })

  it('shows what is for listening only in one place, and undoes it with one key', async () => {
    const state = page.getByLabel('Listening', { exact: true }).getByRole('status')
    await page.getByLabel('solo Zither').click()
    await page.keyboard.press('i')
    await page.keyboard.press('u')
    await expect
      .poll(() => state.textContent())
      .toBe('Listening only: solo G, side signal only, dim')
    await page.keyboard.press('0')
    await expect.poll(() => state.textContent()).toBe('As rendered')
  })

  it('finds a command by its words and runs it', async () => {
    await page.keyboard.press('.')
    await page.getByRole('combobox', { name: 'Command' }).fill('dark')
    await page.keyboard.press('Enter')
    await page.getByRole('button', { name: 'Dark theme', pressed: true }).waitFor()
    await page.keyboard.press('n')
  })
})

describe.each(['light', 'night'])('the %s sheet', (sheet) => {
  beforeAll(async () => {
    await page.setViewportSize(SIZES[0])
    await go('Survey')
    if (sheet === 'night') await page.keyboard.press('n')
  })

  it.each([SIZES[0], SIZES[3]])('meets WCAG AA on every step at $width x $height', async (size) => {
    await page.setViewportSize(size)
    for (const step of STEPS) {
      await go(step)
      expect(await accessibilityFaults(), step).toEqual([])
    }
  })
})

describe('the keyboard alone', () => {
  it.each(STEPS)('reaches every control of %s in reading order', async (step) => {
    await page.setViewportSize(SIZES[0])
    await go(step)
    const { there, reached } = await walk()
    expect(there.length).toBeGreaterThan(30)
    expect(reached).toEqual(there)
  })
})

describe('the page of sessions', () => {
  it.each(['night', 'light'])(
    'meets WCAG AA and is reached by keyboard, %s sheet',
    async (sheet) => {
      await page
        .getByRole('link', { name: 'All sessions' })
        .or(page.getByTitle('All sessions'))
        .first()
        .click()
      await page.getByRole('table', { name: 'Sessions' }).waitFor()
      for (const size of [SIZES[0], SIZES[3]]) {
        await page.setViewportSize(size)
        expect(await accessibilityFaults()).toEqual([])
        expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(
          size.width,
        )
      }
      await page.setViewportSize(SIZES[0])
      const { there, reached } = await walk()
      expect(reached).toEqual(there)
      if (sheet === 'light') return
      await page.getByRole('button', { name: /(Light|Dark) theme/ }).click()
      await page.getByRole('link', { name: 'Tern Island ferry night' }).click()
      await page.getByLabel('Tracks and groups').waitFor()
    },
  )

  it('needs at most 250 KB of script to show itself', async () => {
    const sizes = new Map<string, number>()
    const fresh = await (await browser.newContext()).newPage()
    fresh.on('response', async (response) => {
      if (!response.url().endsWith('.js')) return
      const { gzipSync } = await import('node:zlib')
      sizes.set(response.url(), gzipSync(await response.body()).length)
    })
    await fresh.goto(new URL('/', page.url()).href)
    await fresh.getByRole('button', { name: 'New session' }).waitFor()
    await fresh.waitForLoadState('networkidle')
    const whole = [...sizes.values()].reduce((a, b) => a + b, 0)
    expect(sizes.size).toBeGreaterThan(0)
    console.log(`${sizes.size} scripts, ${Math.round(whole / 1000)} kB`)
    expect(whole).toBeLessThan(250_000)
  })

  it('reported no error in all of this', () => {
    expect(problems).toEqual([])
  })
})
