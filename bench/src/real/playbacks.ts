import {
  heardPlayback,
  heardThrough,
  surveyClips,
  throughSentence,
} from '@sober-prism/core/findings'
import { trackMasking } from '@sober-prism/core/hearing'
import { makePlayback, PLAYBACKS } from '@sober-prism/core/playback'
import { type RealOptions, realReference, realSession } from './session'

/** Who is said to be lost behind each playback of sampled sessions: to be judged by a person. */
export function listLost(
  options: Pick<RealOptions, 'band' | 'many'> & { readonly seeds: readonly number[] },
): void {
  const references = [901, 902, 903].map((seed) => realReference(options.band, seed))
  for (const seed of options.seeds) {
    const { tracks } = realSession({ ...options, seed, against: references })
    const survey = surveyClips(tracks)
    const { sampleRateHz } = survey.settings
    const shares = new Map(
      survey.tracks.map(({ id }, t) => [id, trackMasking(survey.sums, t).audibleShare]),
    )
    for (const playback of PLAYBACKS) {
      const response = makePlayback(playback, sampleRateHz, 73)
      const began = performance.now()
      const heard = heardThrough(survey, heardPlayback(response, playback, sampleRateHz), shares)
      const ms = Math.round(performance.now() - began)
      const all = heard.map((h) => `${h.track} ${Math.round(100 * h.there)}`).join(', ')
      console.log(`${seed} ${playback.name} (${ms} ms): ${all}`)
      for (const lost of heard.filter((h) => h.isLost)) {
        const after = lost.after === null ? '' : `; ${Math.round(100 * lost.after)} % with`
        const moves = lost.moves.map((m) =>
          m.kind === 'add-band'
            ? `${m.node} ${m.chainBand.band.hz} Hz ${m.chainBand.band.db} dB`
            : '',
        )
        console.log(
          `  ${throughSentence(lost.track, playback.where, lost)}${after} ${moves.join()}`,
        )
      }
    }
  }
}
