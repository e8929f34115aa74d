import { createHash } from 'node:crypto'
import { rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeClip, writeWav } from '@sober-prism/core/audio'
import { MixRun, streamRun } from '@sober-prism/core/mix'
import { applyEdits, emptySession, newTrack, writeSession } from '@sober-prism/core/session'
import { newFollowBand, newTreatment, type Treatment } from '@sober-prism/core/treatments'
import { zipSync } from 'fflate'
import type { Browser } from 'playwright-core'
import { prepareHost } from '../../cli/src/host'
import { add, planOf, RATE, recordingsOf, sessionOf } from '../../core/src/testing/sessions'
import { gaussianNoise } from '../../core/src/testing/signals'
import { untilPlayed } from './desk-in-page'

const TRACKS = 24
const SECONDS = 2
const KEY = { node: 't0', tap: 'after-fader', as: 'mono' } as const

const BANDS = [200, 800, 2500, 6000].map((hz, i) => newFollowBand(`b${i}`, { hz }))

function sixFollowing(): Treatment[] {
  return Array.from({ length: 6 }, (_, i) => {
    const made = newTreatment('follow', `f${i}`, 'fit')
    return { ...made, params: { ...made.params, bands: BANDS }, key: KEY }
  })
}

function fourDucking(phase: 'minimum' | 'linear'): Treatment[] {
  return Array.from({ length: 4 }, (_, i) => {
    const made = newTreatment('duck', `d${i}`, 'fit')
    return { ...made, params: { ...made.params, fineness: 5, phase }, key: KEY }
  })
}

const moves = (treatments: readonly Treatment[]) => treatments.map((t, i) => add(`t${i + 1}`, t))

/** A mix of 24 stereo tracks, six of them following in four bands and four across the spectrum at the finest. */
export async function measureFollowing(): Promise<[string, string][]> {
  prepareHost()
  const ids = Array.from({ length: TRACKS }, (_, i) => `t${i}`)
  const session = sessionOf(ids, 2)
  const recordings = recordingsOf(
    ...ids.map((_, i) => [0, 1].map((c) => gaussianNoise(SECONDS * RATE, 2 * i + c, 0.05))),
  )
  const cost = async (...treatments: readonly Treatment[]) => {
    const plan = planOf(session, ...moves(treatments))
    const shares: number[] = []
    // The first round is for the compiler.
    for (let round = 0; round < 4; round++) {
      const stretch = { fromFrame: 0, toFrame: SECONDS * RATE }
      const run = new MixRun(plan, recordings, RATE, stretch)
      const from = performance.now()
      for await (const _ of streamRun(run)) {
        // What is made is of no interest here.
      }
      if (round > 0) shares.push((performance.now() - from) / 1000 / SECONDS)
    }
    return Math.min(...shares)
  }
  const percent = (share: number) => `${(100 * share).toFixed(0)} % of a core`
  return [
    ['24 stereo tracks, untreated', percent(await cost())],
    ['with six that follow in four bands', percent(await cost(...sixFollowing()))],
    [
      'and four across the spectrum, finest',
      percent(await cost(...sixFollowing(), ...fourDucking('minimum'))),
    ],
    ['the same in linear phase', percent(await cost(...sixFollowing(), ...fourDucking('linear')))],
  ]
}

const PLAYED_SECONDS = 20
const FADER_DB = -24

/** The same mix played in the browser, with a treatment that follows and a live spectrum on the sheet. */
export async function measureFollowingPlayed(
  browser: Browser,
  address: string,
): Promise<[string, string][]> {
  const page = await (
    await browser.newContext({ viewport: { width: 1280, height: 800 } })
  ).newPage()
  await page.goto(address)
  const file = join(tmpdir(), 'following.prism')
  writeFileSync(file, sessionFile([...sixFollowing(), ...fourDucking('minimum')]))
  await page.getByLabel('Session file').setInputFiles(file)
  await page.waitForURL(/survey/, { timeout: 120_000 })
  rmSync(file)
  await page.getByText(/^Measured over/).waitFor({ timeout: 300_000 })
  await page.getByRole('button', { name: 't7', exact: true }).click()
  const late = () =>
    page.evaluate(() => {
      const { player } = window.soberPrism.desk
      return { missed: player.missed.value, gaps: player.late.value.gaps }
    })
  const before = await late()
  const wall = await untilPlayed(page, PLAYED_SECONDS * RATE)
  const after = await late()
  return [
    [
      `${PLAYED_SECONDS} s of it played, one of the four on the sheet`,
      `${(wall / 1000).toFixed(2)} s`,
    ],
    ['reads that came too late', String(after.missed - before.missed)],
    ['gaps in the sound', String(after.gaps - before.gaps)],
  ]
}

/** A session file of the mix, with its audio. */
function sessionFile(treatments: readonly Treatment[]): Uint8Array {
  const frames = (PLAYED_SECONDS + 10) * RATE
  const made = emptySession('following', 'Following', '2026-03-04T05:06:07.000Z', RATE)
  const files: Record<string, Uint8Array> = {}
  for (let n = 0; n < TRACKS; n++) {
    const channels = [0, 1].map((c) => {
      const words = gaussianNoise(frames, 2 * n + c, 0.05).map((v) => Math.round(v * 32768))
      return words.map((v) => v / 32768)
    })
    const whole = createHash('sha256')
    for (const c of channels) {
      whole.update(createHash('sha256').update(new Uint8Array(c.buffer)).digest())
    }
    const hash = whole.digest('hex')
    files[`audio/${hash}.wav`] = writeWav(makeClip(RATE, channels), '32f')
    const track = newTrack(`t${n}`, `t${n}`, 'other', `${n}`, { hash, channels: 2, frames })
    made.tracks.push({ ...track, faderDb: FADER_DB })
  }
  const text = writeSession(applyEdits(made, moves(treatments)))
  return zipSync({ 'session.json': new TextEncoder().encode(text), ...files }, { level: 0 })
}
