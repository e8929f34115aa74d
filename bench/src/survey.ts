import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeClip, readWav, writeWav } from '@sober-prism/core/audio'
import type { Browser, Page } from 'playwright-core'

const TRACKS = 16
const SECONDS = 240

/** All of Survey for 16 stereo tracks of 4 minutes: at first, after one move, and when reopened. */
export async function measureSurvey(
  browser: Browser,
  address: string,
): Promise<[string, string][]> {
  const folder = join(tmpdir(), 'sober-prism-survey')
  const files = writeTracks(folder)
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  const page = await context.newPage()
  // The TypeScript runner wraps functions in this helper, which the page does not have.
  await page.addInitScript('globalThis.__name = (f) => f')
  await page.addInitScript(watchPage)
  await page.goto(address)
  await page.getByRole('button', { name: 'New session' }).click()
  await page.waitForURL(/gather/)
  // One after another: the page reads large files as they are asked for.
  for (const file of files) {
    await page.getByTestId('track-files').setInputFiles(file)
    await page
      .getByRole('textbox', { name: /^Name of track/ })
      .nth(files.indexOf(file))
      .waitFor({ timeout: 120_000 })
  }
  await page.waitForTimeout(2000)
  await page.getByRole('link', { name: 'Survey', exact: true }).click()
  await measured(page)
  rmSync(folder, { recursive: true })
  const seconds = (from: number) => `${((performance.now() - from) / 1000).toFixed(1)} s`

  // A passage of nearly the whole length: nothing of it was measured before.
  const box = await page.getByTestId('overview').first().boundingBox()
  if (!box) throw new Error('The overview is not on the page.')
  await page.evaluate(() => {
    Object.assign((window as unknown as { seen: Seen }).seen, { longestMs: 0, longestStillMs: 0 })
  })
  // Not at the very ends, where the edges of the passage would be taken hold of.
  await page.mouse.move(box.x + 20, box.y + box.height / 2)
  await page.mouse.down()
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  await page.mouse.move(box.x + box.width - 20, box.y + box.height / 2)
  await page.mouse.up()
  const from = performance.now()
  await page.waitForTimeout(150)
  await measured(page)
  const passage = (await page.getByTestId('passage').textContent()) ?? ''
  const rows: [string, string][] = [
    [`all of Survey, 16 stereo tracks, ${passage.replace('Whole', '').trim()}`, seconds(from)],
  ]
  const seen = await page.evaluate(() => (window as unknown as { seen: Seen }).seen)
  rows.push(['longest task on the page meanwhile', `${seen.longestMs.toFixed(0)} ms`])
  rows.push([
    `longest wait for progress to move, at "${seen.longestAt}"`,
    `${seen.longestStillMs.toFixed(0)} ms`,
  ])

  // A cut of one track: a move on several has more to measure.
  await page
    .getByText(/^track-[0-9]+ covers/)
    .first()
    .click()
  await page.getByRole('button', { name: 'Apply' }).first().click()
  const moved = performance.now()
  const heardAfter = await page.evaluate(untilHeardAnew)
  await page.waitForTimeout(150)
  await measured(page)
  rows.push(['after one move: what is heard of each track, strips and hatching', `${heardAfter} s`])
  rows.push(['after one move: all', seconds(moved)])

  await page.reload()
  const again = performance.now()
  await measured(page)
  rows.push(['the same session opened again', seconds(again)])
  await context.close()
  return rows
}

interface Seen {
  longestMs: number
  longestStillMs: number
  longestAt: string
}

/** Runs in the page: watches long tasks, and how long progress stands still while work goes on. */
function watchPage(): void {
  const seen = { longestMs: 0, longestStillMs: 0, longestAt: '' }
  Object.assign(window, { seen })
  new PerformanceObserver((list) => {
    for (const entry of list.getEntries()) seen.longestMs = Math.max(seen.longestMs, entry.duration)
  }).observe({ entryTypes: ['longtask'] })
  let last = ''
  let since = 0
  setInterval(() => {
    const bar = document.querySelector('.work-row progress')
    const now = bar ? `${bar.getAttribute('aria-label')} ${(bar as HTMLProgressElement).value}` : ''
    if (now === '' || now !== last) since = performance.now()
    else if (performance.now() - since > seen.longestStillMs) {
      seen.longestStillMs = performance.now() - since
      seen.longestAt = now
    }
    last = now
  }, 20)
}

/** Runs in the page: waits until what is heard of the tracks was measured again; in seconds. */
function untilHeardAnew(): Promise<string> {
  type Page = { soberPrism: { desk: { analyser: { state: { value: { heard: unknown } } } } } }
  const heard = () => (window as unknown as Page).soberPrism.desk.analyser.state.value.heard
  const [before, from] = [heard(), performance.now()]
  return new Promise((resolve) => {
    const look = setInterval(() => {
      if (heard() === before) return
      clearInterval(look)
      resolve(((performance.now() - from) / 1000).toFixed(1))
    }, 10)
  })
}

async function measured(page: Page): Promise<void> {
  await page.getByText(/^Measured over/).waitFor({ timeout: 300_000 })
}

/** The demo's sounds, repeated to 4 minutes, each starting elsewhere and made stereo. */
function writeTracks(folder: string): string[] {
  rmSync(folder, { recursive: true, force: true })
  mkdirSync(folder, { recursive: true })
  const demo = join(import.meta.dirname, '..', '..', '.cache', 'demo')
  const sounds = readdirSync(demo)
    .filter((f) => f.endsWith('.wav'))
    .map((f) => readWav(new Uint8Array(readFileSync(join(demo, f)))))
  return Array.from({ length: TRACKS }, (_, t) => {
    const { channels, frames, sampleRateHz } = sounds[t % sounds.length]
    const stereo = [0, 1].map((side) => {
      const source = channels[side % channels.length]
      return Float32Array.from(
        { length: SECONDS * sampleRateHz },
        (_, i) => 0.7 * source[(i + t * 48000 + side * 7) % frames],
      )
    })
    const file = join(folder, `track-${String(t + 1).padStart(2, '0')}.wav`)
    writeFileSync(file, writeWav(makeClip(sampleRateHz, stereo), 16))
    return file
  })
}
