import { type Clip, makeClip } from '@sober-prism/core/audio'
import { measureLoudness } from '@sober-prism/core/loudness'
import { designLater, mixSound, renderPlan, type Sound, soundOf } from '@sober-prism/core/mix'
import { type NullReading, nullTest, nullVerdict } from '@sober-prism/core/null-test'
import { referencePassage, type Session } from '@sober-prism/core/session'
import { clipOf } from './open-input'
import {
  type Answerer,
  middleOf,
  type Question,
  type RecordingMap,
  type SoundInput,
} from './question'

/** One of two signals: the mix of a state, a track or group, a reference, or a file that is brought. */
export type NullSide =
  | { readonly kind: 'state'; readonly session: Session }
  | { readonly kind: 'node'; readonly node: string; readonly tap: 'recorded' | 'chain' }
  | { readonly kind: 'reference'; readonly reference: string }
  /** From the start of the piece on. */
  | { readonly kind: 'file'; readonly channels: readonly Float32Array[] }

interface NullArgs {
  readonly first: NullSide
  readonly second: NullSide
  readonly align: boolean
  readonly gain: boolean
}

interface NullInput {
  readonly sides: readonly [ReadySide, ReadySide]
  readonly align: boolean
  readonly gain: boolean
  readonly sampleRateHz: number
}
type ReadySide = SoundInput | { readonly channels: readonly Float32Array[] }

/** What is left of one signal less another. */
export interface NullAnswer {
  readonly reading: NullReading
  readonly verdict: string
  /** Loudness of what is left, in LUFS; null for silence. */
  readonly residueLufs: number | null
  readonly residue: readonly Float32Array[]
}

/** Over the passage; of a long one over its middle minute. */
export const nullOf: Question<NullArgs, NullInput> = {
  label: 'Null test',
  async prepare({ first, second, align, gain }, asking) {
    const { session } = asking
    const stretch = middleOf(session)
    const ready = async (side: NullSide): Promise<ReadySide | null> => {
      if (side.kind === 'file') {
        const { fromFrame, toFrame } = stretch
        return { channels: side.channels.map((c) => c.slice(fromFrame, toFrame)) }
      }
      const sound = soundOfSide(session, side)
      const recordings: RecordingMap | null = await asking.find(sound)
      if (!sound || !recordings) return null
      return { sound, recordings, stretch: stretchOf(session, side, stretch) }
    }
    const [a, b] = [await ready(first), await ready(second)]
    return a && b && { sides: [a, b], align, gain, sampleRateHz: session.sampleRateHz }
  },
}

function soundOfSide(session: Session, side: Exclude<NullSide, { kind: 'file' }>): Sound | null {
  if (side.kind === 'state') return mixSound(side.session, renderPlan(side.session, designLater))
  return side.kind === 'node'
    ? soundOf(session, side.node, side.tap)
    : soundOf(session, side.reference, 'recorded')
}

/** What of a reference is listened to begins where the passage does. */
function stretchOf(session: Session, side: NullSide, stretch: SoundInput['stretch']) {
  const reference =
    side.kind === 'reference' && session.references.find((r) => r.id === side.reference)
  if (!reference) return stretch
  const from = referencePassage(session, reference).fromFrame
  const length = stretch.toFrame - stretch.fromFrame
  return { fromFrame: from, toFrame: Math.min(reference.audio.frames, from + length) }
}

export const answerNull: Answerer<NullInput, NullAnswer> = async (
  { sides, align, gain, sampleRateHz },
  onProgress,
) => {
  const clip = (side: ReadySide): Promise<Clip> | Clip =>
    'sound' in side ? clipOf(side) : makeClip(sampleRateHz, [...side.channels])
  const first = await clip(sides[0])
  onProgress(0.3)
  const second = await clip(sides[1])
  onProgress(0.6)
  const { reading, residue } = nullTest(first, second, { align, gain })
  return {
    reading,
    verdict: nullVerdict(reading),
    residueLufs: measureLoudness(residue).integratedLufs,
    residue: residue.channels,
  }
}
