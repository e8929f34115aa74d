import { loudestInRanges, SpectrogramMeter, spectrogramColumns } from '@sober-prism/core/spectrum'
import { encode } from 'fast-png'
import { parseCall } from '../arguments'
import { type AudioFile, openAudio } from '../audio-file'
import { UsageError } from '../cli-error'
import type { Command } from '../run'
import { WholeFile } from '../whole-file'

const SPEC = {
  usage: 'spectrogram FILE OUT.png|OUT.csv [--size N] [--hop N] [--force] [--json]',
  options: { size: 'string', hop: 'string' },
  files: { min: 2, max: 2 },
} as const

const [LEAST_SIZE, DEFAULT_SIZE, MOST_SIZE] = [64, 4096, 65536]
/** Columns that are measured from one stretch of samples. */
const STRETCH_COLUMNS = 64

/** Picture: height, and most of width, in pixels; frequencies; and the range of levels under the loudest. */
const HEIGHT = 640
const MOST_WIDTH = 4096
const [LOWEST_HZ, HIGHEST_HZ] = [20, 20_000]
const RANGE_DB = 80

/** `prism spectrogram`: levels over time and frequency, as figures or as a picture in ink. */
export const spectrogram: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const [input, out] = call.files
  const asPicture = /\.png$/i.test(out)
  if (!asPicture && !/\.csv$/i.test(out)) {
    throw new UsageError('the output is named .png or .csv', SPEC.usage)
  }
  const size = call.number('size') ?? DEFAULT_SIZE
  if (!(size >= LEAST_SIZE && size <= MOST_SIZE && Number.isInteger(Math.log2(size)))) {
    throw new UsageError(
      `--size takes a power of two from ${LEAST_SIZE} to ${MOST_SIZE}`,
      SPEC.usage,
    )
  }
  const hop = call.number('hop') ?? size / 2
  if (!(Number.isInteger(hop) && hop >= 1 && hop <= MOST_SIZE)) {
    throw new UsageError(`--hop takes 1 to ${MOST_SIZE}`, SPEC.usage)
  }
  const file = await openAudio(around.cwd, input)
  try {
    const target = await WholeFile.create(around.cwd, out, call.force)
    try {
      const columns = spectrogramColumns(file.frames, hop)
      const progress = (done: number) =>
        around.progress(`measuring ${Math.round((100 * done) / columns)} %`)
      if (asPicture) await target.write(await draw(file, size, hop, progress))
      else await writeFigures(file, size, hop, target, progress)
      around.progress('')
    } catch (error) {
      await target.discard()
      throw error
    }
    await target.finish()
    const result = { out, frames: spectrogramColumns(file.frames, hop), bins: size / 2 + 1 }
    around.out(
      call.json
        ? `${JSON.stringify(result)}\n`
        : `${out}: ${result.frames} frames of ${result.bins} bins\n`,
    )
  } finally {
    await file.close()
  }
}

/** Measures column after column; a short stretch of the file is held at a time. */
async function eachColumn(
  file: AudioFile,
  size: number,
  hop: number,
  visit: (levels: Float32Array, n: number) => Promise<void> | void,
): Promise<void> {
  const { source, channels, frames } = file
  const meter = new SpectrogramMeter({ size, hop, window: 'hann' })
  const levels = new Float32Array(meter.bins)
  const columns = spectrogramColumns(frames, hop)
  for (let first = 0; first < columns; first += STRETCH_COLUMNS) {
    const last = Math.min(columns, first + STRETCH_COLUMNS)
    const from = first * hop - size / 2
    const to = (last - 1) * hop + size / 2
    await source.prefetch([{ fromFrame: Math.max(0, from), toFrame: Math.min(frames, to) }])
    const held = Array.from({ length: channels }, (_, c) => {
      const out = new Float32Array(to - from)
      source.read(c, from, out, to - from)
      return out
    })
    for (let n = first; n < last; n++) {
      meter.column(held, n * hop - from, levels)
      await visit(levels, n)
    }
  }
}

/** First row: frequencies in Hz; first column: seconds of the middles; then dB. */
async function writeFigures(
  file: AudioFile,
  size: number,
  hop: number,
  target: WholeFile,
  progress: (done: number) => void,
): Promise<void> {
  const { sampleRateHz } = file
  const hz = Array.from({ length: size / 2 + 1 }, (_, k) =>
    Number(((k * sampleRateHz) / size).toFixed(3)),
  )
  const encoder = new TextEncoder()
  await target.write(encoder.encode(`seconds,${hz.join(',')}\n`))
  await eachColumn(file, size, hop, async (levels, n) => {
    const seconds = ((n * hop) / sampleRateHz).toFixed(6)
    const row = Array.from(levels, (db) => db.toFixed(2)).join(',')
    await target.write(encoder.encode(`${seconds},${row}\n`))
    if (n % STRETCH_COLUMNS === 0) progress(n)
  })
}

/** Time from left to right, frequency upwards over its logarithm; the louder, the denser the ink. */
async function draw(
  file: AudioFile,
  size: number,
  hop: number,
  progress: (done: number) => void,
): Promise<Uint8Array> {
  const { sampleRateHz, frames } = file
  const columns = spectrogramColumns(frames, hop)
  const width = Math.min(MOST_WIDTH, columns)
  const highest = Math.min(HIGHEST_HZ, sampleRateHz / 2)
  const edges = Array.from(
    { length: HEIGHT + 1 },
    (_, i) => (LOWEST_HZ * (highest / LOWEST_HZ) ** (i / HEIGHT) * size) / sampleRateHz,
  )
  const levels = new Float32Array(width * HEIGHT).fill(-300)
  const heights = new Float32Array(HEIGHT)
  let loudest = -300
  await eachColumn(file, size, hop, (column, n) => {
    const x = Math.floor((n * width) / columns)
    heights.fill(-300)
    loudestInRanges(column, edges, heights)
    for (let y = 0; y < HEIGHT; y++) {
      const db = heights[HEIGHT - 1 - y]
      if (db > levels[y * width + x]) levels[y * width + x] = db
      if (db > loudest) loudest = db
    }
    if (n % STRETCH_COLUMNS === 0) progress(n)
  })
  const data = Uint8Array.from(levels, (db) => {
    const ink = Math.max(0, Math.min(1, 1 + (db - loudest) / RANGE_DB))
    return Math.round(255 * (1 - ink))
  })
  return encode({ width, height: HEIGHT, data, channels: 1, depth: 8 })
}
