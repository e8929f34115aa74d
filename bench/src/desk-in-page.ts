import type { Page } from 'playwright-core'

/** The open session's player as the page shows it to measurements, as far as they use it. */
export interface PagePlayer {
  readonly positionFrames: number
  readonly playing: boolean
  play(): Promise<void>
  pause(): void
  seek(frame: number): void
  setAudio(id: string, channels: readonly Float32Array[] | null): void
  setPlan(plan: unknown): void
}

declare global {
  interface Window {
    soberPrism: { desk: { player: PagePlayer } }
  }
}

/** Memory of the page with its workers, in MB, as the browser counts it. */
export async function pageMemoryMb(page: Page): Promise<number> {
  const bytes = await page.evaluate(async () => {
    const measure = performance as unknown as {
      measureUserAgentSpecificMemory(): Promise<{ bytes: number }>
    }
    return (await measure.measureUserAgentSpecificMemory()).bytes
  })
  return bytes / 1e6
}

/** Milliseconds until `frames` more have been played. */
export function untilPlayed(page: Page, frames: number): Promise<number> {
  return page.evaluate(async (wanted) => {
    const { player } = window.soberPrism.desk
    const from = player.positionFrames
    const started = performance.now()
    await player.play()
    while (player.positionFrames < from + wanted) await new Promise((r) => setTimeout(r, 2))
    return performance.now() - started
  }, frames)
}
