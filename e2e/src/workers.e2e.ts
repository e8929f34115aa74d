import fc from 'fast-check'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { freshPage, measured } from './session-page'
import { noiseFile } from './sounds'

/** More of them: `SOAK_ROUNDS=200 npx vitest run -c e2e/vitest.config.ts e2e/src/workers`. */
const ROUNDS = Number(process.env.SOAK_ROUNDS ?? 3)

let browser: Browser
let disturbed: Page
let calm: Page
beforeAll(async () => {
  browser = await launch()
  disturbed = await session()
  calm = await session()
})
afterAll(() => browser.close())

/** A session of two tracks in a page that counts the workers it makes, and can end them. */
async function session(): Promise<Page> {
  const { page } = await freshPage(browser)
  await page.addInitScript(() => {
    const living = new Set<Worker>()
    Object.assign(window, { living })
    window.Worker = class extends Worker {
      constructor(...args: ConstructorParameters<typeof Worker>) {
        super(...args)
        if (!String(args[0]).includes('task.worker')) return
        // One that ends before it showed its life is noticed after half a minute: a test of its own.
        const show = ({ data }: MessageEvent) => void (data.kind === 'alive' && living.add(this))
        this.addEventListener('message', show)
      }
    }
  })
  await page.reload()
  await page.getByRole('button', { name: 'New session' }).click()
  await page.waitForURL(/\/gather$/)
  const files = [0, 1].map((i) => noiseFile(`T${i}.wav`, i, { seconds: 4 }))
  await page.getByTestId('track-files').setInputFiles(files)
  await page.getByRole('button', { name: 'Clear list' }).waitFor({ timeout: 30_000 })
  await page.getByRole('link', { name: 'Survey' }).click()
  return page
}

/** Waits until the mix has another loudness than it had: until then the words may be those of before. */
async function changed(page: Page, before: number | undefined): Promise<void> {
  await expect.poll(async () => (await figures(page))[MIX], { timeout: 60_000 }).not.toBe(before)
  await measured(page)
}

/** Where the mix stands in {@link figures} of two tracks. */
const MIX = 2

/** Loudness and share of every track, and of the mix, as they were measured. */
const figures = (page: Page) =>
  page.evaluate(() => {
    type Reading = { readonly lufs: number | null }
    type Desk = {
      analyser: {
        state: {
          value: {
            tracks: Map<string, Reading>
            mix: Reading | null
            heard: Map<string, { readonly share: number }>
          }
        }
      }
    }
    const { desk } = (window as unknown as { soberPrism: { desk: Desk } }).soberPrism
    const { tracks, mix, heard } = desk.analyser.state.value
    if (!mix) return []
    const lufs = (reading: Reading) => reading.lufs ?? Number.NaN
    // The files may have come in in another order.
    const sorted = (values: number[]) => values.sort((a, b) => a - b)
    return [
      ...sorted([...tracks.values()].map(lufs)),
      lufs(mix),
      ...sorted([...heard.values()].map((h) => h.share)),
    ]
  })

/** Ends all workers there are; nobody is told of that by an event. Their number. */
const endWorkers = (page: Page) =>
  page.evaluate(() => {
    const { living } = window as unknown as { living: Set<Worker> }
    const count = living.size
    for (const worker of living) worker.terminate()
    living.clear()
    return count
  })

describe('measuring', () => {
  it('comes to the same figures when its workers end, at whatever moment', async () => {
    const seed = Math.floor(Math.random() * 2 ** 31)
    console.log(`workers end at moments of seed ${seed}`)
    const moments = fc.sample(fc.integer({ min: 0, max: 1000 }), { numRuns: ROUNDS, seed })
    let ended = 0
    let before: (number | undefined)[] = []
    for (const [round, moment] of moments.entries()) {
      const fader = { name: /^Fader of T0/ }
      if (round > 0) {
        for (const page of [disturbed, calm])
          await page.getByRole('slider', fader).press('ArrowLeft')
      }
      await disturbed.waitForTimeout(moment)
      ended += await endWorkers(disturbed)
      for (const [i, page] of [disturbed, calm].entries()) await changed(page, before[i])
      const [got, expected] = [await figures(disturbed), await figures(calm)]
      expect(got.length).toBe(5)
      for (const [i, value] of expected.entries()) expect(got[i]).toBeCloseTo(value, 4)
      before = [got[MIX], expected[MIX]]
    }
    expect(ended).toBeGreaterThan(0)
  })
})
