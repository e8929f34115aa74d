import {
  alignClips,
  alignParams,
  type LineUp,
  type LineUpPicture,
  type LineUpRange,
  lineUpPicture,
} from '@sober-prism/core/findings'
import { newTreatment } from '@sober-prism/core/treatments'
import { MOST_PAIRED_SECONDS } from './pair'
import type { Answerer, Question } from './question'
import { clipsOfBoth, type TwoTracks, twoTracks } from './two-tracks'

interface LineUpInput extends TwoTracks {
  readonly range: LineUpRange
}

/** `lineUp` null where they do not carry one source; no picture where the other listens to tracks. */
interface LineUpAnswer {
  readonly lineUp: LineUp | null
  readonly picture: LineUpPicture | null
}

/** What lines a track up with another that leads, by what their sum gains in a range of frequency. */
export const lineUp: Question<
  { readonly lead: string; readonly other: string; readonly range: LineUpRange },
  LineUpInput
> = {
  label: 'Lining up',
  async prepare({ lead, other, range }, asking) {
    const input = await twoTracks(asking, [lead, other], MOST_PAIRED_SECONDS)
    return input && { ...input, range }
  },
}

export const answerLineUp: Answerer<LineUpInput, LineUpAnswer> = async (input) => {
  const [lead, other] = await clipsOfBoth(input)
  const found = alignClips(lead, other, input.range)
  const [leading, own] = input.tracks
  // What listens to others is made in their mix, not by its chain alone.
  if (!found || own.treated.of === 'mix') return { lineUp: found, picture: null }
  const { treated } = own
  const { id, kind, params } = newTreatment('align', 'lined up', 'fit', alignParams(found))
  const treatments = [...treated.chain.treatments, { id, kind, params, key: null, design: null }]
  const moved = { ...own, treated: { ...treated, chain: { ...treated.chain, treatments } } }
  const [, aligned] = await clipsOfBoth({ ...input, tracks: [leading, moved] })
  return { lineUp: found, picture: lineUpPicture(lead, other, aligned) }
}
