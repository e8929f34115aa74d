export { type Features, meanProfile, ringFeatures } from './features'
export {
  findRings,
  leaveOutEdge,
  likelihoodOf,
  RING_LEVELS,
  RING_PLACES,
  type Ring,
  rankPlaces,
  readBell,
  ringScores,
  rowAt,
  topPlaces,
} from './find-rings'
export { CELLS, hzOfCell, levelGrids } from './level-grid'
export { ANSWERS, sumOfTrees, TREE_SIZE } from './trees'
export { RING_WEIGHTS, type RingWeight } from './weights'
