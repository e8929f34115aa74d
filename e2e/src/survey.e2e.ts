import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { freshPage, measured, openDemo } from './session-page'

let browser: Browser
let page: Page
let problems: string[]
beforeAll(async () => {
  browser = await launch()
  ;({ page, problems } = await freshPage(browser))
  await openDemo(page)
})
afterAll(() => browser.close())

const flag = () => page.getByRole('slider', { name: 'Band a' })

describe('the survey sheet', () => {
  it('reads every strip at the plumb line, also with the keyboard', async () => {
    const ruler = page.getByRole('slider', { name: 'Plumb line, frequency' })
    await ruler.focus()
    await ruler.press('ArrowRight')
    await expect
      .poll(() => ruler.getAttribute('aria-valuetext'))
      .toMatch(/^1\.06 kHz {2}C6 \+\d+c, −\d+\.\d dB/)
    await ruler.press('PageUp')
    await expect.poll(() => ruler.getAttribute('aria-valuetext')).toMatch(/^2\.12 kHz/)
    await ruler.press('Escape')
    await expect.poll(() => ruler.getAttribute('aria-valuetext')).toBe('not set')
  })

  it('opens the finding of a hatched place, and the equaliser of a strip', async () => {
    const strip = page.getByRole('img', { name: /^Spectrum of Singer,.*could recover/ })
    const label = (await strip.getAttribute('aria-label')) ?? ''
    const [low, high] = (/(\d+) to (\d+) Hz$/.exec(label) ?? []).slice(1).map(Number)
    const box = await strip.boundingBox()
    if (!box || !low) throw new Error(`No place on the strip: ${label}`)
    const share = Math.log(Math.sqrt(low * high) / 20) / Math.log(1000)
    const finding = page.getByRole('button', { name: 'Accordion masks Singer' })
    expect(await finding.getAttribute('aria-expanded')).toBe('false')
    await page.mouse.click(box.x + 10 + share * (box.width - 22), box.y + box.height / 2)
    await expect.poll(() => finding.getAttribute('aria-expanded')).toBe('true')
    await page.getByRole('button', { name: 'Hide the equaliser' }).click()
    await page.getByRole('img', { name: /^Spectrum of Zither/ }).dblclick()
    await page.getByRole('region', { name: 'Chain of Zither' }).waitFor()
  })

  it('makes, drags, nudges, types and removes a move', async () => {
    await page.getByRole('button', { name: 'Tuba', exact: true }).click()
    const sheet = page.getByTestId('sheet')
    const box = await sheet.boundingBox()
    if (!box) throw new Error('The sheet is not on the page.')
    await page.mouse.dblclick(box.x + box.width * 0.4, box.y + box.height * 0.6)
    await flag().waitFor()
    const before = await flag().getAttribute('aria-valuetext')

    const grip = await flag().boundingBox()
    if (!grip) throw new Error('The flag is not on the page.')
    await page.mouse.move(grip.x + 10, grip.y + 8)
    await page.mouse.down()
    for (let i = 1; i <= 12; i++) await page.mouse.move(grip.x + 10 + 8 * i, grip.y + 8 - 3 * i)
    await page.mouse.up()
    await expect.poll(() => flag().getAttribute('aria-valuetext')).not.toBe(before)
    const dragged = await flag().getAttribute('aria-valuetext')

    // A drag is one step of undo, however many changes it made.
    await page.keyboard.press('Control+z')
    await expect.poll(() => flag().getAttribute('aria-valuetext')).toBe(before)
    await page.keyboard.press('Control+Shift+z')
    await expect.poll(() => flag().getAttribute('aria-valuetext')).toBe(dragged)

    await flag().focus()
    const hz = page.getByRole('textbox', { name: 'Frequency, Hz' })
    const gain = page.getByRole('textbox', { name: 'Gain, dB' })
    await hz.fill('1.5k')
    await hz.press('Enter')
    await gain.fill('-3')
    await gain.press('Enter')
    await expect
      .poll(() => flag().getAttribute('aria-valuetext'))
      .toContain('Bell, 1.50 kHz, −3.0 dB')
    await flag().focus()
    await page.keyboard.press('ArrowUp')
    await page.keyboard.press('Shift+ArrowUp')
    await expect.poll(() => gain.inputValue()).toBe('−2.45')

    await gain.fill('loud')
    await gain.press('Enter')
    await page
      .getByRole('alert')
      .getByText(/Enter a value from/)
      .waitFor()
    await expect.poll(() => gain.inputValue()).toBe('−2.45')

    await flag().focus()
    await page.keyboard.press('Delete')
    await expect.poll(() => flag().count()).toBe(0)
  })

  it('hides every picture with one key and goes on', async () => {
    await page.keyboard.press('e')
    await page.getByText('Listening only: eyes closed').waitFor()
    await expect.poll(() => page.locator('canvas').first().isVisible()).toBe(false)
    await page.keyboard.press('e')
    await expect.poll(() => page.locator('canvas').first().isVisible()).toBe(true)
  })

  it('measures again over another passage', async () => {
    await measured(page)
    const integrated = page.getByLabel('Meters').locator('dd').nth(2)
    const before = await integrated.textContent()
    const start = page.getByRole('slider', { name: 'Start of the passage' })
    await start.focus()
    for (let i = 0; i < 10; i++) await start.press('ArrowLeft')
    await expect.poll(() => start.getAttribute('aria-valuetext')).toBe('0:04.0')
    await page.getByText('Waiting for changes').or(page.getByTestId('measuring')).first().waitFor()
    await measured(page)
    await expect.poll(() => integrated.textContent()).not.toBe(before)
    await page.keyboard.press('Control+z')
    await measured(page)
    await expect.poll(() => integrated.textContent()).toBe(before)
  })

  it('says when measuring is stopped, and takes it up again', async () => {
    await page.getByLabel('Fader of Zither, dB').press('ArrowLeft')
    await page.getByRole('button', { name: 'Stop' }).click()
    await page.getByText(/Measuring stopped/).waitFor()
    await page.getByRole('button', { name: 'Measure', exact: true }).click()
    await measured(page)
  })

  it('reported no error in all of this', () => {
    expect(problems).toEqual([])
  })
})
