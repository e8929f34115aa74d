import { LEVEL_BANDS } from '@sober-prism/core/findings'
import { DEFAULT_CALIBRATION } from '@sober-prism/core/hearing'
import { soundOf } from '@sober-prism/core/mix'
import { secondLook } from '@sober-prism/core/second-look'
import { groupsAbove, sessionFrames, sessionWithout } from '@sober-prism/core/session'
import { longTermLevels } from '@sober-prism/core/spectrum'
import { MIX } from '@sober-prism/core/treatments'
import { parseCall } from '../arguments'
import { FileError } from '../cli-error'
import { clipOf, heardIn } from '../heard-in'
import type { Command } from '../run'
import { openRecordings, openSession } from '../session-files'

const SPEC = {
  usage: 'look SESSION[#N] [--json]',
  options: {},
  files: { min: 1, max: 1 },
} as const

/** `prism look`: a second look at the moves of a session, what matters most first. */
export const look: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const [file] = call.files
  const opened = await openSession(around.cwd, file)
  try {
    const { session } = opened
    const stretch = { fromFrame: 0, toFrame: sessionFrames(session) }
    if (stretch.toFrame === 0) throw new FileError(file, 'the session has no tracks')
    const recordings = await openRecordings(opened, file)
    const levels = new Map<string, Float64Array>()
    const nodes = [
      ...session.tracks.map((t) => [t, 'placed'] as const),
      ...session.groups.map((g) => [g, 'chain'] as const),
    ]
    for (const [{ id, name, faderDb }, tap] of nodes) {
      around.progress(`rendering ${name}`)
      const clip = await clipOf(session, soundOf(session, id, tap), recordings, stretch)
      const gainDb = groupsAbove(session, id).reduce((sum, g) => sum + g.faderDb, faderDb)
      if (clip)
        levels.set(
          id,
          longTermLevels(clip, LEVEL_BANDS).map((v) => v + gainDb),
        )
    }
    const mix = await clipOf(session, soundOf(session, MIX, 'fader'), recordings, stretch)
    if (mix) levels.set(MIX, longTermLevels(mix, LEVEL_BANDS))
    around.progress('what is heard')
    const heard = await heardIn(session, recordings, stretch)
    const heardBare = await heardIn(sessionWithout(session, { of: 'all' }), recordings, stretch)
    around.progress('')
    const looks = secondLook({
      session,
      levelsOf: (node) => levels.get(node) ?? null,
      heard,
      heardBare,
      calibration: { ...DEFAULT_CALIBRATION, dbSpl: session.listeningDbSpl },
    })
    const nameOf = (node: string) =>
      [...session.tracks, ...session.groups].find((n) => n.id === node)?.name ?? 'Mix'
    if (call.json) {
      const moves = looks.map(({ node, treatment, kind, band, what, why, evidence, answer }) => ({
        node: nameOf(node),
        treatment,
        band,
        kind,
        what,
        why,
        evidence,
        answer,
      }))
      around.out(`${JSON.stringify({ moves })}\n`)
      return
    }
    if (looks.length === 0) around.out('Nothing asks for a second look.\n')
    for (const { what, why, evidence, answer } of looks) {
      const press = answer ? `\n  ${answer.name}` : ''
      around.out(`${what}\n  ${why}\n  ${evidence}${press}\n`)
    }
  } finally {
    await opened.close()
  }
}
