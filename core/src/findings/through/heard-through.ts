import { firMagnitudeDb, newBand } from '../../filters'
import {
  bandEdgeHz,
  FILTER_COUNT,
  type HeardMoments,
  type MaskingTrack,
  type PartGains,
} from '../../hearing'
import type { Playback, PlaybackResponse } from '../../playback'
import type { Edit } from '../../session'
import { kGains, Trial, type TrialSettings } from '../masking/trial'
import { heardWith } from '../masking/trial-patterns'
import { bandMove, type SurveyTracks } from '../survey-input'

/** A playback as hearing meets it. */
export interface HeardPlayback {
  /** Power gains of each auditory filter, of the middle and of the sides. */
  readonly gains: PartGains
  /** Power of its noise in each auditory filter, as loud as what plays; null for none. */
  readonly noise: Float64Array | null
  /** Level at which what plays arrives, in dB SPL; null: as in the session. */
  readonly dbSpl: number | null
  readonly listening: TrialSettings['listening'] | null
}

/** How a track fares behind a playback. Shares are of its loudness alone with nothing of it lost on the way. */
export interface ThroughTrack {
  readonly track: string
  readonly here: number
  readonly there: number
  /** It is lost there, and is not here. */
  readonly isLost: boolean
  /** Loudness that is lost by it, in sone, at the level of the playback. */
  readonly lostSone: number
  /** Where more of it would be heard there; null where nothing of it could carry it, or nothing need. */
  readonly carries: { readonly fromHz: number; readonly toHz: number } | null
  readonly moves: readonly Edit[]
  /** Share that would be heard there with the moves made. */
  readonly after: number | null
}

/** What is heard of a playback's kernels, filter by filter. @param noiseLu its noise against what plays. */
export function heardPlayback(
  { basis, kernels, noise }: PlaybackResponse,
  {
    dbSpl,
    listening,
    noise: described,
    asLoudAs,
  }: Pick<Playback, 'dbSpl' | 'listening' | 'noise' | 'asLoudAs'>,
  rateHz: number,
): HeardPlayback {
  const [first, second] = kernels.map((k) => (k ? filterGains(k, rateHz) : null))
  const silent = new Float64Array(FILTER_COUNT)
  const mean = (a: Float64Array, b: Float64Array) => a.map((v, i) => (v + b[i]) / 2)
  const [one, other] = [first ?? silent, second ?? silent]
  const even = new Float64Array(FILTER_COUNT).fill(1)
  // What it seems like at another level the model knows by itself.
  const gains = asLoudAs
    ? { mid: even, side: even }
    : basis === 'middle-side'
      ? { mid: one, side: other }
      : { mid: mean(one, other), side: mean(one, other) }
  return {
    gains,
    noise: noise && described && noisePower(noise[0], rateHz, described.lu),
    dbSpl,
    listening,
  }
}

const READ_HZ = 1.5

function filterGains(taps: Float32Array, rateHz: number): Float64Array {
  const size = 2 ** Math.ceil(Math.log2(Math.max(taps.length, rateHz / READ_HZ)))
  const db = firMagnitudeDb(taps, size)
  return Float64Array.from({ length: FILTER_COUNT }, (_, b) => {
    const from = Math.round((bandEdgeHz(b) * size) / rateHz)
    const to = Math.max(from, Math.round((bandEdgeHz(b + 1) * size) / rateHz))
    let sum = 0
    for (let k = from; k <= to; k++) sum += 10 ** (db[Math.min(k, db.length - 1)] / 10)
    return sum / (to - from + 1)
  })
}

/** Power of a noise in each filter, as far under 0 LUFS as it is under what plays. */
function noisePower(noise: Float32Array, rateHz: number, lu: number): Float64Array {
  const db = firMagnitudeDb(noise, noise.length)
  const power = Float64Array.from({ length: FILTER_COUNT }, (_, b) => {
    const from = Math.ceil((bandEdgeHz(b) * noise.length) / rateHz)
    const to = Math.floor((bandEdgeHz(b + 1) * noise.length) / rateHz)
    let sum = 0
    for (let k = from; k <= to && k < db.length; k++) sum += 10 ** (db[k] / 10)
    return sum
  })
  const scale = (10 ** (lu / 10) * 10 ** 0.0691) / weighted(power)
  return power.map((v) => v * scale)
}

const weighted = (power: Float64Array) => power.reduce((sum, v, b) => sum + v * kGains[b], 0)

