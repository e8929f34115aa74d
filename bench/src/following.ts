import { MixRun, streamRun } from '@sober-prism/core/mix'
import { newFollowBand, newTreatment, type Treatment } from '@sober-prism/core/treatments'
import { prepareHost } from '../../cli/src/host'
import { add, planOf, RATE, recordingsOf, sessionOf } from '../../core/src/testing/sessions'
import { gaussianNoise } from '../../core/src/testing/signals'

const TRACKS = 24
const SECONDS = 2
const KEY = { node: 't0', tap: 'after-fader', as: 'mono' } as const

/** A mix of 24 stereo tracks, six of them following in four bands and four across the spectrum at the finest. */
export async function measureFollowing(): Promise<[string, string][]> {
  prepareHost()
  const ids = Array.from({ length: TRACKS }, (_, i) => `t${i}`)
  const session = sessionOf(ids, 2)
  const recordings = recordingsOf(
    ...ids.map((_, i) => [0, 1].map((c) => gaussianNoise(SECONDS * RATE, 2 * i + c, 0.05))),
  )
  const bands = [200, 800, 2500, 6000].map((hz, i) => newFollowBand(`b${i}`, { hz }))
  const follow = (i: number): Treatment => ({
    ...newTreatment('follow', `f${i}`, 'fit', {
      ...newTreatment('follow', 'f', 'fit').params,
      bands,
    }),
    key: KEY,
  })
  const duck = (i: number, phase: 'minimum' | 'linear'): Treatment => ({
    ...newTreatment('duck', `d${i}`, 'fit', {
      ...newTreatment('duck', 'd', 'fit').params,
      fineness: 5,
      phase,
    }),
    key: KEY,
  })
  const cost = async (...treatments: readonly Treatment[]) => {
    const plan = planOf(session, ...treatments.map((t, i) => add(`t${i + 1}`, t)))
    const shares: number[] = []
    // The first round is for the compiler.
    for (let round = 0; round < 4; round++) {
      const stretch = { fromFrame: 0, toFrame: SECONDS * RATE }
      const run = new MixRun(plan, recordings, RATE, stretch)
      const from = performance.now()
      for await (const _ of streamRun(run)) {
        // What is made is of no interest here.
      }
      if (round > 0) shares.push((performance.now() - from) / 1000 / SECONDS)
    }
    return Math.min(...shares)
  }
  const percent = (share: number) => `${(100 * share).toFixed(0)} % of a core`
  const six = Array.from({ length: 6 }, (_, i) => follow(i))
  const four = (phase: 'minimum' | 'linear') => Array.from({ length: 4 }, (_, i) => duck(i, phase))
  return [
    ['24 stereo tracks, untreated', percent(await cost())],
    ['with six that follow in four bands', percent(await cost(...six))],
    ['and four across the spectrum, finest', percent(await cost(...six, ...four('minimum')))],
    ['the same in linear phase', percent(await cost(...six, ...four('linear')))],
  ]
}
