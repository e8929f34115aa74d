import { readAudio } from '@sober-prism/core/audio'
import { measureLoudness, truePeakDbtp } from '@sober-prism/core/loudness'

/** How loud a WAV or AIFF file is, and how high it reaches between its samples. */
export function measureFile(bytes: Uint8Array): string {
  const clip = readAudio(bytes)
  const { integratedLufs } = measureLoudness(clip)
  return `${integratedLufs?.toFixed(1)} LUFS, ${truePeakDbtp(clip)?.toFixed(1)} dBTP`
}
