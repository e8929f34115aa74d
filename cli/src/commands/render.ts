import { resolve } from 'node:path'
import { dbToAmplitude, scaled } from '@sober-prism/core/audio'
import { normalisingGain, OutputMeter } from '@sober-prism/core/loudness'
import { deliverables, openSound, type Sound, soundOf } from '@sober-prism/core/mix'
import { sessionFrames } from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import { parseCall } from '../arguments'
import { FileError } from '../cli-error'
import type { Command } from '../run'
import { openRecordings, openSession } from '../session-files'
import { figure } from '../table'
import { BITS, writeAudio } from '../write-audio'

const SPEC = {
  usage: 'render SESSION OUT.wav [--stems DIR] [--bits 16|24|32f] [--force] [--json]',
  options: { stems: 'string', bits: 'string' },
  files: { min: 2, max: 2 },
} as const

/** `prism render`: the mix of a .prism session; if asked for, each treated track and each group as well. */
export const render: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const bits = BITS[call.choice('bits', ['16', '24', '32f'], '24')]
  const [file, out] = call.files
  const opened = await openSession(around.cwd, file)
  try {
    const { session } = opened
    const { sampleRateHz } = session
    const stretch = { fromFrame: 0, toFrame: sessionFrames(session) }
    const frames = stretch.toFrame
    if (frames === 0) throw new FileError(file, 'the session has no tracks')
    const recordings = await openRecordings(opened, file)
    const open = (sound: Sound) => openSound(sound, recordings, stretch).pieces
    const whole = soundOf(session, MIX, 'fader')
    if (!whole) throw new FileError(file, 'the session has no mix')
    const meter = new OutputMeter(sampleRateHz, 2)
    let done = 0
    const mix = () => open(whole)
    const normalised = session.normalise
      ? normalisingGain(await measureOutput(mix(), sampleRateHz), session.normalise)
      : null
    const gain = dbToAmplitude(normalised?.gainDb ?? 0)
    const target = (name: string, channels: number, cwd = around.cwd) => ({
      cwd,
      file: name,
      force: call.force,
      sampleRateHz,
      channels,
      frames,
      bits,
    })
    const made = normalised ? louder(mix(), gain) : mix()
    await writeAudio(target(out, 2), made, (piece) => {
      meter.add(piece)
      done += piece[0].length
      around.progress(`mix ${Math.round((100 * done) / frames)} %`)
    })
    const stems = call.text('stems')
    if (stems !== undefined) {
      const folder = resolve(around.cwd, stems)
      const parts = { mix: false, groups: true, tracks: true }
      for (const { file, sound } of deliverables(session, parts, {
        ending: '.wav',
        apart: false,
      })) {
        around.progress(file)
        await writeAudio(target(file, sound.channels, folder), open(sound))
      }
    }
    around.progress('')
    const { lufs: integratedLufs, truePeakDbtp } = meter.finish()
    const result = {
      out,
      frames,
      integratedLufs,
      truePeakDbtp,
      ...(normalised && { normalised }),
    }
    around.out(
      call.json
        ? `${JSON.stringify(result)}\n`
        : `${out}: ${result.frames} frames, ${figure(result.integratedLufs)} LUFS, ${figure(result.truePeakDbtp)} dBTP\n`,
    )
  } finally {
    await opened.close()
  }
}

async function measureOutput(pieces: AsyncIterable<readonly Float32Array[]>, sampleRateHz: number) {
  const meter = new OutputMeter(sampleRateHz, 2)
  for await (const piece of pieces) meter.add(piece)
  return meter.finish()
}

async function* louder(pieces: AsyncIterable<readonly Float32Array[]>, gain: number) {
  for await (const piece of pieces) yield piece.map((channel) => scaled(channel, gain))
}
