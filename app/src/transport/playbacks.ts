import { PLAYBACKS } from '@sober-prism/core/playback'
import {
  type Desk,
  deleteImpulse,
  keepImpulse,
  listImpulses,
  type PlaybackChoice,
  playbackKey,
  Signal,
} from '@sober-prism/engine'
import { useEffect } from 'react'
import { useSignal } from '../shell/desk-context'

type Recorded = Extract<PlaybackChoice, { kind: 'recorded' }>

/** Playbacks that are described, in the order in which they are offered. */
export const DESCRIBED: readonly PlaybackChoice[] = PLAYBACKS.map((playback) => ({
  kind: 'described',
  playback,
}))

/** Impulse responses of one's own; null until they are read from this browser. */
const own = new Signal<readonly Recorded[] | null>(null)
let isAsked = false

/** What one listened through last: what the key turns on again. */
let last: PlaybackChoice = DESCRIBED[0]

/** @throws EngineError where they cannot be read. */
async function readOwn(): Promise<void> {
  const all = await listImpulses()
  own.set(all.map(({ storedAt: _, ...impulse }) => ({ kind: 'recorded', ...impulse })))
}

/** Everything that one can listen through: what is described, then one's own. */
export function usePlaybacks(): readonly PlaybackChoice[] {
  const recorded = useSignal(own)
  useEffect(() => {
    if (isAsked) return
    isAsked = true
    // What cannot be read is told where something is kept.
    readOwn().catch(() => own.set([]))
  }, [])
  return [...DESCRIBED, ...(recorded ?? [])]
}

/** Takes an impulse response in. @throws EngineError that says what is wrong with it. */
export async function takeImpulse(file: File): Promise<PlaybackChoice> {
  const { storedAt: _, ...impulse } = await keepImpulse(file)
  const choice = { kind: 'recorded', ...impulse } as const
  own.set([...(own.value ?? []), choice])
  return choice
}

/** Takes one's own away again. @throws EngineError */
export async function dropImpulse(desk: Desk, choice: Recorded): Promise<void> {
  await deleteImpulse(choice.id)
  own.set((own.value ?? []).filter((c) => c.id !== choice.id))
  const now = desk.elsewhere.state.value?.choice
  if (now && playbackKey(now) === playbackKey(choice)) desk.elsewhere.set(null)
  if (playbackKey(last) === playbackKey(choice)) last = DESCRIBED[0]
}

/** How it is called. */
export function playbackTitle(choice: PlaybackChoice): string {
  return choice.kind === 'described' ? choice.playback.title : choice.name
}

/** Where one hears it then, to go into a sentence. */
export function playbackWhere(choice: PlaybackChoice): string {
  return choice.kind === 'described' ? choice.playback.where : `through ${choice.name}`
}

/** Listens through a playback, or as it is where one does so already. */
export function hearThrough(desk: Desk, choice: PlaybackChoice): void {
  const now = desk.elsewhere.state.value?.choice
  last = choice
  desk.elsewhere.set(now && playbackKey(now) === playbackKey(choice) ? null : choice)
}

/** Goes to the playback that was chosen last, and back. */
export function switchPlayback(desk: Desk): void {
  desk.elsewhere.set(desk.elsewhere.state.value ? null : last)
}
