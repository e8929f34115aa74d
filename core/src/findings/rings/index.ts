export { type Features, meanProfile, ringFeatures } from './features'
export {
  findRings,
  leaveOutEdge,
  likelihoodOf,
  RING_LEVELS,
  type Ring,
  readBell,
  ringScores,
  topPlaces,
} from './find-rings'
export { CELLS, hzOfCell, levelGrids } from './level-grid'
export { RING_WEIGHTS, type RingWeight } from './weights'
