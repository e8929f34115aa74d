import { resolve } from 'node:path'
import { type AudioSource, dbToAmplitude, scaled } from '@sober-prism/core/audio'
import { normalisingGain, OutputMeter } from '@sober-prism/core/loudness'
import {
  ChainRun,
  designNow,
  fileNames,
  isKeyed,
  renderPlan,
  type Stretch,
  stemPlan,
  streamMix,
  streamRun,
  trackPlan,
  trackStem,
  withoutSilent,
} from '@sober-prism/core/mix'
import { type Session, sessionFrames, trimmedChain } from '@sober-prism/core/session'
import { parseCall } from './arguments'
import { FileError } from './cli-error'
import type { Command } from './run'
import { openRecordings, openSession } from './session-files'
import { figure } from './table'
import { BITS, writeAudio } from './write-audio'

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
    const plan = renderPlan(session, designNow(sampleRateHz))
    const meter = new OutputMeter(sampleRateHz, 2)
    let done = 0
    const mix = () => streamMix(plan, recordings, sampleRateHz, stretch)
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
      const made = stemsOf(session, recordings, stretch)
      const names = fileNames(
        made.map((stem) => stem.name),
        '.wav',
      )
      for (const [i, { channels, pieces }] of made.entries()) {
        around.progress(names[i])
        await writeAudio(target(names[i], channels, folder), pieces())
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

async function measureOutput(pieces: AsyncIterable<Float32Array[]>, sampleRateHz: number) {
  const meter = new OutputMeter(sampleRateHz, 2)
  for await (const piece of pieces) meter.add(piece)
  return meter.finish()
}

async function* louder(pieces: AsyncIterable<Float32Array[]>, gain: number) {
  for await (const piece of pieces) yield piece.map((channel) => scaled(channel, gain))
}

interface Stem {
  readonly name: string
  readonly channels: number
  pieces(): AsyncGenerator<readonly Float32Array[]>
}

/** Each track through its chain, before fader and pan, and each group behind its own. */
function stemsOf(
  session: Session,
  recordings: ReadonlyMap<string, AudioSource>,
  stretch: Stretch,
): Stem[] {
  const { sampleRateHz } = session
  const design = designNow(sampleRateHz)
  const plan = renderPlan(session, design)
  const groups = session.groups.map((group) => ({
    name: `${group.letter} ${group.name}`,
    channels: 2,
    pieces: () =>
      streamMix(withoutSilent(stemPlan(plan, group.id)), recordings, sampleRateHz, stretch),
  }))
  const tracks = session.tracks.flatMap((track) => {
    const { id, letter, name, audio, offsetFrames } = track
    const chain = trimmedChain(track)
    const source = recordings.get(audio.hash)
    if (!source) return []
    const run = () =>
      isKeyed(chain.treatments)
        ? trackStem(
            streamMix(trackPlan(plan, id), recordings, sampleRateHz, stretch),
            source.channels,
          )
        : streamRun(new ChainRun(chain, source, offsetFrames, sampleRateHz, stretch, design))
    return [{ name: `${letter} ${name}`, channels: source.channels, pieces: run }]
  })
  return [...groups, ...tracks]
}
