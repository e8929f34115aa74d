import { LoudnessMeter } from '@sober-prism/core/loudness'
import { type Stretch, soundOf } from '@sober-prism/core/mix'
import { applyEdits, chainOf, type Edit, sessionFrames } from '@sober-prism/core/session'
import { type LevellerParams, workingsOf } from '@sober-prism/core/treatments'
import { follow, lengthOf, openInput } from './open-input'
import { type Answerer, type Question, type SoundInput, soundInput, wholeOf } from './question'

/** A leveller is run over the whole of a session that is no longer. */
const MOST_SECONDS = 600
/** Parts in which what it takes is told; fewer of a short stretch. */
const MOST_COLUMNS = 1000
/** Frames from one reading of a leveller's gain to the next. */
const GAIN_FRAMES = 512

interface LevelledInput extends SoundInput {
  readonly params: LevellerParams
}

/** What a leveller does over a stretch. */
export interface Levelled {
  readonly stretch: Stretch
  /** In dB, 0 or below: the most of each of equal parts. */
  readonly gainsDb: Float32Array
  readonly beforeLufs: number | null
  readonly afterLufs: number | null
}

/** What a leveller of a node's chain takes over the whole session, or over the passage where that is long. */
export const levelled: Question<
  { readonly node: string; readonly treatment: string },
  LevelledInput
> = {
  label: 'Measuring the leveller',
  waits: true,
  async prepare({ node, treatment }, asking) {
    const { session } = asking
    const chain = chainOf(session, node)?.treatments ?? []
    const at = chain.findIndex((t) => t.id === treatment)
    const leveller = chain[at]
    if (leveller?.kind !== 'leveller') return null
    const whole = { fromFrame: 0, toFrame: sessionFrames(session) }
    const isLong = whole.toFrame > MOST_SECONDS * session.sampleRateHz
    const behind = chain
      .slice(at)
      .map(({ id }): Edit => ({ kind: 'remove-treatment', node, treatment: id }))
    const before = soundOf(applyEdits(session, behind), node, 'chain')
    const input = await soundInput(asking, before, isLong ? wholeOf(session) : whole)
    return input && { ...input, params: leveller.params }
  },
}

export const answerLevelled: Answerer<LevelledInput, Levelled> = async (input, onProgress) => {
  const { stretch, params, sound } = input
  const { channels, pieces } = openInput(input)
  const { sampleRateHz } = sound
  const workings = workingsOf('leveller')
  const leveller = workings.make(sampleRateHz, channels)
  leveller.set(params, workings.design(params, sampleRateHz))
  const [before, after] = [0, 1].map(() => new LoudnessMeter(sampleRateHz, channels))
  const frames = lengthOf(stretch)
  const columns = Math.min(MOST_COLUMNS, Math.ceil(frames / GAIN_FRAMES))
  const gainsDb = new Float32Array(columns)
  const now = new Float32Array(1)
  let done = 0
  await follow(pieces, frames, onProgress, (piece) => {
    before.add(piece)
    const treated = piece.map((channel) => channel.slice())
    for (let at = 0; at < piece[0].length; at += GAIN_FRAMES) {
      const count = Math.min(GAIN_FRAMES, piece[0].length - at)
      const block = treated.map((channel) => channel.subarray(at, at + count))
      leveller.process(block, count, null)
      leveller.readGains?.(now)
      const column = Math.min(columns - 1, Math.floor((columns * (done + at)) / frames))
      gainsDb[column] = Math.min(gainsDb[column], now[0])
    }
    after.add(treated)
    done += piece[0].length
  })
  const [beforeLufs, afterLufs] = [before, after].map((m) => m.read().integratedLufs)
  return { stretch, gainsDb, beforeLufs, afterLufs }
}
