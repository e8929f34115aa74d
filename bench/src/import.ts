import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeClip, seededRandom, writeWav } from '@sober-prism/core/audio'
import type { Browser } from 'playwright-core'

const FILES = 24
const SECONDS = 30
const RATE = 48000

/** 24 stereo files of 30 s, 24 bit, dropped at once. */
export async function measureImport(
  browser: Browser,
  address: string,
): Promise<[string, string][]> {
  const folder = mkdtempSync(join(tmpdir(), 'sober-prism-import-'))
  try {
    const files = Array.from({ length: FILES }, (_, i) => {
      const random = seededRandom(i + 1)
      const noise = () =>
        Float32Array.from({ length: SECONDS * RATE }, () => 0.4 * (random() - 0.5))
      const file = join(folder, `Part ${i + 1}.wav`)
      writeFileSync(file, writeWav(makeClip(RATE, [noise(), noise()]), 24))
      return file
    })
    const page = await (await browser.newContext()).newPage()
    await page.goto(address)
    await page.getByRole('button', { name: 'New session' }).click()
    await page.waitForURL(/gather/)
    const from = performance.now()
    await page.getByTestId('track-files').setInputFiles(files)
    await page.getByRole('button', { name: 'Clear this list' }).waitFor({ timeout: 120_000 })
    const took = (performance.now() - from) / 1000
    return [[`${FILES} stereo files of ${SECONDS} s, 24 bit, brought in`, `${took.toFixed(1)} s`]]
  } finally {
    rmSync(folder, { recursive: true })
  }
}
