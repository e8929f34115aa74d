import { type Clip, makeClip } from '@sober-prism/core/audio'
import { hearingOf, pairSums, surveyClips } from '@sober-prism/core/findings'
import {
  activityOf,
  cochlearGains,
  DEFAULT_CALIBRATION,
  excitation,
  FILTER_COUNT,
  FILTER_HZ,
  type HeardMoments,
  heardMoments,
  type MaskingSums,
  maskTracks,
  midAndSide,
  pairMasking,
  planMoments,
} from '@sober-prism/core/hearing'
import { type DuckParams, newTreatment } from '@sober-prism/core/treatments'
import { treatedBy } from '../../../cli/src/keyed'
import { depthFor } from '../../../core/src/treatments/duck/depth'
import { type RealOptions, type RealSession, realSession } from './session'

export interface LawsOptions extends Pick<RealOptions, 'band' | 'many'> {
  readonly seeds: readonly number[]
}

/**
 * Both laws of following across the spectrum, on the lead of each session and what takes most from it: what of the
 * lead is won, and what the other loses of its own loudness. The last column is what hearing asks for if gains could
 * be what they should at every moment, in every auditory filter, without attack or release: no processor can.
 */
export async function judgeLaws({ band, many, seeds }: LawsOptions): Promise<void> {
  console.log('| seed | key over | *even* | *heard* | *heard* without times |')
  console.log('|---|---|---|---|---|')
  const sums = { even: [0, 0], heard: [0, 0], timeless: [0, 0] }
  for (const seed of seeds) {
    const session = realSession({ band, seed, many, planted: false })
    const pair = worstPair(session)
    const figures: string[] = []
    for (const law of ['even', 'heard', 'timeless'] as const) {
      const { won, lost } = await followed(pair.key, pair.yielding, law)
      sums[law][0] += won
      sums[law][1] += lost
      figures.push(`${(100 * won).toFixed(1)} for ${lost.toFixed(2)}`)
    }
    console.log(`| ${seed} | ${pair.names} | ${figures.join(' | ')} |`)
  }
  const mean = ([won, lost]: number[]) =>
    `${((100 * won) / seeds.length).toFixed(1)} for ${(lost / seeds.length).toFixed(2)}`
  console.log(`| mean | | ${mean(sums.even)} | ${mean(sums.heard)} | ${mean(sums.timeless)} |`)
}

function worstPair({ tracks }: RealSession) {
  const { sums } = surveyClips(tracks)
  const lead = tracks.findIndex((t) => t.isLead)
  const lost = tracks.map((_, i) => (i === lead ? 0 : pairMasking(sums, lead, i).lostSone))
  const worst = lost.indexOf(Math.max(...lost))
  const [key, yielding] = [lead, worst].map((i) => atGain(tracks[i].clip, tracks[i].gainDb))
  const names = `${tracks[lead].name} over ${tracks[worst].name.toLowerCase()}`
  return { key, yielding, names }
}

async function followed(key: Clip, yielding: Clip, law: DuckParams['law'] | 'timeless') {
  const before = hearingOf(pairSums(key, yielding))
  const after = hearingOf(
    law === 'timeless'
      ? timeless(key, yielding)
      : pairSums(key, await treatedBy({ yielding, key }, [duckBy(law)])),
  )
  return {
    won: after.keyHeard - before.keyHeard,
    lost: before.yieldingSone - after.yieldingSone,
  }
}

function duckBy(law: DuckParams['law']) {
  const { params } = newTreatment('duck', 'duck', 'fit')
  return newTreatment('duck', 'duck', 'fit', { ...params, law })
}

const MOMENTS = 400

/** The law by itself: each moment's depth in each auditory filter, at that moment only. */
function timeless(key: Clip, yielding: Clip): MaskingSums {
  const { depthDb, fromHz, toHz } = duckBy('heard').params
  const rate = key.sampleRateHz
  const longest = Math.max(key.frames, yielding.frames)
  const moments = planMoments(rate, longest, [activityOf(key.channels)], MOMENTS)
  const [lead, own] = [key, yielding].map((c) =>
    heardMoments(midAndSide(c.channels), rate, moments),
  )
  const parts = [own.mid, own.side, own.cross, own.past].map((p) => p?.slice() ?? null)
  const [mid, side, cross, past] = parts
  const cochlea = cochlearGains(DEFAULT_CALIBRATION)
  const excitationOf = (heard: HeardMoments, row: number) =>
    excitation(
      cochlea.map((gain, b) => gain * (heard.mid[row + b] + (heard.side?.[row + b] ?? 0))),
      new Float64Array(FILTER_COUNT),
    )
  for (let row = 0; row < own.mid.length; row += FILTER_COUNT) {
    const [asked, given] = [excitationOf(lead, row), excitationOf(own, row)]
    for (let b = 0; b < FILTER_COUNT; b++) {
      if (FILTER_HZ[b] < fromHz || FILTER_HZ[b] > toHz) continue
      const gain = 10 ** (-depthFor(asked[b], given[b], depthDb, b) / 10)
      for (const part of parts) if (part) part[row + b] *= gain
    }
  }
  const treated = { ...own, mid: mid ?? own.mid, side, cross, past: past ?? own.past }
  return maskTracks(
    [lead, treated].map((heard) => ({ heard, gainDb: 0 })),
    { calibration: DEFAULT_CALIBRATION, mode: 'stereo', listening: 'speakers' },
  )
}

function atGain(clip: Clip, db: number): Clip {
  const gain = 10 ** (db / 20)
  return makeClip(
    clip.sampleRateHz,
    clip.channels.map((c) => c.map((v) => v * gain)),
  )
}
