import { type Clip, readAudio, writeWav } from '@sober-prism/core/audio'
import { newBand } from '@sober-prism/core/filters'
import { treatClip } from '@sober-prism/core/mix'
import { newChainBand, newTreatment } from '@sober-prism/core/treatments'

/** A WAV file with a low cut and a bell of -4 dB at 300 Hz, in linear phase: aligned with itself and as long. */
export async function runChain(bytes: Uint8Array): Promise<Uint8Array> {
  const bands = [
    newChainBand('rumble', newBand('low-cut', 60)),
    newChainBand('mud', { ...newBand('bell', 300), db: -4, q: 1 }),
  ]
  const chain = [newTreatment('equaliser', 'clean', 'clean', { phase: 'linear', bands })]
  const treated: Clip = await treatClip(readAudio(bytes), chain)
  return writeWav(treated, '32f')
}
