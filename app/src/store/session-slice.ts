import { createSlice, type PayloadAction } from '@reduxjs/toolkit'
import {
  type AudioRef,
  type Chain,
  type Dismissed,
  type EqBand,
  emptySession,
  freeLetter,
  type Move,
  newTrack,
  type Passage,
  placeOnTimeLine,
  type Role,
  type Session,
  STAGES,
  type StageName,
  type Track,
} from '@sober-prism/core/session'
import { type EditMeta, withHistory } from './history'

/** A chain's owner: a track's id, or `mix`. */
export type ChainOwner = string
export const MIX = 'mix'

/** Audio that arrived and becomes a track or a reference. */
export interface Arrival {
  readonly id: string
  readonly name: string
  readonly audio: AudioRef
  readonly timeStampSeconds: number | null
}

type TrackChange = Partial<
  Pick<Track, 'name' | 'role' | 'letter' | 'faderDb' | 'pan' | 'mute' | 'solo' | 'lift'>
>
interface MoveAddress {
  readonly owner: ChainOwner
  readonly moveId: string
}

type Edit<P> = PayloadAction<P, string, EditMeta>
const prepare = <P>(payload: P, meta: EditMeta = {}) => ({ payload, meta })
/** A reducer of one kind of edit; actions carry how they stand in the history. */
const edit = <P>(change: (session: Session, payload: P) => void) => ({
  reducer: (session: Session | null, action: Edit<P>) => {
    if (session) change(session, action.payload)
  },
  prepare: prepare<P>,
})

const slice = createSlice({
  name: 'session',
  initialState: null as Session | null,
  reducers: {
    opened: (_, action: PayloadAction<Session | null>) => action.payload,
    renamed: edit<string>((session, name) => {
      session.name = name
    }),
    rateChosen: edit<number>((session, rateHz) => {
      if (session.tracks.length === 0 && session.references.length === 0) {
        session.sampleRateHz = rateHz
      }
    }),
    tracksAdded: edit<readonly Arrival[]>((session, arrivals) => {
      for (const { id, name, audio, timeStampSeconds } of arrivals) {
        const place = placeOnTimeLine(session, timeStampSeconds)
        for (const track of session.tracks) track.offsetFrames += place.moveOthersFrames
        session.timeOriginSeconds = place.timeOriginSeconds
        const letter = freeLetter(session.tracks)
        session.tracks.push(newTrack(id, name, guessRole(name), letter, audio, place.offsetFrames))
      }
      if (session.leadIds.length === 0)
        session.leadIds = session.tracks.slice(0, 1).map((t) => t.id)
    }),
    referencesAdded: edit<readonly Arrival[]>((session, arrivals) => {
      for (const { id, name, audio } of arrivals) session.references.push({ id, name, audio })
    }),
    referenceRemoved: edit<string>((session, id) => {
      session.references = session.references.filter((r) => r.id !== id)
    }),
    trackRemoved: edit<string>((session, id) => {
      session.tracks = session.tracks.filter((t) => t.id !== id)
      session.leadIds = session.leadIds.filter((lead) => lead !== id)
      if (session.leadIds.length === 0)
        session.leadIds = session.tracks.slice(0, 1).map((t) => t.id)
    }),
    trackMoved: edit<{ id: string; to: number }>((session, { id, to }) => {
      const from = session.tracks.findIndex((t) => t.id === id)
      if (from < 0) return
      const [track] = session.tracks.splice(from, 1)
      session.tracks.splice(Math.max(0, Math.min(session.tracks.length, to)), 0, track)
    }),
    trackChanged: edit<{ id: string; change: TrackChange }>((session, { id, change }) => {
      const track = session.tracks.find((t) => t.id === id)
      if (track) Object.assign(track, change)
    }),
    mixFaderMoved: edit<number>((session, faderDb) => {
      session.mix.faderDb = faderDb
    }),
    moveAdded: edit<{ owner: ChainOwner; stage: StageName; move: Move }>(
      (session, { owner, stage, move }) => {
        chainOf(session, owner)?.[stage].moves.push(move)
      },
    ),
    moveChanged: edit<MoveAddress & { change: Partial<Pick<Move, 'on' | 'reason'>> }>(
      (session, { owner, moveId, change }) => {
        Object.assign(findMove(session, owner, moveId)?.move ?? {}, change)
      },
    ),
    bandChanged: edit<MoveAddress & { change: Partial<EqBand> }>(
      (session, { owner, moveId, change }) => {
        Object.assign(findMove(session, owner, moveId)?.move.band ?? {}, change)
      },
    ),
    moveRemoved: edit<MoveAddress>((session, { owner, moveId }) => {
      const found = findMove(session, owner, moveId)
      if (found) found.moves.splice(found.index, 1)
    }),
    stageSwitched: edit<{ owner: ChainOwner; stage: StageName; on: boolean }>(
      (session, { owner, stage, on }) => {
        const chain = chainOf(session, owner)
        if (chain) chain[stage].on = on
      },
    ),
    phaseChosen: edit<{ owner: ChainOwner; phase: Chain['phase'] }>((session, { owner, phase }) => {
      const chain = chainOf(session, owner)
      if (chain) chain.phase = phase
    }),
    outputChanged: edit<{ owner: ChainOwner; change: Partial<Chain['output']> }>(
      (session, { owner, change }) => {
        const chain = chainOf(session, owner)
        if (chain) Object.assign(chain.output, change)
      },
    ),
    passageChosen: edit<Passage | null>((session, passage) => {
      session.passage = passage
    }),
    loopSwitched: edit<boolean>((session, loop) => {
      session.loop = loop
    }),
    leadSwitched: edit<string>((session, id) => {
      const without = session.leadIds.filter((lead) => lead !== id)
      session.leadIds = without.length < session.leadIds.length ? without : [...without, id]
    }),
    listeningLevelChosen: edit<number>((session, dbSpl) => {
      session.listeningDbSpl = dbSpl
    }),
    /** Moves that belong together: one step back undoes them all. */
    movesApplied: edit<readonly AppliedStep[]>((session, steps) => {
      for (const step of steps) applyStep(session, step)
    }),
    findingDismissed: edit<Dismissed>((session, dismissed) => {
      session.dismissed = session.dismissed.filter((d) => d.key !== dismissed.key)
      session.dismissed.push(dismissed)
    }),
    dismissedRecalled: edit<void>((session) => {
      session.dismissed = []
    }),
  },
})

