import { type Clip, makeClip } from '@sober-prism/core/audio'
import { hearingOf, pairSums, surveyClips } from '@sober-prism/core/findings'
import { pairMasking } from '@sober-prism/core/hearing'
import { type DuckParams, newTreatment } from '@sober-prism/core/treatments'
import { treatedBy } from '../../../cli/src/keyed'
import { type RealOptions, type RealSession, realSession } from './session'

export interface LawsOptions extends Pick<RealOptions, 'band' | 'many'> {
  readonly seeds: readonly number[]
}

/**
 * Both laws of following across the spectrum, on the lead of each session and what takes most from it: what of the
 * lead is won, and what the other loses of its own loudness.
 */
export async function judgeLaws({ band, many, seeds }: LawsOptions): Promise<void> {
  console.log('| seed | key over | *even* | *heard* |')
  console.log('|---|---|---|---|')
  const sums = { even: [0, 0], heard: [0, 0] }
  for (const seed of seeds) {
    const session = realSession({ band, seed, many, planted: false })
    const pair = worstPair(session)
    const figures: string[] = []
    for (const law of ['even', 'heard'] as const) {
      const { won, lost } = await followed(pair.key, pair.yielding, law)
      sums[law][0] += won
      sums[law][1] += lost
      figures.push(`${(100 * won).toFixed(1)} for ${lost.toFixed(2)}`)
    }
    console.log(`| ${seed} | ${pair.names} | ${figures.join(' | ')} |`)
  }
  const mean = ([won, lost]: number[]) =>
    `${((100 * won) / seeds.length).toFixed(1)} for ${(lost / seeds.length).toFixed(2)}`
  console.log(`| mean | | ${mean(sums.even)} | ${mean(sums.heard)} |`)
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

async function followed(key: Clip, yielding: Clip, law: DuckParams['law']) {
  const { params } = newTreatment('duck', 'duck', 'fit')
  const treatment = newTreatment('duck', 'duck', 'fit', { ...params, law })
  const treated = await treatedBy({ yielding, key }, [treatment])
  const before = hearingOf(pairSums(key, yielding))
  const after = hearingOf(pairSums(key, treated))
  return {
    won: after.keyHeard - before.keyHeard,
    lost: before.yieldingSone - after.yieldingSone,
  }
}

function atGain(clip: Clip, db: number): Clip {
  const gain = 10 ** (db / 20)
  return makeClip(
    clip.sampleRateHz,
    clip.channels.map((c) => c.map((v) => v * gain)),
  )
}