/** A share that falls below this, by so much, is lost. */
const LOST_BELOW = 1 / 3
const LOST_BY = 0.15
/** What is heard of a track there, as a part of what is heard here, from which on it is not lost. */
const KEPT_PART = 0.6
/** So many are looked into. */
const MOST_LOST = 8
/** Where a boost, or room, is tried. */
const TRIED_HZ = Array.from({ length: 12 }, (_, i) => 160 * 2 ** (i / 2))
const BOOST_DB = 4
const ROOM_DB = -4
const TRIED_Q = 1
/** Tracks that are asked to make room for one. */
const MOST_MASKERS = 5
/** A move is worth offering from this share on that it wins there. */
const WORTH_SHARE = 0.03
/** Room is made before a boost where it wins this part of what that would. */
const ROOM_FIRST = 0.6
/** What another lead may lose by it, here or there. */
const MOST_HARM = 0.02

/**
 * Who is heard behind a playback: the model of hearing is run on the tracks as the playback passes them, at its level,
 * beside its noise. What its limiter and the time of its room do is left out.
 * @param measured shares that were measured here, by id; those that are missing are worked out.
 */
export function heardThrough(
  { tracks, settings }: SurveyTracks,
  playback: HeardPlayback,
  measured: ReadonlyMap<string, number> = new Map(),
): ThroughTrack[] {
  if (tracks.length === 0) return []
  const here: MaskingTrack[] = tracks.map(({ reading, gainDb }) => ({
    heard: reading.heard,
    gainDb,
  }))
  const passed = here.map(({ heard, gainDb }) => ({
    heard: heardWith(heard, playback.gains),
    gainDb,
  }))
  const [lufs, lufsThere] = [loudnessOf(here), loudnessOf(passed)]
  const { calibration, listening } = settings
  const arriving = playback.dbSpl ?? calibration.dbSpl + (lufs - calibration.lufs)
  const setting = (at: number): TrialSettings => ({
    ...settings,
    calibration: { lufs: at, dbSpl: arriving },
    listening: playback.listening ?? listening,
  })
  const noise = playback.noise && steady(here[0].heard, playback.noise, lufsThere)
  const now = new Trial(here, settings)
  const whole = new Trial(here, setting(lufs)).loudness
  const there = new Trial([...passed, ...(noise ? [noise] : [])], setting(lufsThere))
  const [loudHere, loudThere] = [now.loudness, there.loudness]
  const shareThere = (t: number, more = 0) =>
    whole[t].aloneSone > 0
      ? Math.max(0, Math.min(1, (loudThere[t].inMixSone + more) / whole[t].aloneSone))
      : 0
  const all = tracks.map(({ id, isLead }, t) => {
    const own = loudHere[t]
    const share = measured.get(id) ?? (own.aloneSone > 0 ? own.inMixSone / own.aloneSone : 1)
    const away = shareThere(t)
    const isLost =
      own.aloneSone > 0 &&
      share - away >= LOST_BY &&
      (away < LOST_BELOW || isLead) &&
      away < KEPT_PART * share
    return { t, track: id, isLead, here: share, there: away, isLost }
  })
  const lost = all
    .filter((a) => a.isLost)
    .sort((a, b) => weightOf(b) - weightOf(a))
    .slice(0, MOST_LOST)
  return all.map((each) => {
    const lostSone = Math.max(0, each.here - each.there) * whole[each.t].aloneSone
    const { t, isLead: _, ...told } = each
    if (!lost.includes(each)) return { ...told, lostSone, carries: null, moves: [], after: null }
    return { ...told, lostSone, ...movesFor(t, tracks, now, there, (more) => shareThere(t, more)) }
  })
}

const weightOf = ({ here, there, isLead }: { here: number; there: number; isLead: boolean }) =>
  (here - there) * (isLead ? 2 : 1)

