import { LEVEL_STEP, LevelSteps } from '@sober-prism/core/dynamics'

interface Sound {
  readonly sampleRateHz: number
  readonly channels: number
  readonly frames: number
}

/** What a leveller's detector reads of a sound that comes in pieces: one level each {@link LEVEL_STEP}. */
export async function readLevels(
  { sampleRateHz, channels, frames }: Sound,
  pieces: AsyncIterable<readonly Float32Array[]> | Iterable<readonly Float32Array[]>,
  lowCutHz: number,
  onPiece: (piece: readonly Float32Array[]) => void = () => {},
): Promise<Float32Array> {
  const steps = new LevelSteps(sampleRateHz, channels)
  steps.setLowCut(lowCutHz)
  const levels = new Float32Array(Math.floor(frames / LEVEL_STEP))
  let count = 0
  for await (const piece of pieces) {
    onPiece(piece)
    for (let i = 0; i < piece[0].length; i++) {
      const power = steps.add(piece, i)
      if (power >= 0 && count < levels.length) levels[count++] = power
    }
  }
  return levels
}
