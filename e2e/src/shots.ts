import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import type { Page } from 'playwright-core'
import { launch } from './browser'
import { startServer } from './serve'

/** Takes docs/screenshots/ from the demo: each main view on the light and the night sheet. */
const folder = join(import.meta.dirname, '..', '..', 'docs', 'screenshots')
mkdirSync(folder, { recursive: true })

const { address, stop } = await startServer(join(import.meta.dirname, '..', '..', 'app', 'dist'))
const browser = await launch()
const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
const page = await context.newPage()

const measured = () => page.getByText(/^Measured over/).waitFor({ timeout: 90_000 })
const quiet = () => page.getByTestId('notice').waitFor({ state: 'detached', timeout: 20_000 })

async function both(
  name: string,
  prepare: (page: Page) => Promise<void> = async () => {},
  sheets = ['light', 'night'],
) {
  for (const sheet of sheets) {
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur())
    if (sheet === 'night') await page.keyboard.press('n')
    await prepare(page)
    await page.waitForTimeout(250)
    await page.screenshot({ path: join(folder, `${name}${sheet === 'night' ? '-night' : ''}.png`) })
    await page.mouse.move(2, 2)
  }
  if (sheets.length > 1) await page.keyboard.press('n')
}
const LIGHT = ['light']

await page.goto(address)
await page.getByRole('button', { name: /Tern Island ferry night/ }).click()
await page.waitForURL(/survey/, { timeout: 60_000 })
await measured()
await page.getByRole('tab', { name: 'Masking' }).click()
await quiet()
await both('survey-masking', undefined, LIGHT)
await page.getByRole('tab', { name: 'Plan' }).click()
await page.getByRole('button', { name: 'Plan moves' }).click()
await page.getByRole('slider', { name: 'Moves to apply' }).waitFor()
// The curve over it comes in by itself.
await page.getByRole('tabpanel').locator('canvas').waitFor()
await page.waitForTimeout(500)
await both('survey-plan', undefined, LIGHT)
await page.getByRole('tab', { name: /^Findings/ }).click()
await page.getByRole('button', { name: 'Apply' }).first().click()
await page.getByText(/measured now/).waitFor()
await measured()
await quiet()
await both('survey', async () => {
  await page.mouse.move(735, 200)
})
await page.getByRole('link', { name: 'Gather' }).click()
await both('gather', undefined, LIGHT)
await page.getByRole('link', { name: 'Clean', exact: true }).click()
await page.getByRole('button', { name: 'Singer', exact: true }).click()
await page
  .getByRole('button', { name: /^Low cut at/ })
  .first()
  .click()
