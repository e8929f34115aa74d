import { execSync } from 'node:child_process'
import { closeSync, mkdirSync, openSync, rmSync, writeSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { seededRandom } from '@sober-prism/core/audio'
import type { Browser, BrowserContext, Page } from 'playwright-core'
import { launchWithProfile } from '../../e2e/src/browser'
import { pageMemoryMb, untilHeardAt, untilPlayed } from './desk-in-page'

const RATE = 48000
const PASSAGE_PIXELS = 60
const SEEKS = 20

interface Size {
  readonly tracks: number
  readonly minutes: number
  /** Bells on each track; half the tracks have one of theirs dragged while it plays. */
  readonly bells: number
  readonly playSeconds: number
}

/** 24 stereo tracks of 5 minutes with 8 bells each. */
export const measureLargeSession = measuring({ tracks: 24, minutes: 5, bells: 8, playSeconds: 60 })
/** The same, played for ten minutes. */
export const measureEndurance = measuring({ tracks: 24, minutes: 5, bells: 8, playSeconds: 600 })
/** 100 stereo tracks of 4 minutes. */
export const measureManyTracks = measuring({ tracks: 100, minutes: 4, bells: 0, playSeconds: 30 })
/** Four stereo tracks of two hours. */
export const measureLongTracks = measuring({ tracks: 4, minutes: 120, bells: 4, playSeconds: 30 })

function measuring(size: Size) {
  return async (_: Browser, address: string): Promise<[string, string][]> => {
    const folder = join(tmpdir(), 'sober-prism-large')
    const files = writeTracks(folder, size)
    // Gigabytes are more than a context without a profile may store.
    const profile = join(folder, 'profile')
    const context = await launchWithProfile(profile)
    try {
      return await measureSession(context, address, files, size)
    } finally {
      await context.close()
      rmSync(folder, { recursive: true })
    }
  }
}

async function measureSession(
  context: BrowserContext,
  address: string,
  files: readonly string[],
  { tracks, minutes, bells, playSeconds }: Size,
): Promise<[string, string][]> {
  const page = await context.newPage()
  // The TypeScript runner wraps functions in this helper, which the page does not have.
  await page.addInitScript('globalThis.__name = (f) => f')
  await page.goto(address)
  await page.getByRole('button', { name: 'New session' }).click()
  await page.waitForURL(/gather/)
  const rows: [string, string][] = []
  const seconds = (from: number) => `${((performance.now() - from) / 1000).toFixed(1)} s`
  const memory = async (what: string) => {
    const used = (await pageMemoryMb(page)).toFixed(0)
    rows.push([`memory ${what}`, `${used} MB (largest renderer process: ${rendererMb()} MB)`])
  }

  let from = performance.now()
  await page.getByTestId('track-files').setInputFiles([...files])
  await page.getByRole('button', { name: 'Clear this list' }).waitFor({ timeout: 1_800_000 })
  rows.push([`${tracks} stereo files of ${minutes} min, 16 bit, brought in`, seconds(from)])
  await memory('after that')

  // A passage is chosen first: a whole long session is not what one surveys.
  const overview = await page.getByTestId('overview').boundingBox()
  if (!overview) throw new Error('The overview is not on the page.')
  const y = overview.y + overview.height / 2
  await page.mouse.move(overview.x + 200, y)
  await page.mouse.down()
  const width = minutes > 20 ? 8 : PASSAGE_PIXELS
  await page.mouse.move(overview.x + 200 + width / 2, y)
  await page.mouse.move(overview.x + 200 + width, y)
  await page.mouse.up()
  from = performance.now()
  await page.getByRole('link', { name: 'Survey', exact: true }).click()
  await page.waitForTimeout(150)
  await measured(page)
  const passage = ((await page.getByTestId('passage').textContent()) ?? '').replace('Whole', '')
  rows.push([`surveyed, ${passage.trim()}`, seconds(from)])
  await memory('after that')

  for (let t = 0; t < (bells > 0 ? tracks : 0); t++) {
    await page.getByRole('button', { name: trackName(t), exact: true }).click()
    for (let b = 0; b < bells; b++)
      await page.getByRole('button', { name: 'Bell', exact: true }).click()
  }
  if (bells > 0) await measured(page)
  await page.reload()
  from = performance.now()
  await page.getByTestId('overview').waitFor()
  await measured(page)
  rows.push(['opened again', seconds(from)])

  await untilPlayed(page, RATE)
  const seeks: number[] = []
  for (let i = 0; i < SEEKS; i++) {
    const to = Math.round(minutes * 60 * RATE * ((0.37 * (i + 1)) % 0.95))
    seeks.push(await untilHeardAt(page, to))
    await page.waitForTimeout(200)
  }
  seeks.sort((a, b) => a - b)
  rows.push([
    'from a jump to the first block of the new place',
    `${seeks[SEEKS / 2].toFixed(0)} ms in the middle, ${seeks[SEEKS - 1].toFixed(0)} ms at most`,
  ])

  const late = () => page.evaluate(() => window.soberPrism.desk.player.missed.value)
  const before = await late()
  const playing = untilPlayed(page, playSeconds * RATE)
  // A band moves all the while, thirty steps a second, on one track after another.
  const until = performance.now() + 1000 * playSeconds
  for (let t = 0; bells > 0 && performance.now() < until - 2000; t = (t + 2) % tracks) {
    await page.getByRole('button', { name: trackName(t), exact: true }).click()
    await page.getByRole('slider', { name: 'Band a' }).focus()
    for (let step = 0; step < 30; step++) {
      await page.keyboard.press(step < 15 ? 'ArrowUp' : 'ArrowDown')
      await page.waitForTimeout(30)
    }
  }
  const wall = await playing
  await memory('while it plays')
  rows.push([
    `${playSeconds} s of it played${bells > 0 ? `, ${bells} bells a track, bands moving` : ''}`,
    `${(wall / 1000).toFixed(2)} s, ${(await late()) - before} reads came too late`,
  ])
  await page.evaluate(() => window.soberPrism.desk.player.pause())

  await page.getByRole('link', { name: 'Deliver' }).click()
  from = performance.now()
  await page.getByRole('button', { name: 'Render', exact: true }).click()
  await page.waitForTimeout(2000)
  await memory('while it renders')
  await page.getByRole('table', { name: 'Rendered files' }).waitFor({ timeout: 1_800_000 })
  rows.push(['the mix rendered, 24 bit', seconds(from)])
  return rows
}

async function measured(page: Page): Promise<void> {
  await page.getByText(/^Measured over/).waitFor({ timeout: 600_000 })
}

const trackName = (t: number) => `Part ${String(t + 1).padStart(3, '0')}`

/** Resident memory of the largest renderer process; shared code counts in it. */
function rendererMb(): string {
  const lines = execSync("ps -eo rss,args | grep 'type=renderer' | grep -v grep || true").toString()
  const kb = lines.split('\n').map((l) => Number.parseInt(l.trim(), 10) || 0)
  return (Math.max(...kb) / 1024).toFixed(0)
}

/** Files of noise that are all different, 16 bit. */
function writeTracks(folder: string, { tracks, minutes }: Size): string[] {
  rmSync(folder, { recursive: true, force: true })
  mkdirSync(folder, { recursive: true })
  const frames = minutes * 60 * RATE
  const random = seededRandom(5)
  const noise = new Int16Array(2 * 10 * RATE).map(() => 3000 * (random() - 0.5))
  const header = Buffer.alloc(44)
  header.write('RIFF', 0)
  header.writeUInt32LE(36 + 4 * frames, 4)
  header.write('WAVEfmt ', 8)
  for (const [at, value] of [
    [16, 16],
    [24, RATE],
    [28, 4 * RATE],
    [40, 4 * frames],
  ])
    header.writeUInt32LE(value, at)
  for (const [at, value] of [
    [20, 1],
    [22, 2],
    [32, 4],
    [34, 16],
  ])
    header.writeUInt16LE(value, at)
  header.write('data', 36)
  return Array.from({ length: tracks }, (_, t) => {
    const path = join(folder, `${trackName(t)}.wav`)
    const file = openSync(path, 'w')
    writeSync(file, header)
    // Another beginning for each file, at the same length.
    noise[0] = t
    const bytes = new Uint8Array(noise.buffer)
    for (let left = 4 * frames; left > 0; left -= bytes.length) {
      writeSync(file, bytes.subarray(0, Math.min(left, bytes.length)))
    }
    closeSync(file)
    return path
  })
}
