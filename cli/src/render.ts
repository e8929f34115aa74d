import { basename, extname, resolve } from 'node:path'
import { type Clip, resample, type WavBits, writeWav } from '@sober-prism/core/audio'
import { renderMix, renderPlan, renderTrack, type TrackAudio } from '@sober-prism/core/chain'
import { measureLoudness, truePeakDbtp } from '@sober-prism/core/loudness'
import { DocumentError, sessionFrames } from '@sober-prism/core/session'
import { parseCall } from './arguments'
import { FileError } from './cli-error'
import { decodeClip, writeWhole } from './files'
import type { Command } from './run'
import { readSessionFile, type SessionFile } from './session-files'
import { figure } from './table'

const SPEC = {
  usage: 'render SESSION OUT.wav [--stems DIR] [--bits 24|32f] [--force] [--json]',
  options: { stems: 'string', bits: 'string' },
  files: { min: 2, max: 2 },
} as const

/** `prism render`: the mix of a .prism session, and each treated track if asked for. */
export const render: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const bits: WavBits = call.choice('bits', ['24', '32f'], '24') === '24' ? 24 : '32f'
  const [file, out] = call.files
  const opened = await openSession(around.cwd, file)
  const { session } = opened
  const audio = await readTracks(opened, file)
  const stretch = { fromFrame: 0, toFrame: sessionFrames(session) }
  if (stretch.toFrame === 0) throw new FileError(file, 'the session has no tracks')
  const clip = renderMix(renderPlan(session), audio, session.sampleRateHz, stretch, {
    onProgress: (share) => around.progress(`mix ${Math.round(share * 100)} %`),
  })
  await writeWhole(around.cwd, out, writeWav(clip, bits), call.force)
  const stems = call.text('stems')
  if (stems !== undefined) {
    for (const track of session.tracks) {
      around.progress(`track ${track.name}`)
      const channels = audio.get(track.id)
      if (!channels) continue
      const stem = renderTrack(
        track.chain,
        channels,
        track.offsetFrames,
        session.sampleRateHz,
        stretch,
      )
      const name = `${track.letter} ${track.name.replace(/[^\p{L}\p{N} _-]/gu, '_')}.wav`
      await writeWhole(resolve(around.cwd, stems), name, writeWav(stem, bits), call.force)
    }
  }
  around.progress('')
  const result = {
    out,
    frames: clip.frames,
    integratedLufs: measureLoudness(clip).integratedLufs,
    truePeakDbtp: truePeakDbtp(clip),
  }
  around.out(
    call.json
      ? `${JSON.stringify(result)}\n`
      : `${out}: ${result.frames} frames, ${figure(result.integratedLufs)} LUFS, ${figure(result.truePeakDbtp)} dBTP\n`,
  )
}

async function openSession(cwd: string, file: string): Promise<SessionFile> {
  try {
    return await readSessionFile(cwd, file)
  } catch (error) {
    if (error instanceof DocumentError) throw new FileError(file, error.message)
    throw error
  }
}

async function readTracks(
  { session, audioFile }: SessionFile,
  file: string,
): Promise<Map<string, TrackAudio>> {
  const audio = new Map<string, TrackAudio>()
  for (const track of session.tracks) {
    const bytes = audioFile(track.audio.hash)
    if (!bytes) throw new FileError(file, `the audio of ${track.name} is not in the session file`)
    const clip: Clip = await decodeClip(bytes, `${basename(file, extname(file))}: ${track.name}`)
    audio.set(track.id, resample(clip, session.sampleRateHz).channels)
  }
  return audio
}
