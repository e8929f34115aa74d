import { type Profile, ProfileMeter, type ProfileTitle } from '@sober-prism/core/match'
import { type Stretch, soundOf } from '@sober-prism/core/mix'
import { type Chain, sessionWithChain } from '@sober-prism/core/session'
import { lengthOf, openInput } from './open-input'
import { type Answerer, type Question, type SoundInput, soundInput, wholeOf } from './question'

interface ProfileInput extends SoundInput {
  readonly title: ProfileTitle
}

/** Of a node behind its chain, or another one, over the passage, or another stretch; or of a reference as a whole. */
type ProfileOf =
  | { readonly node: string; readonly stretch?: Stretch; readonly chain?: Chain }
  | { readonly reference: string }

/** What is known of a sound in the long run. @throws where it is too short or silent. */
export const profile: Question<
  { readonly of: ProfileOf; readonly title: ProfileTitle },
  ProfileInput
> = {
  label: 'Reading the spectrum',
  async prepare({ of, title }, asking) {
    const { session } = asking
    if ('reference' in of) {
      const reference = session.references.find((r) => r.id === of.reference)
      if (!reference) return null
      const stretch = { fromFrame: 0, toFrame: reference.audio.frames }
      const input = await soundInput(asking, soundOf(session, of.reference, 'recorded'), stretch)
      return input && { ...input, title }
    }
    const { node, stretch = wholeOf(session), chain } = of
    const heard = chain ? sessionWithChain(session, node, chain) : session
    const input = await soundInput(asking, soundOf(heard, node, 'chain'), stretch)
    return input && { ...input, title }
  },
}

export const answerProfile: Answerer<ProfileInput, Profile> = async (input, onProgress) => {
  const { channels, pieces } = openInput(input)
  const { sampleRateHz } = input.sound
  const meter = new ProfileMeter(sampleRateHz, channels)
  const seconds = lengthOf(input.stretch) / sampleRateHz
  for await (const piece of pieces) {
    meter.add(piece)
    onProgress(Math.min(1, meter.seconds / seconds))
  }
  return meter.read(input.title)
}
