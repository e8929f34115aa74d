import { FILTER_HZ } from '../../hearing'
import { NO_HUM_DB, newChainBand, newTreatment } from '../../treatments'
import type { Finding } from '../finding'
import { RING_LEVELS } from '../rings'
import { decayRatio } from '../source/decay'
import type { SourceReading } from '../source/source-reading'
import { bandMove, placeKey, predict, type TracksContext, treatmentMove } from '../survey-input'
import { CUT_LIKELIHOOD, ringCut } from './candidates'
import { tamingBand } from './harshness'

/** Equivalents: what is not the source counts this many sones for each dB it stands over the floor. */
const RUMBLE_SONE_PER_DB = 0.025
const RUMBLE_FLOOR_DB = -42
/** What is softer beside its track than this is measured only. */
const RUMBLE_OFFERED_DB = -34
/** Hum is heard in pauses, however soft it is beside the sound. */
const HUM_SONE_PER_DB = 0.025
const HUM_FLOOR_DB = -75
/** A ring is sharper than its loudness: sones it adds count this many times. */
const RING_WEIGHT = 2
/** A ring that the chain lowers by this has its answer; what is left of it is told in Clean. */
const ANSWERED_DB = 3

/** What a mono sum takes is missing altogether there, and its low end carries the rest. */
const WIDE_WEIGHT = 2
const WIDE_SONE_PER_DB = 0.15
const UNCHANGED = new Float64Array(FILTER_HZ.length).fill(1)

/** What each track has by itself: rings, rumble, harsh moments, a wide low end. */
export function ownFindings(
  context: TracksContext,
  onProgress: (share: number) => void,
): Finding[] {
  return context.tracks.flatMap(({ reading }, track) => {
    onProgress(track / context.tracks.length)
    return [
      ...ringFindings(context, track),
      ...rumbleFinding(context, track, reading),
      ...harshFinding(context, track, reading),
      ...humFinding(context, track, reading),
      ...wideFinding(context, track, reading),
    ]
  })
}

function ringFindings(context: TracksContext, track: number): Finding[] {
  const { tracks, trial } = context
  const { id, role } = tracks[track]
  const likely = tracks[track].reading.rings.filter(
    (r) => r.score >= RING_LEVELS.finding && r.db - r.leftDb < ANSWERED_DB,
  )
  return likely.map((ring) => {
    const cut = ringCut(ring)
    const { inMixSone } = trial.tryMove(track, [cut], 0, [track])
    const [fromHz, toHz] = [ring.hz * 2 ** (-1 / 24), ring.hz * 2 ** (1 / 24)]
    const measure = { of: 'level', track: id, fromHz, toHz, against: 'beside' } as const
    // What is no likelier than this is asked of the ear, and what may be the pitch of a drum: nothing is cut unheard.
    const isSure = ring.likelihood >= CUT_LIKELIHOOD && role !== 'drums'
    const moves = isSure ? [bandMove(id, 'clean', cut)] : []
    return {
      key: `resonance ${id} ${placeKey(ring.hz)}`,
      kind: 'resonance',
      tracks: [id],
      hz: ring.hz,
      fromHz,
      toHz,
      severity: RING_WEIGHT * ring.likelihood * Math.max(0, -inMixSone[track]),
      evidence: {
        kind: 'resonance',
        heightDb: ring.db,
        q: ring.q,
        likelihood: ring.likelihood,
        decayRatio: decayRatio(tracks[track].reading.bands, ring.hz),
      },
      times: [],
      offered: true,
      moves,
      predicted: moves.length > 0 ? predict(context, measure, moves) : null,
    }
  })
}

function rumbleFinding(context: TracksContext, track: number, reading: SourceReading): Finding[] {
  const { rumble } = reading
  const { id } = context.tracks[track]
  if (!rumble) return []
  const { levelDb, toHz, lowestHz, cut } = rumble
  const isOffered = levelDb >= RUMBLE_OFFERED_DB
  const measure = { of: 'level', track: id, fromHz: 20, toHz, against: 'whole' } as const
  const moves = [bandMove(id, 'clean', cut)]
  return [
    {
      key: `rumble ${id}`,
      kind: 'rumble',
      tracks: [id],
      hz: Math.sqrt(20 * toHz),
      fromHz: 20,
      toHz,
      severity: RUMBLE_SONE_PER_DB * (levelDb - RUMBLE_FLOOR_DB),
      evidence: { kind: 'rumble', lowestHz, levelDb },
      times: [],
      offered: isOffered,
      moves: isOffered ? moves : [],
      predicted: isOffered ? predict(context, measure, moves) : null,
    },
  ]
}

