import {
  type Clip,
  dbToAmplitude,
  decimate,
  type FrameRange,
  makeClip,
  scaled,
} from '@sober-prism/core/audio'
import { crossoverSum } from '@sober-prism/core/filters'
import {
  alignClips,
  alignParams,
  estimateTempo,
  lineUpPicture,
  planMoves,
  predictMoves,
  proposeYielding,
  type Ring,
  RingMeter,
  readLowEnd,
  readMixPart,
  SourceMeter,
  type SourceReading,
  surveyMix,
  surveyTracks,
} from '@sober-prism/core/findings'
import {
  type HeardMoments,
  type Moments,
  maskPatterns,
  midAndSide,
  planMoments,
  type TrackPatterns,
  trackPatterns,
} from '@sober-prism/core/hearing'
import { LoudnessMeter, normalisingGain } from '@sober-prism/core/loudness'
import { matchWays, responseWays } from '@sober-prism/core/match'
import {
  type MixBed,
  panGains,
  recordingsOfChange,
  renderOverBed,
  type Stretch,
  trackStem,
} from '@sober-prism/core/mix'
import {
  crossSpectrum,
  LongTermMeter,
  longTermLevels,
  loudestInRanges,
  makeBands,
  SpectrogramMeter,
} from '@sober-prism/core/spectrum'
import { newTreatment, workingsOf } from '@sober-prism/core/treatments'
import { openSource } from '../storage/recording-access'
import { addToBed } from './fill-bed'
import { findPassage, findThreshold, measureTarget, runLeveller } from './shape-tasks'
import { designed, mixed, type Pieces, piecesOf, plain, sourcesOf, treated } from './sound-pieces'
import type {
  BedInput,
  Measured,
  MeasuredTrack,
  MixInput,
  PairedTrack,
  PairInput,
  Progress,
  SpectrogramInput,
  TaskName,
  Tasks,
} from './tasks'
import { turn } from './turn'
import { follow, louder, measureOutput, writeFile } from './write-file'

type Runner<N extends TaskName> = (
  input: Tasks[N]['in'],
  onProgress: Progress,
) => Promise<Tasks[N]['out']> | Tasks[N]['out']

const SIXTHS = makeBands('sixth')

