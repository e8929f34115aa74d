import { mkdir } from 'node:fs/promises'
import { join, resolve } from 'node:path'
import type { Clip } from '@sober-prism/core/audio'
import { type CrossoverSpec, makeCrossover } from '@sober-prism/core/filters'
import { realFft } from '@sober-prism/core/spectrum'
import { parseCall } from './arguments'
import { FileError, UsageError } from './cli-error'
import { readClip } from './files'
import { writeClip } from './keyed'
import type { Command } from './run'
import { figure } from './table'
import { BITS } from './write-audio'

const SPEC = {
  usage:
    'split IN.wav --at HZ[,HZ…] [--kind lr12|lr24|lr48|linear|subtract] --out DIR [--bits 16|24|32f] [--force] [--json]',
  options: { at: 'string', kind: 'string', out: 'string', bits: 'string' },
  files: { min: 1, max: 1 },
} as const

const KINDS = {
  lr12: { kind: 'linkwitz-riley', slopeDbPerOct: 12 },
  lr24: { kind: 'linkwitz-riley', slopeDbPerOct: 24 },
  lr48: { kind: 'linkwitz-riley', slopeDbPerOct: 48 },
  linear: { kind: 'linear', slopeDbPerOct: 24 },
  subtract: { kind: 'subtractive', slopeDbPerOct: 24 },
} as const
const KIND_NAMES = Object.keys(KINDS) as (keyof typeof KINDS)[]

/** `prism split`: two to five bands that add up to the whole again. */
export const split: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const [file] = call.files
  const [at, out] = [call.text('at'), call.text('out')]
  if (at === undefined || out === undefined)
    throw new UsageError('--at and --out are needed', SPEC.usage)
  const bits = BITS[call.choice('bits', ['16', '24', '32f'], '24')]
  const hz = at.split(',').map(Number)
  if (hz.length > 4 || hz.some((f, i) => !(f > (i === 0 ? 0 : hz[i - 1])))) {
    throw new UsageError('--at takes one to four frequencies, rising', SPEC.usage)
  }
  const clip = await readClip(around.cwd, file)
  if (hz[hz.length - 1] >= clip.sampleRateHz / 2) {
    throw new UsageError(`--at lies below half the sample rate of ${file}`, SPEC.usage)
  }
  const kind = call.choice('kind', KIND_NAMES, 'lr24')
  const spec: CrossoverSpec = { ...KINDS[kind], hz }
  around.progress('splitting')
  const bands = splitClip(clip, spec)
  const sumErrorDb =
    spec.kind === 'linkwitz-riley' ? flatness(spec, clip.sampleRateHz) : nullDepth(clip, bands)
  try {
    await mkdir(resolve(around.cwd, out), { recursive: true })
  } catch (error) {
    throw new FileError(out, (error as Error).message)
  }
  const files = bands.map((_, i) => join(out, `band-${i + 1}.wav`))
  for (const [i, band] of bands.entries()) {
    await writeClip(around, files[i], band, { force: call.force, bits })
  }
  around.progress('')
  const list = files.map((name, i) => ({
    file: name,
    fromHz: i === 0 ? 0 : hz[i - 1],
    toHz: i === hz.length ? clip.sampleRateHz / 2 : hz[i],
  }))
  if (call.json) {
    around.out(`${JSON.stringify({ kind, bands: list, sumErrorDb })}\n`)
    return
  }
  for (const b of list) around.out(`${b.file}: ${figure(b.fromHz)} to ${figure(b.toHz)} Hz\n`)
  const what = spec.kind === 'linkwitz-riley' ? 'the sum is flat within' : 'sum against input:'
  around.out(`${what} ${figure(sumErrorDb, 3)} dB\n`)
}

/** Each band as a clip, aligned with the whole. */
function splitClip(clip: Clip, spec: CrossoverSpec): Clip[] {
  const { sampleRateHz, channels, frames } = clip
  const crossover = makeCrossover(spec, sampleRateHz, channels.length)
  const out = Array.from({ length: crossover.bands }, () => ({
    ...clip,
    channels: channels.map(() => new Float32Array(frames)),
  }))
  const BLOCK = 4096
  const input = channels.map(() => new Float32Array(BLOCK))
  const output = out.map(() => channels.map(() => new Float32Array(BLOCK)))
  const late = crossover.latency
  for (let from = 0; from < frames + late; from += BLOCK) {
    const count = Math.min(BLOCK, frames + late - from)
    input.forEach((block, c) => {
      block.fill(0)
      if (from < frames) block.set(channels[c].subarray(from, Math.min(frames, from + count)))
    })
    crossover.process(input, output, count)
    out.forEach((band, b) => {
      band.channels.forEach((channel, c) => {
        const to = from - late
        const skipped = Math.max(0, -to)
        if (skipped < count) channel.set(output[b][c].subarray(skipped, count), Math.max(0, to))
      })
    })
  }
  return out
}

const FLAT_SIZE = 65_536
const [FLAT_FROM_HZ, FLAT_TO_HZ] = [20, 20_000]

/** How far the sum of all bands is from flat at worst, in dB, by the answer to an impulse. */
function flatness(spec: CrossoverSpec, sampleRateHz: number): number {
  const impulse = new Float32Array(FLAT_SIZE)
  impulse[0] = 1
  const bands = splitClip({ sampleRateHz, channels: [impulse], frames: FLAT_SIZE } as Clip, spec)
  const sum = new Float32Array(FLAT_SIZE)
  for (const { channels } of bands) for (let i = 0; i < FLAT_SIZE; i++) sum[i] += channels[0][i]
  const spectrum = new Float32Array(FLAT_SIZE + 2)
  realFft(FLAT_SIZE).forward(sum, spectrum)
  let worst = 0
  for (let k = 0; k <= FLAT_SIZE / 2; k++) {
    const hz = (k * sampleRateHz) / FLAT_SIZE
    if (hz < FLAT_FROM_HZ || hz > FLAT_TO_HZ) continue
    const db = 10 * Math.log10(spectrum[2 * k] ** 2 + spectrum[2 * k + 1] ** 2 + 1e-30)
    worst = Math.max(worst, Math.abs(db))
  }
  return worst
}

/** Level of what the sum of all bands differs by from the whole, against the whole, in dB. */
function nullDepth({ channels, frames }: Clip, bands: readonly Clip[]): number {
  let [off, whole] = [0, 0]
  channels.forEach((channel, c) => {
    for (let i = 0; i < frames; i++) {
      let sum = 0
      for (const band of bands) sum += band.channels[c][i]
      off += (sum - channel[i]) ** 2
      whole += channel[i] ** 2
    }
  })
  return whole > 0 ? 10 * Math.log10(off / whole + 1e-20) : -200
}
