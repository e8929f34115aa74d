export { type AnalogueSection, analogueDb, analogueSections } from './analogue'
export {
  BAND_LIMITS,
  BUTTERWORTH_Q,
  CHANNEL_MODES,
  type ChannelMode,
  FILTER_TYPES,
  type FilterType,
  hasGain,
  hasQ,
  hasSlope,
  PHASE_NAMES,
} from './band-names'
export { type Biquad, isStable, sectionsDb, sectionsResponse } from './biquad'
export { Convolver, partitionFor } from './convolver'
export {
  type BandBuffers,
  CROSSOVER_SLOPES,
  type Crossover,
  type CrossoverDesign,
  type CrossoverSlope,
  type CrossoverSpec,
  designCrossover,
  linearHighPass,
  makeCrossover,
} from './crossover'
export { type CrossoverSum, crossoverSum, splitClip } from './crossover-sum'
export { designBand } from './design'
export {
  DRAWN_LIMITS_DB,
  type DrawnCurve,
  type DrawnDesign,
  drawnDb,
  drawnFir,
} from './drawn-curve'
export { type DrawnReading, readDrawn, tapsWithin } from './drawn-reading'
export { bandFields, type EqBand, eqBandSchema, newBand } from './eq-band'
export { Equaliser, type KeyedBand } from './equaliser'
export { type FilterSpectrum, filterSpectrum, readDense } from './filter-spectrum'
export {
  type FirKernel,
  type FirWindow,
  firMagnitudeDb,
  LONGEST_FIR,
  linearPhaseFir,
  minimumPhaseFir,
  preEchoOf,
  SHORTEST_FIR,
} from './fir'
export { FirStage } from './fir-stage'
export { FractionalDelay } from './fractional-delay'
export { type Series, seriesHz, withNeedles } from './needles'
export {
  type FirGroup,
  type PhaseMode,
  type PhasePlan,
  planPhase,
} from './phase-modes'
export { turnFrames, turnKernel, turnLatency } from './phase-turn'
export {
  type FilterReading,
  impulseResponse,
  predictSumDb,
  type ReadableFilter,
  readFilter,
  type SummedPath,
  stepResponse,
} from './reading'
export { logFrequencies, magnitudeDb } from './response'
export { type BandEdges, bandEdges, qFromEdge } from './width'
