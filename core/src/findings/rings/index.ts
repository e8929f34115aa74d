export { bellReadings, readingOf } from './bell-reading'
export { type Features, meanProfile, ringFeatures } from './features'
export {
  findRings,
  leaveOutEdge,
  likelihoodOf,
  RING_FIT,
  RING_LEVELS,
  RING_PLACES,
  type Ring,
  rankPlaces,
  ringScores,
  rowAt,
  topPlaces,
} from './find-rings'
export { CELLS, hzOfCell, levelGrids } from './level-grid'
export type { BellReading, RingModel, RingWeight } from './ring-model'
export { ANSWERS, sumOfTrees, TREE_SIZE } from './trees'
