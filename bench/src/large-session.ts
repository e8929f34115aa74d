import type { Browser } from 'playwright-core'
import { untilPlayed } from './desk-in-page'

const TRACKS = 24
const SECONDS = 300
const RATE = 48000
const PLAY_SECONDS = 5

/** 24 stereo tracks of 5 minutes, 4 bells each, on the audio thread of the real player. */
export async function measureLargeSession(
  browser: Browser,
  address: string,
): Promise<[string, string][]> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  const page = await context.newPage()
  // The TypeScript runner wraps functions in this helper, which the page does not have.
  await page.addInitScript('globalThis.__name = (f) => f')
  await page.goto(address)
  await page.getByRole('button', { name: 'New session' }).click()
  await page.waitForURL(/gather/)
  const allocated = await page.evaluate(
    ([tracks, frames]) => {
      const { player } = window.soberPrism.desk
      const stage = (on: boolean, moves: unknown[]) => ({ on, moves })
      const bell = (id: string, hz: number) => ({
        id,
        on: true,
        reason: '',
        evidence: null,
        band: { type: 'bell', hz, db: -3, q: 1, slopeDbPerOct: 12, channel: 'stereo' },
      })
      const chain = {
        clean: stage(true, []),
        fit: stage(
          true,
          [100, 400, 1600, 6400].map((hz) => bell(`b${hz}`, hz)),
        ),
        shape: stage(true, []),
        output: { trimDb: 0, polarity: 'normal' },
      }
      let bytes = 0
      const plans = []
      for (let t = 0; t < tracks; t++) {
        const channels = [0, 1].map(() => {
          const channel = new Float32Array(new SharedArrayBuffer(frames * 4))
          for (let i = 0; i < frames; i += 7) channel[i] = 0.01
          bytes += channel.byteLength
          return channel
        })
        player.setAudio(`t${t}`, channels)
        plans.push({ id: `t${t}`, offsetFrames: 0, pan: 0, faderDb: -20, audible: true, chain })
      }
      player.setPlan({ tracks: plans, faderDb: 0, chain: { ...chain, fit: stage(true, []) } })
      return bytes
    },
    [TRACKS, SECONDS * RATE] as const,
  )
  await untilPlayed(page, RATE)
  const wall = await untilPlayed(page, PLAY_SECONDS * RATE)
  await context.close()
  return [
    [
      `samples of ${TRACKS} stereo tracks of ${SECONDS / 60} min in shared memory`,
      `${(allocated / 1e9).toFixed(2)} GB`,
    ],
    [
      `${PLAY_SECONDS} s of them played on the audio thread (4 bells a track)`,
      `${(wall / 1000).toFixed(2)} s`,
    ],
  ]
}
