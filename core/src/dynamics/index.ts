export { type FollowTimes, GainSmoother, type StaticCurve, staticGainDb } from './gain-computer'
export {
  LEVEL_STEP,
  LevellerGain,
  type LevellerReading,
  type LevellerSettings,
  LevelSteps,
  levelsOf,
  lowCutSections,
  readLeveller,
  thresholdFor,
} from './leveller'
export { LinearBank, linearBankFrames } from './linear-bank'
export { type BellPlace, MovingBells, settle } from './moving-bells'
export { Oversampler } from './oversampler'
export { Saturator, type SaturatorSettings } from './saturator'
export { UsualLevel } from './usual-level'
