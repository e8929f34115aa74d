import { type Clip, makeClip } from '@sober-prism/core/audio'
import { hearingOf, pairSums, surveyClips } from '@sober-prism/core/findings'
import { pairMasking } from '@sober-prism/core/hearing'
import { treatClip } from '@sober-prism/core/mix'
import { type DuckParams, newTreatment } from '@sober-prism/core/treatments'
import { leastCost } from './least-cost'
import { type RealOptions, type RealSession, realSession } from './session'

export interface LawsOptions extends Pick<RealOptions, 'band' | 'many'> {
  readonly seeds: readonly number[]
}

/**
 * Both laws of following across the spectrum, on the lead of each session and what takes most from it: what of the
 * lead is won, and what the other loses of its own loudness. The last two columns are the least for which any processor
 * could win as much as *even*, as a part of what *even* takes.
 */
export async function judgeLaws({ band, many, seeds }: LawsOptions): Promise<void> {
  console.log('| seed | key over | *even* | *heard* | least | least in bands, in time |')
  console.log('|---|---|---|---|---|---|')
  const sums = { even: [0, 0], heard: [0, 0] }
  const least = [0, 0]
  for (const seed of seeds) {
    const session = realSession({ band, seed, many, against: null })
    const { key, yielding, names } = worstPair(session)
    const figures: string[] = []
    const made = { even: yielding, heard: yielding }
    for (const law of ['even', 'heard'] as const) {
      made[law] = await treatClip(yielding, [duckBy(law)], key)
      const { won, lost } = outcomeOf(key, yielding, made[law])
      sums[law][0] += won
      sums[law][1] += lost
      figures.push(`${(100 * won).toFixed(1)} for ${lost.toFixed(2)}`)
    }
    const { fromHz, toHz } = duckBy('even').params
    const { anyGain, realGain } = leastCost(key, yielding, made.even, [fromHz, toHz])
    least[0] += anyGain
    least[1] += realGain
    console.log(
      `| ${seed} | ${names} | ${figures.join(' | ')} | ${anyGain.toFixed(2)} | ${realGain.toFixed(2)} |`,
    )
  }
  const count = seeds.length
  const mean = ([won, lost]: number[]) =>
    `${((100 * won) / count).toFixed(1)} for ${(lost / count).toFixed(2)}`
  console.log(
    `| mean | | ${mean(sums.even)} | ${mean(sums.heard)} | ${least.map((v) => (v / count).toFixed(2)).join(' | ')} |`,
  )
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

function outcomeOf(key: Clip, yielding: Clip, made: Clip): { won: number; lost: number } {
  const [before, after] = [yielding, made].map((clip) => hearingOf(pairSums(key, clip)))
  return {
    won: after.keyHeard - before.keyHeard,
    lost: before.yieldingSone - after.yieldingSone,
  }
}

function duckBy(law: DuckParams['law']) {
  const { params } = newTreatment('duck', 'duck', 'fit')
  return newTreatment('duck', 'duck', 'fit', { ...params, law })
}

function atGain(clip: Clip, db: number): Clip {
  const gain = 10 ** (db / 20)
  return makeClip(
    clip.sampleRateHz,
    clip.channels.map((c) => c.map((v) => v * gain)),
  )
}