const runners: { [N in TaskName]: Runner<N> } = {
  track(input, onProgress) {
    const { recording, pan, stretch, bed } = input
    const gains = panGains(pan, recording.channels)
    const alone = bed ? added(treated(input), stretch.fromFrame, gains, bed) : treated(input)
    const { pieces, channels } = placed(alone, input)
    return measureTrack(pieces, channels, input, onProgress)
  },
  async rings({ recording, offsetFrames, sampleRateHz, stretch }, onProgress) {
    const { fromFrame, toFrame } = stretch
    const length = toFrame - fromFrame
    const meter = new RingMeter(sampleRateHz, length)
    const at = { fromFrame: fromFrame - offsetFrames, toFrame: toFrame - offsetFrames }
    const pieces = plain(openSource(recording), at)
    await follow(pieces, length, onProgress, (piece) => meter.add(piece))
    return { rings: meter.finish() }
  },
  trackLoudness(input, onProgress) {
    const { pieces, channels } = placed(treated(input), input)
    return measureLoudness(pieces, channels, input, onProgress)
  },
  path(input, onProgress) {
    return measureTrack(mixed(input), 2, input, onProgress)
  },
  bus(input, onProgress) {
    return measure(mixed(input), 2, input.sampleRateHz, input.stretch, onProgress)
  },
  async mixPart(input) {
    const { part, frames, bed, sampleRateHz } = input
    const stretch = { fromFrame: part.heardFrom, toFrame: part.heardTo }
    const clip = bed
      ? await overBed({ ...input, stretch }, bed)
      : makeClip(sampleRateHz, await collected(mixed({ ...input, stretch }), 2, stretch))
    return readMixPart(clip, part, frames)
  },
  design({ kind, params, sampleRateHz }) {
    return { design: workingsOf(kind).design(params, sampleRateHz) }
  },
  mixLoudness(input, onProgress) {
    return measureLoudness(mixed(input), 2, input, onProgress)
  },
  spectrogram(input, onProgress) {
    return drawRows(input, onProgress)
  },
  async yielding(input, onProgress) {
    const [key, own] = await pairClips(input)
    return proposeYielding(key, own, input.aside, onProgress)
  },
  async lineUp(input) {
    const [lead, other] = await pairClips(input)
    const lineUp = alignClips(lead, other, input.range)
    const [leading, own] = input.tracks
    // What listens to others is made in their mix, not by its chain alone.
    if (!lineUp || own.mix) return { lineUp, picture: null }
    const made = newTreatment('align', 'lined up', 'fit', alignParams(lineUp))
    const treatments = [...own.chain.treatments, made]
    const moved = { ...own, chain: { ...own.chain, treatments } }
    const [, aligned] = await pairClips({ ...input, tracks: [leading, moved] })
    return { lineUp, picture: lineUpPicture(lead, other, aligned) }
  },
  profile(input, onProgress) {
    return measureTarget(input, onProgress)
  },
  match({ from, to, settings }, onProgress) {
    return matchWays(from, to, settings, onProgress)
  },
  responses({ pair, settings }, onProgress) {
    return responseWays(pair, settings, onProgress)
  },
  passage(input, onProgress) {
    return findPassage(input, onProgress)
  },
  levelling(input, onProgress) {
    return findThreshold(input, onProgress)
  },
  async source(input, onProgress) {
    const { sampleRateHz, stretch } = input
    const { pieces, channels } = piecesOf(input)
    const length = stretch.toFrame - stretch.fromFrame
    // How it is heard beside others is not asked.
    const moments = planMoments(sampleRateHz, length, [], 1)
    const meter = new SourceMeter({ sampleRateHz, channels, length, longest: length, moments })
    await follow(pieces, length, onProgress, (piece) => meter.add(piece))
    return { reading: share(meter.finish()) }
  },
  async lowEnd(input) {
    const { sampleRateHz, stretch, hz } = input
    const { pieces, channels } = piecesOf(input)
    const clip = makeClip(sampleRateHz, await collected(pieces, channels, stretch))
    return { reading: readLowEnd(clip, hz) }
  },
  async crossoverSum(input) {
    const { sampleRateHz, stretch, spec } = input
    const { pieces, channels } = piecesOf(input)
    return crossoverSum(makeClip(sampleRateHz, await collected(pieces, channels, stretch)), spec)
  },
  async tempo(input) {
    const { sampleRateHz, stretch } = input
    const { pieces, channels } = piecesOf(input)
    const [middle] = midAndSide(await collected(pieces, channels, stretch))
    const halvings = Math.max(0, Math.round(Math.log2(sampleRateHz / TEMPO_RATE_HZ)))
    return { tempo: estimateTempo(decimate(middle, halvings), sampleRateHz / 2 ** halvings) }
  },
  levelled(input, onProgress) {
    return runLeveller(input, onProgress)
  },
  pair(input, onProgress) {
    return readPair(input, onProgress)
  },
  clip({ recording, sampleRateHz }, onProgress) {
    const stretch = { fromFrame: 0, toFrame: recording.frames }
    const pieces = plain(openSource(recording), stretch)
    return measure(pieces, recording.channels, sampleRateHz, stretch, onProgress)
  },
  patterns({ track, settings }) {
    return sharePatterns(trackPatterns(track, settings))
  },
  masking({ patterns, from, to }) {
    return maskPatterns(patterns, from, to)
  },
  trackFindings({ survey }, onProgress) {
    return { findings: surveyTracks(survey, onProgress) }
  },
  mixFindings({ survey }, onProgress) {
    return { findings: surveyMix(survey, onProgress) }
  },
  predict({ survey, measure: of, moves }) {
    return { prediction: predictMoves(survey, of, moves) }
  },
  plan({ survey, findings, groups }, onProgress) {
    return { plan: planMoves(survey, findings, groups, onProgress) }
  },
  async renderMix(input, onProgress) {
    const { normalise } = input
    if (!normalise) return writeFile(mixed(input), 2, input, onProgress)
    // Once to measure it, and again with the gain.
    const figures = await measureOutput(mixed(input), 2, input, (s) => onProgress(s / 2))
    const gain = normalisingGain(figures, normalise)
    const half = (s: number) => onProgress(0.5 + s / 2)
    const raised = louder(mixed(input), dbToAmplitude(gain.gainDb))
    return { ...(await writeFile(raised, 2, input, half)), normalised: gain }
  },
  renderTrack(input, onProgress) {
    const { channels } = input.recording
    const pieces = input.mix
      ? trackStem(mixed({ ...input, ...input.mix }), channels)
      : treated(input)
    return writeFile(pieces, channels, input, onProgress)
  },
}

