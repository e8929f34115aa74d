import type { Page } from 'playwright-core'

/** The open session's player as the page shows it to measurements, as far as they use it. */
interface PagePlayer {
  readonly positionFrames: number
  readonly playing: boolean
  readonly missed: { readonly value: number }
  /** Gaps in the sound because the machine came too late. */
  readonly late: { readonly value: { readonly gaps: number } }
  /** Blocks that the audio thread has been asked for. */
  readonly blocks: number
  play(): Promise<void>
  pause(): void
  seek(frame: number): void
}

/** What is measured of it, as far as measurements look at it. */
interface PageAnalysis {
  readonly value: { readonly foreseen: boolean; readonly fresh: boolean; readonly heard: object }
  watch(onChange: () => void): () => void
}

declare global {
  interface Window {
    soberPrism: { desk: { player: PagePlayer; analyser: { state: PageAnalysis } } }
    /** Milliseconds from an edit until levels and shares were foreseen, and shares measured. */
    foreseen: { levels: number; shares: number; heard: number }
  }
}

/** Notes in the page when what comes of the next edit is shown. */
export function watchForeseen(): void {
  const { state } = window.soberPrism.desk.analyser
  const before = state.value.heard
  const none = Number.NaN
  window.foreseen = { levels: none, shares: none, heard: none }
  let from = none
  const stop = state.watch(() => {
    const { foreseen, fresh, heard } = state.value
    const now = performance.now()
    // Figures are out of date from the edit on.
    if (Number.isNaN(from)) from = now
    const seen = window.foreseen
    if (foreseen && Number.isNaN(seen.levels)) seen.levels = now - from
    if (foreseen && heard !== before && Number.isNaN(seen.shares)) seen.shares = now - from
    if (!foreseen && heard !== before && Number.isNaN(seen.heard)) seen.heard = now - from
    if (fresh) stop()
  })
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

/** Milliseconds from a jump while playing to the first block of the new place. */
export function untilHeardAt(page: Page, frame: number): Promise<number> {
  return page.evaluate(async (to) => {
    const { player } = window.soberPrism.desk
    const started = performance.now()
    player.seek(to)
    const isThere = () => player.positionFrames > to && player.positionFrames < to + 480_000
    while (!isThere()) await new Promise((r) => setTimeout(r, 1))
    return performance.now() - started
  }, frame)
}
