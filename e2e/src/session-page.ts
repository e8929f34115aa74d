import { readFile } from 'node:fs/promises'
import type { Browser, Download, Page } from 'playwright-core'
import { inject } from 'vitest'

/** A page of an empty profile, which fails loudly when the app reports an error or asks outside. */
export async function freshPage(browser: Browser): Promise<{ page: Page; problems: string[] }> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  const page = await context.newPage()
  const problems: string[] = []
  page.on('pageerror', (error) => problems.push(error.message))
  page.on('console', (message) => {
    if (message.type() === 'error') problems.push(message.text())
  })
  page.on('request', (request) => {
    const { protocol, hostname } = new URL(request.url())
    if (protocol === 'http:' && hostname !== 'localhost') problems.push(`asked ${request.url()}`)
  })
  await page.goto(inject('address'))
  return { page, problems }
}

/** Opens the ensemble's demo and waits until it is measured. */
export async function openDemo(page: Page): Promise<void> {
  await page.getByRole('button', { name: /Tern Island ferry night/ }).click()
  await page.waitForURL(/\/survey$/, { timeout: 60_000 })
  await measured(page)
}

/** Opens the two takes of an announcement, and waits until they are measured. */
export async function openAnnouncement(page: Page): Promise<void> {
  await page.getByRole('button', { name: /deck announcement, two takes/ }).click()
  await page.waitForURL(/\/survey$/, { timeout: 60_000 })
  await measured(page)
}

/** Waits until all figures belong to the session as it stands. */
export async function measured(page: Page): Promise<void> {
  await page.getByText(/^Measured over/).waitFor({ timeout: 90_000 })
}

/** Switches something that is left out for listening, or heard alone, on or off. */
export async function bypass(page: Page, what: string): Promise<void> {
  await page.getByRole('button', { name: 'Bypass', exact: true }).click()
  const ways = page.getByRole('dialog', { name: 'Listen without, or to a part' })
  await ways.getByRole('button', { name: what, exact: true }).click()
  await page.keyboard.press('Escape')
  await ways.waitFor({ state: 'detached' })
}

/** Opens a section of the panel in Shape, where it is folded. */
export async function unfold(page: Page, name: string): Promise<void> {
  const section = page.getByRole('region', { name, exact: true })
  const head = section.getByRole('button', { name: new RegExp(`^${name}`) }).first()
  if ((await head.getAttribute('aria-expanded')) === 'false') await head.click()
}

/** Chooses from a list, of the browser's own kind or of the interface's. */
export async function choose(page: Page, label: string, option: string | RegExp): Promise<void> {
  const list = page.getByLabel(label, { exact: true })
  if ((await list.evaluate((e) => e.tagName)) !== 'SELECT') {
    await list.click()
    return page.getByRole('option', { name: option }).click()
  }
  const named = await list.locator('option', { hasText: option }).textContent()
  await list.selectOption({ label: named ?? '' })
}

export async function bytesOf(download: Download): Promise<Uint8Array<ArrayBuffer>> {
  return new Uint8Array(await readFile(await download.path()))
}

/** What the audio thread puts out from `frame` on, kept by the worklet itself; paused afterwards. */
export async function recordFrom(
  page: Page,
  frame: number,
  seconds: number,
): Promise<[Float32Array, Float32Array]> {
  const coded = await page.evaluate(
    async ([from, length]) => {
      type Recorder = {
        pause(): void
        seek(frame: number): void
        play(): Promise<void>
        record(seconds: number): Promise<{ left: Float32Array; right: Float32Array }>
        readonly playing: boolean
      }
      const { player } = (window as unknown as { soberPrism: { desk: { player: Recorder } } })
        .soberPrism.desk
      player.pause()
      while (player.playing) await new Promise((resolve) => setTimeout(resolve, 20))
      await new Promise((resolve) => setTimeout(resolve, 100))
      player.seek(from)
      const recording = player.record(length)
      await player.play()
      const { left, right } = await recording
      player.pause()
      const code = (signal: Float32Array) => {
        const bytes = new Uint8Array(signal.buffer, signal.byteOffset, signal.byteLength)
        let text = ''
        for (let i = 0; i < bytes.length; i += 8192) {
          text += String.fromCharCode(...bytes.subarray(i, i + 8192))
        }
        return btoa(text)
      }
      return [code(left), code(right)]
    },
    [frame, seconds] as const,
  )
  const decode = (text: string) => {
    const bytes = Uint8Array.from(Buffer.from(text, 'base64'))
    return new Float32Array(bytes.buffer)
  }
  return [decode(coded[0]), decode(coded[1])]
}

/**
 * Waits until the audio thread has gone on by so much: what was sent to it before is heard, and gains have come to rest. By its own
 * clock, since it may be late. An output that is not open yet begins with what it is told.
 */
export async function soundSettled(page: Page, seconds = 0.3): Promise<void> {
  await page.evaluate(async (wanted) => {
    type Shown = { soberPrism: { desk: { player: { blocks: number; sampleRateHz: number } } } }
    const { player } = (window as unknown as Shown).soberPrism.desk
    const BLOCK_FRAMES = 128
    const end = player.blocks + (wanted * player.sampleRateHz) / BLOCK_FRAMES
    while (player.blocks > 0 && player.blocks < end) await new Promise((r) => setTimeout(r, 10))
  }, seconds)
}
