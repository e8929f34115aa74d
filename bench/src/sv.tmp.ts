import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { makeClip, readWav, writeWav } from '@sober-prism/core/audio'
import { launch } from '../../e2e/src/browser'
import { startServer } from '../../e2e/src/serve'
const folder = '/tmp/svfiles'; mkdirSync(folder, { recursive: true })
const T = Number(process.argv[2] ?? 8), S = Number(process.argv[3] ?? 120)
const demo = join(import.meta.dirname, '..', '..', '.cache', 'demo')
const sounds = readdirSync(demo).filter((f) => f.endsWith('.wav')).map((f) => readWav(new Uint8Array(readFileSync(join(demo, f)))))
const files = Array.from({ length: T }, (_, t) => { const { channels, frames, sampleRateHz } = sounds[t % sounds.length]; const stereo = [0, 1].map((side) => { const src = channels[side % channels.length]; return Float32Array.from({ length: S * sampleRateHz }, (_, i) => 0.7 * src[(i + t * 48000 + side * 7) % frames]) }); const file = join(folder, `track-${t + 10}.wav`); writeFileSync(file, writeWav(makeClip(sampleRateHz, stereo), 16)); return file })
const { address, stop } = await startServer()
const browser = await launch()
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
await page.addInitScript('globalThis.__name = (f) => f')
await page.goto(address)
await page.getByRole('button', { name: 'New session' }).click()
await page.waitForURL(/gather/)
for (const [i, file] of files.entries()) { await page.getByTestId('track-files').setInputFiles(file); await page.getByRole('textbox', { name: /^Name of track/ }).nth(i).waitFor({ timeout: 120_000 }) }
await page.waitForTimeout(1500)
await page.getByRole('link', { name: 'Survey', exact: true }).click()
const measured = () => page.getByText(/^Measured over/).waitFor({ timeout: 300_000 })
await measured()
await page.evaluate(() => { const { pool } = (window as any).soberPrism.desk; const w = window as any; w.log = {}; const run = pool.run.bind(pool); pool.run = (name: string, input: any, o: any) => { const t0 = performance.now(); return run(name, input, o).then((r: any) => { const e = (w.log[name] ??= { n: 0, first: t0, last: 0 }); e.n++; e.first = Math.min(e.first, t0); e.last = performance.now(); return r }) } })
const box = await page.locator('.overview').first().boundingBox()
await page.mouse.move(box!.x + 20, box!.y + box!.height / 2); await page.mouse.down(); await page.mouse.move(box!.x + box!.width / 2, box!.y + 5); await page.mouse.move(box!.x + box!.width - 20, box!.y + 5); await page.mouse.up()
let from = performance.now()
const z = await page.evaluate(() => performance.now())
await page.waitForTimeout(150); await measured()
console.log('survey', ((performance.now() - from) / 1000).toFixed(1))
const show = async (z: number) => { const log = await page.evaluate(() => { const l = (window as any).log; (window as any).log = {}; return l }); for (const [k, e] of Object.entries(log as any) as any) console.log('  ', k, e.n, ((e.first - z) / 1000).toFixed(1), '→', ((e.last - z) / 1000).toFixed(1)) }
await show(z)
const z2 = await page.evaluate(() => performance.now())
await page.getByRole('button', { name: 'Apply' }).first().click()
from = performance.now(); await page.waitForTimeout(200); await measured()
console.log('after move', ((performance.now() - from) / 1000).toFixed(1)); await show(z2)
await browser.close(); stop()
