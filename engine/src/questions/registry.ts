import { answerChainFor, chainFor } from './chain-for'
import { answerCrossoverSum, crossoverSum } from './crossover-sum'
import { answerDesign } from './design'
import { answerMixFindings, answerTrackFindings } from './findings'
import { answerLatency } from './latency'
import { answerLevelled, levelled } from './levelled'
import { answerLevelling, levelling } from './levelling'
import { answerLevels } from './levels'
import { answerLineUp, lineUp } from './line-up'
import { answerLoudest, loudest } from './loudest'
import { answerLoudness, loudness } from './loudness'
import { answerLowEnd, lowEnd } from './low-end'
import { answerMasking, answerPatterns } from './masking'
import { answerMatch, answerMatchResponses, match, matchResponses } from './match'
import { answerMixPart } from './mix-part'
import { answerNull, nullOf } from './null-test'
import { answerPair, pair } from './pair'
import { answerPassage, passage } from './passage'
import { answerPlan } from './plan'
import { answerHeardThrough, answerPlayback } from './playback'
import { answerPredict } from './predict'
import { answerProfile, profile } from './profile'
import type { Answerer, Progress } from './question'
import { answerRange, range } from './range'
import { answerRender } from './render'
import { answerRings } from './rings'
import { answerShape, shape } from './same-shape'
import { answerSource, source } from './source'
import { answerSpectrogram, spectrogram } from './spectrogram'
import { answerTempo, tempo } from './tempo'
import { answerTrack } from './track'
import { answerYielding, yielding } from './yielding'

/** What can be asked of an open session, by name: the page's halves. */
export const questions = {
  chainFor,
  crossoverSum,
  levelled,
  levelling,
  lineUp,
  loudest,
  loudness,
  lowEnd,
  match,
  matchResponses,
  nullOf,
  pair,
  passage,
  profile,
  range,
  shape,
  source,
  spectrogram,
  tempo,
  yielding,
}

/** What workers can answer, by name: those of {@link questions}, and what analysis and rendering need. */
const answers = {
  chainFor: answerChainFor,
  crossoverSum: answerCrossoverSum,
  design: answerDesign,
  heardThrough: answerHeardThrough,
  latency: answerLatency,
  levelled: answerLevelled,
  levelling: answerLevelling,
  levels: answerLevels,
  lineUp: answerLineUp,
  loudest: answerLoudest,
  loudness: answerLoudness,
  lowEnd: answerLowEnd,
  masking: answerMasking,
  match: answerMatch,
  matchResponses: answerMatchResponses,
  mixFindings: answerMixFindings,
  mixPart: answerMixPart,
  nullOf: answerNull,
  pair: answerPair,
  passage: answerPassage,
  patterns: answerPatterns,
  plan: answerPlan,
  playback: answerPlayback,
  predict: answerPredict,
  profile: answerProfile,
  range: answerRange,
  render: answerRender,
  rings: answerRings,
  shape: answerShape,
  source: answerSource,
  spectrogram: answerSpectrogram,
  tempo: answerTempo,
  track: answerTrack,
  trackFindings: answerTrackFindings,
  yielding: answerYielding,
}

export type QuestionName = keyof typeof questions
export type AnswerName = keyof typeof answers

/** What is asked by a name, on the page. */
export type ArgsOf<N extends QuestionName> = Parameters<(typeof questions)[N]['prepare']>[0]
/** What a worker is given for a name, and what it gives back. */
export type InputOf<N extends AnswerName> = Parameters<(typeof answers)[N]>[0]
export type AnswerOf<N extends AnswerName> = Awaited<ReturnType<(typeof answers)[N]>>

/** Answers one question, where it is asked in a worker. */
export async function answer<N extends AnswerName>(
  name: N,
  input: InputOf<N>,
  onProgress: Progress,
): Promise<AnswerOf<N>> {
  return (answers[name] as Answerer<InputOf<N>, AnswerOf<N>>)(input, onProgress)
}