/** Runs one task to its end. */
export async function runTask<N extends TaskName>(
  name: N,
  input: Tasks[N]['in'],
  onProgress: Progress,
): Promise<Tasks[N]['out']> {
  return (runners[name] as Runner<N>)(input, onProgress)
}

/** Renders a stretch over a bed. All of the audio of what changed is at hand for it: a stretch is short. */
async function overBed(input: MixInput, kept: MixBed) {
  const plan = designed(input)
  // What is taken out of the bed needs its designs as well.
  const bed = { ...kept, plan: kept.plan && designed({ ...input, plan: kept.plan }) }
  const sources = sourcesOf(input)
  const changed = recordingsOfChange(bed, plan)
  const { fromFrame, toFrame } = input.stretch
  const margin = input.sampleRateHz
  const ranges = new Map<string, FrameRange[]>()
  for (const { source, offsetFrames } of [...plan.nodes, ...(bed.plan?.nodes ?? [])]) {
    if (source === null || !changed.has(source)) continue
    const range = {
      fromFrame: fromFrame - margin - offsetFrames,
      toFrame: toFrame + margin - offsetFrames,
    }
    ranges.set(source, [...(ranges.get(source) ?? []), range])
  }
  for (const [hash, wanted] of ranges) await sources.get(hash)?.prefetch(wanted)
  return renderOverBed(plan, sources, input.sampleRateHz, input.stretch, bed)
}

/** A track on its way, which adds itself to the beds of the mix as it stands there. */
async function* added(
  pieces: Pieces,
  fromFrame: number,
  [left, right]: readonly [number, number],
  { target, gainDb }: BedInput,
): Pieces {
  const gain = dbToAmplitude(gainDb)
  let at = fromFrame
  for await (const piece of pieces) {
    addToBed(target, at, piece, [gain * left, gain * right])
    at += piece[0].length
    yield piece
  }
}

/** A track as it is placed in the mix, before its fader. */
async function* panned(pieces: Pieces, [left, right]: readonly [number, number]): Pieces {
  for await (const [a, b = a] of pieces) {
    yield a !== b && left === 1 && right === 1 ? [a, b] : [scaled(a, left), scaled(b, right)]
  }
}

/** All pieces in memory: of a short stretch. */
async function collected(
  pieces: Pieces,
  channels: number,
  { fromFrame, toFrame }: Stretch,
): Promise<Float32Array[]> {
  const out = Array.from({ length: channels }, () => new Float32Array(toFrame - fromFrame))
  let at = 0
  for await (const piece of pieces) {
    out.forEach((channel, c) => {
      channel.set(piece[c], at)
    })
    at += piece[0].length
  }
  return out
}

/** Onsets are looked for at about this rate. */
const TEMPO_RATE_HZ = 24_000

/** Windows that are looked at in each row: what is loudest in them stands for it. */
const WINDOWS_IN_ROW = 2

/** How often what is there of a picture is shown while the rest is made. */
const FIRST_PART_MS = 30
const PART_MS = 120

