import { type Chain, type Session, traitWords } from '../session'
import { type ChainBand, MIX } from '../treatments'
import type { Look } from './second-look'

interface Found {
  readonly node: string
  readonly treatment: string
  readonly chainBand: ChainBand
}

/** Moves of less than this are not told apart: to and fro among them is no decision. */
const SAME_DB = 0.5
/** So many values one after the other, turning back so often. */
const LEAST_VALUES = 4
const LEAST_TURNS = 2

/**
 * What the steps that led to a session tell of its moves: values that went to and fro, and moves made while their track
 * was heard alone, with nothing done since with the others. @param past earlier states, oldest first.
 */
export function looksOfHistory(session: Session, past: readonly Session[]): Look[] {
  const states = [...past, session]
  return bandsIn(session).flatMap((found): Look[] => [
    ...toAndFro(session, states, found),
    ...madeAlone(session, states, found),
  ])
}

function toAndFro(session: Session, states: readonly Session[], found: Found): Look[] {
  const values: number[] = []
  for (const state of states) {
    const db = bandIn(state, found)?.band.db
    if (db !== undefined && db !== values.at(-1)) values.push(db)
  }
  const last = values.slice(-LEAST_VALUES)
  if (last.length < LEAST_VALUES) return []
  const [least, most] = [Math.min(...last), Math.max(...last)]
  let turns = 0
  for (let i = 2; i < last.length; i++) {
    if ((last[i] - last[i - 1]) * (last[i - 1] - last[i - 2]) < 0) turns++
  }
  if (turns < LEAST_TURNS || most - least > SAME_DB) return []
  const signed = (db: number) => `${db > 0 ? '+' : ''}${db.toFixed(1)} dB`
  return [
    lookAt(session, found, 'to-and-fro', {
      why: 'Values so near to each other are not told apart. What it is for may lie elsewhere, or be done.',
      evidence: `the last ${last.length} values: ${last.map(signed).join(', ')}`,
      answer: null,
    }),
  ]
}

function madeAlone(session: Session, states: readonly Session[], found: Found): Look[] {
  let changed = -1
  for (let i = 1; i < states.length; i++) {
    const [before, after] = [bandIn(states[i - 1], found), bandIn(states[i], found)]
    if (after && JSON.stringify(before?.band) !== JSON.stringify(after.band)) changed = i
  }
  if (changed < 0) return []
  const isSolo = (state: Session) => nodeIn(state, found.node)?.solo === true
  // It is heard with the others once anything was done while it was not alone.
  const steps = states.slice(changed, -1)
  if (!isSolo(states[changed]) && !(changed === states.length - 1 && isSolo(session))) return []
  if (steps.some((state) => !isSolo(state))) return []
  const stillSolo = isSolo(session)
  return [
    lookAt(session, found, 'made-alone', {
      why: 'It was made while this track was heard alone. What it does beside the others is what counts.',
      evidence: stillSolo
        ? 'the track is still in solo'
        : 'nothing was changed since with the others heard',
      answer: stillSolo
        ? {
            name: 'Hear it in the mix',
            edits: [{ kind: 'set-node', node: found.node, change: { solo: false } }],
          }
        : null,
    }),
  ]
}

function lookAt(
  session: Session,
  { node, treatment, chainBand }: Found,
  kind: 'to-and-fro' | 'made-alone',
  words: Pick<Look, 'why' | 'evidence' | 'answer'>,
): Look {
  const name = nodeIn(session, node)?.name ?? 'Mix'
  return {
    key: `${kind} ${node} ${chainBand.id}`,
    kind,
    node,
    treatment,
    band: chainBand.id,
    what: `${name}: ${traitWords({ of: 'band', band: chainBand.band, on: true })}`,
    ...words,
  }
}

const nodeIn = ({ tracks, groups }: Session, node: string) =>
  [...tracks, ...groups].find((n) => n.id === node)

function chainIn(session: Session, node: string): Chain | undefined {
  return node === MIX ? session.mix.chain : nodeIn(session, node)?.chain
}

function bandIn(state: Session, { node, treatment, chainBand }: Found): ChainBand | undefined {
  const found = chainIn(state, node)?.treatments.find((t) => t.id === treatment)
  return found?.kind === 'equaliser'
    ? found.params.bands.find((b) => b.id === chainBand.id)
    : undefined
}

/** Bands that are on, in equalisers that are on. */
function bandsIn(session: Session): Found[] {
  const nodes = [...session.tracks.map((t) => t.id), ...session.groups.map((g) => g.id), MIX]
  return nodes.flatMap((node) =>
    (chainIn(session, node)?.treatments ?? []).flatMap((t) =>
      t.kind === 'equaliser' && t.on
        ? t.params.bands
            .filter((b) => b.on)
            .map((chainBand) => ({ node, treatment: t.id, chainBand }))
        : [],
    ),
  )
}
