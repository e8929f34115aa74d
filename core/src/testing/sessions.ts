import { type AudioSource, MemorySource } from '../audio'
import { type EqBand, newBand } from '../filters'
import { designNow, type MixPlan, renderPlan } from '../mix'
import { applyEdits, type Edit, emptySession, newTrack, type Session } from '../session'
import { newChainBand, newTreatment, type StageName, type Treatment } from '../treatments'

export const RATE = 48000
const SECONDS = 2

/** A content hash that is as good as any: `n` in hexadecimal. */
export function hashOf(n: number): string {
  return n.toString(16).padStart(64, '0')
}

/** A session of mono or stereo tracks with the ids given, each with a recording of its own. */
export function sessionOf(ids: readonly string[], channels: 1 | 2 = 1): Session {
  const made = emptySession('s', 'n', '2026-03-04T05:06:07.000Z', RATE)
  ids.forEach((id, n) => {
    const audio = { hash: hashOf(n), channels, frames: SECONDS * RATE }
    made.tracks.push(newTrack(id, id, 'other', id.toUpperCase().slice(0, 3), audio))
  })
  return made
}

/** Recordings for the tracks of {@link sessionOf}, in their order. */
export function recordingsOf(...sounds: readonly Float32Array[][]): Map<string, AudioSource> {
  return new Map(sounds.map((channels, n) => [hashOf(n), new MemorySource(channels)]))
}

type Phase = 'minimum' | 'mixed' | 'linear'

/** An equaliser of some bands, as an edit. */
export function addEqualiser(
  node: string,
  id: string,
  bands: readonly Partial<EqBand>[],
  phase: Phase = 'minimum',
  stage: StageName = 'fit',
): Edit {
  const chainBands = bands.map((band, i) =>
    newChainBand(`${id}-${i}`, { ...newBand('bell', 1000), ...band }),
  )
  return add(node, newTreatment('equaliser', id, stage, { phase, bands: chainBands }))
}

/** A treatment as an edit. */
export function add(node: string, treatment: Treatment): Edit {
  return { kind: 'add-treatment', node, treatment, before: null }
}

/** The rendered plan of a session after some edits, with its designs made. */
export function planOf(session: Session, ...edits: readonly Edit[]): MixPlan {
  return renderPlan(applyEdits(session, edits), designNow(RATE))
}

/** Largest difference of two signals over a stretch. */
export function apart(
  a: ArrayLike<number>,
  b: ArrayLike<number>,
  from = 0,
  to = Math.min(a.length, b.length),
): number {
  let worst = 0
  for (let i = from; i < to; i++) worst = Math.max(worst, Math.abs(a[i] - b[i]))
  return worst
}