/** A picture over time. As it was recorded, only the windows are read, however long the stretch is. */
async function drawRows(input: SpectrogramInput, onProgress: Progress) {
  const { sampleRateHz, stretch, size, rows, edgesHz } = input
  const { fromFrame, toFrame } = stretch
  const meter = new SpectrogramMeter({ size, hop: size, window: 'hann' })
  const column = new Float32Array(meter.bins)
  const edges = edgesHz.map((hz) => (hz * size) / sampleRateHz)
  const ranges = edges.length - 1
  const levels = new Float32Array(rows * ranges).fill(SILENT_DB)
  const step = (toFrame - fromFrame) / rows / WINDOWS_IN_ROW
  const readAround = await windowsOf(input)
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
  return { levels }
}

/** Sound around a frame of the stretch, with the place in it at which that frame lies. */
type AroundFrame = (centre: number) => Promise<{ channels: Float32Array[]; at: number }>

async function windowsOf(input: SpectrogramInput): Promise<AroundFrame> {
  const { sound, sampleRateHz, stretch, size } = input
  if (sound.of !== 'recording') {
    const pieces =
      sound.of === 'mix'
        ? mixed({ ...sound, sampleRateHz, stretch })
        : treated({ ...sound, sampleRateHz, stretch })
    return windowsInTurn(pieces, sound.of === 'mix' ? 2 : sound.recording.channels, size)
  }
  const { recording, offsetFrames } = sound
  const source = openSource(recording)
  const channels = Array.from({ length: recording.channels }, () => new Float32Array(size))
  return async (centre) => {
    const from = stretch.fromFrame + centre - size / 2 - offsetFrames
    await source.prefetch([{ fromFrame: from, toFrame: from + size }])
    channels.forEach((out, c) => {
      source.read(c, from, out, size)
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

const SILENT_DB = -200

/** Two tracks behind their chains, at their levels. */
async function pairClips({ tracks, sampleRateHz, stretch }: PairInput): Promise<Clip[]> {
  const clips: Clip[] = []
  for (const track of tracks) {
    clips.push(makeClip(sampleRateHz, await atLevel(track, sampleRateHz, stretch)))
  }
  return clips
}

/** A track behind its chain, with what it listens to, at its level. */
async function atLevel(
  { gain, mix, ...track }: PairedTrack,
  sampleRateHz: number,
  stretch: Stretch,
): Promise<Float32Array[]> {
  const { channels } = track.recording
  const pieces = mix
    ? trackStem(mixed({ ...mix, sampleRateHz, stretch }), channels)
    : treated({ ...track, sampleRateHz, stretch })
  const sound = await collected(pieces, channels, stretch)
  return sound.map((channel) => scaled(channel, gain))
}

/** Two tracks as they were recorded, and what they add up to behind their chains. */
async function readPair({ tracks, sampleRateHz, stretch }: PairInput, onProgress: Progress) {
  const [recorded, behind] = [[], []] as Float32Array[][][]
  for (const [i, track] of tracks.entries()) {
    const { channels } = track.recording
    const { fromFrame, toFrame } = stretch
    const at = { fromFrame: fromFrame - track.offsetFrames, toFrame: toFrame - track.offsetFrames }
    recorded.push(await collected(plain(openSource(track.recording), at), channels, stretch))
    behind.push(await atLevel(track, sampleRateHz, stretch))
    onProgress((i + 1) / 3)
  }
  const [first, second] = behind
  const count = Math.max(first.length, second.length)
  const added = Array.from({ length: count }, (_, c) => {
    const other = second[c] ?? second[0]
    return (first[c] ?? first[0]).map((v, i) => v + other[i])
  })
  return {
    cross: crossSpectrum(recorded[0], recorded[1], sampleRateHz),
    sum: longTermLevels(makeClip(sampleRateHz, added), SIXTHS),
  }
}

async function measureTrack(
  pieces: Pieces,
  channels: number,
  {
    sampleRateHz,
    stretch,
    moments,
    rings,
  }: Pick<MixInput, 'sampleRateHz' | 'stretch'> & { moments: Moments; rings: readonly Ring[] },
  onProgress: Progress,
): Promise<MeasuredTrack> {
  const length = stretch.toFrame - stretch.fromFrame
  const layout = { sampleRateHz, channels, length, longest: length, moments, rings }
  const meter = new SourceMeter(layout)
  const loudness = new LoudnessMeter(sampleRateHz, channels)
  await follow(pieces, length, onProgress, (piece) => {
    meter.add(piece)
    loudness.add(piece)
  })
  const reading = meter.finish()
  const levels = channels === 1 ? reading.levels.map((db) => db + MIDDLE_DB) : reading.levels
  return { levels, lufs: loudness.read().integratedLufs, reading: share(reading) }
}

const MIDDLE_DB = 10 * Math.log10(0.5)

async function measure(
  pieces: Pieces,
  channels: number,
  sampleRateHz: number,
  stretch: Stretch,
  onProgress: Progress,
): Promise<Measured> {
  const length = stretch.toFrame - stretch.fromFrame
  const spectrum = new LongTermMeter(channels, length, sampleRateHz)
  const loudness = new LoudnessMeter(sampleRateHz, channels)
  await follow(pieces, length, onProgress, (piece) => {
    spectrum.add(piece)
    loudness.add(piece)
  })
  return { levels: spectrum.levels(SIXTHS), lufs: loudness.read().integratedLufs }
}

/** A track at its place between left and right, in as many channels as tell it. */
function placed(
  pieces: Pieces,
  { recording, pan }: Pick<Tasks['track']['in'], 'recording' | 'pan'>,
) {
  // A mono track in the middle: both sides carry it 3 dB down, so that one measurement tells both.
  const isMiddle = recording.channels === 1 && pan === 0
  return isMiddle
    ? { pieces, channels: 1 }
    : { pieces: panned(pieces, panGains(pan, recording.channels)), channels: 2 }
}

async function measureLoudness(
  pieces: Pieces,
  channels: number,
  { sampleRateHz, stretch }: Pick<MixInput, 'sampleRateHz' | 'stretch'>,
  onProgress: Progress,
) {
  const loudness = new LoudnessMeter(sampleRateHz, channels)
  const length = stretch.toFrame - stretch.fromFrame
  await follow(pieces, length, onProgress, (piece) => loudness.add(piece))
  return { lufs: loudness.read().integratedLufs }
}

/** Long arrays move to shared memory, because several workers read them next. */
function share(reading: SourceReading): SourceReading {
  const { bands, outline, heard } = reading
  return {
    ...reading,
    heard: shareHeard(heard),
    bands: { ...bands, mid: toShared(bands.mid), side: toShared(bands.side) },
    outline: { ...outline, spectra: toShared(outline.spectra) },
  }
}

function toShared<T extends Float32Array | Float64Array>(values: T): T {
  const Kind = values.constructor as new (buffer: SharedArrayBuffer) => T
  const shared = new Kind(new SharedArrayBuffer(values.byteLength))
  shared.set(values)
  return shared
}

function shareHeard({ moments, mid, side, cross, past, fade, tonal }: HeardMoments): HeardMoments {
  return {
    moments,
    mid: toShared(mid),
    side: side && toShared(side),
    cross: cross && toShared(cross),
    past: toShared(past),
    fade: toShared(fade),
    tonal: toShared(tonal),
  }
}

function sharePatterns(made: TrackPatterns): TrackPatterns {
  return {
    ...made,
    ears: made.ears.map(({ intensity, masker, excitation, spread }) => ({
      intensity: toShared(intensity),
      masker: toShared(masker),
      excitation: toShared(excitation),
      spread: toShared(spread),
    })),
    sides: made.sides && toShared(made.sides),
    alone: toShared(made.alone),
  }
}
