import { type Stretch, soundOf, untreated } from '@sober-prism/core/mix'
import { loudestInRanges, SpectrogramMeter } from '@sober-prism/core/spectrum'
import { turn } from '../work/turn'
import { lengthOf, openInput, type Pieces, sourcesOf } from './open-input'
import { type Answerer, type Question, type SoundInput, soundInput } from './question'

/** How a picture over time is drawn. */
interface SpectrogramView {
  /** Length of the window, a power of two. */
  readonly size: number
  /** Rows over the stretch, the first at its beginning. */
  readonly rows: number
  /** Edges of the ranges of frequency, in Hz. */
  readonly edgesHz: Float64Array
}

interface SpectrogramInput extends SpectrogramView, SoundInput {}

interface SpectrogramOf extends SpectrogramView {
  /** A track, group, the mix or a reference. */
  readonly node: string
  /** Before its chain, or behind it. */
  readonly side: 'recorded' | 'treated'
  readonly stretch: Stretch
}

/** A picture over time: levels in dB, `rows` times one for each range of frequency. */
export const spectrogram: Question<SpectrogramOf, SpectrogramInput> = {
  label: 'Drawing the spectrogram',
  async prepare({ node, side, stretch, size, rows, edgesHz }, asking) {
    const sound = soundOf(asking.session, node, side === 'recorded' ? 'trimmed' : 'chain')
    const input = await soundInput(asking, sound, stretch)
    return input && { ...input, size, rows, edgesHz }
  },
}

/** Windows that are looked at in each row: what is loudest in them stands for it. */
const WINDOWS_IN_ROW = 2
const SILENT_DB = -200
/** How often what is there of a picture is shown while the rest is made. */
const FIRST_PART_MS = 30
const PART_MS = 120

export const answerSpectrogram: Answerer<SpectrogramInput, Float32Array> = async (
  input,
  onProgress,
) => {
  const { sound, stretch, size, rows, edgesHz } = input
  const meter = new SpectrogramMeter({ size, hop: size, window: 'hann' })
  const column = new Float32Array(meter.bins)
  const edges = edgesHz.map((hz) => (hz * size) / sound.sampleRateHz)
  const ranges = edges.length - 1
  const levels = new Float32Array(rows * ranges).fill(SILENT_DB)
  const step = lengthOf(stretch) / rows / WINDOWS_IN_ROW
  const readAround = windowsOf(input)
  let sent = 0
  let last = performance.now()
  for (let r = 0; r < rows; r++) {
    const row = levels.subarray(r * ranges, (r + 1) * ranges)
    for (let w = 0; w < WINDOWS_IN_ROW; w++) {
      const centre = Math.round((r * WINDOWS_IN_ROW + w + 0.5) * step)
      const { channels, at } = await readAround(centre)
      meter.column(channels, at, column)
      loudestInRanges(column, edges, row)
    }
    if (performance.now() - last < (sent === 0 ? FIRST_PART_MS : PART_MS)) continue
    const part = { fromRow: sent, levels: levels.slice(sent * ranges, (r + 1) * ranges) }
    onProgress((r + 1) / rows, part)
    await turn()
    sent = r + 1
    last = performance.now()
  }
  return levels
}

/** Sound around a frame of the stretch, with the place in it at which that frame lies. */
type AroundFrame = (centre: number) => Promise<{ channels: Float32Array[]; at: number }>

/** As it was recorded, only the windows are read, however long the stretch is. */
function windowsOf(input: SpectrogramInput): AroundFrame {
  const { sound, recordings, stretch, size } = input
  const plain = untreated(sound)
  const source = plain && sourcesOf(recordings).get(plain.source)
  if (!plain || !source) {
    const { channels, pieces } = openInput(input)
    return windowsInTurn(pieces, channels, size)
  }
  const { offsetFrames, gain } = plain
  const channels = Array.from({ length: source.channels }, () => new Float32Array(size))
  return async (centre) => {
    const from = stretch.fromFrame + centre - size / 2 - offsetFrames
    await source.prefetch([{ fromFrame: from, toFrame: from + size }])
    channels.forEach((out, c) => {
      source.read(c, from, out, size)
      if (gain !== 1) for (let i = 0; i < size; i++) out[i] *= gain
    })
    return { channels, at: size / 2 }
  }
}

/** Windows of a sound that comes in pieces, to be asked for from first to last: only what they need is held. */
function windowsInTurn(pieces: Pieces, count: number, size: number): AroundFrame {
  let held: Float32Array[] = Array.from({ length: count }, () => new Float32Array(0))
  /** Where what is held begins. */
  let start = 0
  return async (centre) => {
    const [from, to] = [centre - size / 2, centre + size / 2]
    for (let isMore = true; isMore && start + held[0].length < to; ) {
      const { value, done } = await pieces.next()
      isMore = !done
      if (!value) continue
      const gone = Math.max(0, Math.min(held[0].length, from - start))
      held = held.map((before, c) => {
        const joined = new Float32Array(before.length - gone + value[c].length)
        joined.set(before.subarray(gone))
        joined.set(value[c], before.length - gone)
        return joined
      })
      start += gone
    }
    return { channels: held, at: centre - start }
  }
}
