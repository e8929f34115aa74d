import { FILTER_COUNT, type Understood, understoodAt } from '../../hearing'
import { type Edit, isVoice, type Role } from '../../session'
import { addedTreatments, filterPowerGains } from '../effects'
import type { Finding } from '../finding'
import type { SurveyTracks } from '../survey-input'

/**
 * Under this index a voice that leads is hard to follow. ANSI S3.5-1997 calls communication poor below 0.45, which is asked of speech. A
 * voice in music is asked for less: in sessions at working levels, which nobody calls faulty, it stands at 0.14 to
 * 0.42 (docs/hearing.md), and words are helped by being sung again.
 */
const LEAST_UNDERSTOOD: Readonly<Partial<Record<Role, number>>> = { speech: 0.45, voice: 0.15 }
/** Stretches this far under the voice's loudest are ends of words. */
const WORD_DB = -12
/** Sones that an index is worth that lacks so much. */
const SONES_PER_INDEX = 4
/** A fader is raised in these steps, and no further at once. */
const FADER_STEP_DB = 0.5
/** Less than this is nothing to ask of a fader: it is measured, and not offered. */
const LEAST_FADER_DB = 1
/** A fader that wins less of what lacks is no answer: the others have to make room. */
const LEAST_OF_LACK = 0.5
const MOST_FADER_DB = 6

/**
 * How well a voice is understood beside all other tracks; null for what is no voice, or never sounds.
 * @param moves of which filters at rest and faders count; the rest leaves levels as they are.
 */
export function understoodIn(
  { tracks, settings }: SurveyTracks,
  id: string,
  moves: readonly Edit[] = [],
): Understood | null {
  const voice = tracks.findIndex((t) => t.id === id)
  if (voice < 0 || !isVoice(tracks[voice].role)) return null
  const placed = tracks.map(({ id: node, reading, gainDb, faderDb }) => {
    const added = addedTreatments(moves, node)
    const gains = added.length > 0 ? filterPowerGains(added, 'mid', settings.sampleRateHz) : null
    const { heard } = reading
    const mid = gains ? heard.mid.map((v, i) => v * gains[i % FILTER_COUNT]) : heard.mid
    return { heard: { ...heard, mid }, gainDb: gainDb + faderChange(moves, node, faderDb) }
  })
  const others = placed.filter((_, t) => t !== voice)
  return understoodAt(placed[voice], others, settings.calibration, settings.sampleRateHz)
}

/** By how much edits move a fader, in dB. */
function faderChange(moves: readonly Edit[], node: string, faderDb: number): number {
  let db = 0
  for (const move of moves) {
    if (move.kind === 'change-output-gain' && move.node === node) db += move.db
    if (move.kind !== 'set-node' || move.node !== node) continue
    if (move.change.faderDb !== undefined) db += move.change.faderDb - faderDb
  }
  return db
}

/** Leads whose words are hard to follow, each with the fader that would mend it, as far as a fader should. */
export function understoodFindings(survey: SurveyTracks): Finding[] {
  return survey.tracks.flatMap(({ id, role, isLead, faderDb }): Finding[] => {
    const least = LEAST_UNDERSTOOD[role]
    if (!isLead || least === undefined) return []
    const now = understoodIn(survey, id)
    if (!now || now.sii >= least) return []
    const raised = (db: number): Edit[] => [
      { kind: 'set-node', node: id, change: { faderDb: faderDb + db } },
    ]
    const after = (db: number) => understoodIn(survey, id, raised(db))?.sii ?? now.sii
    let db = FADER_STEP_DB
    while (db < MOST_FADER_DB && after(db) < least) db += FADER_STEP_DB
    const reached = after(db)
    const offered = db >= LEAST_FADER_DB && reached - now.sii >= LEAST_OF_LACK * (least - now.sii)
    // Where it is loud enough to be a word, and no end of one.
    const words = now.overTime.filter((s) => s.levelDb >= WORD_DB)
    const lowest = words.reduce((low, s) => (s.sii < low.sii ? s : low))
    return [
      {
        key: `intelligibility ${id}`,
        kind: 'intelligibility',
        tracks: [id],
        hz: 1800,
        fromHz: 160,
        toHz: 8000,
        severity: SONES_PER_INDEX * (least - now.sii),
        evidence: {
          kind: 'intelligibility',
          sii: now.sii,
          least,
          lowest: lowest.sii,
          lowestSeconds: lowest.seconds,
        },
        times: [],
        offered,
        moves: offered ? raised(db) : [],
        predicted: offered
          ? { measure: { of: 'understood', track: id }, before: now.sii, after: reached }
          : null,
      },
    ]
  })
}
