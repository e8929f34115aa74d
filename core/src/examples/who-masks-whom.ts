import { readAudio } from '@sober-prism/core/audio'
import { surveyClips } from '@sober-prism/core/findings'
import { pairMasking, trackMasking } from '@sober-prism/core/hearing'

/** How much of the first file is heard beside the others, and what each of them takes of it. */
export function whoMasksWhom(files: readonly Uint8Array[]): string[] {
  const tracks = files.map((bytes, i) => ({
    id: `${i}`,
    clip: readAudio(bytes),
    gainDb: 0,
    isLead: i === 0,
  }))
  const { sums } = surveyClips(tracks)
  const { audibleShare, aloneSone } = trackMasking(sums, 0)
  return [
    `${Math.round(100 * audibleShare)} % heard`,
    ...tracks.slice(1).map(({ id }, i) => {
      const { lostSone } = pairMasking(sums, 0, i + 1)
      return `${Math.round((100 * lostSone) / aloneSone)} % lost to ${id}`
    }),
  ]
}