await page.getByRole('button', { name: 'Add a treatment to Clean' }).click()
await page.getByRole('menuitem', { name: 'Drawn curve' }).click()
await page.getByRole('button', { name: /points …/ }).click()
await page.getByLabel('Start from').selectOption({ label: 'What a small loudspeaker plays' })
await page.keyboard.press('Escape')
await quiet()
await both('clean-drawn-curve', undefined, LIGHT)
await page.keyboard.press('Control+z')
await page.keyboard.press('Control+z')
await page.getByRole('button', { name: 'Hunt by ear' }).click()
await both('clean-hunt', async () => {
  const box = await page.getByTestId('sheet').boundingBox()
  if (box) await page.mouse.move(box.x + 0.66 * box.width, box.y + 90)
  await page.waitForTimeout(600)
})
await page.getByRole('button', { name: 'Hunt by ear' }).click()
await page.getByRole('button', { name: 'Pause' }).click()
await page.getByLabel('Over time').selectOption({ label: 'Spectrogram before chain' })
const spectrogram = page.getByRole('region', { name: /^Spectrogram of/ })
await both(
  'clean-spectrogram',
  async () => {
    const box = await spectrogram.boundingBox()
    await page.waitForTimeout(800)
    if (box) await page.mouse.move(box.x + 0.62 * box.width, box.y + 0.4 * box.height)
  },
  LIGHT,
)
await page.getByLabel('Over time').selectOption({ label: 'No spectrogram' })
await page.getByRole('link', { name: 'Fit', exact: true }).click()
await page.getByRole('button', { name: 'Accordion', exact: true }).click()
await page.getByRole('button', { name: 'Test ways to make room' }).first().click()
const bank = page.getByRole('listitem').filter({ hasText: 'Spectral ducking' })
await bank.getByRole('button', { name: 'Apply' }).click({ timeout: 60_000 })
await page.waitForTimeout(8000)
await page.getByRole('button', { name: 'Test ways to make room' }).first().click()
await page.getByText(/\(recommended\)|Nothing tested makes/).waitFor({ timeout: 60_000 })
await quiet()
await page.getByRole('button', { name: 'Play', exact: true }).click()
await both('fit', () => page.waitForTimeout(2500))
await page.getByRole('button', { name: 'Pause' }).click()
await page.getByRole('button', { name: 'Tuba', exact: true }).click()
await page.getByRole('button', { name: 'Add a treatment to Fit' }).click()
await page.getByRole('menuitem', { name: 'Multiband', exact: true }).click()
await page.getByRole('button', { name: 'Test the sum' }).click()
await page.getByText(/^Unprocessed sum/).waitFor({ timeout: 60_000 })
await page.getByRole('button', { name: /^Band 3/ }).click()
await page.getByRole('textbox', { name: 'Level, dB' }).fill('-6')
await page.keyboard.press('Enter')
await page.getByLabel('Add to this band…').selectOption({ label: 'Saturation' })
await both('fit-bands', undefined, LIGHT)
await page.keyboard.press('Control+z')
await page.keyboard.press('Control+z')
await page.keyboard.press('Control+z')
await page.waitForTimeout(8000)
await page.getByRole('link', { name: 'Check', exact: true }).click()
const keep = page.getByRole('button', { name: 'Keep what stands as a new variation' })
await keep.click()
await page.getByRole('textbox', { name: 'Name of variation 1' }).fill('Room for the singer')
await keep.click()
await page.getByRole('textbox', { name: 'Name of variation 2' }).fill('Less zither')
const zither = page.getByRole('slider', { name: 'Fader of Zither, dB' })
await zither.focus()
for (let i = 0; i < 4; i++) await zither.press('ArrowDown')
await page.getByText(/^Press a state’s numeral/).waitFor({ timeout: 60_000 })
await quiet()
await page.keyboard.press('1')
await page.getByText(/dB to match/).waitFor()
await both('check', undefined, LIGHT)
await page.keyboard.press('1')
await page.getByRole('link', { name: 'Deliver' }).click()
await page.getByRole('button', { name: 'Render', exact: true }).click()
await page.getByRole('table', { name: 'Rendered files' }).waitFor({ timeout: 60_000 })
await both('deliver', undefined, LIGHT)
await page.getByRole('link', { name: 'Sober Prism' }).click()
await page.getByRole('link', { name: 'Tern Island ferry night' }).waitFor()
await page.screenshot({ path: join(folder, 'sessions.png') })
await page.getByRole('button', { name: /deck announcement, two takes/ }).click()
await page.waitForURL(/survey/, { timeout: 60_000 })
await measured()
await page.getByRole('link', { name: 'Shape', exact: true }).click()
await page.getByRole('button', { name: 'Foredeck', exact: true }).click()
await page.getByRole('button', { name: 'Compare Foredeck with Wheelhouse' }).click()
await page.getByText('What EQ cannot match').waitFor({ timeout: 60_000 })
await page.getByRole('button', { name: /^Apply \d bands$/ }).click()
await quiet()
await both('shape', async () => {
  await page.mouse.move(2, 2)
})

await browser.close()
stop()
console.log(`Pictures taken to ${folder}.`)
