import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { launch } from './browser'
import { startServer } from './serve'

mkdirSync('/tmp/shots', { recursive: true })
const { address, stop } = await startServer(
  join(import.meta.dirname, '..', '..', '.cache', 'app-test'),
)
const browser = await launch()
const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
const page = await context.newPage()
page.on('pageerror', (e) => console.log('ERR', e.message))
page.on('console', (m) => {
  if (m.type() === 'error') console.log('CON', m.text().slice(0, 300))
})
await page.goto(address)
await page.getByRole('button', { name: /Tern Island ferry night/ }).click()
await page.waitForURL(/survey/, { timeout: 60_000 })
await page.getByText(/^Measured over/).waitFor({ timeout: 60_000 })
await page.screenshot({ path: '/tmp/shots/survey.png' })
await page.getByRole('link', { name: 'Clean', exact: true }).click()
await page.waitForTimeout(1500)
await page.screenshot({ path: '/tmp/shots/clean1.png' })
await page
  .getByLabel('Tracks and groups')
  .getByRole('button', { name: 'Singer', exact: true })
  .click()
await page.waitForTimeout(600)
await page.getByRole('button', { name: 'Hunt by ear' }).click()
await page.waitForTimeout(800)
const box = (await page.getByTestId('sheet').boundingBox())!
for (let i = 0; i < 40; i++) {
  await page.mouse.move(box.x + box.width * (0.9 - i * 0.01), box.y + 120)
  await page.waitForTimeout(16)
}
await page.waitForTimeout(400)
await page.screenshot({ path: '/tmp/shots/clean2.png' })
await page.mouse.down()
await page.mouse.up()
await page.waitForTimeout(800)
await page.screenshot({ path: '/tmp/shots/clean3.png' })
await page.keyboard.press('n')
await page.waitForTimeout(300)
await page.screenshot({ path: '/tmp/shots/clean4.png' })
await browser.close()
await stop()
