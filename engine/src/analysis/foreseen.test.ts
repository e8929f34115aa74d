import 'fake-indexeddb/auto'
import { seededRandom } from '@sober-prism/core/audio'
import { newBand } from '@sober-prism/core/filters'
import { Foresight, type TrackChange } from '@sober-prism/core/findings'
import {
  applyEdits,
  type Edit,
  emptySession,
  newTrack,
  type Session,
} from '@sober-prism/core/session'
import { newChainBand, newTreatment } from '@sober-prism/core/treatments'
import { afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { RecordingShelf } from '../storage/recording-access'
import { storeRecording } from '../storage/recordings'
import { PoolHere } from '../testing/pool-here'
import type { Surveyed } from '../work/foresight-messages'
import type { WorkerPool } from '../work/worker-pool'
import { Analyser } from './analyser'
import type { Analysis } from './analysis'

const RATE = 48000

function noise(seed: number, hz: number): Float32Array {
  const random = seededRandom(seed)
  let low = 0
  return Float32Array.from({ length: RATE }, (_, i) => {
    low += 0.1 * (random() - 0.5 - low)
    return 0.3 * low + 0.1 * Math.sin(((2 * Math.PI * hz) / RATE) * i)
  })
}

/** Foresees here, at once. */
class Ahead {
  #foresight: Foresight | null = null
  async take({ tracks, settings }: Surveyed) {
    this.#foresight = new Foresight(tracks, settings)
  }
  async change(changes: readonly TrackChange[]) {
    return this.#foresight?.change(changes) ?? null
  }
  close() {}
}

let session: Session
beforeAll(async () => {
  const made = emptySession('s', 'S', '2026-03-04T05:06:07.000Z', RATE)
  for (const [i, hz] of [220, 900, 3000].entries()) {
    const audio = await storeRecording([noise(i + 1, hz)])
    made.tracks.push(newTrack(`t${i}`, `Track ${i}`, 'other', 'ABC'[i], audio))
  }
  session = applyEdits(made, [{ kind: 'add-group', id: 'g', name: 'G', members: ['t1', 't2'] }])
})

let analyser: Analyser
beforeEach(() => {
  const pool = new PoolHere() as unknown as WorkerPool
  analyser = new Analyser(pool, new RecordingShelf(), null, new Ahead())
})
afterEach(() => analyser.close())

async function until(holds: (state: Analysis) => boolean): Promise<Analysis> {
  while (!holds(analyser.state.value)) await new Promise((resolve) => setTimeout(resolve, 0))
  return analyser.state.value
}
const measure = (of: Session) => {
  analyser.update(of)
  return until((s) => s.fresh)
}
/** What is shown right after a change, before anything of it is measured. */
async function foresee(of: Session): Promise<Analysis> {
  const { heard } = analyser.state.value
  analyser.update(of)
  expect(analyser.state.value).toMatchObject({ foreseen: true, fresh: false })
  return until((s) => s.heard !== heard)
}
const cut = (node: string, hz: number, db: number): Edit => ({
  kind: 'add-band',
  node,
  stage: 'fit',
  treatment: null,
  newTreatment: `e ${node}`,
  chainBand: newChainBand('m', { ...newBand('bell', hz), db, q: 0.7 }),
})
const worst = (a: Float64Array, b: Float64Array) =>
  a.reduce(
    (most, db, i) => (Math.max(db, b[i]) < -80 ? most : Math.max(most, Math.abs(db - b[i]))),
    0,
  )

describe('after a move', () => {
  it.each<[string, Edit[]]>([
    ['of one track', [cut('t1', 900, -12)]],
    ['of a fader', [{ kind: 'set-node', node: 't0', change: { faderDb: -5 } }]],
    ['of a group', [cut('g', 1500, 8), { kind: 'set-node', node: 'g', change: { faderDb: 2 } }]],
    ['of the mix and a trim', [cut('mix', 300, -4), { kind: 'change-trim', node: 't2', db: -3 }]],
  ])('%s levels and shares are foreseen at once, as they are measured then', async (_, edits) => {
    const before = await measure(session)
    expect(before.foreseen).toBe(false)
    const moved = applyEdits(session, edits)
    const foreseen = await foresee(moved)
    expect(foreseen).toMatchObject({ foreseen: true, sharesForeseen: true })
    const measured = await until((s) => s.fresh)
    expect(measured).toMatchObject({ foreseen: false, sharesForeseen: false })
    for (const [id, { levels, lufs }] of measured.tracks) {
      const told = foreseen.tracks.get(id)
      expect(worst(told?.levels ?? levels.map(() => 0), levels)).toBeLessThan(0.6)
      expect(Math.abs((told?.lufs ?? 0) - (lufs ?? 0))).toBeLessThan(0.3)
      const share = measured.heard.get(id)?.share ?? 0
      expect(Math.abs((foreseen.heard.get(id)?.share ?? -1) - share)).toBeLessThan(0.01)
    }
    const lufs = measured.mix?.lufs ?? 0
    expect(Math.abs((foreseen.mix?.lufs ?? 0) - lufs)).toBeLessThan(0.4)
    const group = measured.groups.get('g')
    expect(Math.abs((foreseen.groups.get('g')?.lufs ?? 0) - (group?.lufs ?? 0))).toBeLessThan(0.4)
  })

  it('that cannot be told from responses, or changes nothing of the sound, nothing is foreseen', async () => {
    await measure(session)
    const treatment = newTreatment('leveller', 'l', 'shape')
    for (const edit of [
      { kind: 'add-treatment', node: 't0', treatment, before: null },
      { kind: 'set-node', node: 't0', change: { pan: 0.4 } },
      { kind: 'set-node', node: 't0', change: { name: 'Another' } },
    ] satisfies Edit[]) {
      analyser.update(applyEdits(session, [edit]))
      expect(analyser.state.value.foreseen).toBe(false)
    }
  })

  it('that is taken back the measured figures stand there again', async () => {
    const before = await measure(session)
    await foresee(applyEdits(session, [cut('t1', 900, -12)]))
    analyser.update(session)
    const after = await until((s) => s.fresh)
    expect(after).toMatchObject({ foreseen: false, sharesForeseen: false })
    expect(after.heard).toBe(before.heard)
    expect(after.tracks.get('t1')).toBe(before.tracks.get('t1'))
  })

  it('without a model at hand shares stay as they were measured, and are not said to be predicted', async () => {
    analyser.close()
    const pool = new PoolHere() as unknown as WorkerPool
    analyser = new Analyser(pool, new RecordingShelf(), null)
    const before = await measure(session)
    analyser.update(applyEdits(session, [cut('t1', 900, -12)]))
    await new Promise((resolve) => setTimeout(resolve, 20))
    const { foreseen, sharesForeseen, heard } = analyser.state.value
    expect({ foreseen, sharesForeseen }).toEqual({ foreseen: true, sharesForeseen: false })
    expect(heard).toBe(before.heard)
  })

  it('under a finger nothing is foreseen until it is let go', async () => {
    await measure(session)
    analyser.hold(true)
    analyser.update(applyEdits(session, [cut('t1', 900, -6)]))
    expect(analyser.state.value.foreseen).toBe(false)
    analyser.hold(false)
    expect(analyser.state.value.foreseen).toBe(true)
  })
})