/** Where more of a track would be heard there, and the move that does most for it without harm to a lead. */
function movesFor(
  t: number,
  tracks: SurveyTracks['tracks'],
  here: Trial,
  there: Trial,
  shareWith: (moreSone: number) => number,
): Pick<ThroughTrack, 'carries' | 'moves' | 'after'> {
  const bell = (hz: number, db: number) => ({ ...newBand('bell', hz), db, q: TRIED_Q })
  const before = shareWith(0)
  const boosts = TRIED_HZ.map((hz) => ({
    hz,
    won: there.tryMove(t, [bell(hz, BOOST_DB)], 0, [t]).inMixSone[t],
  })).sort((a, b) => b.won - a.won)
  const carries =
    shareWith(boosts[0].won) - before < WORTH_SHARE / 3 ? null : rangeAround(boosts, boosts[0].won)
  const rooms = tracks
    .flatMap((_, o) =>
      o === t ? [] : TRIED_HZ.map((hz) => ({ o, hz, won: there.wonBy(o, [bell(hz, ROOM_DB)], t) })),
    )
    .sort((a, b) => b.won - a.won)
    .slice(0, MOST_MASKERS)
  const isHarmless = (node: number, hz: number, db: number) => {
    const leads = tracks.flatMap((track, l) => (track.isLead && l !== t ? [l] : []))
    return [here, there].every((trial) => {
      const { inMixSone } = trial.tryMove(node, [bell(hz, db)], 0, leads)
      const { loudness } = trial
      return leads.every((l) => -inMixSone[l] <= MOST_HARM * loudness[l].aloneSone)
    })
  }
  const boost = boosts.slice(0, 3).find((b) => isHarmless(t, b.hz, BOOST_DB))
  const room = rooms.find((r) => isHarmless(r.o, r.hz, ROOM_DB))
  const isRoom = room && (!boost || room.won >= ROOM_FIRST * boost.won)
  const best = isRoom
    ? { node: room.o, hz: room.hz, db: ROOM_DB, won: room.won }
    : boost && { node: t, hz: boost.hz, db: BOOST_DB, won: boost.won }
  if (!best || shareWith(best.won) - before < WORTH_SHARE) {
    return { carries, moves: [], after: null }
  }
  const { node, hz, db, won } = best
  const move = bandMove(tracks[node].id, 'shape', bell(Math.round(hz), db))
  return { carries, moves: [move], after: shareWith(won) }
}

/** Neighbouring places at which at least half as much is won. */
function rangeAround(
  boosts: readonly { readonly hz: number; readonly won: number }[],
  most: number,
) {
  const good = new Set(boosts.filter((b) => b.won >= 0.5 * most).map((b) => b.hz))
  let [from, to] = [TRIED_HZ.indexOf(boosts[0].hz), TRIED_HZ.indexOf(boosts[0].hz)]
  while (from > 0 && good.has(TRIED_HZ[from - 1])) from--
  while (to < TRIED_HZ.length - 1 && good.has(TRIED_HZ[to + 1])) to++
  return { fromHz: TRIED_HZ[from] * 2 ** (-1 / 4), toHz: TRIED_HZ[to] * 2 ** (1 / 4) }
}

/** Loudness of tracks together over all moments that are listened to, in LUFS, ungated. */
function loudnessOf(tracks: readonly MaskingTrack[]): number {
  let [sum, time] = [0, 0]
  const { at, seconds } = tracks[0].heard.moments
  for (let m = 0; m < at.length; m++) {
    let power = 0
    for (const { heard, gainDb } of tracks) {
      const level = 10 ** (gainDb / 10)
      for (let b = 0; b < FILTER_COUNT; b++) {
        const i = m * FILTER_COUNT + b
        power += level * kGains[b] * (heard.mid[i] + (heard.side?.[i] ?? 0))
      }
    }
    sum += power * seconds[m]
    time += seconds[m]
  }
  return -0.691 + 10 * Math.log10(Math.max(1e-12, sum / Math.max(1e-9, time)))
}

/** A noise that is the same at every moment, alike at both ears. */
function steady(like: HeardMoments, power: Float64Array, lufs: number): MaskingTrack {
  const cells = like.moments.at.length * FILTER_COUNT
  const zeros = new Float32Array(cells)
  const mid = Float32Array.from({ length: cells }, (_, i) => power[i % FILTER_COUNT])
  const heard = { moments: like.moments, mid, side: null, cross: null }
  return { heard: { ...heard, past: zeros, fade: zeros, tonal: zeros }, gainDb: lufs }
}

/** What a track's fate behind a playback is, in a sentence. @param where as in "on a laptop". */
export function throughSentence(
  name: string,
  where: string,
  { here, there, carries }: Pick<ThroughTrack, 'here' | 'there' | 'carries'>,
): string {
  const share = (v: number) => `${Math.round(100 * v)} %`
  const heard = `${name} is ${share(there)} heard ${where}, ${share(here)} here.`
  if (!carries) return `${heard} Nothing that it has in the range that is left carries it there.`
  const hz = (v: number) =>
    v < 1000 ? `${10 * Math.round(v / 10)} Hz` : `${(v / 1000).toFixed(1)} kHz`
  return `${heard} What it has at ${hz(carries.fromHz)} to ${hz(carries.toHz)} could carry it.`
}