/** One change that a finding or a plan makes. */
export type AppliedStep =
  | { kind: 'move'; owner: ChainOwner; stage: StageName; move: Move }
  | { kind: 'trim'; owner: ChainOwner; db: number }
  | { kind: 'align'; owner: string; shiftFrames: number; invert: boolean }

function applyStep(session: Session, step: AppliedStep): void {
  if (step.kind === 'move') {
    chainOf(session, step.owner)?.[step.stage].moves.push(step.move)
    return
  }
  const output = chainOf(session, step.owner)?.output
  if (step.kind === 'trim') {
    if (output) output.trimDb = Math.max(-48, Math.min(24, output.trimDb + step.db))
    return
  }
  const track = session.tracks.find((t) => t.id === step.owner)
  if (!track || !output) return
  track.offsetFrames += step.shiftFrames
  if (step.invert) output.polarity = output.polarity === 'normal' ? 'inverted' : 'normal'
}

/** The chain of a track or the mix. */
export function chainOf(session: Session, owner: ChainOwner): Chain | null {
  if (owner === MIX) return session.mix.chain
  return session.tracks.find((t) => t.id === owner)?.chain ?? null
}

/** A move with the list it stands in. */
export function findMove(
  session: Session,
  owner: ChainOwner,
  moveId: string,
): { moves: Move[]; index: number; move: Move; stage: StageName } | null {
  const chain = chainOf(session, owner)
  if (!chain) return null
  for (const stage of STAGES) {
    const { moves } = chain[stage]
    const index = moves.findIndex((m) => m.id === moveId)
    if (index >= 0) return { moves, index, move: moves[index], stage }
  }
  return null
}

const ROLE_WORDS: readonly (readonly [RegExp, Role])[] = [
  [/vo[cx]|sing|choir|lead v/i, 'voice'],
  [/speech|dialog|narrat|announce|host|talk/i, 'speech'],
  [/piano|key|organ|synth|accordion|harmonium/i, 'keys'],
  [/bass|tuba|\bsub\b/i, 'bass'],
  [/drum|kick|snare|hat|perc|tom|cymbal/i, 'drums'],
  [/violin|cello|viola|string|zither|harp/i, 'strings'],
  [/flute|clarinet|horn|trumpet|sax|oboe|brass/i, 'winds'],
  [/guitar|gtr/i, 'guitar'],
  [/noise|ambien|room|atmos/i, 'ambience'],
]

/** A first guess from the name; the user sets it right. */
function guessRole(name: string): Role {
  return ROLE_WORDS.find(([words]) => words.test(name))?.[1] ?? 'other'
}

export const sessionActions = slice.actions
export const sessionReducer = withHistory(slice.reducer, slice.actions.opened.type)

export function newSession(name: string): Session {
  return emptySession(crypto.randomUUID(), name, new Date().toISOString(), 48000)
}
