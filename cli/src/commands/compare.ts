import { type Clip, dbToAmplitude, scaled } from '@sober-prism/core/audio'
import { measureLoudness } from '@sober-prism/core/loudness'
import { soundOf } from '@sober-prism/core/mix'
import {
  type NodeTrait,
  type Session,
  sessionFrames,
  stateDifferences,
  traitWords,
} from '@sober-prism/core/session'
import { longTermLevels, makeBands } from '@sober-prism/core/spectrum'
import { MIX } from '@sober-prism/core/treatments'
import { parseCall } from '../arguments'
import { FileError } from '../cli-error'
import { clipOf, heardIn } from '../heard-in'
import type { Command } from '../run'
import { openRecordings, openSession } from '../session-files'
import { figure, formatTable } from '../table'

const SPEC = {
  usage: 'compare SESSION[#N] SESSION[#N] [--node NAME] [--json]',
  options: { node: 'string' },
  files: { min: 2, max: 2 },
} as const

/** A state of a session, with the sound of one of its nodes. */
interface State {
  readonly session: Session
  readonly sound: Clip
  readonly lufs: number | null
  /** What is heard of each track, by name; leads alone, where there are any. */
  readonly heard: ReadonlyMap<string, number>
}

/** `prism compare`: two sessions or variations of one, as loud as each other: what is heard, the tone, what differs. */
export const compare: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const read = (file: string) => readState(around.cwd, file, call.text('node'), around.progress)
  const [a, b] = [await read(call.files[0]), await read(call.files[1])]
  around.progress('')
  const loudnessMatchedDb = a.lufs === null || b.lufs === null ? null : a.lufs - b.lufs
  const leads = [...a.heard].flatMap(([name, heardA]) => {
    const heardB = b.heard.get(name)
    return heardB === undefined ? [] : [{ name, heardA, heardB }]
  })
  const thirds = makeBands('third').filter((t) => t.toHz < a.sound.sampleRateHz / 2)
  const gain = dbToAmplitude(loudnessMatchedDb ?? 0)
  const levelsA = longTermLevels(a.sound, thirds)
  const levelsB = longTermLevels(
    { ...b.sound, channels: b.sound.channels.map((c) => scaled(c, gain)) },
    thirds,
  )
  const bands = thirds.map(({ hz }, i) => ({ hz, db: levelsB[i] - levelsA[i] }))
  const differs = stateDifferences(a.session, b.session).flatMap(({ name, inFirst, inSecond }) =>
    pairs(inFirst, inSecond).map((pair) => ({ node: name, ...pair })),
  )
  if (call.json) {
    around.out(`${JSON.stringify({ loudnessMatchedDb, leads, bands, differs })}\n`)
    return
  }
  around.out(`second raised by ${figure(loudnessMatchedDb, 2)} dB to be as loud as the first\n`)
  const percent = (share: number) => `${figure(100 * share, 0)} %`
  around.out(
    formatTable([
      ['heard', 'first', 'second'],
      ...leads.map((l) => [l.name, percent(l.heardA), percent(l.heardB)]),
    ]),
  )
  around.out(
    formatTable([
      ['Hz', 'second over first, dB'],
      ...bands.map((t) => [figure(t.hz, 0), figure(t.db, 1)]),
    ]),
  )
  for (const { node, a: inA, b: inB } of differs) {
    around.out(`${node}: ${inA ?? 'nothing'} -> ${inB ?? 'nothing'}\n`)
  }
}

/** A state with the sound of its mix, or of one of its nodes before its fader. @throws FileError */
async function readState(
  cwd: string,
  file: string,
  name: string | undefined,
  progress: (text: string) => void,
): Promise<State> {
  const opened = await openSession(cwd, file)
  try {
    const { session } = opened
    const stretch = { fromFrame: 0, toFrame: sessionFrames(session) }
    const node = [...session.tracks, ...session.groups].find((n) => n.name === name)
    if (name !== undefined && !node) throw new FileError(file, `has no track or group "${name}"`)
    if (stretch.toFrame === 0) throw new FileError(file, 'the session has no tracks')
    const recordings = await openRecordings(opened, file)
    progress(`rendering ${file}`)
    const of = soundOf(session, node?.id ?? MIX, node ? 'chain' : 'fader')
    const sound = await clipOf(session, of, recordings, stretch)
    if (!sound) throw new FileError(file, 'the session has no mix')
    progress(`what is heard in ${file}`)
    const shares = await heardIn(session, recordings, stretch)
    const { leadIds, tracks } = session
    const told = tracks.filter((t) => leadIds.length === 0 || leadIds.includes(t.id))
    return {
      session,
      sound,
      lufs: measureLoudness(sound).integratedLufs,
      heard: new Map(
        told.flatMap(({ id, name }) => {
          const share = shares.get(id)
          return share === undefined ? [] : [[name, share] as const]
        }),
      ),
    }
  } finally {
    await opened.close()
  }
}

/** What stands in the place of what: traits of one kind beside each other. */
function pairs(first: readonly NodeTrait[], second: readonly NodeTrait[]) {
  const kinds = [...new Set([...first, ...second].map((t) => t.of))]
  return kinds.flatMap((what) => {
    const [a, b] = [first, second].map((list) => list.filter((t) => t.of === what))
    return Array.from({ length: Math.max(a.length, b.length) }, (_, i) => ({
      what,
      a: a[i] ? traitWords(a[i]) : null,
      b: b[i] ? traitWords(b[i]) : null,
    }))
  })
}