function harshFinding(context: TracksContext, track: number, reading: SourceReading): Finding[] {
  const harsh = reading.harshness
  const { id } = context.tracks[track]
  if (!harsh) return []
  const { hz, fromHz, toHz, excessDb, timeShare, cut } = harsh
  const measure = { of: 'level', track: id, fromHz, toHz, against: 'whole' } as const
  const band = tamingBand(harsh)
  const usual = newTreatment('follow', 'proposed', 'clean')
  const moves = [treatmentMove(id, { ...usual, params: { ...usual.params, bands: [band] } })]
  return [
    {
      key: `harshness ${id}`,
      kind: 'harshness',
      tracks: [id],
      hz,
      fromHz,
      toHz,
      severity: Math.max(0, -context.trial.tryMove(track, [cut], 0, []).aloneSone),
      evidence: { kind: 'harshness', excessDb, timeShare },
      times: [],
      offered: true,
      moves,
      predicted: predict(context, measure, moves),
    },
  ]
}

function humFinding(context: TracksContext, track: number, reading: SourceReading): Finding[] {
  const { hum } = reading
  const { id } = context.tracks[track]
  if (!hum) return []
  const { hz, mainsHz, harmonics, levelDb, cuts } = hum
  const last = harmonics[harmonics.length - 1].number
  const [fromHz, toHz] = [0.95 * hz * harmonics[0].number, 1.05 * hz * last]
  const chainBands = cuts.map((band, i) => newChainBand(`proposed-${i + 1}`, band))
  const params = { phase: 'minimum' as const, bands: chainBands }
  return [
    {
      key: `hum ${id} ${mainsHz}`,
      kind: 'hum',
      tracks: [id],
      hz,
      fromHz,
      toHz,
      severity: HUM_SONE_PER_DB * (levelDb - HUM_FLOOR_DB),
      evidence: {
        kind: 'hum',
        mainsHz,
        harmonics: harmonics.map((h) => h.number),
        heightDb: harmonics.reduce((most, h) => Math.max(most, h.heightDb), 0),
        levelDb,
      },
      times: [],
      offered: true,
      moves: [treatmentMove(id, newTreatment('equaliser', 'proposed', 'clean', params))],
      predicted: { measure: { of: 'hum', track: id }, before: levelDb, after: NO_HUM_DB },
    },
  ]
}

function wideFinding(context: TracksContext, track: number, reading: SourceReading): Finding[] {
  const wide = reading.wideLowEnd
  const { id } = context.tracks[track]
  if (!wide) return []
  const { fromHz, belowHz, sideShare, monoLossDb, lowestCorrelation, highestCorrelation } = wide
  const { hz, from } = wide
  // Where the sides cancel the sum to mono is what is to be won; else it is that nothing wanders.
  const of = from === 'both' ? ('sides' as const) : ('low-in-mono' as const)
  const measure = { of, track: id, belowHz }
  const params = { hz, slopeDbPerOct: 24 as const, from }
  const moves = [treatmentMove(id, newTreatment('low-middle', 'proposed', 'fit', params))]
  // What the mono sum takes from the track's loudness.
  const folded = FILTER_HZ.map((f) => (f >= fromHz && f <= belowHz ? 1 - sideShare : 1))
  const { trial } = context
  const lost = trial.together([track], UNCHANGED) - trial.together([track], folded)
  return [
    {
      key: `wide-low-end ${id}`,
      kind: 'wide-low-end',
      tracks: [id],
      hz: Math.sqrt(fromHz * belowHz),
      fromHz,
      toHz: belowHz,
      severity: WIDE_WEIGHT * lost + WIDE_SONE_PER_DB * monoLossDb,
      evidence: {
        kind: 'wide-low-end',
        sideShare,
        monoLossDb,
        lowestCorrelation,
        highestCorrelation,
      },
      times: [],
      offered: true,
      moves,
      predicted: predict(context, measure, moves),
    },
  ]
}
