import 'fake-indexeddb/auto'
import { seededRandom } from '@sober-prism/core/audio'
import { newBand } from '@sober-prism/core/filters'
import {
  applyEdits,
  type Edit,
  emptySession,
  newTrack,
  type Session,
} from '@sober-prism/core/session'
import { newChainBand } from '@sober-prism/core/treatments'
import { afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { RecordingShelf } from '../storage/recording-access'
import { storeRecording } from '../storage/recordings'
import { PoolHere } from '../testing/pool-here'
import type { WorkerPool } from '../work/worker-pool'
import { Analyser } from './analyser'

const RATE = 48000
const FRAMES = 2 * RATE

function noise(seed: number, hz: number): Float32Array {
  const random = seededRandom(seed)
  const step = (2 * Math.PI * hz) / RATE
  let low = 0
  return Float32Array.from({ length: FRAMES }, (_, i) => {
    low += 0.1 * (random() - 0.5 - low)
    return 0.3 * low + 0.1 * Math.sin(step * i)
  })
}

let stored: Session
beforeAll(async () => {
  stored = emptySession('s', 'S', '2026-03-04T05:06:07.000Z', RATE)
  for (const [i, hz] of [220, 900, 3000].entries()) {
    const audio = await storeRecording([noise(i + 1, hz)])
    stored.tracks.push(newTrack(`t${i}`, `Track ${i}`, 'other', 'ABC'[i], audio))
  }
  stored.leadIds = ['t0']
})
const makeSession = (): Session => structuredClone(stored)
const changed = (...edits: Edit[]): Session => applyEdits(makeSession(), edits)

let pool: PoolHere
let analyser: Analyser
beforeEach(() => {
  pool = new PoolHere()
  analyser = new Analyser(pool as unknown as WorkerPool, new RecordingShelf(), null)
})
afterEach(() => analyser.close())

/** Resolves when figures belong to the session as it stands. */
function fresh(): Promise<void> {
  return new Promise((resolve) => {
    const look = () => {
      if (!analyser.state.value.fresh) return
      stop()
      resolve()
    }
    const stop = analyser.state.watch(look)
    look()
  })
}

/** Resolves when something holds, looked at after each turn of the event loop. */
async function until(holds: () => boolean): Promise<void> {
  while (!holds()) await new Promise((resolve) => setTimeout(resolve, 0))
}

const measure = async (session: Session) => {
  analyser.update(session)
  await fresh()
  return analyser.state.value
}

describe('the analyser', () => {
  it('measures every track, the mix, who is heard and what covers the lead', async () => {
    const state = await measure(makeSession())
    expect([...state.tracks.keys()].sort()).toEqual(['t0', 't1', 't2'])
    expect(state.mix?.lufs).toBeLessThan(-10)
    for (const { share } of state.heard.values()) {
      expect(share).toBeGreaterThan(0)
      expect(share).toBeLessThan(1)
    }
    const masking = (state.findings ?? []).filter((f) => f.kind === 'masking')
    for (const { tracks, predicted } of masking) {
      expect(tracks[0]).not.toBe('t0')
      expect(predicted?.after).toBeGreaterThan(predicted?.before ?? 1)
    }
    const shares = state.covering.filter((c) => c.targetId === 't0').map((c) => c.share)
    const heard = state.heard.get('t0')?.share ?? 0
    expect(shares.reduce((a, b) => a + b) + heard).toBeCloseTo(1, 6)
    expect(state.balance?.target.kind).toBe('slope')
    expect(state.work).toBeNull()
  })

  it('computes again only what a change touches', async () => {
    const session = makeSession()
    await measure(session)
    expect(pool.count('track')).toBe(3)
    // A fader changes masking and the mix, not how a track measures before its fader.
    await measure({
      ...session,
      tracks: session.tracks.map((t, i) => (i === 1 ? { ...t, faderDb: -6 } : t)),
    })
    expect([pool.count('track'), pool.count('mixPart')]).toEqual([3, 2])
    // A name changes nothing at all.
    const before = pool.asked.length
    await measure({ ...session, name: 'Another name' })
    expect(pool.asked.length).toBe(before)
  })

  it('says what a cut did: the lead is heard better, and its strip is measured again', async () => {
    const session = makeSession()
    const before = await measure(session)
    const mark = (node: string): Edit => {
      const band = { ...newBand('bell', 300), db: -12, q: 0.5 }
      const at = { stage: 'fit', treatment: null, newTreatment: `e${node}` } as const
      return { kind: 'add-band', node, ...at, chainBand: newChainBand(`m${node}`, band) }
    }
    const after = await measure(changed(mark('t1'), mark('t2')))
    expect(pool.count('track')).toBe(5)
    // Rings are those of the recordings, whatever is done about them.
    expect(pool.count('rings')).toBe(3)
    expect(after.heard.get('t0')?.share).toBeGreaterThan(before.heard.get('t0')?.share ?? 1)
  })

  it('drops what is out of date: only the newest state is shown', async () => {
    const session = makeSession()
    analyser.update(session)
    // Measuring the first state has begun, and is overtaken.
    await until(() => pool.asked.length > 0)
    const muted = session.tracks.map((t, i) => (i > 0 ? { ...t, mute: true } : t))
    const state = await measure({ ...session, tracks: muted })
    expect(state.heard.get('t0')?.share).toBeCloseTo(1, 6)
    expect(state.findings).not.toBeNull()
    expect(state.findings?.filter((f) => f.kind === 'masking')).toEqual([])
  })

  it('waits while more tracks come in, and begins once when they are in', async () => {
    const session = makeSession()
    analyser.expectMore(true)
    for (const count of [1, 2, 3]) {
      analyser.update({ ...session, tracks: session.tracks.slice(0, count) })
      // Longer than measuring waits for a hand to rest.
      await new Promise((resolve) => setTimeout(resolve, 200))
    }
    expect(pool.asked).toEqual([])
    analyser.expectMore(false)
    await fresh()
    expect(pool.count('track')).toBe(3)
    expect(analyser.state.value.tracks.size).toBe(3)
  })

  it('waits while a drag may be going on, and begins when it is let go', async () => {
    const session = makeSession()
    analyser.hold(true)
    for (const faderDb of [-1, -2, -3]) {
      const tracks = session.tracks.map((t) => ({ ...t, faderDb }))
      analyser.update({ ...session, tracks })
      // Steps as far apart as on a slow machine.
      await new Promise((resolve) => setTimeout(resolve, 200))
    }
    expect(pool.asked).toEqual([])
    analyser.hold(false)
    await fresh()
    expect(pool.count('track')).toBe(session.tracks.length)
  })

  it('is done again when a change is taken back before it was measured', async () => {
    const session = makeSession()
    await measure(session)
    analyser.update({ ...session, name: 'Another name' })
    expect(analyser.state.value.fresh).toBe(false)
    const state = await measure(session)
    expect(state.work).toBeNull()
  })

  it('measures a mix again when audio that was missing is back, and the references too', async () => {
    const session = makeSession()
    const gone = { hash: 'e'.repeat(64), channels: 1, frames: FRAMES }
    const shelf = { back: false }
    const real = new RecordingShelf()
    const find: RecordingShelf['find'] = async (audios) => {
      const found = await real.find(audios.map((a) => (a.hash === gone.hash ? loud : a)))
      const access = found.get(loud.hash)
      if (access && shelf.back) found.set(gone.hash, { ...access, hash: gone.hash })
      return found
    }
    const loud = await storeRecording([noise(9, 500).map((v) => 3 * v)])
    analyser.close()
    const kept = new Map<string, unknown>()
    const store = {
      load: async (key: string) => kept.get(key),
      keep: async (key: string, value: unknown) => void kept.set(key, value),
      touch: async () => {},
    }
    const around = Object.assign(new RecordingShelf(), { find })
    analyser = new Analyser(pool as unknown as WorkerPool, around, store)
    const tracks = [session.tracks[0], { ...session.tracks[1], audio: gone }]
    const references = [{ id: 'r', name: 'R', audio: gone, passage: null }]
    const before = await measure({ ...session, tracks, references })
    expect(before.problem).toContain('Track 1')
    expect(before.references.size).toBe(0)
    shelf.back = true
    const after = await measure({ ...session, tracks, references, name: 'restored' })
    expect(after.problem).toBeNull()
    expect((after.mix?.lufs ?? 0) - (before.mix?.lufs ?? 0)).toBeGreaterThan(5)
    expect(after.references.size).toBe(1)
  })

  it('measures groups, and a track on its way through one; only what hears a change is measured again', async () => {
    const grouped = changed({ kind: 'add-group', id: 'g', name: 'G', members: ['t1', 't2'] })
    const before = await measure(grouped)
    expect(before.groups.get('g')?.lufs).toBeLessThan(0)
    const [tracks, groups] = [pool.count('track'), pool.count('levels')]
    const lowered = applyEdits(grouped, [
      {
        kind: 'add-band',
        node: 'g',
        stage: 'fit',
        treatment: null,
        newTreatment: 'e',
        chainBand: newChainBand('m', { ...newBand('bell', 900), db: -12, q: 0.7 }),
      },
    ])
    const after = await measure(lowered)
    // The two tracks in the group and the group; the third track is as it was.
    expect(pool.count('track') - tracks).toBe(2)
    expect(pool.count('levels') - groups).toBe(1)
    expect(after.tracks.get('t1')?.lufs).toBeLessThan((before.tracks.get('t1')?.lufs ?? 0) - 1)
    expect(after.tracks.get('t0')).toBe(before.tracks.get('t0'))
  })

  it('keeps dismissed findings away', async () => {
    const session = makeSession()
    const { findings } = await measure(session)
    const [first] = findings ?? []
    if (!first) throw new Error('Nothing was found to dismiss.')
    const dismissed = [{ key: first.key, state: first.state, reason: 'I like it so.' }]
    const state = await measure({ ...session, dismissed })
    expect(state.findings?.map((f) => f.key)).not.toContain(first.key)
    // Moved, it is another sound, and what was dismissed is told again.
    const tracks = session.tracks.map((t) => ({ ...t, offsetFrames: 480 }))
    const moved = await measure({ ...session, tracks, dismissed })
    expect(moved.findings?.map((f) => f.key)).toContain(first.key)
  })

  it('takes results that were kept from an earlier time', async () => {
    const kept = new Map<string, unknown>()
    const store = {
      load: async (key: string) => kept.get(key),
      keep: async (key: string, value: unknown) => void kept.set(key, value),
      touch: async () => {},
    }
    for (const analysed of [1, 2]) {
      analyser.close()
      pool = new PoolHere()
      analyser = new Analyser(pool as unknown as WorkerPool, new RecordingShelf(), store)
      const state = await measure(makeSession())
      expect(state.heard.size).toBe(3)
      expect(pool.asked.length > 0).toBe(analysed === 1)
    }
  })

  it('folds to mono when asked, and plans moves that win clarity for the lead', async () => {
    const before = await measure(makeSession())
    analyser.setMono(true)
    await fresh()
    expect(analyser.state.value.mono).toBe(true)
    expect(analyser.state.value.heard.get('t0')?.share).toBeCloseTo(
      before.heard.get('t0')?.share ?? 0,
      6,
    )
    // Among three sounds of one loudness no move is worth its cost; over a lead that stands out some are.
    const leading = makeSession()
    leading.tracks[0].faderDb = 6
    await measure(leading)
    await analyser.plan()
    const { plan } = analyser.state.value
    const start = plan?.heardBefore.get('t0') ?? 1
    expect(plan?.steps.length).toBeGreaterThan(0)
    for (const step of plan?.steps ?? []) {
      expect(step.heard.get('t0')).toBeGreaterThan(start)
      for (const level of step.levelsLu) expect(Math.abs(level)).toBeLessThan(1.6)
    }
  })

  it('names tracks whose audio is gone, and measures the others', async () => {
    const session = makeSession()
    const audio = { ...session.tracks[2].audio, hash: 'e'.repeat(64) }
    const state = analyser.state
    analyser.update({ ...session, tracks: [session.tracks[0], { ...session.tracks[2], audio }] })
    await new Promise<void>((resolve) => {
      const stop = state.watch(() => {
        if (state.value.problem === null) return
        stop()
        resolve()
      })
    })
    expect(state.value.problem).toContain('Track 2')
  })

  it('is done at once with an empty session', async () => {
    const state = await measure(emptySession('s', 'S', '2026-03-04T05:06:07.000Z', RATE))
    expect([state.tracks.size, state.mix, state.findings]).toEqual([0, null, null])
    expect(pool.asked).toEqual([])
  })
})
