import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import {
  AudioError,
  type ByteSource,
  makeClip,
  readAudio,
  type seededRandom,
  takeStepsFrom,
  writeWav,
} from '@sober-prism/core/audio'
import { newBand } from '@sober-prism/core/filters'
import { THIRDS, TWELFTHS } from '@sober-prism/core/match'
import {
  applyEdits,
  DocumentError,
  emptySession,
  newTrack,
  parseChainFile,
  parseCurveCsv,
  parseEqFile,
  parsePresetFile,
  parseProfile,
  parseSession,
  unpackProblem,
  writeSession,
  zipContents,
  zipDirectory,
} from '@sober-prism/core/session'
import { kindOf, newChainBand, newTreatment } from '@sober-prism/core/treatments'
import { inflateSync, zipSync } from 'fflate'
import { decodeFlac } from '../decode-flac'
import { verbatimFlac } from '../flac-bytes'
import { mutateBytes, mutateJson } from './mutate'

/** A reader, with broken files for it. What it throws must be of its own kind, with a sentence. */
export interface FuzzedReader {
  readonly name: string
  /** Whole files, which it reads. */
  readonly seeds: readonly Uint8Array[]
  make(random: ReturnType<typeof seededRandom>): Uint8Array<ArrayBuffer>
  read(bytes: Uint8Array<ArrayBuffer>): unknown
  readonly error: typeof AudioError | typeof DocumentError
}

const sound = (frames: number) =>
  Float32Array.from({ length: frames }, (_, i) => 0.5 * Math.sin(i / 9))
const wavs = ([16, 24, '32f'] as const).flatMap((bits) =>
  [1, 2].map((count) =>
    writeWav(
      makeClip(
        48000,
        Array.from({ length: count }, () => sound(60)),
      ),
      bits,
    ),
  ),
)

/** A small AIFF file of 16 bit. */
function aiff(): Uint8Array {
  const frames = 40
  const bytes = new Uint8Array(12 + 26 + 16 + 4 * frames)
  const view = new DataView(bytes.buffer)
  const tag = (at: number, text: string) => {
    for (let i = 0; i < 4; i++) bytes[at + i] = text.charCodeAt(i)
  }
  tag(0, 'FORM')
  view.setUint32(4, bytes.length - 8)
  tag(8, 'AIFF')
  tag(12, 'COMM')
  view.setUint32(16, 18)
  view.setUint16(20, 2)
  view.setUint32(22, frames)
  view.setUint16(26, 16)
  // 48000 as an 80-bit float: 0xbb80 times 2 to the power of 0.
  view.setUint16(28, 0x400e)
  view.setUint32(30, 0xbb800000)
  tag(38, 'SSND')
  view.setUint32(42, 8 + 4 * frames)
  return bytes
}

const chainBands = [newChainBand('m', { ...newBand('bell', 500), db: -6 })]
const treatments = [
  newTreatment('equaliser', 'e', 'clean', { phase: 'linear', bands: chainBands }),
  newTreatment('align', 'a', 'fit', { delayFrames: 3.5, polarity: -1, turnDeg: 20 }),
  newTreatment('low-middle', 'l', 'fit'),
]

function session(): string {
  const made = emptySession('s', 'Piece', '2026-03-04T05:06:07.000Z', 48000)
  const audio = { hash: 'a'.repeat(64), channels: 1, frames: 900 }
  for (const id of ['t', 'u']) made.tracks.push(newTrack(id, id, 'other', id, audio))
  return writeSession(
    applyEdits(made, [
      { kind: 'add-group', id: 'g', name: 'G', members: ['t'] },
      ...treatments.map(
        (treatment) => ({ kind: 'add-treatment', node: 'g', treatment, before: null }) as const,
      ),
      { kind: 'set-session', change: { passage: { fromFrame: 1, toFrame: 9 } } },
    ]),
  )
}

/** Documents of every version so far, which are brought up to date while they are read. */
const frozen = join(import.meta.dirname, '..', '..', '..', 'core', 'src', 'session', 'frozen')
const older = readdirSync(frozen)
  .filter((name) => name.endsWith('.json'))
  .map((name) => readFileSync(join(frozen, name), 'utf8'))
