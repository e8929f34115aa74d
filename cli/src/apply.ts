import { makeClip, type WavBits, writeWav } from '@sober-prism/core/audio'
import { Equaliser, FirStage } from '@sober-prism/core/filters'
import { parseCall } from './arguments'
import { UsageError } from './cli-error'
import { planEq, readEqFile } from './eq'
import { readClip, writeWhole } from './files'
import type { Command } from './run'

const SPEC = {
  usage:
    'apply IN.wav OUT.wav --eq EQ.json [--phase minimum|mixed|linear] [--taps N] [--bits 16|24|32f] [--force] [--json]',
  options: { eq: 'string', phase: 'string', taps: 'string', bits: 'string' },
  files: { min: 2, max: 2 },
} as const

const BLOCK_FRAMES = 4096
const BITS: Readonly<Record<'16' | '24' | '32f', WavBits>> = { '16': 16, '24': 24, '32f': '32f' }

/** `prism apply`: an EQ file over a recording; the output is aligned with the input and as long. */
export const apply: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const eq = call.text('eq')
  if (eq === undefined) throw new UsageError('--eq is missing', SPEC.usage)
  const bits = BITS[call.choice('bits', ['16', '24', '32f'], '24')]
  const [input, out] = call.files
  const bands = await readEqFile(around.cwd, eq)
  const clip = await readClip(around.cwd, input)
  const planned = planEq(call, bands, clip.sampleRateHz)
  const { latency, inFir } = planned.plan
  const stage = new FirStage(clip.channels.length)
  stage.set(planned.plan)
  const equaliser = new Equaliser()
  equaliser.prepare(clip.sampleRateHz, clip.channels.length)
  equaliser.set(planned.bands.filter(({ id }) => !inFir.includes(id)))

  // What comes late is taken from as much silence behind the end.
  const late = clip.channels.map((channel) => {
    const longer = new Float32Array(clip.frames + latency)
    longer.set(channel)
    return longer
  })
  for (let at = 0; at < late[0].length; at += BLOCK_FRAMES) {
    around.progress(`applying ${Math.round((100 * at) / late[0].length)} %`)
    const frames = Math.min(BLOCK_FRAMES, late[0].length - at)
    const block = late.map((c) => c.subarray(at, at + frames))
    stage.process(block, frames)
    equaliser.process(block, frames)
  }
  around.progress('')
  const result = makeClip(
    clip.sampleRateHz,
    late.map((c) => c.subarray(latency)),
  )
  await writeWhole(around.cwd, out, writeWav(result, bits), call.force)
  around.out(
    call.json
      ? `${JSON.stringify({ out, frames: result.frames, latencyFrames: latency })}\n`
      : `${out}: ${result.frames} frames, ${latency} frames of latency taken out\n`,
  )
}
