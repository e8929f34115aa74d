export { type AnalogueSection, analogueDb, analogueSections } from './analogue'
export { type Biquad, isStable, sectionsDb, sectionsResponse } from './biquad'
export { Convolver } from './convolver'
export { designBand } from './design'
export {
  DRAWN_LIMITS_DB,
  type DrawnCurve,
  type DrawnDesign,
  drawnDb,
  drawnFir,
} from './drawn-curve'
export { Equaliser, type KeyedBand } from './equaliser'
export {
  type FirKernel,
  type FirWindow,
  firMagnitudeDb,
  LONGEST_FIR,
  linearPhaseFir,
  minimumPhaseFir,
  SHORTEST_FIR,
} from './fir'
export { FirStage } from './fir-stage'
export {
  type FirGroup,
  type PhaseMode,
  type PhasePlan,
  planPhase,
} from './phase-modes'
export { logFrequencies, magnitudeDb } from './response'
export { type BandEdges, bandEdges, qFromEdge } from './width'
