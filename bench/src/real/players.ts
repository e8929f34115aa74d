import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { type Clip, readWav, resample } from '@sober-prism/core/audio'
import { RATE_HZ } from '@sober-prism/demo'
import { type MidiEvent, writeMidi } from 'midi-file'

/** One stroke or tone: when, how long, which key, how hard (1 to 127). */
export interface Stroke {
  readonly seconds: number
  readonly length: number
  readonly key: number
  readonly velocity: number
}

/** A sampled instrument: a set of samples, and a program in it; kits of drums are bank 128. */
export interface Instrument {
  readonly font: string
  readonly program: number
  readonly kit?: boolean
  /** Whether the player adds its room. */
  readonly room?: boolean
  /** How far its wheel of modulation is turned, 0 to 127. */
  readonly vibrato?: number
}

/** Debian's packages that these players need. */
const PACKAGES = [
  'fluidsynth',
  'fluid-soundfont-gm',
  'timgm6mb-soundfont',
  'csound-soundfont',
  'espeak-ng',
  'flite',
] as const

const FONTS = '/usr/share/sounds/sf2'
const KEPT = fileURLToPath(new URL('../../../.cache/real', import.meta.url))
const TICKS = 960
// biome-ignore lint/suspicious/noTemplateCurlyInString: dpkg's own placeholder
const STATUS = '${Status}'

/** Installs what is missing of {@link PACKAGES}; throws a sentence where that cannot be done. */
export function preparePlayers(): void {
  const missing = PACKAGES.filter((name) => {
    try {
      const status = execFileSync('dpkg-query', ['-W', '--showformat', STATUS, name], {
        stdio: ['ignore', 'pipe', 'ignore'],
      })
      return !String(status).includes('install ok installed')
    } catch {
      return true
    }
  })
  if (missing.length === 0) return
  console.error(`installing ${missing.join(', ')}`)
  try {
    execFileSync('apt-get', ['install', '-y', '--no-install-recommends', ...missing], {
      stdio: 'ignore',
    })
  } catch {
    throw new Error(`Realistic sounds need Debian's ${missing.join(', ')}: install them first.`)
  }
}

/** Strokes as an instrument plays them, both sides, from 0 to `seconds`; kept on disk where they will be asked for again. */
export function play(
  instrument: Instrument,
  strokes: readonly Stroke[],
  seconds: number,
  isKept = true,
): Clip {
  const midi = Buffer.from(midiOf(instrument, strokes))
  const { font, room = false } = instrument
  const made = isKept ? keptClip : madeClip
  const clip = made([font, String(room), midi.toString('base64')], (wav, scratch) => {
    const file = join(scratch, 'part.mid')
    writeFileSync(file, midi)
    const sound = ['-R', room ? '1' : '0', '-C', '0', '-g', '0.4', '-r', String(RATE_HZ)]
    const out = ['-O', 'float', '-T', 'wav', '-F', wav]
    execFileSync('fluidsynth', ['-niq', ...sound, ...out, join(FONTS, font), file], {
      stdio: 'ignore',
    })
  })
  return ofLength(clip, seconds)
}

/** A voice that speaks a sentence: `flite:NAME`, or a voice of espeak-ng. */
export function speak(voice: string, sentence: string, wordsPerMinute: number, pitch: number) {
  const clip = keptClip([voice, sentence, String(wordsPerMinute), String(pitch)], (wav) => {
    if (voice.startsWith('flite:')) {
      execFileSync('flite', ['-voice', voice.slice(6), '-t', sentence, '-o', wav], {
        stdio: 'ignore',
      })
    } else {
      const how = ['-v', voice, '-s', String(wordsPerMinute), '-p', String(pitch)]
      execFileSync('espeak-ng', [...how, '-w', wav, sentence], { stdio: 'ignore' })
    }
  })
  return resample(clip, RATE_HZ)
}

type Maker = (wav: string, scratch: string) => void

/** What was made once from the same words is not made again. */
function keptClip(of: readonly string[], make: Maker): Clip {
  const name = createHash('sha256').update(of.join('\n')).digest('hex').slice(0, 24)
  const kept = join(KEPT, `${name}.wav`)
  if (!existsSync(kept)) renameSync(makeFile(make), kept)
  return readWav(new Uint8Array(readFileSync(kept)))
}

function madeClip(_of: readonly string[], make: Maker): Clip {
  return readWav(new Uint8Array(readFileSync(makeFile(make))))
}

function makeFile(make: Maker): string {
  const scratch = join(KEPT, `making-${process.pid}`)
  mkdirSync(scratch, { recursive: true })
  const wav = join(scratch, 'made.wav')
  make(wav, scratch)
  return wav
}

function ofLength(clip: Clip, seconds: number): Clip {
  const frames = Math.round(seconds * clip.sampleRateHz)
  const channels = clip.channels.map((c) => {
    const out = new Float32Array(frames)
    out.set(c.subarray(0, frames))
    return out
  })
  return { ...clip, frames, channels }
}

/** A standard MIDI file with one track, {@link TICKS} ticks a second. */
export function midiOf(
  { program, kit, vibrato = 0 }: Instrument,
  strokes: readonly Stroke[],
): number[] {
  const channel = kit ? 9 : 0
  const at = (seconds: number) => Math.max(0, Math.round(seconds * TICKS))
  const timed = strokes.flatMap(({ seconds, length, key, velocity }) => {
    const note = { channel, noteNumber: Math.round(key) }
    return [
      { tick: at(seconds), event: { ...note, type: 'noteOn' as const, velocity } },
      { tick: at(seconds + length), event: { ...note, type: 'noteOff' as const, velocity: 0 } },
    ]
  })
  // A tone ends before the same key begins anew.
  const rank = (type: string) => (type === 'noteOff' ? 0 : 1)
  timed.sort((a, b) => a.tick - b.tick || rank(a.event.type) - rank(b.event.type))
  let last = 0
  const events: MidiEvent[] = [
    { deltaTime: 0, type: 'setTempo', microsecondsPerBeat: 500_000 },
    { deltaTime: 0, type: 'programChange', channel, programNumber: program },
    ...(vibrato > 0
      ? [{ deltaTime: 0, type: 'controller' as const, channel, controllerType: 1, value: vibrato }]
      : []),
    ...timed.map(({ tick, event }): MidiEvent => {
      const deltaTime = tick - last
      last = tick
      return { ...event, deltaTime }
    }),
    { deltaTime: TICKS, type: 'endOfTrack' },
  ]
  const header = { format: 0 as const, numTracks: 1, ticksPerBeat: TICKS / 2 }
  return writeMidi({ header, tracks: [events] })
}
