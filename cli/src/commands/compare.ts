import { type Clip, dbToAmplitude, makeClip, scaled } from '@sober-prism/core/audio'
import {
  activityOf,
  DEFAULT_CALIBRATION,
  heardMoments,
  maskTracks,
  midAndSide,
  planMoments,
  trackMasking,
} from '@sober-prism/core/hearing'
import { measureLoudness } from '@sober-prism/core/loudness'
import { collectSound, openSound, soundOf } from '@sober-prism/core/mix'
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
import { readSessionTracks } from '../findings-input'
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
  const read = async (file: string): Promise<State> => {
    const { session, sound } = await soundIn(around.cwd, file, call.text('node'))
    const { names, tracks } = await readSessionTracks(
      around.cwd,
      file,
      { from: undefined, to: undefined },
      around.progress,
    )
    const { sampleRateHz, frames } = tracks[0].clip
    const longest = tracks.reduce((most, t) => Math.max(most, t.clip.frames), frames)
    const activities = tracks.map((t) => activityOf(t.clip.channels))
    const moments = planMoments(sampleRateHz, longest, activities)
    const masked = tracks.map(({ clip, gainDb }) => ({
      heard: heardMoments(midAndSide(clip.channels), sampleRateHz, moments),
      gainDb,
    }))
    around.progress(`what is heard in ${file}`)
    const { listening, listeningDbSpl: dbSpl } = session
    const calibration = { ...DEFAULT_CALIBRATION, dbSpl }
    const sums = maskTracks(masked, { calibration, mode: 'stereo', listening })
    const shares = tracks.map(
      (t, i) => [names[i], trackMasking(sums, i).audibleShare, t.isLead] as const,
    )
    const leads = shares.filter(([, , isLead]) => isLead)
    return {
      session,
      sound,
      lufs: measureLoudness(sound).integratedLufs,
      heard: new Map((leads.length > 0 ? leads : shares).map(([name, share]) => [name, share])),
    }
  }
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

/** The mix of a session, or one of its nodes before its fader. @throws FileError */
async function soundIn(cwd: string, file: string, name: string | undefined) {
  const opened = await openSession(cwd, file)
  try {
    const { session } = opened
    const stretch = { fromFrame: 0, toFrame: sessionFrames(session) }
    const node = [...session.tracks, ...session.groups].find((n) => n.name === name)
    if (name !== undefined && !node) throw new FileError(file, `has no track or group "${name}"`)
    const sound = soundOf(session, node?.id ?? MIX, node ? 'chain' : 'fader')
    if (!sound || stretch.toFrame === 0) throw new FileError(file, 'the session has no tracks')
    const recordings = await openRecordings(opened, file)
    const channels = await collectSound(openSound(sound, recordings, stretch), stretch)
    return { session, sound: makeClip(session.sampleRateHz, channels) }
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