const sessions = [session(), ...older]
const eqs = [
  JSON.stringify({
    version: 1,
    bands: [
      { type: 'bell', hz: 1000, db: -6, q: 4 },
      { type: 'low-cut', hz: 60, slopeDbPerOct: 24, channel: 'side' },
    ],
  }),
]
const chains = [
  JSON.stringify({
    version: 1,
    treatments: treatments.map(({ stage, kind, on, params }) => {
      const written = kindOf(kind).file.write(params)
      return { stage, kind, on, params: written }
    }),
  }),
]
const presets = [
  JSON.stringify({
    version: 1,
    presets: [
      {
        name: 'Boxy',
        words: 'For small rooms.',
        tags: ['voice'],
        scope: 'chain',
        treatments: JSON.parse(chains[0]).treatments,
      },
    ],
  }),
]
const curves = ['hz,db\n20,0\n100.5,-3.25\n1000,0\n8000,2\n20000,-60\n']
const perBand = (count: number, value: number) => Array.from({ length: count }, () => value)
const profiles = [
  JSON.stringify({
    version: 1,
    name: 'Quay',
    subject: 'mix',
    words: '',
    tags: ['near'],
    seconds: 24,
    topHz: 24_000,
    recordings: 1,
    loudness: { integratedLufs: -21.5, rangeLu: 2.3, crestDb: 15 },
    twelfths: {
      meanDb: perBand(TWELFTHS.length, -50),
      spreadDb: perBand(TWELFTHS.length, 2),
    },
    thirds: {
      meanDb: perBand(THIRDS.length, -45),
      maxDb: perBand(THIRDS.length, -38),
      spreadDb: perBand(THIRDS.length, 2),
      crestDb: perBand(THIRDS.length, 12),
      noiseDb: null,
      widthDb: perBand(THIRDS.length, -12),
      correlation: perBand(THIRDS.length, 0.8),
    },
    decaySeconds: 0.4,
  }),
]
const text = (bytes: Uint8Array) => new TextDecoder().decode(bytes)
const zips = [
  zipSync({ 'session.json': new TextEncoder().encode(sessions[0]), 'audio/x.wav': wavs[0] }),
  zipSync({ 'a.wav': [wavs[1], { level: 0 }] }),
]
const flacs = [verbatimFlac(Int16Array.from(sound(300), (v) => v * 30000))]
const MOST_UNPACKED = 16e6

async function unzip(bytes: Uint8Array<ArrayBuffer>): Promise<void> {
  const source: ByteSource = {
    length: bytes.length,
    read: async (at, size) => bytes.subarray(at, at + size),
  }
  for (const entry of await takeStepsFrom(source, zipDirectory(bytes.length))) {
    const { at, size } = await takeStepsFrom(source, zipContents(entry))
    if (unpackProblem(entry, MOST_UNPACKED) !== null || entry.method === 0) continue
    try {
      inflateSync(bytes.subarray(at, at + size), { out: new Uint8Array(entry.bytes) })
    } catch {
      // What the unpacking package says is told in a sentence of its own by whoever asked.
    }
  }
}

const bytesOf = (text: string) => new TextEncoder().encode(text)

function ofBytes(
  name: string,
  seeds: readonly Uint8Array[],
  read: FuzzedReader['read'],
  error: FuzzedReader['error'],
): FuzzedReader {
  return { name, seeds, make: (random) => mutateBytes(seeds, random), read, error }
}

function ofText(
  name: string,
  seeds: readonly string[],
  read: (text: string) => unknown,
): FuzzedReader {
  return {
    name,
    seeds: seeds.map(bytesOf),
    make: (random) => mutateJson(seeds, random),
    read: (bytes) => read(text(bytes)),
    error: DocumentError,
  }
}

export const READERS: readonly FuzzedReader[] = [
  ofBytes('wav', wavs, readAudio, AudioError),
  ofBytes('aiff', [aiff()], readAudio, AudioError),
  ofBytes('flac', flacs, decodeFlac, AudioError),
  ofBytes('zip', zips, unzip, DocumentError),
  ofText('session', sessions, parseSession),
  ofText('eq', eqs, parseEqFile),
  ofText('chain', chains, parseChainFile),
  ofText('preset', presets, parsePresetFile),
  ofText('profile', profiles, parseProfile),
  {
    ...ofText('curve', curves, parseCurveCsv),
    make: (random) => mutateBytes(curves.map(bytesOf), random),
  },
]
